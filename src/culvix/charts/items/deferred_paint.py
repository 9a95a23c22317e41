"""A view that is drawn in one step and painted in another: both in one go would hold up the window."""

import pyqtgraph as pg
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHideEvent, QPainter, QPaintEvent, QResizeEvent
from PyQt6.QtWidgets import QWidget

from culvix.charts.palette import SHADES, brush

__all__ = ["DeferredPaintView"]


class DeferredPaintView(pg.GraphicsView):
    """While painting is held, what was painted last stays on the screen; where nothing is left of that, bare ground."""

    laid_out = pyqtSignal()
    """It has another size, though its window has not: often the first of several, and not worth painting yet."""

    def __init__(self, *args: object, **options: object) -> None:
        self._window_size: QSize | None = None
        super().__init__(*args, **options)
        self.setBackground(SHADES.panel)
        self._deferred = False
        self._there = False
        """Whether what was painted last is still on the screen."""

        # It paints all of its ground itself.
        self._ground().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @property
    def painting_owed(self) -> bool:
        """Whether what is drawn is still to be painted."""
        return self._deferred

    def hold_painting(self) -> None:
        """Paint nothing until `paint_deferred`."""
        self._deferred = True

    def paint_deferred(self) -> None:
        """Paint what is drawn now."""
        self._deferred = False
        self._ground().update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self._deferred:
            super().paintEvent(event)
            self._there = True
        elif not self._there:
            QPainter(self._ground()).fillRect(event.rect(), brush(SHADES.panel))

    def hideEvent(self, event: QHideEvent) -> None:
        self._there = False
        super().hideEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._there = False
        super().resizeEvent(event)
        window = self.window()
        size = None if window is None else window.size()
        # While a hand pulls at the window itself, every size is painted at once.
        if size == self._window_size:
            self.laid_out.emit()
        self._window_size = size

    def _ground(self) -> QWidget:
        viewport: QWidget | None = self.viewport()
        assert viewport is not None
        return viewport
