"""The stack of lanes on one shared value axis, with one probe and one sweep through them all."""

from collections.abc import Callable, Mapping, Sequence
from functools import partial
from math import isfinite

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QObject, Qt, pyqtSignal

from culvix.charts.axes.value_axis import AXIS_WIDTH, ValueAxis
from culvix.charts.lanes.box_lane import BoxLane
from culvix.charts.lanes.cumulative_lane import CumulativeLane
from culvix.charts.lanes.density_lane import DensityLane
from culvix.charts.lanes.detrended_lane import DetrendedLane
from culvix.charts.lanes.edge_counts import EdgeCounts
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.lanes.lane import FOOT, GAP, Lane, axis_text
from culvix.charts.lanes.points_lane import PointsLane
from culvix.charts.lanes.qq_lane import QQLane
from culvix.charts.lanes.span_lane import SpanLane
from culvix.charts.palette import SHADES
from culvix.charts.paper import axis_words, points
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.stats.shape.long_tail import bulk
from culvix.study.pictures.column_pictures import ShapePicture

__all__ = ["DEFAULT_LANES", "LANES", "LaneStack"]

LANES: dict[str, type[Lane]] = {
    lane.name: lane
    for lane in (HistogramLane, DensityLane, BoxLane, PointsLane, QQLane, DetrendedLane, CumulativeLane, SpanLane)
}
"""Every lane there is, by name."""

DEFAULT_LANES = ("histogram", "box", "Q-Q", "spans")


_TALL = 380
"""From this height on, in pixels, an upright lane has room for several lines of words over it."""

_BESIDE_NUMBERS = 34
"""What an upright axis needs besides its numbers: its name and the gaps, in pixels."""

_MORE = 0.15
"""What is seen beside the bulk of the values at either end, as a share of it."""

_LETTER = 7.0
"""About how long a letter of an axis's title is, in pixels."""


