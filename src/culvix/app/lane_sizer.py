"""Lanes made higher and lower by dragging the line between two of them."""

from PyQt6.QtCore import QEvent, QObject, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtWidgets import QGraphicsView

from culvix.charts.stack import LaneStack

__all__ = ["LaneSizer"]

_REACH = 4


class LaneSizer(QObject):
    """Watches the mouse over the view of a stack; a double click on a line gives all lanes their usual heights."""

    def __init__(self, view: QGraphicsView, stack: LaneStack) -> None:
        super().__init__(view)
        self.view, self.stack = view, stack
        self._held: int | None = None
        self._shown = False
        viewport = view.viewport()
        assert viewport is not None
        self.viewport = viewport
        viewport.setMouseTracking(True)
        viewport.installEventFilter(self)

    def line_at(self, y: float) -> int | None:
        """The lane (from 0) whose lower end lies under ``y`` (pixels), where another follows."""
        for place, lane in enumerate(self.stack.lanes[:-1]):
            if abs(self.view.mapFromScene(lane.sceneBoundingRect().bottomLeft()).y() - y) <= _REACH:
                return place
        return None

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if not isinstance(event, QMouseEvent):
            return False
        kind, y = event.type(), event.position().y()
        left = event.button() == Qt.MouseButton.LeftButton
        if kind == QEvent.Type.MouseButtonDblClick and left and self.line_at(y) is not None:
            self.stack.size_lanes({})
            return True
        if kind == QEvent.Type.MouseButtonPress and left:
            self._held = self.line_at(y)
            return self._held is not None
        if kind == QEvent.Type.MouseMove and self._held is not None:
            self._move(y)
            return True
        if kind == QEvent.Type.MouseMove and not event.buttons():
            self._show(self.line_at(y) is not None)
        if kind == QEvent.Type.MouseButtonRelease and self._held is not None:
            self._held = None
            return True
        return False

    def _move(self, y: float) -> None:
        """Give the two lanes beside the line the heights that put it at ``y``."""
        assert self._held is not None
        upper, lower = self.stack.lanes[self._held : self._held + 2]
        top = self.view.mapFromScene(upper.sceneBoundingRect().topLeft()).y()
        bottom = self.view.mapFromScene(lower.sceneBoundingRect().bottomLeft()).y()
        heights = {lane.name: lane.sceneBoundingRect().height() for lane in self.stack.lanes}
        least = 34.0
        place = min(max(y, top + least), bottom - least)
        self.stack.size_lanes({**heights, upper.name: place - top, lower.name: bottom - place})

    def _show(self, over: bool) -> None:
        """Tell by the pointer that the line can be dragged."""
        if over:
            self.viewport.setCursor(Qt.CursorShape.SplitVCursor)
        elif self._shown:
            self.viewport.unsetCursor()
        self._shown = over
