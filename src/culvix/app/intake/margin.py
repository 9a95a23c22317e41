"""The margin of the Intake: the dictionary of the columns in hand, and the cells that are not read as numbers."""

from collections.abc import Sequence
from functools import partial

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QComboBox, QPushButton, QVBoxLayout, QWidget

from culvix.app.intake.order_pane import MOST_TEXTS, OrderPane
from culvix.app.intake.questions import MissingBar
from culvix.app.intake.words_pane import WordsPane
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import hidden
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.lists.column_fields import ColumnFields
from culvix.app.widgets.parts import clear_layout, label, panel, row_of, shortened
from culvix.stats.display import count, plural
from culvix.study.document.decisions import factor_text
from culvix.tables.cells.cell_kinds import FoundKind
from culvix.tables.cells.cell_rules import RULES, rule_in_force
from culvix.tables.cells.units import conversion
from culvix.tables.model.options.column_questions import QUESTIONS_OF_COLUMNS
from culvix.tables.model.table import Column, Role

__all__ = ["IntakeMargin"]

_FEW_ROWS = 20_000


class IntakeMargin(QWidget):
    """What is said of the column in focus, or of several selected in the first rows."""

    problem = pyqtSignal(str)
    dictionary_requested = pyqtSignal()
    save_requested = pyqtSignal()

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.names: tuple[str, ...] = ()
        self.title = label("", "head", wrap=True)
        self.about = label("", wrap=True)
        self.cells = label("", "quiet", wrap=True)
        self.fields = ColumnFields(hub)
        self.order = OrderPane(hub)
        self.words = WordsPane(hub)
        self._kinds = QVBoxLayout()
        self._kinds.setSpacing(4)
        body = QVBoxLayout(self)
        body.setContentsMargins(10, 8, 10, 8)
        body.setSpacing(6)
        self.missing = MissingBar(hub, "Missing here:", beside=2)
        self.missing.problem.connect(self.problem)
        self.question, inside = panel(margins=(8, 4, 8, 4))
        self.question.setObjectName("mild")
        self.asked = label("", wrap=True)
        self.answers: dict[str, QPushButton] = {}
        self._answers = QVBoxLayout()
        self._answers.setSpacing(4)
        inside.addWidget(self.asked)
        inside.addLayout(self._answers)  # type: ignore[attr-defined]
        for part in (self.title, self.about, self.question, self.cells, self.missing, self.fields):
            body.addWidget(part)
        body.addLayout(self._kinds)
        body.addWidget(self.words)
        body.addWidget(self.order)
        body.addStretch(1)
        load, save = QPushButton("Load dictionary"), QPushButton("Save dictionary")
        load.setToolTip("Take what is said of the columns from a datapackage.json")
        save.setToolTip("Write what is said of the columns as a datapackage.json")
        load.clicked.connect(self.dictionary_requested)
        save.clicked.connect(self.save_requested)
        body.addLayout(row_of(load, save))
        self.fields.problem.connect(self.problem)
        self.order.problem.connect(self.problem)
        self.words.problem.connect(self.problem)
        self._refresh_due = self._rebuild_due = False
        hub.focus_changed.connect(lambda name: self.show_columns([name]))
        for change in (hub.data_changed, hub.settings_changed, hub.edit_refused):
            change.connect(lambda: self._show(anew=False))

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self._refresh_due:
            self._show(anew=self._rebuild_due)

    def show_columns(self, names: Sequence[str]) -> None:
        """Turn to these columns; with none, to that in focus."""
        requested = tuple(names) or ((self.hub.focus,) if self.hub.focus else ())
        if requested != self.names:
            self.names = requested
            self._show(anew=True)

    def _show(self, *, anew: bool) -> None:
        # In other stages nobody sees it, and columns change there at the pace of a key.
        self._refresh_due = hidden(self)
        self._rebuild_due = self._refresh_due and (anew or self._rebuild_due)
        if not self.names or self._refresh_due:
            return
        columns = [self.hub.study.table[name] for name in self.names]
        self.fields.show_columns(columns, anew=anew)
        self.words.show_columns(columns)
        clear_layout(self._kinds)
        one = columns[0] if len(columns) == 1 else None
        if one is None:
            self.title.setText(plural(len(columns), "column"))
            self.about.setText(shortened(", ".join(self.names), 160))
            self.cells.setText("What is said here is said of all of them.")
            self.order.hide()
            self.missing.hide()
            self.question.hide()
            return
        self.title.setText(one.name)
        self.about.setText(f"{one.role}: {one.reason}.")
        cells = one.rows - one.missing - one.unread
        infinite = 0 if one.values is None else int(np.isinf(one.values).sum())
        endless = f", {count(infinite)} infinite" if infinite else ""
        read = count(cells - infinite)
        self.cells.setText(f"{read} read{endless}, {count(one.missing)} missing, {count(one.unread)} unread")
        self.missing.setVisible(bool(one.tokens) or bool(one.missing_written.size))
        self.missing.show_columns([one])
        self._show_question(one)
        self._show_kinds(one)
        self._show_order(one)

    def _show_question(self, column: Column) -> None:
        """What is asked about the role of ``column``, where anything is."""
        asked = QUESTIONS_OF_COLUMNS.get(column.asks)
        self.question.setVisible(asked is not None)
        clear_layout(self._answers)
        self.answers = {}
        if asked is None:
            return
        self.asked.setText(asked.sentence)
        for answer in asked.answers:
            button = QPushButton(answer.label)
            button.clicked.connect(lambda _, answer=answer: self.hub.edit_columns([column.name], answer.applied))
            self.answers[answer.label] = button
        buttons = list(self.answers.values())
        for first in range(0, len(buttons), 2):
            self._answers.addLayout(row_of(*buttons[first : first + 2], spacing=4))

    def _show_order(self, column: Column) -> None:
        entry = self.hub.study.dictionary.of(column.name)
        requested = bool(entry.mapping) or column.role is Role.CATEGORY
        requested = requested or (column.role is Role.TEXT and column.rows <= _FEW_ROWS)
        texts = column.texts_up_to(MOST_TEXTS) if requested else None
        self.order.setVisible(texts is not None)
        if texts is not None:
            self.order.show_column(column, texts)

    def _show_kinds(self, column: Column) -> None:
        self.rules: dict[str, QComboBox] = {}
        if not column.kinds:
            return
        what = "no plain numbers" if column.is_numeric else "missing by what is written"
        self._kinds.addWidget(label(f"Cells that are {what}", "head"))
        for key, found in column.kinds.items():
            examples = ", ".join(f"“{text[:16]}”" for text in found.examples[:2])
            message = f"{plural(found.count, 'cell')}: {found.kind.name} ({examples})"
            show = QPushButton("Rows")
            show.setToolTip("Select the rows of these cells")
            show.clicked.connect(partial(self.hub.study.select, found.rows, found.kind.name, column=column.name))
            box = self._rule_box(column, key, found)
            self._kinds.addWidget(label(message, wrap=True))
            for line in _unit_lines(found):
                self._kinds.addWidget(label(line, "quiet"))
            self._kinds.addLayout(row_of(box, show))
            self.rules[key] = box

    def _rule_box(self, column: Column, key: str, found: FoundKind) -> QComboBox:
        rules = found.kind.rules
        box = Choice()
        # In a column without numbers nothing is read as one; what is not missing there is a value.
        message = {**RULES, "unread": RULES["unread"] if column.is_numeric else "take it as a value"}
        box.addItems([message[rule] for rule in rules])
        box.setCurrentText(message[rule_in_force(key, column.rules)])
        box.activated.connect(
            lambda position: self.hub.edit_columns([column.name], lambda entry: entry.with_rule(key, rules[position]))
        )
        return box


def _unit_lines(found: FoundKind) -> list[str]:
    """A line for each unit that differs, with what converts it."""
    lines = []
    for unit, many in found.units:
        change = conversion(unit, found.unit) if found.unit else None
        how = "cannot be converted" if change is None else f"{factor_text(*change)} to {found.unit}"
        if unit == found.unit:
            how = "as it is"
        lines.append(f"{unit}: {plural(many, 'cell')}, {how}")
    return lines
