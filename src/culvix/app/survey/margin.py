"""The margin of the Survey: the quality of the table, its findings, the ends of the column in hand, and the marks."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QPushButton, QSpinBox, QVBoxLayout, QWidget

from culvix.app.docks.marks_pane import MarksPane
from culvix.app.docks.whole_pane import WholePane
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.survey.missing_pane import MissingPane
from culvix.app.widgets.elided_button import ElidedButton
from culvix.app.widgets.parts import ElidedLabel, clear_layout, label, panel, plain_tip, row_of
from culvix.stats.display import count, plural
from culvix.study.analysis.findings.table_findings import with_discrepancies
from culvix.study.analysis.survey.survey import Quality, quality
from culvix.tables.checks.table_checks import TableFinding
from culvix.tables.model.table import Table

__all__ = ["SurveyMargin"]

_ENDS = 5


class SurveyMargin(LazyPane):
    """What there is to know about the table as a whole, and about the ends of the column in focus."""

    problem = pyqtSignal(str)
    exchange_requested = pyqtSignal(object)
    """The values that a finding says stand in each other's places are to be exchanged."""
    checked = pyqtSignal()
    """The quality of the table has arrived, and with it how many different cells its columns have."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.quality: Quality | None = None
        self._checked: Table | None = None
        self.marks = MarksPane(hub)
        self.ends = _Ends(hub)
        self.missing = MissingPane(hub)
        self.whole = WholePane(hub)
        self._table, self._notes = QVBoxLayout(), QVBoxLayout()
        body = QVBoxLayout(self)
        body.setContentsMargins(10, 8, 10, 8)
        body.setSpacing(8)
        body.addWidget(self.whole)
        body.addLayout(self._table)
        body.addWidget(self.missing)
        body.addWidget(self.ends)
        body.addWidget(self.marks)
        body.addLayout(self._notes)
        body.addStretch(1)
        self.marks.problem.connect(self.problem)
        hub.data_changed.connect(self.request_update)
        hub.review_changed.connect(self.refresh_now)

    def request_update(self) -> None:
        """Check the table anew, in the background, unless it is the one that was checked."""
        table = self.hub.study.table
        if table is self._checked:
            self.request_refresh()
            return
        self._checked = table

        def done(found: Quality) -> None:
            self.quality = found
            self.refresh_now()
            self.checked.emit()
            self.missing.follow(table)

        self.hub.start("quality of the table", lambda progress: quality(table, progress), done, priority=6, quiet=True)

    def refresh(self) -> None:
        """Show what was found of the table, where it has been checked."""
        found = self.quality
        if found is None:
            return
        clear_layout(self._table)
        source = self.hub.study.table.source
        self._table.addWidget(label("The table", "head"))
        by = f"separated by {source.delimiter}" if source.delimiter else ""
        parts = [source.kind, source.encoding, by, source.part]
        self._table.addWidget(label(" · ".join(part for part in parts if part), "quiet", wrap=True))
        for sentence in found.sentences(self.hub.study.working.rows_used):
            self._table.addWidget(label(sentence, wrap=True))
        self._table.addSpacing(4)
        document = self.hub.study.document
        findings = with_discrepancies(document, found.findings)
        unresolved = sum(finding.key not in document.noted for finding in findings)
        state = f"{plural(unresolved, 'finding')} open" if findings else "none"
        self._table.addLayout(row_of(label("About the whole table", "head"), 1, label(state, "quiet")))
        for finding in findings:
            self._table.addWidget(self._card(finding))
        clear_layout(self._notes)
        if source.notes:
            self._notes.addWidget(label("On reading it", "head"))
            for note in source.notes:
                self._notes.addWidget(label(note, "quiet", wrap=True))

    def _card(self, finding: TableFinding) -> QWidget:
        noted = finding.key in self.hub.study.document.noted
        card, inside = panel(margins=(8, 5, 8, 5))
        card.setObjectName("settled" if noted else "mild")
        inside.addWidget(label(finding.evidence, wrap=True))
        note = configured(QPushButton("✓ Noted" if noted else "Noted"), checkable=True)
        note.setChecked(noted)
        note.setToolTip("Set this down as noted; what is not, stands in the report as not settled")
        note.clicked.connect(lambda: self.hub.study.note(finding, not noted))
        buttons: list[QWidget | int] = [note, 1]
        if finding.kind == "exchanged_values" and not noted:
            exchange = QPushButton("Exchange …")
            message = f"See these rows as they are and with {' and '.join(finding.columns)} in each other's places"
            exchange.setToolTip(plain_tip(message))
            exchange.clicked.connect(lambda: self.exchange_requested.emit(finding))
            buttons.insert(0, exchange)
        if finding.rows.size:
            show = QPushButton("Show")
            show.setToolTip("Select these rows")
            column = finding.columns[0] if len(finding.columns) == 1 else None
            show.clicked.connect(lambda: self.hub.study.select(finding.rows, finding.evidence, column=column))
            buttons.insert(0, show)
        inside.addLayout(row_of(*buttons))  # type: ignore[attr-defined]
        return card


class _Ends(LazyPane):
    """The smallest and the largest values of the column in focus, with their rows; a click selects one."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.title = ElidedLabel("head")
        self.many = configured(QSpinBox(), minimum=1, maximum=50)
        self.many.setValue(_ENDS)
        self.many.setToolTip("How many of each end are listed")
        self.many.valueChanged.connect(lambda _: self.refresh())
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(6)
        self.grid.setVerticalSpacing(0)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(2)
        head = row_of(self.title, self.many)
        head.setStretchFactor(self.title, 1)
        layout.addLayout(head)
        layout.addLayout(self.grid)
        hub.focus_changed.connect(self.request_refresh)
        hub.analysed.connect(lambda name: self.request_refresh() if name == hub.focus else None)

    def refresh(self) -> None:
        """List the ends of the column in focus, where it has been worked out."""
        clear_layout(self.grid)
        analysis = self.hub.analysis
        # Hidden itself, the pane would never be renewed.
        for part in (self.title, self.many):
            part.setVisible(analysis is not None and analysis.sample.n > 0)
        if analysis is None or not analysis.sample.n:
            return
        self.title.say(f"Ends of {analysis.column.name}")
        sample, style = analysis.sample, analysis.style
        many = min(self.many.value(), sample.n)
        for column, (message, positions) in enumerate(
            (("smallest", range(many)), ("largest", range(sample.n - 1, sample.n - 1 - many, -1)))
        ):
            self.grid.addWidget(label(message, "quiet"), 0, column)
            for line, position in enumerate(positions, start=1):
                self.grid.addWidget(
                    self._value(
                        int(sample.rows[position]), style.value(float(sample.sorted[position])), analysis.column.name
                    ),
                    line,
                    column,
                )

    def _value(self, row: int, value: str, column: str) -> QWidget:
        named = self.hub.study.table.label_column
        name = named.cell(row) if named is not None else f"row {count(self.hub.study.table.number_of(row))}"
        button = ElidedButton(f"{value}  {name}", "Select this row")
        button.setFlat(True)
        button.setObjectName("link")
        button.clicked.connect(lambda: self.hub.study.select([row], "an end of the column", column=column))
        return button
