"""The margin of the Shape stage: summary, normality with its verdict, and the findings to settle."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QVBoxLayout, QWidget

from culvix.app.docks.finding_card import FindingCard
from culvix.app.docks.whole_pane import WholePane
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane, hidden
from culvix.app.session.scheduler import task_queue
from culvix.app.shape.normality_pane import NormalityPane
from culvix.app.shape.summary_pane import SummaryPane
from culvix.app.widgets.parts import asking, clear_layout, label, row_of, scrolled, shortened
from culvix.stats.display import count, plural
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.tables.model.table import Column, Role

__all__ = ["ShapeMargin"]


class ShapeMargin(LazyPane):
    """Rebuilt whenever the column in focus or its numbers change."""

    patience = 3

    problem = pyqtSignal(str)
    asked = pyqtSignal(str)
    """The guide is asked about a key."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.cards: list[QFrame] = []
        self.summary, self.normality = SummaryPane(hub), NormalityPane(hub)
        self.whole = WholePane(hub)
        self._words, self._findings = _column(), _column()
        inner = QWidget()
        body = _column(inner)
        body.setContentsMargins(10, 8, 10, 8)
        body.addLayout(self._words)
        body.addWidget(self.summary)
        body.addWidget(self.whole)
        body.addWidget(self.normality)
        body.addLayout(self._findings)
        body.addStretch(1)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(inner))
        for pane in (self.summary, self.normality):
            pane.asked.connect(self.asked)
        self.normality.changed.connect(self.refresh)
        hub.review_changed.connect(self.request_refresh)
        hub.focus_changed.connect(self.request_refresh)
        hub.veiled_changed.connect(self.request_refresh)
        hub.analysed.connect(lambda name: self.request_refresh() if name == hub.focus else None)
        self.request_refresh()

    def refresh(self) -> None:
        """Show the column in focus as things stand."""
        clear_layout(self._words)
        clear_layout(self._findings)
        self.cards = []
        analysis = self._shown
        for pane in (self.summary, self.normality):
            pane.setVisible(analysis is not None)
            if analysis is not None:
                pane.show_analysis(analysis)
        if analysis is not None:
            # In one go with the numbers they would hold up the window.
            task_queue().soon(self._show_findings)
        elif self.hub.focus is None:
            return
        elif self.hub.veiled == self.hub.focus:
            self._words.addWidget(label("Numbers and findings are back once a picture is picked.", "quiet", wrap=True))
        else:
            self._without_numbers(self.hub.study.table[self.hub.focus])

    @property
    def _shown(self) -> ColumnAnalysis | None:
        """The analysis of the column in focus, None while there is nothing of it to be seen."""
        return None if self.hub.veiled == self.hub.focus else self.hub.analysis

    def _without_numbers(self, column: Column) -> None:
        self._words.addWidget(label(f"{column.role}: {column.reason}", wrap=True))
        if column.is_numeric:
            self._words.addWidget(label("Working it out …", "quiet"))
            return
        self._words.addWidget(label(f"{plural(column.missing, 'cell')} missing", "quiet"))
        self._words.addWidget(label("Most frequent", "head"))
        grid = _grid(self._words)
        for position, (value, times) in enumerate(column.most_frequent(12)):
            grid.addWidget(label(shortened(value, 24)), position, 0)
            grid.addWidget(label(count(times), "head"), position, 1, Qt.AlignmentFlag.AlignRight)

    def _show_findings(self) -> None:
        """What is to be said of the column in focus, under its numbers."""
        clear_layout(self._findings)
        self.cards = []
        analysis = self._shown
        if analysis is None or hidden(self):
            # Made anew together with the numbers once there are any to be seen.
            self.request_refresh()
            return
        self._cautions(analysis)
        self._cards(analysis)

    def _cautions(self, analysis: ColumnAnalysis) -> None:
        if analysis.column.role is Role.YES_NO:
            return
        notes = {result.note for result in analysis.flags.results.values()}
        if len(notes) == 1 and None not in notes and len(analysis.flags.results) > 1:
            # What stops every method is said once.
            self._findings.addWidget(label(f"! {notes.pop()}", "quiet", wrap=True))
            return
        for key, result in analysis.flags.results.items():
            if result.note:
                self._findings.addWidget(label(f"! {OUTLIER_METHODS[key].short}: {result.note}", "quiet", wrap=True))

    def _cards(self, analysis: ColumnAnalysis) -> None:
        findings = analysis.findings(self.hub.study.working)
        unresolved = [f for f in findings if not f.resolved]
        state = f"{len(unresolved)} open" if unresolved else "none open"
        self._findings.addSpacing(4)
        self._findings.addLayout(
            row_of(
                asking("Findings", analysis.request.settings.methods[0], self.asked.emit, "head"),
                1,
                label(state, "quiet"),
            )
        )
        for finding in [*unresolved, *(f for f in findings if f.resolved)]:
            card = FindingCard(self.hub, finding)
            card.problem.connect(self.problem)
            self.cards.append(card)
            self._findings.addWidget(card)


def _column(around: QWidget | None = None) -> QVBoxLayout:
    """What stands below each other, inside ``around`` where that is a pane of its own."""
    made = QVBoxLayout(around) if around is not None else QVBoxLayout()
    made.setSpacing(5)
    return made


def _grid(body: QVBoxLayout) -> QGridLayout:
    grid = QGridLayout()
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setHorizontalSpacing(4)
    grid.setVerticalSpacing(2)
    grid.setColumnStretch(1, 1)
    grid.setColumnStretch(3, 1)
    body.addLayout(grid)
    return grid
