"""The small pictures in the cells of a matrix: bars of a column, boxes of one by category, counts of two categories."""

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPen

from culvix.charts.palette import SHADES, colour
from culvix.stats.core.arrays import Floats
from culvix.study.pictures.groups.small_pictures import Small
from culvix.study.pictures.matrix_pictures import MatrixPicture

__all__ = ["draw_bars", "draw_small"]

_AROUND = 3.0
_WIDE = 0.64
"""How wide a box is in its room."""


def draw_bars(painter: QPainter, cell: QRectF, column: Small) -> None:
    """The histogram of a column, or its categories, in the lower part of its cell."""
    inside = cell.adjusted(_AROUND, cell.height() * 0.3, -_AROUND, -2)
    wide = inside.width() / max(column.bars.size, 1)
    # Categories stand apart from each other.
    thick = wide if column.dots.size else _WIDE * wide
    heights = [(index, high * inside.height()) for index, high in enumerate(column.bars.tolist()) if high > 0]
    if heights:
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(SHADES.data, 0.35))
        left = inside.left() + (wide - thick) / 2
        painter.drawRects(
            *(QRectF(left + index * wide, inside.bottom() - high, thick, high) for index, high in heights)
        )


def draw_small(painter: QPainter, cell: QRectF, picture: MatrixPicture, row: int, column: int) -> None:
    """The picture of a pair with a category, where there is one: values run as those of the cells beside it do."""
    inside = cell.adjusted(_AROUND, _AROUND, -_AROUND, -_AROUND)
    for first, second in ((row, column), (column, row)):
        boxes, counts = picture.boxes.get((first, second)), picture.counts.get((first, second))
        # The category stands along the side that is its own.
        if boxes is not None:
            _boxes(painter, inside, boxes, across=first == row)
        if counts is not None:
            _counts(painter, inside, counts if first == row else counts.T)


def _boxes(painter: QPainter, inside: QRectF, boxes: Floats, *, across: bool) -> None:
    """Boxes one above the other where values run ``across``, else beside each other."""
    levels = boxes.shape[0]
    room = (inside.height() if across else inside.width()) / levels
    length = inside.width() if across else inside.height()
    painter.save()
    if across:
        painter.translate(inside.left(), inside.top())
    else:
        # Turned so that values rise.
        painter.translate(inside.left(), inside.bottom())
        painter.rotate(-90)
    for level, ends in enumerate(boxes * length):
        if np.isnan(ends[0]):
            continue
        low, first, median, third, high = ends.tolist()
        middle, thick = (level + 0.5) * room, _WIDE * room
        painter.setPen(QPen(colour(SHADES.data, 0.7), 1))
        painter.drawLine(QLineF(low, middle, high, middle))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(SHADES.data, 0.45))
        painter.drawRect(QRectF(first, middle - thick / 2, max(third - first, 1.0), thick))
        painter.setPen(QPen(colour(SHADES.ink), 1.4))
        painter.drawLine(QLineF(median, middle - thick / 2, median, middle + thick / 2))
    painter.restore()


def _counts(painter: QPainter, inside: QRectF, counts: Floats) -> None:
    """Squares, as large as many rows share both categories: rows downwards, columns to the right."""
    down, across = counts.shape
    room = min(inside.width() / across, inside.height() / down)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(SHADES.data, 0.6))
    for index, share in np.ndenumerate(counts):
        if share > 0:
            middle = QPointF(
                inside.left() + (index[1] + 0.5) * inside.width() / across,
                inside.top() + (index[0] + 0.5) * inside.height() / down,
            )
            half = max(0.92 * room * float(np.sqrt(share)), 1.0) / 2
            painter.drawRect(QRectF(middle - QPointF(half, half), middle + QPointF(half, half)))
