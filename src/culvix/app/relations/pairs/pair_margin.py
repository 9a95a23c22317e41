"""The chosen pair of columns in numbers."""

from collections.abc import Iterator, Sequence

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from culvix.app.relations.chosen_rows import ChosenRows
from culvix.app.relations.given_pane import GivenPane
from culvix.app.relations.margin_sections import agreement_section, groups_section
from culvix.app.relations.pairs.pair_axes import axis_choices
from culvix.app.session.hub import Hub
from culvix.app.session.scheduler import task_queue
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import clear_layout, label, row_of, shortened
from culvix.progress import Progress
from culvix.stats.correlation.distance import distance_correlation
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.display import coefficient, coefficients, count, p_value, plural, significant
from culvix.stats.registry import CORRELATION_KINDS
from culvix.stats.regression.straight_line import StraightLine, line_errors
from culvix.stats.resampling.bootstrap_interval import BootstrapInterval
from culvix.stats.resampling.pair_bootstrap import bootstrap_correlation
from culvix.study.document.choices.settings import replaced
from culvix.study.relations.finding import RelationFinding
from culvix.study.relations.pair_details import PairDetails
from culvix.study.relations.pair_view import PairView
from culvix.study.relations.ranking import coefficient_name

__all__ = ["PairMargin"]

_Resampled = tuple[dict[str, BootstrapInterval], PairCorrelation]

_RESAMPLE_TIP = (
    "Intervals that assume no shape, from resamples of the rows, and the distance correlation, whose p is from "
    "permutations; in the background"
)
_DONE = object()
_FEW_PAIRS = 33
"""Up to so many pairs how a p was found is written out: approximations may be far off."""


