"""One statistic of the summary looked at: its interval, and what it is under other conventions."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from culvix.app.hub import Hub
from culvix.app.parts import clear_layout, label
from culvix.stats.bootstrap import BOOTSTRAPPED, BootstrapInterval, bootstrap_interval
from culvix.stats.conventions import OTHER_CONVENTIONS, other_conventions
from culvix.stats.display import number
from culvix.stats.sample import Sample
from culvix.study.analysis import ColumnAnalysis

__all__ = ["DETAILED", "WITH_INTERVAL", "StatisticDetail"]

_CLOSED = {
    "mean": ("ci_mean", "Student's t"),
    "median": ("ci_median", "order statistics, exact"),
    "sd": ("ci_sd", "chi-square: holds for normal values only"),
}
"""Statistics whose interval is worked out with the column: where it is kept, and by what it is found."""

WITH_INTERVAL = frozenset({*_CLOSED, *BOOTSTRAPPED})
"""The statistics that have an interval here."""

DETAILED = frozenset({*OTHER_CONVENTIONS, *WITH_INTERVAL})
"""The statistics that there is more to tell of."""


class StatisticDetail(QWidget):
    """Intervals without a formula come from resamples, in the background, when they are looked at."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self._shown: tuple[ColumnAnalysis, str, str] | None = None
        self._found: dict[str, BootstrapInterval] = {}
        self._found_of: tuple[Sample, float] | None = None
        self._under_way: tuple[Sample, float, str] | None = None
        self._stopped: dict[str, str] = {}
        """Why resampling came to nothing, by statistic; it is begun again with the next click."""

        self._body = QVBoxLayout(self)
        self._body.setContentsMargins(0, 2, 0, 2)
        self._body.setSpacing(2)

    def show_statistic(self, analysis: ColumnAnalysis | None, key: str | None, name: str) -> None:
        """Show what there is to tell of the statistic ``key``, called ``name``, of ``analysis``; nothing of none."""
        clear_layout(self._body)
        self._shown = None
        self.setVisible(analysis is not None and key in DETAILED)
        if analysis is None or key not in DETAILED:
            self._stopped = {}
            return
        assert key is not None
        self._shown = analysis, key, name
        of = analysis.sample, analysis.request.settings.confidence
        if self._found_of is None or self._found_of[0] is not of[0] or self._found_of[1] != of[1]:
            self._found, self._stopped, self._found_of = {}, {}, of
        self._interval(analysis, key, name)
        self._conventions(analysis, key, name)

    def _interval(self, analysis: ColumnAnalysis, key: str, name: str) -> None:
        level = f"{100 * analysis.request.settings.confidence:g} % interval"
        if key in _CLOSED:
            field, by = _CLOSED[key]
            self._ends(analysis, f"{name}: {level}", getattr(analysis.description, field), by)
            why = analysis.description.notes.get(field)
            if why:
                self._body.addWidget(label(why, "quiet", wrap=True))
        elif key in BOOTSTRAPPED:
            found = self._found.get(key)
            if found is None:
                stopped = self._stopped.get(key)
                self._ends(analysis, f"{name}: {level}", None, stopped or "resampling …")
                if stopped is None:
                    self._resample(analysis, key)
                return
            ends = None if found.low is None or found.high is None else (found.low, found.high)
            by = f"{found.method} bootstrap, {found.repeats} resamples, seed {found.seed}"
            self._ends(analysis, f"{name}: {level}", ends, found.note or by)

    def _ends(self, analysis: ColumnAnalysis, name: str, ends: tuple[float, float] | None, by: str) -> None:
        style = analysis.style
        self._body.addWidget(label(name, "head"))
        if ends is not None:
            self._body.addWidget(label(f"{style.statistic(ends[0])} to {style.statistic(ends[1])}"))
        self._body.addWidget(label(by, "quiet", wrap=True))

    def _resample(self, analysis: ColumnAnalysis, key: str) -> None:
        sample, confidence = analysis.sample, analysis.request.settings.confidence
        wanted = sample, confidence, key
        if self._is_under_way(wanted):
            # Told of the same again; to begin anew would lose what is done.
            return
        self._under_way = wanted

        def over() -> bool:
            """Whether what was wanted is still looked at, now that it has ended."""
            if not self._is_under_way(wanted):
                return False
            self._under_way = None
            return self._found_of is not None and self._found_of[0] is sample and self._found_of[1] == confidence

        def arrived(found: BootstrapInterval) -> None:
            if over():
                self._found[key] = found
                self._show_again()

        def failed(error: Exception) -> None:
            if over():
                self._stopped[key] = f"{error} Click the number twice to begin again."
                self._show_again()

        self.hub.start(
            "resampling",
            lambda progress: bootstrap_interval(sample, key, confidence=confidence, progress=progress),
            arrived,
            failed=failed,
            priority=5,
        )

    def _is_under_way(self, wanted: tuple[Sample, float, str]) -> bool:
        now = self._under_way
        return now is not None and now[0] is wanted[0] and now[1:] == wanted[1:]

    def _show_again(self) -> None:
        if self._shown is not None:
            self.show_statistic(*self._shown)

    def _conventions(self, analysis: ColumnAnalysis, key: str, name: str) -> None:
        """The statistic under every convention in use."""
        if key not in OTHER_CONVENTIONS:
            return
        self._body.addSpacing(3)
        self._body.addWidget(label(f"{name} elsewhere", "head"))
        grid = QGridLayout()
        grid.setColumnStretch(0, 1)
        grid.setVerticalSpacing(1)
        places = analysis.style.statistic_decimals + 1
        for row, (words, value) in enumerate(other_conventions(key, analysis.sample)):
            grid.addWidget(label(words, "quiet", wrap=True), row, 0)
            grid.addWidget(label(number(value, max(places, 3))), row, 1, Qt.AlignmentFlag.AlignRight)
        self._body.addLayout(grid)
