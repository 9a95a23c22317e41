"""One statistic of the summary looked at: its intervals, and what it is under other conventions."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from functools import partial
from types import MappingProxyType

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.shape.quantile_line import QuantileLine, interval_text
from culvix.app.widgets.parts import clear_layout, label
from culvix.progress import Progress
from culvix.stats.core.sample import Sample
from culvix.stats.describe.conventions import OTHER_CONVENTIONS, other_conventions
from culvix.stats.describe.hodges_lehmann import hodges_lehmann, hodges_lehmann_interval
from culvix.stats.describe.intervals import OpenInterval, quantile_interval
from culvix.stats.display import number
from culvix.stats.resampling.column_bootstrap import BOOTSTRAPPED, bootstrap_interval
from culvix.study.analysis.column_analysis import ColumnAnalysis

__all__ = ["DETAILED", "WITH_INTERVAL", "StatisticDetail"]


def _described(field: str) -> Callable[[ColumnAnalysis], OpenInterval | None]:
    return lambda analysis: getattr(analysis.description, field)


def _quartile(p: float) -> Callable[[ColumnAnalysis], OpenInterval | None]:
    return lambda analysis: quantile_interval(analysis.sample, p, analysis.request.settings.confidence)


_EXACT = "order statistics, exact"
_CLOSED: Mapping[str, Mapping[str, Callable[[ColumnAnalysis], OpenInterval | None]]] = MappingProxyType(
    {
        "mean": {"Student's t": _described("ci_mean")},
        "median": {_EXACT: _described("ci_median")},
        "sd": {
            "chi-square: holds for normal values only": _described("ci_sd"),
            "by the kurtosis (Bonett): normal or not": _described("ci_sd_bonett"),
        },
        "q1": {_EXACT: _quartile(0.25)},
        "q3": {_EXACT: _quartile(0.75)},
    }
)
"""Intervals with a formula, by statistic and by what they are found by."""

_WITH_QUANTILE = frozenset({"median", "q1", "q3"})


@dataclass(frozen=True)
class _Worked:
    """What was worked out in the background: an interval where there is one, and what to say of it."""

    ends: OpenInterval | None
    by: str


def _bootstrap(key: str, analysis: ColumnAnalysis, progress: Progress) -> _Worked:
    confidence = analysis.request.settings.confidence
    found = bootstrap_interval(analysis.sample, key, confidence=confidence, progress=progress)
    by = f"{found.method} bootstrap, {found.repeats} resamples, seed {found.seed}"
    return _Worked(None if found.low is None else (found.low, found.high), found.note or by)


def _centre(analysis: ColumnAnalysis, progress: Progress) -> _Worked:
    progress(0.0, "looking through the means of pairs")
    centre = hodges_lehmann(analysis.sample)
    if centre is None:
        return _Worked(None, "There are no values.")
    shown = analysis.style.statistic(centre)
    by = f"Hodges–Lehmann estimate {shown}, the median of the means of all pairs: the centre of a symmetric column"
    return _Worked(hodges_lehmann_interval(analysis.sample, analysis.request.settings.confidence), by)


_WORKED: Mapping[str, Callable[[ColumnAnalysis, Progress], _Worked]] = MappingProxyType(
    {key: partial(_bootstrap, key) for key in BOOTSTRAPPED if key != "median"} | {"median": _centre}
)
"""Intervals that take a while, by statistic."""

WITH_INTERVAL = frozenset({*_CLOSED, *_WORKED})
"""The statistics that have an interval here."""

DETAILED = frozenset({*OTHER_CONVENTIONS, *WITH_INTERVAL})
"""The statistics that there is more to tell of."""


class StatisticDetail(QWidget):
    """Intervals without a quick formula are worked out when they are looked at, in the background."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self._shown: tuple[ColumnAnalysis, str, str] | None = None
        self._found: dict[str, _Worked] = {}
        self._found_of: tuple[Sample, float] | None = None
        self._under_way: tuple[Sample, float, str] | None = None
        self._stopped: dict[str, str] = {}
        """Why the work came to nothing, by statistic; it is begun again with the next click."""

        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 2)
        outer.setSpacing(2)
        self._body = QVBoxLayout()
        self._body.setSpacing(2)
        self.quantile = QuantileLine()
        outer.addLayout(self._body)
        outer.addWidget(self.quantile)

    def show_statistic(self, analysis: ColumnAnalysis | None, key: str | None, name: str) -> None:
        """Show what there is to tell of the statistic ``key``, called ``name``, of ``analysis``; nothing of none."""
        clear_layout(self._body)
        self._shown = None
        self.setVisible(analysis is not None and key in DETAILED)
        self.quantile.show_analysis(analysis if key in _WITH_QUANTILE else None)
        if analysis is None or key not in DETAILED:
            self._stopped = {}
            return
        assert key is not None
        self._shown = analysis, key, name
        of = analysis.sample, analysis.request.settings.confidence
        if self._found_of is None or self._found_of[0] is not of[0] or self._found_of[1] != of[1]:
            self._found, self._stopped, self._found_of = {}, {}, of
        if key in WITH_INTERVAL:
            level = f"{100 * analysis.request.settings.confidence:g} % interval"
            self._body.addWidget(label(f"{name}: {level}", "head"))
        self._closed(analysis, key)
        if key in _WORKED:
            self._worked(analysis, key)
        self._conventions(analysis, key, name)

    def _closed(self, analysis: ColumnAnalysis, key: str) -> None:
        notes = analysis.description.notes
        for by, ends in _CLOSED.get(key, {}).items():
            self._ends(analysis, ends(analysis), by)
        why = notes.get(f"ci_{key}")
        if why:
            self._body.addWidget(label(why, "quiet", wrap=True))

    def _worked(self, analysis: ColumnAnalysis, key: str) -> None:
        found, stopped = self._found.get(key), self._stopped.get(key)
        if found is not None:
            self._ends(analysis, found.ends, found.by)
            return
        self._ends(analysis, None, stopped or "another is being worked out …")
        if stopped is None:
            self._begin(analysis, key)

    def _ends(self, analysis: ColumnAnalysis, ends: OpenInterval | None, by: str) -> None:
        message = interval_text(analysis, ends)
        if message:
            self._body.addWidget(label(message, wrap=True))
        self._body.addWidget(label(by, "quiet", wrap=True))

    def _begin(self, analysis: ColumnAnalysis, key: str) -> None:
        sample, confidence = analysis.sample, analysis.request.settings.confidence
        requested = sample, confidence, key
        if self._is_under_way(requested):
            # Told of the same again; to begin anew would lose what is done.
            return
        self._under_way = requested

        def over() -> bool:
            """Whether what was wanted is still looked at, now that it has ended."""
            if not self._is_under_way(requested):
                return False
            self._under_way = None
            return self._found_of is not None and self._found_of[0] is sample and self._found_of[1] == confidence

        def arrived(found: _Worked) -> None:
            if over():
                self._found[key] = found
                self._show_again()

        def failed(error: Exception) -> None:
            if over():
                self._stopped[key] = f"{error} Click the number twice to begin again."
                self._show_again()

        self.hub.start(
            "resampling",
            lambda progress: _WORKED[key](analysis, progress),
            arrived,
            failed=failed,
            priority=5,
        )

    def _is_under_way(self, requested: tuple[Sample, float, str]) -> bool:
        now = self._under_way
        return now is not None and now[0] is requested[0] and now[1:] == requested[1:]

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
        positions = analysis.style.statistic_decimals + 1
        for row, (message, value) in enumerate(other_conventions(key, analysis.sample)):
            grid.addWidget(label(message, "quiet", wrap=True), row, 0)
            grid.addWidget(label(number(value, max(positions, 3))), row, 1, Qt.AlignmentFlag.AlignRight)
        self._body.addLayout(grid)