class PairMargin(QWidget):
    """The chosen pair in numbers; intervals by resampling come on demand."""

    changed = pyqtSignal()
    """More is to be shown of the same pair."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self._view: PairView | None = None
        self._making: Iterator[None] = iter(())
        self._resampled: dict[str, BootstrapInterval] = {}
        self._distance: PairCorrelation | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 8, 10, 8)
        layout.setSpacing(8)
        self._body = QVBoxLayout()
        self._body.setSpacing(5)
        self.chosen, self.given = ChosenRows(hub), GivenPane(hub)
        of_pair = QWidget()
        inside = QVBoxLayout(of_pair)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(8)
        inside.addLayout(self._body)
        inside.addWidget(self.chosen)
        inside.addWidget(self.given)
        layout.addWidget(of_pair)
        layout.addStretch(1)
        self._parts: list[QWidget] = [of_pair]

    def add_other(self, part: QWidget) -> None:
        """Add what is shown in place of the pair where `turn` says so."""
        layout = self.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.insertWidget(layout.count() - 1, part)
        part.hide()
        self._parts.append(part)

    def turn(self, position: int) -> None:
        """Show the pair (0), or another part in the order added."""
        for at, part in enumerate(self._parts):
            part.setVisible(at == position)

    def show_pair(self, details: PairDetails, confidence: float, findings: Sequence[RelationFinding] = ()) -> None:
        """Show the coefficients of a pair with and without its flagged rows, its line and the rows that move it.

        Part by part, between which the window answers: laid out all at once so many words would hold it up.
        """
        self._making = self._make(details, confidence, findings)
        self._make_on()

    def _make_on(self) -> None:
        if next(self._making, _DONE) is not _DONE:
            task_queue().soon(self._make_on)

    def _make(self, details: PairDetails, confidence: float, findings: Sequence[RelationFinding]) -> Iterator[None]:
        pair, view = details.pair, details.pair.view
        clear_layout(self._body)
        self._names = {key: coefficient_name(key, pair.roles) for key in CORRELATION_KINDS}
        self._body.addWidget(label(f"{view.x} and {view.y}", "head", wrap=True))
        for each in findings:
            self._body.addWidget(label(each.sentence, "caution", wrap=True))
        reading = pair.reading(self.hub.study.settings.correlation)
        self._order = sorted(CORRELATION_KINDS, key=lambda key: key != reading.kind)
        self._body.addWidget(label(reading.reason, wrap=True))
        self._body.addLayout(row_of(label("Read first", "quiet"), self._kinds(), 1))
        self._body.addLayout(axis_choices(self.hub, (view.x, view.y), self.problem.emit))
        yield
        if details.groups is not None:
            groups_section(self._body, details.groups)
        if details.agreement is not None and (pair.x.column.unit or details.form.key == "differences"):
            # Without a unit nobody knows whether both measure the same; who asks for differences does.
            agreement_section(self._body, *details.agreement, pair.x.column.unit)
        self._coefficients("All rows in use", view.with_flagged, view.without_flagged)
        yield
        for key in self._order:
            kind, result = CORRELATION_KINDS[key], view.with_flagged[key]
            ends = kind.interval(result.r, result.n, confidence) if kind.interval and result.r is not None else None
            if ends:
                low, _, high = coefficients(ends[0], result.r, ends[1])
                self._body.addWidget(label(f"{self._names[key]} {100 * confidence:g} %: {low} to {high}", "quiet"))
        self._intervals_by_resampling(view, confidence)
        if view.flagged.size:
            flagged = plural(int(view.flagged.size), "flagged row")
            self._coefficients(f"Without the {flagged}", view.without_flagged, view.with_flagged)
        else:
            self._body.addWidget(label("No flagged rows", "quiet"))
        yield
        self._line("Least-squares line", view.line, pair.titles, confidence)
        if view.flagged.size:
            self._line("Without flagged rows", view.line_without, pair.titles, confidence)
        self._influential(details)
        yield
        self._body.addSpacing(6)
        self._body.addWidget(label("Rows flagged in either column by any method are open rings.", "quiet", wrap=True))
        self.chosen.show_details(details)
        self.given.show_details(details)

    def _kinds(self) -> Choice:
        """The kinds of correlation, of which one can be read first of every pair."""
        box, keys = Choice(), [None, *CORRELATION_KINDS]
        box.addItems(["as suggested", *(kind.name for kind in CORRELATION_KINDS.values())])
        box.setCurrentIndex(keys.index(self.hub.study.settings.correlation))
        box.setToolTip("Which kind of correlation is read first, for all pairs of the study")
        study = self.hub.study
        box.activated.connect(lambda at: study.change_settings(replaced(study.settings, correlation=keys[at])))
        return box

    def _line(self, head: str, line: StraightLine | None, titles: tuple[str, str], confidence: float) -> None:
        self._body.addSpacing(6)
        self._body.addWidget(label(head, "head"))
        self._body.addWidget(label(_line_text(line, titles), wrap=True))
        errors = None if line is None else line_errors(line, confidence)
        if errors is not None:
            low, high = (significant(end) for end in errors.slope_interval)
            slope, intercept = (significant(error, 3) for error in (errors.slope, errors.intercept))
            message = f"slope ± {slope} ({100 * confidence:g} %: {low} to {high}), intercept ± {intercept}"
            self._body.addWidget(label(message, "quiet", wrap=True))

    def _influential(self, details: PairDetails) -> None:
        """The rows that move the line most, each with its group; a click on one selects it."""
        view = details.pair.view
        if not view.influential:
            return
        self._body.addSpacing(6)
        self._body.addWidget(label("Rows that move it most, and r without each", "head", wrap=True))
        r = view.with_flagged["pearson"].r
        for each in view.influential:
            _, after = coefficients(r, each.r_without)
            group = details.groups.group_of(int(np.searchsorted(view.rows, each.row))) if details.groups else ""
            whose = f", {shortened(group, 14)}" if group else ""
            button = QPushButton(f"{self.hub.study.table.name_of(each.row)}{whose}: {after}")
            button.setObjectName("link")
            distance, leverage = (significant(figure, 3) for figure in (each.distance, each.leverage))
            button.setToolTip(f"Cook's distance {distance}, leverage {leverage}; a click selects the row")
            button.clicked.connect(lambda _, row=each.row: self.hub.study.select(np.array([row])))
            self._body.addWidget(button)

    def _intervals_by_resampling(self, view: PairView, confidence: float) -> None:
        """What resampling gives, or the button that asks for it."""
        if self._view is not view:
            self._view, self._resampled, self._distance = view, {}, None
        if self._distance is not None:
            _distance_line(self._body, self._distance)
        for key, found in self._resampled.items():
            ends = "none" if found.low is None else " to ".join(coefficients(found.low, found.high))
            line = label(f"{self._names[key]} resampled: {ends}", "quiet")
            line.setToolTip(found.note or f"{found.method} bootstrap, {found.repeats} resamples, seed {found.seed}")
            self._body.addWidget(line)
        if self._resampled:
            return
        button = QPushButton("Resample")
        button.setObjectName("slim")
        button.setToolTip(_RESAMPLE_TIP)
        button.clicked.connect(lambda: self._resample(view, confidence))
        self._body.addLayout(row_of(button, 1))

    def _resample(self, view: PairView, confidence: float) -> None:
        def work(progress: Progress) -> _Resampled:
            x, y = view.x_values, view.y_values
            kinds = [key for key, kind in CORRELATION_KINDS.items() if kind.ranks]
            distance = distance_correlation(x, y, progress=progress)
            found = {key: bootstrap_correlation(x, y, key, confidence=confidence, progress=progress) for key in kinds}
            return found, distance

        def arrived(found: _Resampled) -> None:
            if self._view is view:
                self._resampled, self._distance = found
                self.changed.emit()

        self.hub.start("resampling a pair", work, arrived, priority=5)

    def _coefficients(self, head: str, results: dict[str, PairCorrelation], others: dict[str, PairCorrelation]) -> None:
        """Each coefficient, with as many digits as it takes to tell it from that of ``others``."""
        n = next(iter(results.values())).n
        self._body.addSpacing(4)
        self._body.addWidget(label(f"{head}: n {count(n)}", "quiet", wrap=True))
        for key in self._order:
            kind, result = CORRELATION_KINDS[key], results[key]
            name = label(f"{self._names[key]} {kind.symbol}")
            name.setToolTip(kind.tells)
            if result.r is None:
                self._body.addWidget(name)
                self._body.addWidget(label(result.note or "", "quiet", wrap=True))
            else:
                shown, _ = coefficients(result.r, others[key].r)
                self._body.addLayout(row_of(name, 1, label(shown, "head"), label(p_value(result.p))))
                if result.p_by and result.n <= _FEW_PAIRS:
                    self._body.addWidget(label(f"p by {result.p_by}", "quiet", wrap=True))


def _distance_line(body: QVBoxLayout, found: PairCorrelation) -> None:
    """The distance correlation, which has no sign and no interval."""
    shown = found.note or "" if found.r is None else f"{coefficient(found.r).lstrip('+')}, {p_value(found.p)}"
    line = label(f"Distance correlation: {shown}", "quiet", wrap=True)
    line.setToolTip(f"0 only where the two are independent, whatever the shape. {found.note or ''}".rstrip())
    body.addWidget(line)


def _line_text(line: StraightLine | None, titles: tuple[str, str]) -> str:
    if line is None:
        return "No line: the values along the axis are all equal."
    sign = "+" if line.slope >= 0 else "−"
    text = f"{titles[1]} = {significant(line.intercept)} {sign} {significant(abs(line.slope))} × {titles[0]}"
    spread = f"; residual SD {significant(line.residual_sd)}" if line.residual_sd is not None else ""
    return f"{text}{spread}; n {count(line.n)}."
