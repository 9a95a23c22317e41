"""Deciding by a rule: about all values that a method flags, that several methods flag, or that lie in an interval."""

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QLineEdit, QPushButton, QVBoxLayout

from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import label, plain_tip, row_of
from culvix.errors import CulvixError
from culvix.stats.core.arrays import Ints
from culvix.stats.display import plural, typed_number
from culvix.study.analysis.outliers.rule_rows import rows_of
from culvix.study.document.decisions import Cause, DecisionKind
from culvix.study.document.rules import Rule, agreed, between, flagged_by

__all__ = ["RulePane"]

_KINDS = (DecisionKind.EXCLUDE_VALUE, DecisionKind.MISSING, DecisionKind.EXCLUDE_ROW, DecisionKind.KEEP)


class RulePane(LazyPane):
    """What is decided so is one decision, which carries its rule into the report."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.rules: list[Rule | None] = []
        self._column = ""
        self.which, self.kind, self.cause = Choice(), Choice(), Choice()
        self.kind.addItems([str(kind) for kind in _KINDS])
        self.cause.addItems([str(cause) for cause in Cause])
        self.cause.setToolTip("The cause, as far as it is known")
        for box in (self.which, self.kind, self.cause):
            box.setMinimumContentsLength(5)
            box.setMinimumWidth(40)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.low, self.high = (
            configured(QLineEdit(), placeholderText="from"),
            configured(QLineEdit(), placeholderText="to"),
        )
        self.reason = configured(QLineEdit(), placeholderText="reason")
        self.apply = QPushButton("Decide")
        self.about = label("", "quiet", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(label("Decide by a rule", "head"))
        layout.addWidget(self.which)
        layout.addLayout(row_of(self.low, self.high))
        layout.addLayout(row_of(self.kind, self.cause))
        layout.addLayout(row_of(self.reason, self.apply))
        layout.addWidget(self.about)
        self.which.activated.connect(self._say)
        for field in (self.low, self.high):
            field.editingFinished.connect(self._say)
        self.apply.clicked.connect(self.decide)
        for change in (hub.previewed, hub.data_changed, hub.focus_changed):
            change.connect(self.request_refresh)
        hub.analysed.connect(lambda name: self.request_refresh() if name == hub.focus else None)
        self.request_refresh()

    def refresh(self) -> None:
        """Offer the rules that the flags of the column in focus allow."""
        preview, before = self.hub.preview, self.which.currentText()
        self.setEnabled(preview is not None)
        if preview is None:
            return
        able = preview.flags.able
        self.rules = [agreed(least) for least in range(able, 0, -1)]
        self.rules += [flagged_by(key) for key, result in preview.flags.results.items() if result.applies]
        self.rules.append(None)
        self.which.clear()
        self.which.addItems([rule.text if rule is not None else "all values in an interval" for rule in self.rules])
        for position in range(self.which.count()):
            self.which.setItemData(position, plain_tip(self.which.itemText(position)), Qt.ItemDataRole.ToolTipRole)
        same = self._column == preview.column.name and self.which.findText(before) >= 0
        self.which.setCurrentText(before if same else self.which.itemText(0))
        self._column = preview.column.name
        self._say()

    @property
    def rule(self) -> Rule:
        """The rule as it stands. Raises CulvixError where an interval is not one."""
        position = self.which.currentIndex()
        chosen = self.rules[position] if 0 <= position < len(self.rules) else None
        if chosen is not None:
            return chosen
        ends = []
        for field in (self.low, self.high):
            text = field.text().strip()
            try:
                ends.append(typed_number(text) if text else None)
            except ValueError:
                raise CulvixError(f"“{text}” is not an end of an interval; type a number.") from None
        return between(ends[0], ends[1])

    def _rows(self) -> Ints:
        """The rows the rule means that are not decided yet."""
        preview, study = self.hub.preview, self.hub.study
        if preview is None:
            return np.zeros(0, dtype=np.int64)
        rows = rows_of(self.rule, preview.flags, preview.flag_basis)
        return np.setdiff1d(rows, study.working.decided(preview.column.name), assume_unique=True)

    def _say(self) -> None:
        by_hand = self.which.currentIndex() == len(self.rules) - 1
        self.which.setToolTip(plain_tip(self.which.currentText()))
        for field in (self.low, self.high):
            field.setVisible(by_hand)
        try:
            left = int(self._rows().size)
            self.about.setText(f"{plural(left, 'value')} not decided yet" if left else "nothing left to decide")
            self.apply.setEnabled(left > 0)
        except CulvixError as error:
            self.about.setText("" if by_hand and not (self.low.text() or self.high.text()) else error.sentence)
            self.apply.setEnabled(False)

    def decide(self) -> None:
        """Decide about all rows the rule means that are not decided yet, as one act."""
        focus, kind = self.hub.focus, _KINDS[self.kind.currentIndex()]
        cause = list(Cause)[self.cause.currentIndex()]
        if focus is None:
            return
        try:
            rows, rule = self._rows(), self.rule
            self.hub.study.decide(kind, focus, rows, cause=cause, reason=self.reason.text() or rule.text, rule=rule)
        except CulvixError as error:
            self.problem.emit(error.sentence)
            return
        self.reason.clear()
        self.hub.message.emit(f"{plural(int(rows.size), 'value')} decided: {kind}. Ctrl+Z takes it back.")
