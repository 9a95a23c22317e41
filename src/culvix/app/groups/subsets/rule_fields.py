"""The words with which a new column is described, a set of fields for each kind of rule."""

from abc import abstractmethod
from collections.abc import Callable, Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QGridLayout, QLineEdit, QMenu, QPushButton, QToolButton, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import clear_layout, label, shortened
from culvix.errors import CulvixError
from culvix.stats.display import plural
from culvix.study.groups.row_groups import equal_cuts, quantile_cuts
from culvix.tables.model.derived.column_rule import (
    CLAUSES,
    JOINS,
    OPERATIONS,
    PARTS,
    STATISTICS,
    Clause,
    ColumnRule,
    number_typed,
)
from culvix.tables.model.table import Role, Table

__all__ = ["FIELDS", "RuleFields"]

_WITHOUT_VALUE = ("missing", "present")
_MOST_LEVELS = 24
_MOST_LISTED = 60


class RuleFields(QWidget):
    """Fields of one kind of rule; ``changed`` whenever something is chosen or typed."""

    changed = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 0, 0, 0)
        self.body.setSpacing(4)

    @abstractmethod
    def offer(self, table: Table) -> None:
        """List the columns of ``table``."""

    @abstractmethod
    def rule(self) -> tuple[str, ColumnRule]:
        """The first column and the rule. Raises CulvixError for what cannot be read."""

    @abstractmethod
    def show_rule(self, source: str, rule: ColumnRule) -> None:
        """Show a ``rule`` that was made."""

    def choice(self, tip: str, names: Sequence[str] = ()) -> Choice:
        """A list to choose from."""
        made = Choice()
        made.setToolTip(tip)
        made.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        made.setMinimumContentsLength(12)
        made.addItems(list(names))
        made.activated.connect(lambda _: self.changed.emit())
        return made

    def line(self, tip: str, hint: str = "") -> QLineEdit:
        """A field to type into."""
        made = configured(QLineEdit(), placeholderText=hint)
        made.setToolTip(tip)
        made.setAccessibleName(tip)
        made.textEdited.connect(lambda _: self.changed.emit())
        return made


def relist(box: Choice, names: Sequence[str]) -> None:
    """Offer ``names`` in ``box``, the chosen one still chosen where it is among them."""
    if [box.itemText(at) for at in range(box.count())] != list(names):
        chosen = box.currentText()
        box.clear()
        box.addItems(list(names))
        box.setCurrentIndex(max(box.findText(chosen), 0))


class _ClauseLine:
    """One clause: a column, what is said of it, and the value, or both ends."""

    def __init__(self, fields: "ConditionFields") -> None:
        self.column = fields.choice("Of which column something is said", fields.names)
        self.says = fields.choice("What is said of it", tuple(CLAUSES.values()))
        self.value, self.upper = fields.line("The value"), fields.line("The upper end", "and")
        self.remove = configured(QPushButton("Leave out"))
        self.remove.setObjectName("slim")
        self.says.activated.connect(lambda _: self.fit())
        self.row = QWidget()
        inside = QVBoxLayout(self.row)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.addLayout(flow_of(self.column, self.says, self.value, self.upper, self.remove, spacing=5))
        self.fit()

    def fit(self) -> None:
        """Show the fields that count."""
        says = list(CLAUSES)[self.says.currentIndex()]
        self.value.setVisible(says not in _WITHOUT_VALUE)
        self.upper.setVisible(says == "between")

    @property
    def clause(self) -> Clause:
        says = list(CLAUSES)[self.says.currentIndex()]
        value = "" if says in _WITHOUT_VALUE else self.value.text().strip()
        upper = self.upper.text().strip() if says == "between" else ""
        return Clause(self.column.currentText(), says, value, upper)

    def show(self, clause: Clause) -> None:
        self.column.setCurrentText(clause.column)
        self.says.setCurrentIndex(list(CLAUSES).index(clause.says))
        self.value.setText(clause.value)
        self.upper.setText(clause.upper)
        self.fit()


