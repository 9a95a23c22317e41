"""The view of a stack of lanes, in which lanes are made higher and lower by dragging the line between two of them."""

from collections.abc import Sequence

import pyqtgraph as pg
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QFrame

from culvix.charts.items.deferred_paint import DeferredPaintView
from culvix.charts.lanes.lane import Lane
from culvix.charts.lanes.stack import DEFAULT_LANES, LaneStack

__all__ = ["LaneCanvas"]

_REACH = 4
_LEAST_HEIGHT = 18.0


class LaneCanvas(DeferredPaintView, pg.GraphicsLayoutWidget):
    """A double click on a line gives all lanes their usual heights."""

    def __init__(self, lanes: Sequence[str] = DEFAULT_LANES) -> None:
        super().__init__()
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setAccessibleName("Lanes of the column")
        self.stack = LaneStack(self.ci, lanes)
        self._dragged_line: int | None = None
        self._over = False

    def line_at(self, at: QPointF) -> int | None:
        """The lane (from 0) whose far end lies under ``at`` (pixels), where another follows."""
        for position, lane in enumerate(self.stack.lanes[:-1]):
            if abs(self._ends(lane)[1] - self._along(at)) <= _REACH:
                return position
        return None

    def _along(self, at: QPointF) -> float:
        """How far along the stack a place is: down, or across where its lanes stand upright."""
        return at.x() if self.stack.upright else at.y()

    def _ends(self, lane: Lane) -> tuple[float, float]:
        """Where a lane begins and ends along the stack, in pixels."""
        room = lane.sceneBoundingRect()
        return tuple(self._along(QPointF(self.mapFromScene(end))) for end in (room.topLeft(), room.bottomRight()))  # type: ignore[return-value]

    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._dragged_line = self.line_at(event.position()) if event.button() == Qt.MouseButton.LeftButton else None
        if self._dragged_line is None:
            super().mousePressEvent(event)

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragged_line is not None:
            self._move(self._along(event.position()))
            return
        if not event.buttons():
            self._show(self.line_at(event.position()) is not None)
        super().mouseMoveEvent(event)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._dragged_line is None:
            super().mouseReleaseEvent(event)
        self._dragged_line = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        if self.line_at(event.position()) is None:
            super().mouseDoubleClickEvent(event)
        else:
            self.stack.size_lanes({})

    def _move(self, to: float) -> None:
        """Give the two lanes beside the line the heights that put it at ``to`` along the stack."""
        assert self._dragged_line is not None
        upper, lower = self.stack.lanes[self._dragged_line : self._dragged_line + 2]
        top, bottom = self._ends(upper)[0], self._ends(lower)[1]
        heights = {lane.name: self._own_height(lane) for lane in self.stack.lanes}
        above, below = self.stack.height_beside(upper), self.stack.height_beside(lower)
        position = min(max(to, top + _LEAST_HEIGHT + above), bottom - _LEAST_HEIGHT - below)
        heights[upper.name] = position - top - above
        heights[lower.name] = bottom - position - below
        self.stack.size_lanes(heights)

    def _own_height(self, lane: Lane) -> float:
        """How high, or wide, the picture of a lane is."""
        start, end = self._ends(lane)
        return end - start - self.stack.height_beside(lane)

    def _show(self, over: bool) -> None:
        """Tell by the pointer that the line can be dragged."""
        viewport = self.viewport()
        if over and viewport is not None:
            viewport.setCursor(Qt.CursorShape.SplitHCursor if self.stack.upright else Qt.CursorShape.SplitVCursor)
        elif self._over and viewport is not None:
            viewport.unsetCursor()
        self._over = over
