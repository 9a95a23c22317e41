"""Drawing a shape over a scatter, to choose the rows within it: a rectangle, or what a hand draws freely."""

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QImage, QPainter, QPolygonF
from pyqtgraph.GraphicsScene.mouseEvents import MouseDragEvent

from culvix.charts.lanes.lane_view import LaneView
from culvix.stats.core.arrays import Bools, Floats

__all__ = ["ScatterView", "rows_within"]

_FINE = 1024
"""Parts of the height and of the width of a shape, by which is told what lies within it."""
_LEAST_STEP = 2.0

Outline = list[tuple[float, float]]
"""The corners of a shape in places of the two axes."""


class ScatterView(LaneView):
    """The area of a scatter: dragging draws a rectangle, or, ``free``, along the pointer."""

    outlined = pyqtSignal(object, bool, object)
    """The corners (an `Outline`) so far, whether it is finished, and the modifiers."""

    def __init__(self, *, upright: bool = False) -> None:
        super().__init__(upright=upright)
        self.free = False
        self._path: list[QPointF] = []

    def mouseDragEvent(self, event: MouseDragEvent, axis: int | None = None) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            self.pan(event)
            return
        event.accept()
        start, here = event.buttonDownScenePos(), event.scenePos()
        if event.isStart():
            self._path = [QPointF(start)]
        if (here - self._path[-1]).manhattanLength() >= _LEAST_STEP:
            self._path.append(QPointF(here))
        corners = self._path if self.free else [start, QPointF(here.x(), start.y()), here, QPointF(start.x(), here.y())]
        positions = [self.mapSceneToView(corner) for corner in corners]
        self.outlined.emit([(at.x(), at.y()) for at in positions], bool(event.isFinish()), event.modifiers())


def rows_within(outline: Sequence[tuple[float, float]], x: Floats, y: Floats) -> Bools:
    """Which of the places ``x``, ``y`` (both shape ``(rows,)``) lie within ``outline``, its edges included.

    A shape with three or more corners that is no upright rectangle is told to a thousandth of its width and height.
    """
    corners = np.array(outline, dtype=np.float64).reshape(-1, 2)
    if not corners.size:
        return np.zeros(x.size, dtype=bool)
    (left, bottom), (right, top) = corners.min(axis=0), corners.max(axis=0)
    inside = np.asarray((x >= left) & (x <= right) & (y >= bottom) & (y <= top))
    if _is_rectangle(corners) or not right > left or not top > bottom:
        return inside
    within = np.flatnonzero(inside)
    at = [
        ((positions[within] - low) * (_FINE / (high - low))).astype(np.int32)
        for positions, low, high in ((x, left, right), (y, bottom, top))
    ]
    shape = (corners - (left, bottom)) / (right - left, top - bottom) * _FINE
    inside[within] = _filled(shape)[at[1], at[0]]
    return inside


def _is_rectangle(corners: Floats) -> bool:
    return corners.shape[0] == 4 and all(np.unique(side).size <= 2 for side in corners.T)


def _filled(corners: Floats) -> Bools:
    """The cells of a fine grid that lie within ``corners``, its edges included."""
    image = QImage(_FINE, _FINE, QImage.Format.Format_Grayscale8)
    image.fill(0)
    painter = QPainter(image)
    painter.setPen(Qt.GlobalColor.white)
    painter.setBrush(Qt.GlobalColor.white)
    painter.drawPolygon(QPolygonF([QPointF(*corner) for corner in corners.tolist()]), Qt.FillRule.OddEvenFill)
    painter.end()
    bits = image.constBits()
    assert bits is not None
    filled = np.frombuffer(bits.asstring(_FINE * _FINE), dtype=np.uint8).reshape(_FINE, _FINE) > 0
    # What lies on the far edges has a cell, too.
    return np.pad(filled, ((0, 1), (0, 1)), mode="edge")