class ConditionFields(RuleFields):
    """Yes where all, any or none of some clauses hold."""

    def __init__(self) -> None:
        super().__init__()
        self.names: list[str] = []
        self.lines: list[_ClauseLine] = []
        self.join = self.choice("How clauses are taken together", tuple(JOINS.values()))
        self.more = configured(QPushButton("And another"))
        self.more.setObjectName("slim")
        self.more.clicked.connect(lambda: self._add())
        self.body.addLayout(flow_of(label("yes where", "quiet"), self.join, self.more, spacing=5))
        self._add()

    def _add(self) -> _ClauseLine:
        line = _ClauseLine(self)
        line.remove.clicked.connect(lambda: self._leave_out(line))
        self.lines.append(line)
        self.body.addWidget(line.row)
        self._fit()
        return line

    def _leave_out(self, line: _ClauseLine) -> None:
        self.lines.remove(line)
        line.row.hide()
        line.row.deleteLater()
        self._fit()
        self.changed.emit()

    def _fit(self) -> None:
        for line in self.lines:
            line.remove.setVisible(len(self.lines) > 1)

    def offer(self, table: Table) -> None:
        self.names = [column.name for column in table]
        for line in self.lines:
            relist(line.column, self.names)

    def rule(self) -> tuple[str, ColumnRule]:
        clauses = tuple(line.clause for line in self.lines)
        join = list(JOINS)[self.join.currentIndex()]
        return clauses[0].column, ColumnRule("condition", clauses=clauses, join=join)

    def show_rule(self, source: str, rule: ColumnRule) -> None:
        self.join.setCurrentIndex(list(JOINS).index(rule.join))
        while len(self.lines) > len(rule.clauses):
            self._leave_out(self.lines[-1])
        while len(self.lines) < len(rule.clauses):
            self._add()
        for line, clause in zip(self.lines, rule.clauses, strict=True):
            line.show(clause)


class TwoFields(RuleFields):
    """Two columns of numbers taken together."""

    def __init__(self) -> None:
        super().__init__()
        self.first, self.other = self.choice("The first column"), self.choice("The second column")
        self.operation = self.choice("How both are taken together", tuple(OPERATIONS.values()))
        self.body.addLayout(flow_of(self.first, self.operation, self.other, spacing=5))

    def offer(self, table: Table) -> None:
        names = [column.name for column in table.numeric]
        for box in (self.first, self.other):
            relist(box, names)

    def rule(self) -> tuple[str, ColumnRule]:
        operation = list(OPERATIONS)[self.operation.currentIndex()]
        return self.first.currentText(), ColumnRule("two", operation=operation, other=self.other.currentText())

    def show_rule(self, source: str, rule: ColumnRule) -> None:
        self.first.setCurrentText(source)
        self.other.setCurrentText(rule.other)
        self.operation.setCurrentIndex(list(OPERATIONS).index(rule.operation))


class SeveralFields(RuleFields):
    """Several columns of numbers taken together, row by row."""

    def __init__(self) -> None:
        super().__init__()
        self.chosen: list[str] = []
        self._names: list[str] = []
        self.statistic = self.choice("By what they are taken together", tuple(STATISTICS.values()))
        self.columns = QToolButton()
        self.columns.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.columns.setToolTip("Which columns are taken together")
        menu = QMenu(self.columns)
        menu.aboutToShow.connect(lambda: self.list_columns(menu))
        self.columns.setMenu(menu)
        self.complete = configured(QPushButton("only rows with all of them"), checkable=True, checked=True)
        self.complete.setObjectName("slim")
        self.complete.clicked.connect(lambda _: self.changed.emit())
        self.body.addLayout(flow_of(self.statistic, label("of", "quiet"), self.columns, self.complete, spacing=5))
        self._say()

    def offer(self, table: Table) -> None:
        self._names = [column.name for column in table.numeric]
        self.chosen = [name for name in self.chosen if name in self._names]
        self._say()

    def list_columns(self, menu: QMenu) -> None:
        """A tick for each column of numbers."""
        menu.clear()
        for name in self._names[:_MOST_LISTED]:
            action = menu.addAction(shortened(name, 40))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(name in self.chosen)
                action.toggled.connect(lambda on, name=name: self._toggle(name, on))

    def _toggle(self, name: str, on: bool) -> None:
        self.chosen = [each for each in self.chosen if each != name] + ([name] if on else [])
        self._say()
        self.changed.emit()

    def _say(self) -> None:
        self.columns.setText(plural(len(self.chosen), "column") if self.chosen else "columns …")

    def rule(self) -> tuple[str, ColumnRule]:
        if not self.chosen:
            raise CulvixError("Choose at least two columns to be taken together.")
        statistic = list(STATISTICS)[self.statistic.currentIndex()]
        made = ColumnRule(
            "several", columns=tuple(self.chosen), statistic=statistic, complete=self.complete.isChecked()
        )
        return self.chosen[0], made

    def show_rule(self, source: str, rule: ColumnRule) -> None:
        self.chosen = list(rule.columns)
        self.statistic.setCurrentIndex(list(STATISTICS).index(rule.statistic))
        self.complete.setChecked(rule.complete)
        self._say()


