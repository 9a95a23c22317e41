"""Settings dragged on the picture: it answers at once, and the settings follow when the handle is let go."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QObject, Qt, pyqtSignal

from culvix.app.session.gestures import Gesture
from culvix.app.session.hub import Hub
from culvix.app.session.picture_settings import change_picture
from culvix.charts.lanes.density_lane import DensityLane
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.lanes.lane import Lane
from culvix.charts.lanes.span_lane import SpanLane
from culvix.charts.lanes.stack import LaneStack
from culvix.errors import CulvixError, StatisticsError
from culvix.stats.display import count, significant
from culvix.stats.registry import OUTLIER_METHODS
from culvix.stats.shape.bin_drag import dragged_start, dragged_width, next_width, rounded
from culvix.stats.shape.histogram import Histogram, histogram
from culvix.stats.shape.smoother import Smoother
from culvix.study.analysis.axis_parts import bounds_on
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.pictures.column_pictures import with_bars, with_curve, with_span
from culvix.study.pictures.spans import Span

__all__ = ["BandwidthDrag", "BinDrag", "LimitDrag"]

_GRAIN_PIXELS = 4.0
Modifiers = Qt.KeyboardModifier


class _Drag(QObject):
    """Base: listens to the handles of one kind of lane."""

    lane_kind: type[Lane] = Lane
    on_axis = False
    """Whether what is dragged is a place on the axis, not a value."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub, stack: LaneStack, parent: QObject) -> None:
        super().__init__(parent)
        self.hub, self.stack = hub, stack
        self._wheel = Gesture(self)
        stack.grabbed.connect(self._grabbed)
        stack.stepped.connect(self._wheeled)

    def _grabbed(self, lane: str, handle: int, position: float, finished: bool, modifiers: Modifiers) -> None:
        analysis = self.hub.preview
        if lane != self.lane_kind.name or analysis is None or self.stack.picture is None:
            return
        # Bins and kernels belong to the axis, all else to the column.
        value = position if self.on_axis else self.stack.value_at(position)
        free = bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
        try:
            self.dragged(analysis, handle, value, finished, free)
        except CulvixError as error:
            if finished:
                self.problem.emit(error.sentence)
                self.lane.show_picture(self.stack.picture)

    def _wheeled(self, lane: str, by: int) -> None:
        analysis = self.hub.preview
        if lane == self.lane_kind.name and analysis is not None:
            try:
                self.stepped(analysis, by)
            except CulvixError as error:
                self.problem.emit(error.sentence)

    @property
    def lane(self) -> Lane:
        return self.stack.lane(self.lane_kind)

    @property
    def grain(self) -> float:
        """What the pointer can tell apart, in the unit of the axis."""
        return _GRAIN_PIXELS * float(self.lane.view_box.viewPixelSize()[0])

    def dragged(self, analysis: ColumnPreview, handle: int, value: float, finished: bool, free: bool) -> None:
        """A handle stands at ``value``, or where it belongs to the axis, at that place. Raises CulvixError."""

    def stepped(self, analysis: ColumnPreview, by: int) -> None:
        """The next wider (1) or narrower (−1) setting is wanted."""


class BinDrag(_Drag):
    """Bin edges: the first moves all of them, any other sets the width."""

    lane_kind = HistogramLane
    on_axis = True
    shown = pyqtSignal(object)
    """The bars while an edge is dragged."""

    def __init__(self, hub: Hub, stack: LaneStack, parent: QObject) -> None:
        super().__init__(hub, stack, parent)
        self._from: Histogram | None = None

    def dragged(self, analysis: ColumnPreview, handle: int, value: float, finished: bool, free: bool) -> None:
        parts = analysis.axis
        if parts.histogram is None or self.stack.picture is None:
            return
        before = self._from = self._from or parts.histogram
        if handle:
            width, start = dragged_width(before.edges, handle, value, self.grain, free=free), float(before.edges[0])
        else:
            width = before.width
            start = dragged_start(before.edges, value, float(parts.sample.sorted[0]), self.grain, free=free)
        if finished:
            self._from = None
        if width is None:
            raise StatisticsError("A bin has some width; drag its edge to the right of the first one.")
        end = self.hub.study.settings.of(analysis.column.name).bin_end
        closed = self.hub.study.settings.closed
        bars = histogram(parts.sample, width=width, start=start, end=end, closed=closed)
        if bars is None:
            return
        selected = self.hub.study.selection.in_column(analysis.column.name)
        self.lane.show_picture(with_bars(self.stack.picture, bars, selected))
        self.shown.emit(bars)
        if finished:
            change_picture(self.hub, bin_width=width, bin_start=start, bin_count=None)

    def stepped(self, analysis: ColumnPreview, by: int) -> None:
        bars = analysis.axis.histogram
        if bars is not None:
            change_picture(self.hub, self._wheel.token(), bin_width=next_width(bars.width, by), bin_count=None)


class BandwidthDrag(_Drag):
    """The sides of the kernel: they stand one bandwidth from its middle."""

    lane_kind = DensityLane
    on_axis = True

    def __init__(self, hub: Hub, stack: LaneStack, parent: QObject) -> None:
        super().__init__(hub, stack, parent)
        self._smoother: Smoother | None = None

    def dragged(self, analysis: ColumnPreview, handle: int, value: float, finished: bool, free: bool) -> None:
        picture, lane, parts = self.stack.picture, self.lane, analysis.axis
        if parts.density is None or picture is None or not isinstance(lane, DensityLane):
            return
        smoother = self._smoother
        if smoother is None or smoother.sample is not parts.sample:
            bounds = self.hub.study.workspace.bounds(analysis.column.name)
            smoother = self._smoother = Smoother(parts.sample, bounds_on(parts.scale, bounds))
        width = max(abs(value - lane.centre), smoother.narrowest)
        if not free:
            width = max(rounded(width, self.grain / 2), smoother.narrowest)
        drawn = with_curve(picture, smoother.at(width))
        for kind in (DensityLane, HistogramLane):
            if kind.name in self.stack.names:
                self.stack.lane(kind).show_picture(drawn)
        lane.answer(f"bandwidth {significant(width)}")
        if finished:
            change_picture(self.hub, bandwidth=width)

    def stepped(self, analysis: ColumnPreview, by: int) -> None:
        curve = analysis.axis.density
        if curve is not None:
            change_picture(self.hub, self._wheel.token(), bandwidth=next_width(curve.bandwidth, by))


