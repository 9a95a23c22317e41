"""The margin of the Shape stage: summary, normality with its verdict, and the findings to settle."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QGridLayout, QLayout, QVBoxLayout, QWidget

from culvix.app.docks.finding_card import FindingCard
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
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
        self._inner = QWidget()
        self._body = QVBoxLayout(self._inner)
        self._body.setContentsMargins(10, 8, 10, 8)
        self._body.setSpacing(5)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(scrolled(self._inner))
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
        for pane in (self.summary, self.normality):
            # Kept while everything around them is made anew.
            self._body.removeWidget(pane)
            pane.setParent(self._inner)
        clear_layout(self._body)
        self.cards = []
        if self.hub.focus is None:
            return
        column = self.hub.study.table[self.hub.focus]
        analysis, veiled = self.hub.analysis, self.hub.veiled == self.hub.focus
        for pane in (self.summary, self.normality):
            pane.setVisible(analysis is not None and not veiled)
        if veiled:
            self._body.addWidget(label("Numbers and findings are back once a picture is picked.", "quiet", wrap=True))
        elif analysis is None:
            self._without_numbers(column)
        else:
            for pane in (self.summary, self.normality):
                pane.show_analysis(analysis)
                self._body.addWidget(pane)
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
        for position, (value, times) in enumerate(column.most_frequent(12)):
            grid.addWidget(label(shortened(value, 24)), position, 0)
            grid.addWidget(label(count(times), "head"), position, 1, Qt.AlignmentFlag.AlignRight)

    def _cautions(self, analysis: ColumnAnalysis) -> None:
        if analysis.column.role is Role.YES_NO:
            return
        notes = {result.note for result in analysis.flags.results.values()}
        if len(notes) == 1 and None not in notes and len(analysis.flags.results) > 1:
            # What stops every method is said once.
            self._body.addWidget(label(f"! {notes.pop()}", "quiet", wrap=True))
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
            card = FindingCard(self.hub, finding)
            card.problem.connect(self.problem)
            self.cards.append(card)
            self._body.addWidget(card)


def _grid(body: QLayout) -> QGridLayout:
    grid = QGridLayout()
    grid.setContentsMargins(0, 0, 0, 0)
    grid.setHorizontalSpacing(4)
    grid.setVerticalSpacing(2)
    grid.setColumnStretch(1, 1)
    grid.setColumnStretch(3, 1)
    body.addLayout(grid)  # type: ignore[attr-defined]
    return grid
