"""A view that is drawn in one step and painted in another: both in one go would hold up the window."""

import pyqtgraph as pg
from PyQt6.QtCore import QSize, Qt, pyqtSignal
from PyQt6.QtGui import QHideEvent, QPainter, QPaintEvent, QPicture, QResizeEvent
from PyQt6.QtWidgets import QWidget

from culvix.charts.palette import SHADES, brush

__all__ = ["DeferredPaintView"]


class DeferredPaintView(pg.GraphicsView):
    """While painting is held, what was painted last stays on the screen; where nothing is left of that, bare ground."""

    laid_out = pyqtSignal()
    """It has another size, though its window has not: often the first of several, and not worth painting yet."""

    def __init__(self, *args: object, **options: object) -> None:
        # It is told of its size while it is being made.
        self._window_size: QSize | None = None
        self._deferred = False
        self._size_pending = False
        super().__init__(*args, **options)
        self.setBackground(SHADES.panel)
        self._there = False
        """Whether what was painted last is still on the screen."""

        # It paints all of its ground itself.
        self._ground().setAttribute(Qt.WidgetAttribute.WA_OpaquePaintEvent)

    @property
    def painting_pending(self) -> bool:
        """Whether what is drawn is still to be painted."""
        return self._deferred

    def hold_painting(self) -> None:
        """Paint nothing until `paint_deferred`."""
        self._deferred = True

    def prepare_painting(self) -> None:
        """Find out what painting asks for: the paths of curves, and what stands at the axes."""
        self.take_size()
        aside = QPicture()
        with QPainter(aside) as painter:
            for item in self.items():
                if isinstance(item, pg.AxisItem) and item.isVisible():
                    item.paint(painter, None, None)
                elif isinstance(item, pg.PlotCurveItem) and item.isVisible():
                    item.getPath()

    def paint_deferred(self) -> None:
        """Paint what is drawn now."""
        self._deferred = False
        self.take_size()
        self._ground().update()

    def paintEvent(self, event: QPaintEvent) -> None:
        if not self._deferred:
            super().paintEvent(event)
            self._there = True
        elif not self._there:
            QPainter(self._ground()).fillRect(event.rect(), brush(SHADES.panel))

    def take_size(self) -> None:
        """Lay out what is drawn in the room there is now: while painting is held, for the last of its sizes."""
        if self._size_pending:
            self._size_pending = False
            super().resizeEvent(None)

    def hideEvent(self, event: QHideEvent) -> None:
        self._there = False
        super().hideEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        self._there = False
        self._size_pending = True
        if not self._deferred:
            self.take_size()
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
