"""Questions that stand in the place of the acts until they are answered: a large decision, an exchange of values."""

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QPushButton, QWidget

from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import ElidedLabel, row_of
from culvix.stats.core.arrays import Ints
from culvix.stats.display import count, plural
from culvix.tables.model.table import Role, Table

__all__ = ["ConfirmQuestion", "ExchangeQuestion"]


_AMOUNTS = (Role.MEASURE, Role.COUNT, Role.ORDERED)


def _partners(table: Table, column: str) -> list[str]:
    """The columns whose values could stand in ``column``, those of its unit first."""
    others = [each for each in table.numeric if each.name != column and each.role in _AMOUNTS and not each.derivation]
    return [each.name for each in sorted(others, key=lambda each: each.unit != table[column].unit)]


class _Question(QWidget):
    """A sentence with a button that agrees and one that leaves things as they are."""

    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.text = ElidedLabel("grave")
        self.yes, self.no = (
            configured(QPushButton(), autoDefault=True),
            configured(QPushButton("Leave it (Esc)"), autoDefault=True),
        )
        self.yes.setObjectName("primary")
        self.no.clicked.connect(self.left)


class ConfirmQuestion(_Question):
    """Whether a decision about many values is meant."""

    def __init__(self) -> None:
        super().__init__()
        self._act: Callable[[], object] = lambda: None
        layout = row_of(self.text, self.yes, self.no)
        layout.setStretch(0, 1)
        self.setLayout(layout)
        self.yes.clicked.connect(lambda: self._act())

    def ask(self, message: str, agree: str, act: Callable[[], object]) -> None:
        """Ask whether ``act`` is to be done."""
        self.text.say(message)
        self.yes.setText(f"{agree} (Enter)")
        self._act = act


class ExchangeQuestion(_Question):
    """With which column values are to be exchanged; both cells are shown as they are and as they would be."""

    agreed = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.column, self.rows = "", np.zeros(0, dtype=np.int64)
        self.other = Choice()
        self.other.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.other.setMinimumContentsLength(16)
        self.other.setToolTip("The column with which the values are exchanged")
        self.other.currentIndexChanged.connect(self._show)
        self.yes.setText("Exchange")
        self.yes.clicked.connect(lambda: self.agreed.emit(self.other.currentText()))
        layout = row_of(self.other, self.text, self.yes, self.no)
        layout.setStretch(1, 1)
        self.setLayout(layout)

    def ask(self, column: str, rows: Ints, other: str = "") -> None:
        """Ask with which column ``rows`` of ``column`` are to be exchanged; ``other`` is offered first."""
        self.column, self.rows = column, rows
        self.other.blockSignals(True)
        self.other.clear()
        self.other.addItems(_partners(self.hub.study.table, column))
        self.other.setCurrentIndex(max(self.other.findText(other), 0))
        self.other.blockSignals(False)
        self._show()

    def _show(self) -> None:
        table, other = self.hub.study.table, self.other.currentText()
        self.yes.setEnabled(bool(other))
        if not other:
            self.text.say("There is no other numeric column.")
            return
        row = int(self.rows[0])
        mine, its = (table[name].cell(row) or "empty" for name in (self.column, other))
        more = f", and so in {plural(int(self.rows.size) - 1, 'more row')}" if self.rows.size > 1 else ""
        self.text.say(f"row {count(table.number_of(row))}: {self.column} {mine} → {its}, {other} {its} → {mine}{more}")
