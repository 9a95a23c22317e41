"""The stack of lanes on one shared value axis, with one probe and one sweep through them all."""

from collections.abc import Callable, Mapping, Sequence
from functools import partial

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QObject, Qt, pyqtSignal

from culvix.charts.box_lane import BoxLane
from culvix.charts.cumulative_lane import CumulativeLane
from culvix.charts.density_lane import DensityLane
from culvix.charts.detrended_lane import DetrendedLane
from culvix.charts.histogram_lane import HistogramLane
from culvix.charts.lane import ANSWER_HEIGHT, Lane, axis_words
from culvix.charts.palette import LIGHT
from culvix.charts.points_lane import PointsLane
from culvix.charts.qq_lane import QQLane
from culvix.charts.span_lane import SpanLane
from culvix.study.pictures import ShapePicture

__all__ = ["DEFAULT_LANES", "LANES", "LaneStack"]

LANES: dict[str, type[Lane]] = {
    lane.name: lane
    for lane in (HistogramLane, DensityLane, BoxLane, PointsLane, QQLane, DetrendedLane, CumulativeLane, SpanLane)
}
"""Every lane there is, by name."""

_GAP = 6
_FOOT = 44
"""Height of the axis under the lowest lane: its numbers and its title."""

DEFAULT_LANES = ("histogram", "box", "Q-Q", "spans")


