"""Bins dragged on the picture: it answers at once, and the settings follow when the edge is let go."""

from dataclasses import replace

from PyQt6.QtCore import QObject, Qt, pyqtSignal

from culvix.app.hub import Hub
from culvix.charts.histogram_lane import HistogramLane
from culvix.charts.stack import LaneStack
from culvix.errors import CulvixError, StatisticsError
from culvix.stats.bin_drag import dragged_start, dragged_width, next_width
from culvix.stats.histogram import Histogram, histogram
from culvix.study.pictures import with_bars

__all__ = ["BinsByHand"]

_GRAIN_PIXELS = 4.0


class BinsByHand(QObject):
    """Turns drags of bin edges, and the wheel, into widths and starts of the column in focus."""

    problem = pyqtSignal(str)
    width_shown = pyqtSignal(float)
    """The width while it is dragged."""

    def __init__(self, hub: Hub, stack: LaneStack, parent: QObject) -> None:
        super().__init__(parent)
        self.hub, self.stack = hub, stack
        self._from: Histogram | None = None
        stack.edge_dragged.connect(self._dragged)
        stack.width_stepped.connect(self._stepped)

    def _dragged(self, place: int, value: float, finished: bool, modifiers: Qt.KeyboardModifier) -> None:
        analysis = self.hub.analysis
        if analysis is None or analysis.histogram is None:
            return
        before = self._from = self._from or analysis.histogram
        free = bool(modifiers & Qt.KeyboardModifier.ShiftModifier)
        lane = self.stack.lane(HistogramLane)
        grain = _GRAIN_PIXELS * float(lane.view_box.viewPixelSize()[0])
        if place:
            width, start = dragged_width(before.edges, place, value, grain, free=free), float(before.edges[0])
        else:
            width = before.width
            start = dragged_start(before.edges, value, float(analysis.sample.sorted[0]), grain, free=free)
        if finished:
            self._from = None
        picture = self.stack.picture
        if picture is None:
            return
        try:
            if width is None:
                raise StatisticsError("A bin has some width; drag its edge to the right of the first one.")
            bars = histogram(analysis.sample, width=width, start=start, closed=self.hub.study.settings.closed)
        except CulvixError as error:
            if finished:
                self.problem.emit(error.sentence)
                lane.show_picture(picture)
            return
        if bars is None:
            return
        lane.show_picture(with_bars(picture, bars, analysis.sample, self.hub.study.selection.rows))
        self.width_shown.emit(width)
        if finished:
            self._take(width, start)

    def _stepped(self, by: int) -> None:
        analysis = self.hub.analysis
        if analysis is None or analysis.histogram is None:
            return
        chosen = self.hub.study.settings.of(analysis.column.name)
        self._take(next_width(analysis.histogram.width, by), chosen.bin_start)

    def _take(self, width: float, start: float | None) -> None:
        study, focus = self.hub.study, self.hub.focus
        if focus is None:
            return
        chosen = replace(study.settings.of(focus), bin_width=width, bin_start=start)
        try:
            study.analysis_possible(focus, chosen)
            study.change_settings(study.settings.with_column(focus, chosen))
        except CulvixError as error:
            self.problem.emit(error.sentence)
