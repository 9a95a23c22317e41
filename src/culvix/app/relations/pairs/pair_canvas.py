"""The scatter of a pair with a lane of each of its columns on the same axes."""

from collections.abc import Callable

import pyqtgraph as pg
from PyQt6.QtCore import QObject, Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame

from culvix.charts.items.deferred_paint import DeferredPaintView
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.plots.scatter import PairPlot
from culvix.study.pictures.column_pictures import ShapePicture
from culvix.study.pictures.pair_pictures import PairPicture

__all__ = ["PairCanvas"]

_LANE = 92
"""How high a lane is, and how wide one that stands upright, in pixels."""
_LEAST_ROOM = 300
"""In less room than this, either way, the scatter has it alone."""


class _Linked(QObject):
    """Keeps the axis of a lane, and that of the scatter beside it, on the same places."""

    def __init__(self, plot: PairPlot, lane: HistogramLane, parent: QObject) -> None:
        super().__init__(parent)
        self._plot, self._lane, self._following = plot, lane, False
        changed = plot.view_box.sigYRangeChanged if lane.upright else plot.view_box.sigXRangeChanged
        changed.connect(lambda *_: self._follow(self._take))
        lane.view_box.sigXRangeChanged.connect(lambda *_: self._follow(self._give))

    def _follow(self, act: Callable[[], None]) -> None:
        if not self._following:
            self._following = True
            act()
            self._following = False

    def _take(self) -> None:
        seen = self._plot.view_box.viewRange()[int(self._lane.upright)]
        self._lane.view_box.setXRange(*seen, padding=0)

    def _give(self) -> None:
        move = self._plot.view_box.setYRange if self._lane.upright else self._plot.view_box.setXRange
        move(*self._lane.view_box.viewRange()[0], padding=0)


class PairCanvas(DeferredPaintView):
    """Shows a `PairPicture`, and over it and at its right the bars of the two columns, where there is room for them."""

    along_picked = pyqtSignal(int, object, object)
    """Rows clicked in the lane of a column (0 for that along the axis, 1 for the upright one), and the modifiers."""
    along_dragged = pyqtSignal(int, float, float, object)
    """Places between which was dragged in the lane of a column, and the modifiers."""

    def __init__(self, plot: PairPlot, lanes: tuple[HistogramLane, HistogramLane]) -> None:
        """Lays out a scatter and the ``lanes``, along the axis and upright, made before: each takes a while."""
        super().__init__()
        self.ci = pg.GraphicsLayout()
        self.setCentralItem(self.ci)
        self.setAccessibleName("The chosen pair")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.ci.setContentsMargins(4, 6, 8, 2)
        self.ci.setSpacing(0)
        self.plot, self.lanes = plot, lanes
        self.ci.addItem(self.lanes[0], 0, 0)
        self.ci.addItem(self.plot, 1, 0)
        self.ci.addItem(self.lanes[1], 1, 1)
        self._pictures: tuple[ShapePicture, ShapePicture] | None = None
        self._shows_lanes = True
        for which, lane in enumerate(self.lanes):
            _Linked(self.plot, lane, self)
            lane.picked.connect(lambda rows, modifiers, which=which: self.along_picked.emit(which, rows, modifiers))
            lane.interval.connect(lambda *swept, which=which: self._swept(which, *swept))
            lane.view_box.fit_requested.connect(self.plot.fit)
        self.plot.view_box.fit_requested.connect(self.plot.fit)
        self._give_room()

    def _swept(self, which: int, low: float, high: float, finished: bool, modifiers: Qt.KeyboardModifier) -> None:
        sweep = self.lanes[which].sweep
        sweep.setVisible(not finished)
        sweep.setRegion((low, high))
        if finished:
            self.along_dragged.emit(which, low, high, modifiers)

    def show_lanes(self, pictures: tuple[ShapePicture, ShapePicture] | None) -> None:
        """Show the bars of both columns, on the axes of the scatter; None leaves it alone."""
        self._pictures = pictures
        self._give_room()
        if pictures is not None and self._shows_lanes:
            for lane, picture in zip(self.lanes, pictures, strict=True):
                lane.show_picture(picture)

    def show_pair(self, picture: PairPicture, *, refit: bool) -> None:
        """Draw the scatter; ``refit`` moves both axes to its rows."""
        self.plot.show_pair(picture, refit=refit)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if hasattr(self, "lanes"):
            shown = self._shows_lanes
            self._give_room()
            if self._shows_lanes and not shown:
                self.show_lanes(self._pictures)

    def _give_room(self) -> None:
        """Room for the lanes where they are shown at all."""
        enough = min(self.width(), self.height()) >= _LEAST_ROOM
        self._shows_lanes = self._pictures is not None and enough
        room = _LANE if self._shows_lanes else 0
        self.ci.layout.setRowFixedHeight(0, room)
        self.ci.layout.setColumnFixedWidth(1, room)
        for lane in self.lanes:
            lane.setVisible(self._shows_lanes)
