"""The words with which groups are chosen: by which column, by its values, ranges or periods, or columns by columns."""

from collections.abc import Sequence

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QComboBox, QPushButton, QWidget

from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.lists.columns_button import ColumnsButton
from culvix.app.widgets.parts import label
from culvix.study.analysis.grouping import can_group
from culvix.study.groups.date_periods import PERIODS, WEEKDAY
from culvix.study.groups.row_groups import GroupsBy, ways_to_group
from culvix.study.groups.value_groups import GROUP_ORDERS
from culvix.tables.model.table import Column, Role, Table

__all__ = ["GroupsByFields", "usual_groups"]

_RANGES = (2, 3, 4, 5, 10)
_COLUMNS = "columns with each other"


def columns_for_groups(table: Table) -> list[str]:
    """Columns that can make groups: those likely to, then dates, then numbers by their ranges."""
    likely = can_group(table)
    others = [
        c for c in table if c.name not in likely and (c.role is Role.DATE or c.role in (Role.MEASURE, Role.COUNT))
    ]
    return [*likely, *(c.name for c in sorted(others, key=lambda c: c.role is not Role.DATE))]


def usual_groups(column: Column, likely: Sequence[str]) -> GroupsBy:
    """How ``column`` makes groups as long as nothing was chosen."""
    way = "values" if column.name in likely else ways_to_group(column)[0]
    return GroupsBy(column.name, 4 if way == "ranges" else 0, "month" if way == "periods" else "")


class GroupsByFields(QObject):
    """What is chosen is kept in the study's view; ``changed`` where it is."""

    changed = pyqtSignal()

    def __init__(self, hub: Hub, *, every_column: bool = False) -> None:
        """``every_column`` is grouped, not the one in focus."""
        super().__init__()
        self.hub, self.every_column = hub, every_column
        self.by, self.parts, self.order = Choice(), Choice(), Choice()
        for box in (self.by, self.parts):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(9)
        self.by.setToolTip("Which column makes the groups")
        self.parts.setToolTip("How it makes them")
        self.order.setToolTip("In which order groups stand")
        self.order.addItems(list(GROUP_ORDERS.values()))
        self.columns = ColumnsButton(hub, lambda: hub.study.document.view.compared_columns)
        self.columns.column_toggled.connect(self._toggle)
        self.paired = configured(QPushButton("pair rows"), checkable=True)
        self.paired.setObjectName("slim")
        self.paired.setToolTip("Both columns were measured on the same rows, as before and after")
        self.by.activated.connect(lambda _: self._choose_column())
        self.parts.activated.connect(lambda _: self._choose_parts())
        self.order.activated.connect(lambda at: self._change(groups_order=list(GROUP_ORDERS)[at]))
        self.paired.clicked.connect(lambda on: self._change(groups_paired=on))
        self._ways: list[GroupsBy] = []

    @property
    def widgets(self) -> tuple[QWidget, ...]:
        """In the order in which they stand."""
        quiet = [label(words, "quiet") for words in ("By", "ordered")]
        if self.every_column:
            return quiet[0], self.by, self.parts
        return quiet[0], self.by, self.parts, self.columns, self.paired, quiet[1], self.order

    @property
    def compares_columns(self) -> bool:
        """Whether columns are compared with each other, not one by groups."""
        return not self.every_column and self.hub.study.document.view.groups_by == _COLUMNS

    @property
    def chosen(self) -> GroupsBy | None:
        """What makes the groups; None for columns, and where nothing can."""
        return self._ways[self.parts.currentIndex()] if self._ways and not self.compares_columns else None

    def offer(self) -> None:
        """List what can make groups of the column in focus, and show what was chosen."""
        hub, view = self.hub, self.hub.study.document.view
        table = hub.study.table
        names = [name for name in columns_for_groups(table) if self.every_column or name != hub.focus]
        shown = [*names, _COLUMNS] if len(table.numeric) > 1 and not self.every_column else names
        if [self.by.itemText(at) for at in range(self.by.count())] != shown:
            self.by.clear()
            self.by.addItems(shown)
        at = shown.index(view.groups_by) if view.groups_by in shown else 0
        self.by.setCurrentIndex(at)
        name = self.by.currentText()
        between = name == _COLUMNS
        self.parts.setVisible(not between)
        for part in (self.columns, self.paired):
            part.setVisible(between and not self.every_column)
        self.paired.setEnabled(len(view.compared_columns) == 2)
        self.paired.setChecked(view.groups_paired and self.paired.isEnabled())
        self.order.setCurrentIndex(list(GROUP_ORDERS).index(view.groups_order))
        self._ways = _ways(table[name]) if name in table else []
        self.parts.clear()
        self.parts.addItems([_words(way) for way in self._ways])
        if self._ways:
            wished = GroupsBy(name, view.groups_ranges, view.groups_period)
            usual = usual_groups(table[name], can_group(table))
            found = wished if view.groups_by == name and wished in self._ways else usual
            self.parts.setCurrentIndex(self._ways.index(found) if found in self._ways else 0)
            self.parts.setEnabled(len(self._ways) > 1)

    def _choose_column(self) -> None:
        self._change(groups_by=self.by.currentText(), groups_ranges=-1, groups_period="")

    def _choose_parts(self) -> None:
        way = self._ways[self.parts.currentIndex()]
        self._change(groups_by=way.column, groups_ranges=way.ranges, groups_period=way.period)

    def _toggle(self, name: str, on: bool) -> None:
        before = self.hub.study.document.view.compared_columns
        now = [each for each in before if each != name] + ([name] if on else [])
        self._change(compared_columns=tuple(now))

    def _change(self, **choices: object) -> None:
        self.hub.study.change_view(**choices)
        self.changed.emit()


def _ways(column: Column) -> list[GroupsBy]:
    found: list[GroupsBy] = []
    for way in ways_to_group(column):
        if way == "values":
            found.append(GroupsBy(column.name))
        elif way == "ranges":
            found += [GroupsBy(column.name, ranges=many) for many in _RANGES]
        else:
            found += [GroupsBy(column.name, period=period) for period in (*reversed(PERIODS), WEEKDAY)]
    return found


def _words(way: GroupsBy) -> str:
    if way.ranges:
        return f"in {way.ranges} ranges"
    return f"by {way.period}" if way.period else "by its values"