class LaneStack(QObject):
    """Builds its lanes into ``layout`` and keeps them in step."""

    rows_picked = pyqtSignal(object, object)
    """Rows under a click and the keyboard modifiers."""
    interval_chosen = pyqtSignal(float, float, object)
    """A dragged or clicked interval of values and the modifiers."""
    probe_moved = pyqtSignal(float)
    pin_moved = pyqtSignal(float)
    grabbed = pyqtSignal(str, int, float, bool, object)
    """A handle of a lane dragged: the lane's name, the handle, the value, whether it is let go, and the modifiers."""
    stepped = pyqtSignal(str, int)
    """One notch of the wheel with Ctrl held over a lane: its name, and 1 or −1."""

    def __init__(self, layout: pg.GraphicsLayout, lanes: Sequence[str] = DEFAULT_LANES, heading: str = "") -> None:
        """Show ``lanes`` under a ``heading``; with none of them, `choose` is to follow."""
        super().__init__()
        self._top = int(bool(heading))
        if heading:
            layout.addLabel(axis_words(heading), row=0, col=0, size="10pt", color=LIGHT.ink)
        self.picture: ShapePicture | None = None
        self.layout = layout
        self.lanes: list[Lane] = []
        self.heights: dict[str, float] = {}
        self.log_base: float | None = None
        """Where the values are logarithms: of which base."""
        self.row_words: Callable[[int], str] = lambda row: f"row {row + 1}"
        """What a row (from 0) is called when the pointer is over its mark."""
        self.title = ""
        """What stands at the axis in place of the picture's own title."""
        self._made: dict[str, Lane] = {}
        self._probe: float | None = None
        self._pinned: float | None = None
        layout.setSpacing(0)
        layout.setContentsMargins(4, 6, 12, 2)
        layout.geometryChanged.connect(self._stretch)
        if lanes:
            self.choose(lanes)

    def choose(self, names: Sequence[str]) -> None:
        """Show the lanes called ``names``, from above; those not known are left out. At least one stays."""
        wanted = [name for name in dict.fromkeys(names) if name in LANES] or [DEFAULT_LANES[0]]
        if wanted == self.names:
            return
        view = self.lanes[0].view_box.viewRange()[0] if self.lanes else None
        room = self.layout.geometry()
        for lane in self.lanes:
            self.layout.removeItem(lane)
            lane.setXLink(None)
        for place in range(len(LANES)):
            self.layout.layout.setRowPreferredHeight(self._top + place, 0)
        self.lanes = [self.make(name) for name in wanted]
        for place, lane in enumerate(self.lanes):
            self.layout.addItem(lane, self._top + place, 0)
            if place:
                lane.setXLink(self.lanes[0])
            lowest = place == len(self.lanes) - 1
            bottom = lane.getAxis("bottom")
            bottom.setStyle(showValues=lowest)
            bottom.showLabel(False)
            bottom.setHeight(_FOOT if lowest else _GAP)
        self._stretch()
        if view is not None:
            # On its own the layout would shrink to the least its lanes need.
            self.layout.layout.activate()
            self.layout.setGeometry(room)
        if self.picture is not None:
            self.show_picture(self.picture, refit=view is None)
            self.set_probe(self._probe)
            self.set_pinned(self._pinned)
        if view is not None:
            self.lanes[0].setXRange(*view, padding=0)

    def size_lanes(self, heights: Mapping[str, float]) -> None:
        """Share the room among the pictures of the lanes in proportion to ``heights`` (by name).

        The others keep their usual share.
        """
        self.heights = {name: float(height) for name, height in heights.items() if name in LANES and height > 0}
        self._stretch()

    def _stretch(self) -> None:
        if not self.lanes:
            return
        known = sum(self.heights.get(lane.name, 0.0) for lane in self.lanes)
        usual = sum(lane.stretch for lane in self.lanes if lane.name in self.heights) or 1
        # A lane added later gets its usual share beside those that were sized.
        usual_share = known / usual if known else 1.0
        wanted = [self.heights.get(lane.name, lane.stretch * usual_share) for lane in self.lanes]
        beside = [self.height_beside(lane) for lane in self.lanes]
        room = max(self.layout.layout.contentsRect().height() - sum(beside), 100.0) / sum(wanted)
        for place, (height, fixed) in enumerate(zip(wanted, beside, strict=True)):
            self.layout.layout.setRowPreferredHeight(self._top + place, height * room + fixed)

    def height_beside(self, lane: Lane) -> float:
        """What a lane needs besides its picture, in pixels: the line above it and the axis below."""
        return ANSWER_HEIGHT + (_FOOT if lane is self.lanes[-1] else _GAP)

    @property
    def names(self) -> list[str]:
        """The lanes shown, by name, from above."""
        return [lane.name for lane in self.lanes]

    def make(self, name: str) -> Lane:
        """The lane called ``name``; it is made once, which takes a while."""
        if name not in self._made:
            lane = self._made[name] = LANES[name]()
            lane.picked.connect(self.rows_picked)
            lane.interval.connect(self._sweep)
            lane.probe.sigPositionChanged.connect(self._probe_dragged)
            lane.pinned.sigPositionChanged.connect(lambda line: self.pin_moved.emit(float(line.value())))
            lane.view_box.probed.connect(self.probe_moved)
            lane.view_box.fit_wanted.connect(self.fit)
            lane.view_box.grabbed.connect(partial(self.grabbed.emit, name))
            lane.view_box.hovered.connect(partial(self._hovered, lane))
            lane.view_box.stepped.connect(partial(self.stepped.emit, name))
        return self._made[name]

    def lane(self, kind: type[Lane]) -> Lane:
        """The lane of a kind. Raises KeyError where the stack has none."""
        for lane in self.lanes:
            if isinstance(lane, kind):
                return lane
        raise KeyError(kind.__name__)

    def lane_called(self, name: str) -> Lane:
        """The lane of a name. Raises KeyError where the stack has none."""
        return next((lane for lane in self.lanes if lane.name == name), None) or self.lane(LANES[name])

    def show_picture(self, picture: ShapePicture, *, refit: bool) -> None:
        """Draw ``picture`` in every lane; ``refit`` moves the axis to its values."""
        self.picture = picture
        before = [lane.stretch for lane in self.lanes]
        for lane in self.lanes:
            lane.show_picture(picture)
        if before != [lane.stretch for lane in self.lanes]:
            self._stretch()
        for lane in self.lanes:
            lane.getAxis("bottom").log_base = self.log_base
        words = axis_words(self.title or picture.title)
        lowest = self.lanes[-1].getAxis("bottom")
        lowest.setLabel(words, color=LIGHT.muted, **{"font-size": "9pt"})
        # An axis puts its name in the middle only when its own size changes.
        lowest.resizeEvent()
        if refit:
            self.fit()
        self.settle()

    def settle(self) -> None:
        """Let all places follow the axis now: found out while painting, it would be painted twice."""
        scene = self.layout.scene()
        if scene is not None:
            scene.prepareForPaint()
            for lane in self.lanes:
                for line in (lane.probe, lane.pinned):
                    line.boundingRect()

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
        self._probe = value
        for lane in self.lanes:
            lane.set_probe(value)

    def set_pinned(self, value: float | None) -> None:
        """Show the pinned probe at ``value`` in all lanes, or nowhere."""
        self._pinned = value
        for lane in self.lanes:
            lane.set_pinned(value)

    def _probe_dragged(self, line: pg.InfiniteLine) -> None:
        self.probe_moved.emit(float(line.value()))

    def _hovered(self, lane: Lane, at: tuple[float, float] | None) -> None:
        """Say over the lane what is under the pointer: a row, or what the lane has there; else what the probe reads."""
        words = ""
        if at is not None:
            rows = lane.mark_under(*at)
            words = self.row_words(int(rows[0])) if rows.size and rows[0] >= 0 else lane.words_at(*at)
            if rows.size > 1:
                words += f" and {rows.size - 1} more"
        if not words and self._probe is not None:
            words = lane.reading(self._probe)
        if words != lane.said:
            lane.answer(words)

    def _sweep(self, low: float, high: float, finished: bool, modifiers: Qt.KeyboardModifier) -> None:
        for lane in self.lanes:
            lane.sweep.setVisible(not finished)
            if not finished:
                lane.sweep.setRegion((low, high))
        if finished:
            self.interval_chosen.emit(low, high, modifiers)