class ClassFields(RuleFields):
    """A column of numbers in classes: cut points as typed, or found by as many values or as wide a range each."""

    def __init__(self) -> None:
        super().__init__()
        self._table: Table | None = None
        self.first = self.choice("Which column is put into classes")
        self.cuts = self.line("Values at which classes meet", "such as 20; 30; 40")
        self.names = self.line("What the classes are called", "names, if they are to have any: small; middle; large")
        self.many = self.choice("How many classes", tuple(map(str, range(2, 11))))
        self.many.setCurrentIndex(2)
        as_many, as_wide = (configured(QPushButton(words)) for words in ("as many values each", "as wide each"))
        for button, find in ((as_many, quantile_cuts), (as_wide, equal_cuts)):
            button.setObjectName("slim")
            button.clicked.connect(lambda _, find=find: self._find(find))
        self.body.addLayout(flow_of(self.first, label("in classes that meet at", "quiet"), spacing=5))
        self.body.addWidget(self.cuts)
        self.body.addLayout(flow_of(label("or", "quiet"), self.many, as_many, as_wide, spacing=5))
        self.body.addWidget(self.names)

    def offer(self, table: Table) -> None:
        self._table = table
        relist(self.first, [column.name for column in table.numeric])

    def _find(self, find: Callable[..., Sequence[float]]) -> None:
        if self._table is not None and self.first.currentText():
            sample = self._table[self.first.currentText()].sample
            self.cuts.setText("; ".join(f"{cut:g}" for cut in find(sample, int(self.many.currentText()))))
            self.changed.emit()

    def rule(self) -> tuple[str, ColumnRule]:
        cuts = tuple(number_typed(part) for part in _parts(self.cuts.text()))
        return self.first.currentText(), ColumnRule("classes", cuts=cuts, names=tuple(_parts(self.names.text())))

    def show_rule(self, source: str, rule: ColumnRule) -> None:
        self.first.setCurrentText(source)
        self.cuts.setText("; ".join(f"{cut:.12g}" for cut in rule.cuts))
        self.names.setText("; ".join(rule.names))


def _parts(text: str) -> list[str]:
    return [part.strip() for part in text.split(";") if part.strip()]


class DateFields(RuleFields):
    """A part of dates."""

    def __init__(self) -> None:
        super().__init__()
        self.part, self.first = self.choice("Which part", tuple(PARTS.values())), self.choice("Of which dates")
        self.body.addLayout(flow_of(self.part, label("of", "quiet"), self.first, spacing=5))

    def offer(self, table: Table) -> None:
        relist(self.first, [column.name for column in table if column.role is Role.DATE])

    def rule(self) -> tuple[str, ColumnRule]:
        if not self.first.count():
            raise CulvixError("No column here is read as dates.")
        return self.first.currentText(), ColumnRule("date", part=list(PARTS)[self.part.currentIndex()])

    def show_rule(self, source: str, rule: ColumnRule) -> None:
        self.first.setCurrentText(source)
        self.part.setCurrentIndex(list(PARTS).index(rule.part))


class LevelFields(RuleFields):
    """Levels of a category that are to be called otherwise; those called alike are one."""

    def __init__(self) -> None:
        super().__init__()
        self._table: Table | None = None
        self.first = self.choice("Of which category")
        self.first.activated.connect(lambda _: self._list())
        self.lines: dict[str, QLineEdit] = {}
        self.grid = QGridLayout()
        self.body.addLayout(flow_of(label("levels of", "quiet"), self.first, spacing=5))
        self.body.addLayout(self.grid)

    def offer(self, table: Table) -> None:
        before, self._table = self._table, table
        kinds = (Role.CATEGORY, Role.YES_NO, Role.ORDERED, Role.TEXT)
        names = [c.name for c in table if c.role in kinds and c.values is None and c.distinct <= _MOST_LEVELS]
        relist(self.first, names)
        if before is not table or not self.lines:
            self._list()

    def _list(self) -> None:
        clear_layout(self.grid)
        self.lines = {}
        if self._table is None or not self.first.currentText():
            return
        levels = sorted(dict(self._table[self.first.currentText()].most_frequent(_MOST_LEVELS)))
        for row, level in enumerate(levels):
            line = self.line(f"What {level} is to be called", "as it is")
            self.lines[level] = line
            self.grid.addWidget(label(shortened(level, 30)), row, 0)
            self.grid.addWidget(line, row, 1)

    def rule(self) -> tuple[str, ColumnRule]:
        typed = ((level, line.text().strip()) for level, line in self.lines.items())
        named = tuple((level, name) for level, name in typed if name)
        return self.first.currentText(), ColumnRule("levels", levels=named)

    def show_rule(self, source: str, rule: ColumnRule) -> None:
        self.first.setCurrentText(source)
        self._list()
        for level, name in rule.levels:
            if level in self.lines:
                self.lines[level].setText(name)


FIELDS: dict[str, type[RuleFields]] = {
    "condition": ConditionFields,
    "two": TwoFields,
    "several": SeveralFields,
    "classes": ClassFields,
    "date": DateFields,
    "levels": LevelFields,
}
"""The fields of each kind of rule."""
