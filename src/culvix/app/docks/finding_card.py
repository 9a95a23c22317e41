"""A finding as a card: its sentence, and the buttons that answer it in place."""

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.session.picture_settings import change_axis_scale
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import label, plain_tip
from culvix.errors import CulvixError
from culvix.stats.display import count
from culvix.stats.shape.axis_scale import AXIS_SCALES
from culvix.study.analysis.findings.findings import Finding, Proposal
from culvix.tables.cells.cell_rules import RULES
from culvix.tables.model.options.column_questions import Answer

__all__ = ["FindingCard"]


class FindingCard(QFrame):
    """Shows its rows, decides on those that are not decided yet, or answers what else is asked."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub, finding: Finding) -> None:
        super().__init__()
        self.hub, self.finding = hub, finding
        self.setObjectName("settled" if finding.resolved else "grave" if finding.grave else "mild")
        inside = QVBoxLayout(self)
        inside.setContentsMargins(8, 5, 4, 5)
        inside.setSpacing(4)
        head = "✓ " if finding.resolved else ""
        inside.addWidget(label(head + finding.sentence, "quiet" if finding.resolved else None, wrap=True))
        inside.addLayout(flow_of(*self._buttons(), spacing=4))

    def _buttons(self) -> list[QWidget]:
        finding = self.finding
        buttons: list[QWidget] = []
        if finding.rows.size:
            show = QPushButton("Show")
            show.setToolTip("Select these rows")
            show.clicked.connect(self.show_rows)
            buttons.append(show)
        if not finding.resolved:
            buttons += [self._decision(proposal) for proposal in finding.proposals]
        buttons += [self._rule(*rule) for rule in finding.question.rules]
        buttons += [self._answer(answer) for answer in finding.question.answers]
        buttons += [self._axis(key) for key in finding.question.axis_scales]
        return buttons

    def show_rows(self) -> None:
        """Select the rows that the finding is about."""
        finding = self.finding
        self.hub.study.select(finding.rows, f"{finding.column}: {finding.sentence}", column=finding.column)

    def _decision(self, proposal: Proposal) -> QPushButton:
        button = QPushButton(proposal.label)
        button.setToolTip(plain_tip(f"{proposal.kind}, cause: {proposal.cause}, reason: {proposal.reason}"))
        button.clicked.connect(lambda: self.resolve(proposal))
        return button

    def _rule(self, message: str, kind: str, rule: str) -> QPushButton:
        button = QPushButton(message)
        button.setToolTip(f"{RULES[rule].capitalize()}, in all {count(self.finding.rows.size)} cells of this kind")
        column = self.finding.column
        button.clicked.connect(lambda: self.hub.edit_columns([column], lambda entry: entry.with_rule(kind, rule)))
        return button

    def _answer(self, answer: Answer) -> QPushButton:
        button = QPushButton(answer.label)
        column = self.finding.column
        button.setToolTip(plain_tip(f"Take {column} for {answer.label.lower()}"))
        button.clicked.connect(lambda: self.hub.edit_columns([column], answer.applied))
        return button

    def _axis(self, key: str) -> QPushButton:
        name = AXIS_SCALES[key].name
        button = QPushButton(f"{name[0].upper()}{name[1:]} axis")
        button.setToolTip(plain_tip(f"In all pictures of {self.finding.column}; what is computed stays what it is"))
        button.clicked.connect(lambda: self._change_axis(key))
        return button

    def _change_axis(self, key: str) -> None:
        self.hub.set_focus(self.finding.column)
        try:
            change_axis_scale(self.hub, key)
        except CulvixError as error:
            self.problem.emit(error.sentence)

    def resolve(self, proposal: Proposal) -> None:
        """Decide as proposed on the rows that are not decided yet."""
        study, finding = self.hub.study, self.finding
        undecided = np.setdiff1d(finding.rows, study.working.decided(finding.column), assume_unique=True)
        try:
            study.decide(
                proposal.kind,
                finding.column,
                undecided,
                cause=proposal.cause,
                reason=proposal.reason,
                factor=proposal.factor,
                shift=proposal.shift,
            )
        except CulvixError as error:
            self.problem.emit(error.sentence)
