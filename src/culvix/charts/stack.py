"""The stack of lanes on one shared value axis, with one probe and one sweep through them all."""

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QObject, Qt, pyqtSignal

from culvix.charts.box_lane import BoxLane
from culvix.charts.histogram_lane import HistogramLane
from culvix.charts.lane import Lane, axis_words
from culvix.charts.palette import LIGHT
from culvix.charts.qq_lane import QQLane
from culvix.charts.span_lane import SpanLane
from culvix.study.pictures import ShapePicture

__all__ = ["LaneStack"]


class LaneStack(QObject):
    """Builds its lanes into ``layout`` and keeps them in step."""

    rows_picked = pyqtSignal(object, object)
    """Rows under a click and the keyboard modifiers."""
    interval_chosen = pyqtSignal(float, float, object)
    """A dragged or clicked interval of values and the modifiers."""
    probe_moved = pyqtSignal(float)

    def __init__(self, layout: pg.GraphicsLayout) -> None:
        super().__init__()
        self.picture: ShapePicture | None = None
        self.lanes: list[Lane] = [HistogramLane(), BoxLane(), QQLane(), SpanLane()]
        layout.setSpacing(0)
        layout.setContentsMargins(4, 6, 12, 2)
        for place, lane in enumerate(self.lanes):
            layout.addItem(lane, place, 0)
            layout.layout.setRowStretchFactor(place, lane.stretch)
            if place:
                lane.setXLink(self.lanes[0])
            lane.picked.connect(self.rows_picked)
            lane.interval.connect(self._sweep)
            lane.probe.sigPositionChanged.connect(self._probe_dragged)
            lane.view_box.probed.connect(self.probe_moved)
            lane.view_box.fit_wanted.connect(self.fit)
        bottom = self.lanes[-1].getAxis("bottom")
        bottom.setStyle(showValues=True)
        bottom.setHeight(None)

    def lane(self, kind: type[Lane]) -> Lane:
        """The lane of a kind. Raises KeyError where the stack has none."""
        for lane in self.lanes:
            if isinstance(lane, kind):
                return lane
        raise KeyError(kind.__name__)

    def show_picture(self, picture: ShapePicture, *, refit: bool) -> None:
        """Draw ``picture`` in every lane; ``refit`` moves the axis to its values."""
        self.picture = picture
        for lane in self.lanes:
            lane.show_picture(picture)
        self.lanes[-1].getAxis("bottom").setLabel(axis_words(picture.title), color=LIGHT.muted, **{"font-size": "9pt"})
        if refit:
            self.fit()

    def fit(self) -> None:
        """Move the axis to the values in use."""
        extent = self.picture.extent if self.picture else None
        if extent is None:
            return
        low, high = extent
        bars = self.picture.histogram if self.picture else None
        if bars is not None and bars.counts.size <= 60:
            low, high = min(low, float(bars.edges[0])), max(high, float(bars.edges[-1]))
        if not np.isfinite(high - low):
            return
        reach = (high - low) or abs(high) * 0.1 or 1.0
        self.lanes[0].setXRange(low - 0.025 * reach, high + 0.025 * reach, padding=0)

    def set_probe(self, value: float | None) -> None:
        """Show the probe at ``value`` in all lanes, or nowhere."""
        for lane in self.lanes:
            lane.set_probe(value)

    def _probe_dragged(self, line: pg.InfiniteLine) -> None:
        self.probe_moved.emit(float(line.value()))

    def _sweep(self, low: float, high: float, finished: bool, modifiers: Qt.KeyboardModifier) -> None:
        for lane in self.lanes:
            lane.sweep.setVisible(not finished)
            if not finished:
                lane.sweep.setRegion((low, high))
        if finished:
            self.interval_chosen.emit(low, high, modifiers)
