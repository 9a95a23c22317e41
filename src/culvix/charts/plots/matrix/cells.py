"""The cells of a matrix of coefficients, all at once in an image: marks, shades and dots; and the numbers over it.

A mark stands in the middle of its cell: a full bar that rises from the middle line where the coefficient is positive,
a hollow one that hangs from it where it is negative, as long as the coefficient is large. It needs no colour. What has
no sign, the strength of a pair with a category, reaches to both sides of the line. Cells too small for a mark are the
darker the larger the coefficient is, and hollow where it is negative. An image takes as long to make for ninety
thousand cells as for four.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFont, QFontMetricsF, QImage, QPainter, QPen, QStaticText, QTransform

from culvix.charts.palette import SHADES, colour
from culvix.charts.plots.matrix.room import MatrixRoom
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.display import coefficient, count
from culvix.study.pictures.matrix_pictures import MatrixPicture

__all__ = ["BESIDE", "LEAST_MARK", "cells_image", "draw_marks", "draw_number"]

LEAST_MARK = 9.0
"""From this size in pixels on a cell has a mark of its own."""

_LEAST_HOLLOW = 3.0
_WIDE, BESIDE = 0.42, 0.1
"""The width of a mark alone in its cell, and of one beside a number."""
_LEAST_BESIDE = 1.5
"""How long a mark beside a number is at least."""
_EDGE = 1.2
"""How thick the outline of a hollow mark is, in pixels."""
_AROUND = 3.0
_MOST, _NEGATIVE = 127, 128
"""The most ink there is in a pixel, and what is added to it where the coefficient is negative."""
_FULL = round(0.85 * _MOST)
_DARKER = np.round(_MOST * (1 - 0.4 ** np.arange(12))).astype(np.uint8)
"""The ink where so many dots lie over each other."""

Ink = NDArray[np.uint8]


@dataclass(frozen=True, eq=False)
class _Pixels:
    """For each pixel along one side of the image: its cell (−1 beyond them), and how far into it, in screen pixels."""

    cell: Ints
    into: Floats
    size: float

    @classmethod
    def along(cls, start: float, length: int, ratio: float, size: float, cells: int) -> "_Pixels":
        at = (np.arange(length) + 0.5) / ratio - start
        cell = np.floor(at / size).astype(np.int64)
        into = at - cell * size
        return cls(np.where((cell >= 0) & (cell < cells), cell, -1), into, size)


def cells_image(picture: MatrixPicture, room: MatrixRoom, *, ratio: float = 1.0, numbers: bool = False) -> QImage:
    """All cells of ``room`` in view, ``ratio`` image pixels for one of the screen, on transparent ground.

    With ``numbers`` marks make room for them.
    """
    wide, high = (max(round(side * ratio), 1) for side in (room.area.width(), room.area.height()))
    offset = room.corner - room.area.topLeft()
    across = _Pixels.along(offset.x(), wide, ratio, room.wide, room.count)
    down = _Pixels.along(offset.y(), high, ratio, room.high, room.count)
    values = _values(picture)
    if room.high < LEAST_MARK:
        return _image(_shaded(values, across, down), ratio)
    ink = _marked(values, _unsigned(picture), across, down, numbers=numbers)
    if picture.smalls and picture.lower is None:
        np.maximum(ink, _dotted(picture, room, (high, wide), ratio), out=ink, where=ink < _NEGATIVE)
    return _image(ink, ratio)


def _values(picture: MatrixPicture) -> NDArray[np.float32]:
    """What stands in each cell, NaN where there is no coefficient to show, and in one more row and column beyond."""
    k = len(picture.names)
    shown = np.full((k + 1, k + 1), np.nan, dtype=np.float32)
    lower = np.nan if picture.lower is None else picture.lower
    shown[:k, :k] = np.where(np.triu(np.ones((k, k), dtype=bool), 1), picture.upper, lower)
    np.fill_diagonal(shown, np.nan)
    return shown


def _unsigned(picture: MatrixPicture) -> NDArray[np.bool_] | None:
    """Which cells have a strength without a sign, and one more row and column beyond them; None where none has."""
    if not picture.categories:
        return None
    in_category = np.zeros(len(picture.names) + 1, dtype=bool)
    in_category[list(picture.categories)] = True
    return in_category[:, None] | in_category


def _shaded(values: NDArray[np.float32], across: _Pixels, down: _Pixels) -> Ink:
    """How dark each pixel is: as strong as the coefficient, nothing in the middle of a negative one."""
    strong = (_MOST * np.nan_to_num(np.minimum(np.abs(values), 1))).astype(np.uint8)
    ink = strong[down.cell][:, across.cell]
    if down.size >= _LEAST_HOLLOW:
        columns, rows = (np.flatnonzero(np.abs(side.into / side.size - 0.5) < 1 / 6) for side in (across, down))
        hollow = np.where(values < 0, 0, strong).astype(np.uint8)
        ink[np.ix_(rows, columns)] = hollow[down.cell[rows]][:, across.cell[columns]]
    return ink


def _marked(
    values: NDArray[np.float32], unsigned: NDArray[np.bool_] | None, across: _Pixels, down: _Pixels, *, numbers: bool
) -> Ink:
    """How dark each pixel is where cells have marks."""
    share = BESIDE if numbers else _WIDE
    if numbers:
        # One so short reads as part of the number beside it.
        values = np.where(np.abs(values) * (down.size - 3) / 2 < _LEAST_BESIDE, np.float32(np.nan), values)
    left = (0.03 if numbers else (1 - share) / 2) * across.size
    right = left + share * across.size
    ink = np.zeros((down.cell.size, across.cell.size), dtype=np.uint8)
    # Only where there are bars at all.
    columns = np.flatnonzero((across.into >= left) & (across.into <= right))
    at_side = (across.into[columns] < left + _EDGE) | (across.into[columns] > right - _EDGE)
    here = values[:, across.cell[columns]][down.cell]
    up = (down.size / 2 - down.into).astype(np.float32)[:, None]
    long = np.maximum(np.minimum(np.abs(here), 1) * np.float32((down.size - 3) / 2), np.float32(0.6))
    negative = here < 0
    # Along the bar, from the middle line on.
    along = np.where(negative, -up, up)
    if unsigned is not None:
        along = np.where(unsigned[:, across.cell[columns]][down.cell], np.abs(up), along)
        # A difference of two strengths has a sign all the same, and is hollow where it is negative.
    bar = (along >= 0) & (along <= long)
    hollow = negative & (along > _EDGE) & (along < long - _EDGE) & ~at_side
    ink[:, columns] = np.where(bar & ~hollow, np.where(negative, _NEGATIVE + _FULL, _FULL), 0)
    return ink


def _dotted(picture: MatrixPicture, room: MatrixRoom, shape: tuple[int, int], ratio: float) -> Ink:
    """How dark each pixel is where cells below the diagonal have scatters: the darker the more rows fall on it."""
    high, wide = shape
    lower_cells = [
        (row, col) for row in room.rows for col in room.columns if col < row and not picture.is_grouped(row, col)
    ]
    if not lower_cells:
        return np.zeros(shape, dtype=np.uint8)
    rows, columns = np.array(lower_cells).T
    empty = np.full(max(each.dots.size for each in picture.smalls), np.nan)
    dots = np.stack([each.dots if each.dots.size else empty for each in picture.smalls])
    left = room.corner.x() - room.area.left() + columns[:, None] * room.wide + _AROUND
    bottom = room.corner.y() - room.area.top() + (rows[:, None] + 1) * room.high - _AROUND
    x, y = left + dots[columns] * (room.wide - 2 * _AROUND), bottom - dots[rows] * (room.high - 2 * _AROUND)
    known = np.isfinite(x) & np.isfinite(y)
    x, y = x[known] * ratio - 0.5, y[known] * ratio - 0.5
    inside = (x >= 0) & (x < wide - 1) & (y >= 0) & (y < high - 1)
    first = y[inside].astype(np.int64) * wide + x[inside].astype(np.int64)
    # A dot is two pixels wide and high.
    hits = np.bincount(np.concatenate([first + step for step in (0, 1, wide, wide + 1)]), minlength=wide * high)
    return _DARKER[np.minimum(hits, _DARKER.size - 1)].reshape(high, wide)


def _image(ink: Ink, ratio: float) -> QImage:
    """An image of the ``ink`` in each pixel, shape ``(high, wide)``: up to `_MOST`, beyond it in another shade."""
    high, wide = ink.shape
    padded = np.zeros((high, -(-wide // 4) * 4), dtype=np.uint8)
    padded[:, :wide] = ink
    image = QImage(padded.tobytes(), wide, high, padded.shape[1], QImage.Format.Format_Indexed8)
    image.setColorTable(
        [colour(shade, share / _MOST).rgba() for shade in (SHADES.data, SHADES.caution) for share in range(_NEGATIVE)]
    )
    image = image.convertToFormat(QImage.Format.Format_ARGB32_Premultiplied)
    image.setDevicePixelRatio(ratio)
    return image


def draw_marks(painter: QPainter, picture: MatrixPicture, room: MatrixRoom, *, numbers: bool) -> None:
    """The marks of `cells_image` as shapes, for a page."""
    share = BESIDE if numbers else _WIDE
    for row in room.rows:
        for column in room.columns:
            side = picture.upper if column > row else picture.lower
            if side is None or row == column or np.isnan(side[row, column]):
                continue
            value, cell = float(side[row, column]), room.rect(row, column)
            left = cell.left() + (0.03 if numbers else (1 - share) / 2) * cell.width()
            long = max(min(abs(value), 1.0) * (cell.height() - 3) / 2, 0.6)
            if numbers and long < _LEAST_BESIDE:
                continue
            bar = QRectF(left, cell.center().y(), share * cell.width(), long)
            if picture.symbol(row, column):
                bar.setTop(bar.top() - long)
            if value < 0:
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.setPen(QPen(colour(SHADES.caution), _EDGE))
                painter.drawRect(bar.adjusted(_EDGE / 2, 0, -_EDGE / 2, -_EDGE / 2))
            else:
                painter.setBrush(colour(SHADES.data))
                painter.setPen(Qt.PenStyle.NoPen)
                painter.drawRect(bar if picture.symbol(row, column) else bar.translated(0, -long))


def draw_number(
    painter: QPainter, metrics: QFontMetricsF, cell: QRectF, value: float, n: int | None, symbol: str = ""
) -> None:
    """The coefficient at the right of its cell, and where there is room under it ``n``, the rows it is of.

    A strength without a sign has its ``symbol`` instead.
    """
    # A difference of two strengths has a sign again, and no room for a symbol.
    has_sign = len(symbol) != 1
    written_out = coefficient(value) if has_sign else f"{symbol} {coefficient(value, 2).lstrip('+')}"
    lines = [("none" if np.isnan(value) else written_out, SHADES.ink)]
    if n is not None and cell.height() >= 2.2 * metrics.height():
        lines.append((f"n {count(n)}", SHADES.muted))
    top = cell.center().y() - len(lines) * metrics.height() / 2
    right, room = cell.right() - 1.5, (1 - BESIDE) * cell.width() - 1
    for line, (words, shade) in enumerate(lines):
        written, long = _written(words, painter.font().toString())
        if long <= room:
            painter.setPen(colour(shade))
            painter.drawStaticText(QPointF(right - long, top + line * metrics.height()), written)


@lru_cache(4096)
def _written(words: str, font: str) -> tuple[QStaticText, float]:
    """``words`` laid out once for all frames, and how long they are."""
    letters, text = QFont(), QStaticText(words)
    letters.fromString(font)
    text.setTextFormat(Qt.TextFormat.PlainText)
    text.prepare(QTransform(), letters)
    return text, text.size().width()
