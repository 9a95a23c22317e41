"""The margin of the Shape stage: summary, normality with its verdict, and the findings to settle."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from culvix.app.hub import Hub
from culvix.app.parts import asking, clear_layout, label, row_of, shortened
from culvix.app.renewal import RenewedPane
from culvix.errors import CulvixError
from culvix.stats.display import DASH, count, number, p_value, plural, signed, significant
from culvix.stats.methods import NORMALITY_TESTS, OUTLIER_METHODS
from culvix.stats.normality.result import NormalityResult
from culvix.study.analysis import ColumnAnalysis
from culvix.study.findings import Finding, Proposal
from culvix.tables.table import Column, Role
from culvix.tables.treatments import RULES

__all__ = ["ShapeMargin", "scrolled"]


def scrolled(inner: QWidget) -> QScrollArea:
    """``inner`` in an area that scrolls only up and down."""
    area = QScrollArea(widgetResizable=True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setWidget(inner)
    return area


class ShapeMargin(RenewedPane):
    """Rebuilt whenever the column in focus or its numbers change."""

    patience = 3

    problem = pyqtSignal(str)
    asked = pyqtSignal(str)
    """The guide is asked about a key."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.cards: list[QFrame] = []
        self.all_tests = False
        self._inner = QWidget()
        self._body = QVBoxLayout(self._inner)
        self._body.setContentsMargins(10, 8, 10, 8)
        self._body.setSpacing(5)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(self._inner))
        hub.focus_changed.connect(self.want_renewal)
        hub.analysed.connect(lambda name: self.want_renewal() if name == hub.focus else None)

    def renew(self) -> None:
        """Show the column in focus as things stand."""
        clear_layout(self._body)
        self.cards = []
        if self.hub.focus is None:
            return
        column = self.hub.study.table[self.hub.focus]
        analysis = self.hub.analysis
        if analysis is None:
            self._without_numbers(column)
        else:
            self._summary(analysis)
            self._normality(analysis)
            self._cautions(analysis)
            self._findings(analysis)
        self._body.addStretch(1)

    def _without_numbers(self, column: Column) -> None:
        self._body.addWidget(label(f"{column.role}: {column.reason}", wrap=True))
        if column.is_numeric:
            self._body.addWidget(label("Working it out …", "quiet"))
            return
        self._body.addWidget(label(f"{plural(column.missing, 'cell')} missing", "quiet"))
        self._body.addWidget(label("Most frequent", "head"))
        grid = _grid(self._body)
        for place, (value, times) in enumerate(column.most_frequent(12)):
            grid.addWidget(label(shortened(value, 24)), place, 0)
            grid.addWidget(label(count(times), "head"), place, 1, Qt.AlignmentFlag.AlignRight)

    def _summary(self, analysis: ColumnAnalysis) -> None:
        d, style, column = analysis.description, analysis.style, analysis.column
        self._body.addLayout(
            row_of(asking("Summary", "mean", self.asked.emit, "head"), 1, label(_unit_words(column), "quiet"))
        )
        out = count(int(self.hub.study.working.excluded(column.name).size))
        pairs = [
            (("n", "n", count(d.n)), ("excluded", "excluded", out)),
            (("missing", "missing", count(column.missing)), ("unread", "unread", count(column.unread))),
            (("mean", "mean", style.statistic(d.mean)), ("median", "median", style.statistic(d.median))),
            (("sd", "SD (n−1)", style.statistic(d.sd)), ("mad_scaled", "MAD ×1.48", style.statistic(d.mad_scaled))),
            (("min", "min", style.value(d.min)), ("max", "max", style.value(d.max))),
            (("q1", "Q1", style.statistic(d.q1)), ("q3", "Q3", style.statistic(d.q3))),
            (("iqr", "IQR", style.statistic(d.iqr)), ("se_mean", "SE mean", style.statistic(d.se_mean))),
            (("skewness", "skew G1", signed(d.skewness)), ("excess_kurtosis", "kurt G2", signed(d.excess_kurtosis))),
        ]
        if column.role is Role.YES_NO:
            share = ("mean", "share of 1", number(d.mean, 3))
            pairs = [*pairs[:2], (share, ("sum", "count of 1", count(d.n - d.zeros)))]
        grid = _grid(self._body)
        for place, pair in enumerate(pairs):
            for at, (key, name, value) in enumerate(pair):
                shown = label(value, "head")
                shown.setToolTip(self._tip(analysis, key, name))
                grid.addWidget(asking(name, key, self.asked.emit), place, 2 * at)
                grid.addWidget(shown, place, 2 * at + 1, Qt.AlignmentFlag.AlignRight)
        quartiles = "inclusive" if analysis.request.settings.quantile_type == 7 else "exclusive"
        if analysis.request.settings.quantile_type in (6, 7) and column.role is not Role.YES_NO:
            self._body.addWidget(
                label(f"quartiles {quartiles} (type {analysis.request.settings.quantile_type})", "quiet")
            )

    def _tip(self, analysis: ColumnAnalysis, key: str, name: str) -> str:
        why = analysis.description.notes.get(key)
        return why or f"{name}, from n = {count(analysis.description.n)}"

    def _normality(self, analysis: ColumnAnalysis) -> None:
        verdict = analysis.verdict
        self._body.addSpacing(4)
        about = f"α {verdict.alpha:g} · n {count(verdict.result.n)}"
        self._body.addLayout(
            row_of(asking("Normality", verdict.method, self.asked.emit, "head"), 1, label(about, "quiet"))
        )
        if analysis.column.role not in (Role.YES_NO, Role.ORDERED):
            for key, result in analysis.normality.items():
                if self.all_tests or key == verdict.method:
                    self._test(key, result)
            more = QPushButton("Only the suggested test" if self.all_tests else f"All {len(NORMALITY_TESTS)} tests")
            more.clicked.connect(self._toggle_tests)
            self._body.addLayout(row_of(more, 1))
        box = QFrame()
        box.setProperty("verdict", {True: "against", False: "for", None: "none"}[verdict.rejects])
        inside = QVBoxLayout(box)
        inside.setContentsMargins(8, 6, 8, 6)
        inside.addWidget(label(verdict.sentence, wrap=True))
        self._body.addWidget(box)

    def _test(self, key: str, result: NormalityResult) -> None:
        test = NORMALITY_TESTS[key]
        name = asking(test.short, key, self.asked.emit)
        about = (test.name, test.tells, test.source, result.note)
        name.setToolTip("\n".join(part for part in about if part))
        if result.statistic is None:
            self._body.addLayout(row_of(name, 1, label(DASH, "head")))
            return
        symbol = "" if self.all_tests else f"{result.symbol} "
        statistic = label(symbol + significant(result.statistic))
        statistic.setToolTip(f"{result.symbol}, n = {count(result.n)}")
        caution = " !" if result.note else ""
        self._body.addLayout(row_of(name, 1, statistic, label(p_value(result.p) + caution, "head"), spacing=4))

    def _toggle_tests(self) -> None:
        self.all_tests = not self.all_tests
        self.renew()

    def _cautions(self, analysis: ColumnAnalysis) -> None:
        if analysis.column.role is Role.YES_NO:
            return
        for key, result in analysis.flags.results.items():
            if result.note:
                self._body.addWidget(label(f"! {OUTLIER_METHODS[key].short}: {result.note}", "quiet", wrap=True))

    def _findings(self, analysis: ColumnAnalysis) -> None:
        findings = analysis.findings(self.hub.study.working)
        unsettled = [f for f in findings if not f.settled]
        state = f"{len(unsettled)} open" if unsettled else "none open"
        self._body.addSpacing(4)
        self._body.addLayout(
            row_of(
                asking("Findings", analysis.request.settings.methods[0], self.asked.emit, "head"),
                1,
                label(state, "quiet"),
            )
        )
        for finding in [*unsettled, *(f for f in findings if f.settled)]:
            self._body.addWidget(self._card(finding))

    def _card(self, finding: Finding) -> QFrame:
        card = QFrame()
        card.setProperty("card", "settled" if finding.settled else "grave" if finding.grave else "mild")
        inside = QVBoxLayout(card)
        inside.setContentsMargins(8, 5, 4, 5)
        inside.setSpacing(4)
        head = "✓ " if finding.settled else ""
        inside.addWidget(label(head + finding.sentence, "quiet" if finding.settled else None, wrap=True))
        show = QPushButton("Show")
        show.setToolTip("Select these rows")
        show.clicked.connect(lambda: self.hub.study.select(finding.rows, f"{finding.column}: {finding.sentence}"))
        buttons: list[QWidget | int] = [show]
        if not finding.settled:
            buttons += [self._button(finding, proposal) for proposal in finding.proposals]
        rules: list[QWidget | int] = [self._rule_button(finding, *rule) for rule in finding.question.rules]
        if len(rules) == 1:
            buttons, rules = [*buttons, *rules], []
        inside.addLayout(row_of(*buttons, 1, spacing=4))
        for first in range(0, len(rules), 2):
            inside.addLayout(row_of(*rules[first : first + 2], 1, spacing=4))
        self.cards.append(card)
        return card

    def _button(self, finding: Finding, proposal: Proposal) -> QPushButton:
        button = QPushButton(proposal.label)
        button.setToolTip(f"{proposal.kind}, cause: {proposal.cause}, reason: {proposal.reason}")
        button.clicked.connect(lambda: self._settle(finding, proposal))
        return button

    def _rule_button(self, finding: Finding, words: str, kind: str, rule: str) -> QPushButton:
        button = QPushButton(words)
        button.setToolTip(f"{RULES[rule].capitalize()}, in all {count(finding.rows.size)} cells of this kind")
        button.clicked.connect(lambda: self._apply_rule(finding.column, kind, rule))
        return button

    def _apply_rule(self, column: str, kind: str, rule: str) -> None:
        self.hub.describe([column], lambda entry: entry.with_rule(kind, rule))

    def _settle(self, finding: Finding, proposal: Proposal) -> None:
        study = self.hub.study
        undecided = [row for row in finding.rows.tolist() if study.working.decision_on(finding.column, row) is None]
        try:
            study.decide(
                proposal.kind,
                finding.column,
                undecided,
                cause=proposal.cause,
                reason=proposal.reason,
                factor=proposal.factor,
            )
        except CulvixError as error:
            self.problem.emit(error.sentence)


def _unit_words(column: Column) -> str:
    return f"in {column.unit}" if column.unit else "no unit"


def _grid(body: QLayout) -> QGridLayout:
    grid = QGridLayout()
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setHorizontalSpacing(4)
    grid.setVerticalSpacing(2)
    grid.setColumnStretch(1, 1)
    grid.setColumnStretch(3, 1)
    body.addLayout(grid)  # type: ignore[attr-defined]
    return grid
