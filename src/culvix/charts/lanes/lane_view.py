"""The area of a lane: where its places lie on the screen, and what the mouse does there.

In its own coordinates x is always the value and y the height over it, whichever way the lane is turned: values run to
the right and heights upward, or, upright, values upward and heights to the right.
"""

from collections.abc import Callable

import pyqtgraph as pg
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QTransform
from PyQt6.QtWidgets import QGraphicsSceneWheelEvent
from pyqtgraph.GraphicsScene.mouseEvents import MouseClickEvent, MouseDragEvent

__all__ = ["LaneView", "TurnedView"]


_FINEST, _WIDEST = 1e-12, 1e300


def _can_zoom(low: float, high: float, *, inwards: bool) -> bool:
    """Whether a range can become narrower or wider and still be told in doubles."""
    span = high - low
    if inwards:
        return span > max(_FINEST * max(abs(low), abs(high)), 1 / _WIDEST)
    return span < _WIDEST


class TurnedView(pg.ViewBox):
    """A view that can stand upright: then its x runs up the screen, and its y to the right."""

    def __init__(self, *, upright: bool = False) -> None:
        super().__init__(enableMenu=False, defaultPadding=0.0)
        self.upright = upright
        self._matrixNeedsUpdate: bool
        self.setBorder(None)

    def updateMatrix(self, changed: object = None) -> None:
        if not self.upright:
            super().updateMatrix(changed)
            return
        bounds, seen = self.rect(), self.viewRect()
        if not self._matrixNeedsUpdate or not seen.width() or not seen.height():
            return
        right, up = bounds.width() / seen.height(), bounds.height() / seen.width()
        centre, middle = bounds.center(), seen.center()
        rotation = QTransform()
        # Moved last, so that far off zero no digits are lost.
        rotation.translate(centre.x(), centre.y())
        rotation = QTransform(0.0, -up, right, 0.0, 0.0, 0.0) * rotation
        self.childGroup.setTransform(QTransform.fromTranslate(-middle.x(), -middle.y()) * rotation)
        self._matrixNeedsUpdate = False
        self.sigTransformChanged.emit(self)

    def viewPixelSize(self) -> tuple[float, float]:
        """How much a pixel is along x, and along y."""
        right, up = super().viewPixelSize()
        return (up, right) if self.upright else (right, up)

    def mouseDragEvent(self, event: MouseDragEvent, axis: int | None = None) -> None:
        self.pan(event)

    def wheelEvent(self, event: QGraphicsSceneWheelEvent, axis: int | None = None) -> None:
        if all(_can_zoom(*ends, inwards=event.delta() > 0) for ends in self.viewRange()):
            super().wheelEvent(event, axis)
        else:
            event.accept()

    def pan(self, event: MouseDragEvent) -> None:
        """Move what is in view along with the pointer."""
        event.accept()
        before, here = self.mapSceneToView(event.lastScenePos()), self.mapSceneToView(event.scenePos())
        along, over = self.state["mouseEnabled"]
        self._resetTarget()
        self.translateBy(
            x=before.x() - here.x() if along else None,
            y=before.y() - here.y() if over else None,
        )


class LaneView(TurnedView):
    """The area of a lane, turning mouse gestures into selections on the value axis."""

    clicked = pyqtSignal(float, float, object)
    spanned = pyqtSignal(float, float, bool, object)
    fit_requested = pyqtSignal()
    probed = pyqtSignal(float)
    grabbed = pyqtSignal(int, float, bool, object)
    """A handle dragged to a value: its number, the value, whether it is let go, and the modifiers."""
    over_handle = pyqtSignal(int)
    """The handle under the pointer, −1 for none."""
    hovered = pyqtSignal(object)
    """Where the pointer is, (x, y), or None when it leaves."""
    stepped = pyqtSignal(int)
    """One notch of the wheel with Ctrl held."""

    def __init__(self, *, upright: bool = False) -> None:
        super().__init__(upright=upright)
        self.setMouseEnabled(x=True, y=False)
        self.handle_at: Callable[[float, float], int | None] = lambda x, y: None
        """The handle that can be dragged at a place of the lane."""
        self._dragged_handle: int | None = None

    def hoverEvent(self, event: object) -> None:
        """Show by the pointer where something can be dragged."""
        leaving = event.isExit()  # type: ignore[attr-defined]
        at = None if leaving else self.mapSceneToView(event.scenePos())  # type: ignore[attr-defined]
        handle = None if at is None else self.handle_at(at.x(), at.y())
        if handle is None:
            self.unsetCursor()
        else:
            self.setCursor(Qt.CursorShape.SplitVCursor if self.upright else Qt.CursorShape.SplitHCursor)
        self.over_handle.emit(-1 if handle is None else handle)
        self.hovered.emit(None if at is None else (at.x(), at.y()))

    def wheelEvent(self, event: QGraphicsSceneWheelEvent, axis: int | None = None) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            event.accept()
            self.stepped.emit(1 if event.delta() > 0 else -1)
        else:
            super().wheelEvent(event, axis)

    def mouseClickEvent(self, event: MouseClickEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        event.accept()
        at = self.mapSceneToView(event.scenePos())
        if event.double():
            self.fit_requested.emit()
        elif event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.probed.emit(at.x())
        else:
            self.clicked.emit(at.x(), at.y(), event.modifiers())

    def mouseDragEvent(self, event: MouseDragEvent, axis: int | None = None) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            self.pan(event)
            return
        event.accept()
        start = self.mapSceneToView(event.buttonDownScenePos())
        here = self.mapSceneToView(event.scenePos())
        if event.isStart():
            self._dragged_handle = self.handle_at(start.x(), start.y())
        if self._dragged_handle is not None:
            self.grabbed.emit(self._dragged_handle, here.x(), bool(event.isFinish()), event.modifiers())
            return
        self.spanned.emit(min(start.x(), here.x()), max(start.x(), here.x()), bool(event.isFinish()), event.modifiers())