class LimitDrag(_Drag):
    """The ends of spans: they set the method's limit for the study, or the declared range of the column."""

    lane_kind = SpanLane

    def __init__(self, hub: Hub, stack: LaneStack, parent: QObject) -> None:
        super().__init__(hub, stack, parent)
        self._grabbed_span: tuple[Span, bool] | None = None
        self._separate_ends = False

    def _grabbed(self, lane: str, handle: int, position: float, finished: bool, modifiers: Modifiers) -> None:
        self._separate_ends = bool(modifiers & Qt.KeyboardModifier.ControlModifier)
        super()._grabbed(lane, handle, position, finished, modifiers)

    def grain_at(self, value: float) -> float:
        """What the pointer can tell apart around ``value``, in the column's unit."""
        if self.stack.axis.is_measured:
            return self.grain
        position = self.stack.axis.position(value)
        return abs(self.stack.value_at(position + self.grain) - self.stack.value_at(position - self.grain)) / 2

    def dragged(self, analysis: ColumnPreview, handle: int, value: float, finished: bool, free: bool) -> None:
        picture, lane = self.stack.picture, self.lane
        assert isinstance(lane, SpanLane) and picture is not None
        # The span as it stood when it was taken hold of, not as it has been drawn since.
        grabbed = self._grabbed_span = self._grabbed_span or lane.end(handle)
        if finished:
            self._grabbed_span = None
        if grabbed is None:
            return
        span, upper = grabbed
        if OUTLIER_METHODS[span.key].follows_range:
            commit, message, ends = self._range(analysis, span, upper, value, free)
        else:
            commit, message, ends = self._limit(analysis, span, upper, value, free)
        drawn = with_span(picture, span.key, *ends, analysis.flag_basis)
        lane.show_picture(drawn)
        sample = analysis.flag_basis
        beyond = f"{count(sample.below(ends[0]))} below, {count(sample.above(ends[1]))} above"
        lane.answer(f"{message}: {beyond}")
        lane.show_handle(span.key, self.stack.axis.position(ends[int(upper)]), significant(ends[int(upper)]))
        if finished:
            lane.hide_handle()
            commit()

    def _limit(
        self, analysis: ColumnPreview, span: Span, upper: bool, value: float, free: bool
    ) -> tuple[Callable[[], None], str, tuple[float, float]]:
        """The limit at which the dragged end lies at ``value``: spans widen in proportion to it from their anchor.

        With the ends apart the other one stays, and the limits are the column's own.
        """
        method, study = OUTLIER_METHODS[span.key], self.hub.study
        assert method.limit is not None
        name, sample, description = analysis.column.name, analysis.flag_basis, analysis.description
        before = study.settings.limits_of(name, span.key)
        assert before is not None
        anchors = {
            "mean": (sample.fit[0],) * 2,
            "median": (sample.median,) * 2,
            "quartiles": study.workspace.quartiles(name),
        }[method.anchor or "mean"]
        found = analysis.flags.results[span.key]
        per_limit = [
            (end - anchor) / limit
            for end, anchor, limit in zip((found.lower, found.upper), anchors, before, strict=True)
            if end is not None
        ]
        if not per_limit[upper]:
            raise StatisticsError(f"The span of {method.name} has no width to drag; the limit is typed under Methods.")
        limit = (value - anchors[upper]) / per_limit[upper]
        if not free and description.sd:
            limit = rounded(limit, self.grain_at(value) / abs(per_limit[upper]))
        least = 0.1
        limit = max(limit, least)
        limits = (limit, limit)
        if self._separate_ends:
            limits = (before[0], limit) if upper else (limit, before[1])
        own = self._separate_ends or self.hub.own_limits or study.settings.of(name).own_limits(span.key) is not None
        ends = (anchors[0] + limits[0] * per_limit[0], anchors[1] + limits[1] * per_limit[1])
        message = f"{method.name} at {limit:.3g} {method.limit.name} ({significant(ends[int(upper)])}), "
        message += f"for {name} only" if own else "for all columns"
        if own:
            settings = study.settings.with_own_limits(name, span.key, limits)
        else:
            settings = study.settings.with_limit(span.key, limit)
        return partial(study.change_settings, settings), message, ends

    def _range(
        self, analysis: ColumnPreview, span: Span, upper: bool, value: float, free: bool
    ) -> tuple[Callable[[], None], str, tuple[float, float]]:
        """The declared range with one end at ``value``."""
        study, name = self.hub.study, analysis.column.name
        if not free:
            value = rounded(value, self.grain_at(value))
        bounds = list(study.workspace.bounds(name))
        other = bounds[1 - upper]
        bounds[upper] = value if other is None else max(value, other) if upper else min(value, other)
        low = -float("inf") if bounds[0] is None else bounds[0]
        high = float("inf") if bounds[1] is None else bounds[1]
        commit = partial(study.set_valid_range, name, (bounds[0], bounds[1]))
        return commit, f"a range to {significant(value)}", (low, high)
