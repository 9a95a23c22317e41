"""Curves, bars and paths that are drawn into a file where they lie on the page.

In the window a picture is drawn in the column's own numbers, and the painter puts them in their place. Files keep six
digits of a number: far from zero, nothing would be left of what tells one value from the next.
"""

from collections.abc import Iterator
from contextlib import contextmanager

import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPainterPath, QPen, QTransform

__all__ = ["BarItem", "CurveItem", "LevelItem", "PagePainter", "on_page"]


@contextmanager
def on_page(painter: QPainter) -> Iterator[QTransform]:
    """Let ``painter`` draw in places of the page; given is what brings numbers there."""
    position = painter.transform()
    painter.save()
    painter.resetTransform()
    yield position
    painter.restore()


class PagePainter:
    """Paints in numbers, and puts them in their ``position`` itself."""

    def __init__(self, painter: QPainter, position: QTransform) -> None:
        self._painter, self._position = painter, position

    def setPen(self, pen: QPen | Qt.PenStyle) -> None:
        self._painter.setPen(pen)

    def setBrush(self, brush: QBrush | Qt.BrushStyle) -> None:
        self._painter.setBrush(brush)

    def drawPath(self, path: QPainterPath) -> None:
        self._painter.drawPath(self._position.map(path))

    def drawRect(self, area: QRectF) -> None:
        self._painter.drawRect(self._position.mapRect(area))

    def drawLine(self, start: QPointF, end: QPointF) -> None:
        self._painter.drawLine(self._position.map(start), self._position.map(end))


class CurveItem(pg.PlotCurveItem):
    """A line through points, filled down to a level where it has one."""

    def paint(self, painter: QPainter, *rest: object) -> None:
        if not self._exportOpts:
            super().paint(painter, *rest)
            return
        if self.xData is None or not len(self.xData):
            return
        with on_page(painter) as position:
            if self.opts["fillLevel"] is not None and self.opts["brush"] is not None:
                painter.fillPath(position.map(self._getFillPath()), self.opts["brush"])
            painter.setPen(self.opts["pen"])
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawPath(position.map(self.getPath()))


class BarItem(pg.BarGraphItem):
    """Bars of one kind."""

    def paint(self, painter: QPainter, *rest: object) -> None:
        if not self._exportOpts:
            super().paint(painter, *rest)
            return
        with on_page(painter) as position:
            painter.setPen(self._sharedPen)
            painter.setBrush(self._sharedBrush)
            for left, low, right, high in zip(*map(_listed, self._getNormalizedCoords()), strict=True):
                painter.drawRect(position.mapRect(QRectF(left, low, right - left, high - low)))


def _listed(ends: object) -> list[float]:
    return list(map(float, ends))  # type: ignore[call-overload]


class LevelItem(pg.InfiniteLine):
    """A line across the whole lane that is not to be moved."""

    def paint(self, painter: QPainter, *rest: object) -> None:
        if not self._exportOpts:
            super().paint(painter, *rest)
            return
        start, end = (QPointF(float(at), 0.0) for at in self._endPoints)
        with on_page(painter) as position:
            painter.setPen(self.pen)
            painter.drawLine(position.map(start), position.map(end))