class LaneStack(QObject):
    """Builds its lanes into ``layout`` and keeps them in step.

    They lie on each other above the axis that they share, or, ``upright``, stand side by side to the right of it, as
    the picture says.
    """

    rows_picked = pyqtSignal(object, object)
    """Rows under a click and the keyboard modifiers."""
    interval_chosen = pyqtSignal(float, float, object)
    """A dragged or clicked interval of places on the shared axis and the modifiers."""
    probe_moved = pyqtSignal(float)
    pin_moved = pyqtSignal(float)
    grabbed = pyqtSignal(str, int, float, bool, object)
    """A handle of a lane dragged: the lane's name, the handle, its place on the shared axis, whether it is let go, and
    the modifiers."""
    bulk_changed = pyqtSignal(bool)
    """Whether the bulk of the values is in view instead of all of them."""
    stepped = pyqtSignal(str, int)
    """One notch of the wheel with Ctrl held over a lane: its name, and 1 or −1."""

    def __init__(
        self,
        layout: pg.GraphicsLayout,
        lanes: Sequence[str] = DEFAULT_LANES,
        heading: str = "",
        *,
        upright: bool = False,
    ) -> None:
        """Show ``lanes`` under a ``heading``; with none of them, `choose` is to follow."""
        super().__init__()
        self.upright = upright
        self._top = int(bool(heading))
        if heading:
            span = max(len(lanes), 1) if upright else 1
            layout.addLabel(axis_text(heading), row=0, col=0, colspan=span, size="10pt", color=SHADES.ink)
        self.picture: ShapePicture | None = None
        self.layout = layout
        self.lanes: list[Lane] = []
        self.heights: dict[str, float] = {}
        self.column_scale: AxisScale | None = None
        """Where the values of the column are themselves places on a scale: which."""
        self.row_text: Callable[[int], str] = lambda row: f"row {row + 1}"
        """What a row (from 0) is called when the pointer is over its mark."""
        self.title = ""
        """What stands at the axis in place of the picture's own title."""
        self._made: dict[tuple[str, bool], Lane] = {}
        self._following = False
        self.shows_bulk = False
        self.edge_counts = EdgeCounts(upright)
        self._axis_width = float(AXIS_WIDTH)
        self._probe: float | None = None
        self._pinned: float | None = None
        layout.setSpacing(0)
        layout.setContentsMargins(4, 6, 12, 2)
        layout.geometryChanged.connect(self._resized)
        if lanes:
            self.choose(lanes)

    def choose(self, names: Sequence[str]) -> None:
        """Show the lanes called ``names``, from above; those not known are left out. At least one stays."""
        requested = [name for name in dict.fromkeys(names) if name in LANES] or [DEFAULT_LANES[0]]
        if requested == self.names:
            return
        seen = self._seen
        self._arrange(requested, seen)
        if self.picture is not None:
            self.show_picture(self.picture, refit=seen is None)
            self.set_probe(self._probe)
            self.set_pinned(self._pinned)
        if seen is not None:
            self.see(*seen)

    def _reorient(self, upright: bool) -> None:
        """Let the values run up the screen, or to the right; lanes of the other kind are kept for the way back."""
        names, seen = self.names, self._seen
        self._clear()
        self.lanes, self.upright = [], upright
        self._arrange(names, seen)
        self.set_probe(self._probe)
        self.set_pinned(self._pinned)

    def _clear(self) -> None:
        """Take the lanes out of the layout, and their room with them."""
        for lane in self.lanes:
            self.layout.removeItem(lane)
        for position in range(len(LANES)):
            self._give_room(position, 0)

    def _follow(self, view: pg.ViewBox, seen: tuple[float, float]) -> None:
        """Show in all lanes what is seen in one: as long as each other along the shared axis, they need no aligning."""
        if self._following or not any(lane.view_box is view for lane in self.lanes):
            return
        self._following = True
        for lane in self.lanes:
            if lane.view_box is not view:
                lane.view_box.setXRange(*seen, padding=0)
        self._following = False

    def see(self, low: float, high: float) -> None:
        """Show the axis from ``low`` to ``high`` in all lanes."""
        for lane in self.lanes:
            lane.view_box.setXRange(low, high, padding=0)

    @property
    def _seen(self) -> tuple[float, float] | None:
        """The part of the axis in view, None where there are no lanes yet."""
        if not self.lanes:
            return None
        low, high = self.lanes[0].view_box.viewRange()[0]
        return low, high

    def _arrange(self, names: Sequence[str], seen: tuple[float, float] | None) -> None:
        """Put the lanes called ``names`` in their places, with the part ``seen`` of the axis in view."""
        room = self.layout.geometry()
        self._clear()
        self.lanes = [self.make(name) for name in names]
        for position, lane in enumerate(self.lanes):
            self.layout.addItem(lane, *((self._top, position) if self.upright else (self._top + position, 0)))
            lane.bear_axis(lane is self.bearer)
        if self.upright:
            self.bearer.value_axis.setWidth(self._axis_width)
        self._stretch()
        self.edge_counts.show_in(self.lanes[0], self.upright)
        if seen is not None:
            # On its own the layout would shrink to the least its lanes need.
            self.layout.layout.activate()
            self.layout.setGeometry(room)
            self.see(*seen)

    @property
    def bearer(self) -> Lane:
        """The lane beside which the numbers of the shared axis stand: the lowest one, or the first from the left."""
        return self.lanes[0 if self.upright else -1]

    def _give_room(self, position: int, size: float) -> None:
        if self.upright:
            self.layout.layout.setColumnPreferredWidth(position, size)
        else:
            self.layout.layout.setRowPreferredHeight(self._top + position, size)

    def size_lanes(self, heights: Mapping[str, float]) -> None:
        """Share the room among the pictures of the lanes in proportion to ``heights`` (by name).

        The others keep their usual share.
        """
        self.heights = {name: float(height) for name, height in heights.items() if name in LANES and height > 0}
        self._stretch()

    def _resized(self) -> None:
        """Share the new room at once: a layout that settles only after painting is painted twice."""
        self._stretch()
        self.layout.layout.activate()
        self.apply_pending()

    def _stretch(self) -> None:
        if not self.lanes:
            return
        known = sum(self.heights.get(lane.name, 0.0) for lane in self.lanes)
        usual = sum(lane.stretch for lane in self.lanes if lane.name in self.heights) or 1
        # A lane added later gets its usual share beside those that were sized.
        usual_share = known / usual if known else 1.0
        requested = [self.heights.get(lane.name, lane.stretch * usual_share) for lane in self.lanes]
        beside = [self.height_beside(lane) for lane in self.lanes]
        whole = self.layout.layout.contentsRect()
        if self.upright:
            # Narrow as they are, they have room for words on several lines, where they are tall.
            for lane in self.lanes:
                lane.allow_lines(3 if whole.height() > _TALL else 1)
        room = max((whole.width() if self.upright else whole.height()) - sum(beside), 100.0) / sum(requested)
        for position, (height, fixed) in enumerate(zip(requested, beside, strict=True)):
            self._give_room(position, height * room + fixed)

    def height_beside(self, lane: Lane) -> float:
        """What a lane needs besides its picture along the stack, in pixels: its line of words, and the shared axis."""
        if self.upright:
            return self._axis_width if lane is self.bearer else GAP
        return lane.answer_height + (FOOT if lane is self.bearer else GAP)

    @property
    def names(self) -> list[str]:
        """The lanes shown, by name, from above or from the left."""
        return [lane.name for lane in self.lanes]

    def make(self, name: str) -> Lane:
        """The lane called ``name``; it is made once, which takes a while."""
        if (name, self.upright) not in self._made:
            lane = self._made[name, self.upright] = LANES[name](self.upright)
            lane.picked.connect(self.rows_picked)
            lane.interval.connect(self._sweep)
            lane.probe.sigPositionChanged.connect(self._probe_dragged)
            lane.pinned.sigPositionChanged.connect(lambda line: self.pin_moved.emit(self.value_at(line.value())))
            lane.view_box.sigXRangeChanged.connect(self._follow)
            lane.view_box.probed.connect(lambda position: self.probe_moved.emit(self.value_at(position)))
            lane.view_box.fit_requested.connect(self.fit)
            lane.view_box.grabbed.connect(partial(self.grabbed.emit, name))
            lane.view_box.hovered.connect(partial(self._hovered, lane))
            lane.view_box.stepped.connect(partial(self.stepped.emit, name))
        return self._made[name, self.upright]

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
        """Draw ``picture`` in every lane; ``refit`` moves the axis to its values, and so does another scale."""
        another_axis = self.picture is not None and self.picture.axis.key != picture.axis.key
        self.picture = picture
        if picture.upright != self.upright:
            self._reorient(picture.upright)
        before = [lane.stretch for lane in self.lanes]
        for lane in self.lanes:
            lane.axis_moves = refit or another_axis
            lane.show_picture(picture)
            lane.axis_moves = False
        self.edge_counts.count(picture)
        if before != [lane.stretch for lane in self.lanes]:
            self._stretch()
        scale = self.column_scale or (None if picture.axis.is_measured else picture.axis)
        for lane in self.lanes:
            lane.value_axis.value_scale = scale
            lane.value_axis.set_words(picture.words)
        self._name_axis(axis_words(self.title or picture.title))
        if refit or another_axis:
            seen_before = self._seen
            self.fit()
            if self._seen == seen_before:
                for lane in self.lanes:
                    lane.place_words()
        if another_axis:
            self.set_probe(self._probe)
            self.set_pinned(self._pinned)
        self.apply_pending()

    def _name_axis(self, title: str) -> None:
        """Write ``title`` at the shared axis, as much of it as an upright one has room for."""
        axis = self.bearer.value_axis
        most = max(int(self.layout.geometry().height() / _LETTER), 12) if self.upright else 60
        if not self.axis.is_measured:
            title = f"{title}, {self.axis.name} axis"
        axis.setLabel(axis_text(title, min(most, 60)), color=SHADES.muted, **{"font-size": f"{points(9):g}pt"})
        if self.upright:
            self._make_room(axis)
        # An axis puts its name in the middle only when its own size changes.
        axis.resizeEvent()

    def _make_room(self, axis: ValueAxis) -> None:
        """Let an upright axis be as wide as its numbers."""
        picture = self.picture
        ends = (picture.extent or ()) if picture else ()
        widest = max((axis.text_width(picture.style.value(end)) for end in ends), default=0.0) if picture else 0.0
        width = max(AXIS_WIDTH, widest + _BESIDE_NUMBERS)
        if width != self._axis_width:
            self._axis_width = width
            axis.setWidth(width)
            self._stretch()

    def apply_pending(self) -> None:
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
        self.see(low - 0.025 * reach, high + 0.025 * reach)
        self._show_bulk(False)

    @property
    def axis(self) -> AxisScale:
        """The scale of the shared axis."""
        return MEASURED_AXIS if self.picture is None else self.picture.axis

    def value_at(self, position: float) -> float:
        """The value (the column's unit) that stands at ``position`` on the shared axis."""
        return self.axis.value(float(position))

    def _position_of(self, value: float | None) -> float | None:
        """Where ``value`` stands, None where it has no place on the axis."""
        position = None if value is None else self.axis.position(value)
        return position if position is not None and isfinite(position) else None

    def fit_bulk(self) -> None:
        """Move the axis to the narrowest part of it that holds nine tenths of the values in use, and a little more."""
        ends = bulk(self.picture.sample) if self.picture else None
        if ends is None or not ends[1] > ends[0]:
            self.fit()
            return
        self.see(ends[0] - _MORE * (ends[1] - ends[0]), ends[1] + _MORE * (ends[1] - ends[0]))
        self._show_bulk(True)

    def _show_bulk(self, on: bool) -> None:
        if on != self.shows_bulk:
            self.shows_bulk = on
            self.bulk_changed.emit(on)

    @property
    def probed(self) -> float | None:
        """The value at which the probe stands, None where it was not put anywhere."""
        return self._probe

    def set_probe(self, value: float | None) -> None:
        """Show the probe at ``value`` (the column's unit) in all lanes, or nowhere."""
        self._probe = value
        for lane in self.lanes:
            lane.set_probe(self._position_of(value))

    def set_pinned(self, value: float | None) -> None:
        """Show the pinned probe at ``value`` (the column's unit) in all lanes, or nowhere."""
        self._pinned = value
        for lane in self.lanes:
            lane.set_pinned(self._position_of(value))

    def _probe_dragged(self, line: pg.InfiniteLine) -> None:
        self.probe_moved.emit(self.value_at(line.value()))

    def _hovered(self, lane: Lane, at: tuple[float, float] | None) -> None:
        """Say over the lane what is under the pointer: a row, or what the lane has there; else what the probe reads."""
        text = ""
        if at is not None:
            rows = lane.mark_under(*at)
            text = self.row_text(int(rows[0])) if rows.size and rows[0] >= 0 else lane.text_at(*at)
            if rows.size > 1:
                text += f" and {rows.size - 1} more"
        probe = self._position_of(self._probe)
        if not text and probe is not None:
            text = lane.reading(probe)
        if text != lane.message:
            lane.answer(text)

    def _sweep(self, low: float, high: float, finished: bool, modifiers: Qt.KeyboardModifier) -> None:
        for lane in self.lanes:
            lane.sweep.setVisible(not finished)
            if not finished:
                lane.sweep.setRegion((low, high))
        if finished:
            self.interval_chosen.emit(low, high, modifiers)
