"""The texts of a column from lowest to highest, and the numbers given to them."""

from collections.abc import Mapping
from dataclasses import replace
from types import MappingProxyType

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QPushButton, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.widgets.parts import by_font, label, row_of
from culvix.stats.display import typed_number
from culvix.tables.model.table import Column, Role
from culvix.tables.model.text_mappings import CAUTION, RangeEnd, by_range, by_rank, in_order

__all__ = ["MOST_TEXTS", "OrderPane"]

MOST_TEXTS = 60


class OrderPane(QWidget):
    """Rows can be moved up and down; numbers are given by rank or by range, or typed in."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.name = ""
        self.list = QTableWidget(0, 2)
        self.list.setHorizontalHeaderLabels(["text, lowest first", "number"])
        self.list.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.list.setShowGrid(False)
        self.list.setMinimumHeight(by_font(130))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        for header in (self.list.verticalHeader(), self.list.horizontalHeader()):
            assert header is not None
            header.setDefaultSectionSize(by_font(24 if header.orientation() == Qt.Orientation.Vertical else 130))
        self.list.verticalHeader().hide()  # type: ignore[union-attr]
        self.list.horizontalHeader().setStretchLastSection(True)  # type: ignore[union-attr]
        self.list.itemChanged.connect(self._typed)
        self.buttons: dict[str, QPushButton] = {}
        moves = [self._button(message, lambda by=by: self._move(by)) for message, by in (("Lower", -1), ("Higher", 1))]
        numbers: list[QWidget] = [label("Of a range", "quiet")]
        for end in RangeEnd:
            button = self._button(str(end).removesuffix(" end").capitalize(), lambda end=end: self._range(end))
            button.setToolTip(f"Of a range such as 10 to 20 take the {end}")
            numbers.append(button)
        self.caution = label(CAUTION, "quiet", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(label("Order and numbers", "head"))
        layout.addWidget(self.list)
        rank, clear = self._button("By rank", self._rank), self._button("None", self._clear)
        rank.setToolTip("Number the texts 1, 2, 3 … as they stand")
        clear.setToolTip("Take the numbers away")
        layout.addLayout(row_of(*moves, 1, rank, clear, spacing=4))
        layout.addLayout(row_of(*numbers, 1, spacing=4))
        layout.addWidget(self.caution)

    def _button(self, message: str, act: object) -> QPushButton:
        button = QPushButton(message)
        button.clicked.connect(lambda: act())  # type: ignore[operator]
        self.buttons[message] = button
        return button

    def show_column(self, column: Column, texts: list[str]) -> None:
        """Show the ``texts`` of ``column`` in the order said, or that which they suggest."""
        self.name = column.name
        entry = self.hub.study.dictionary.of(column.name)
        known = [text for text in entry.order if text in texts]
        order = [*known, *in_order(text for text in texts if text not in known)]
        self._fill(order, entry.mapping)

    def _fill(self, order: list[str], mapping: Mapping[str, float]) -> None:
        self.list.blockSignals(True)
        self.list.setRowCount(len(order))
        for row, text in enumerate(order):
            message = QTableWidgetItem(text)
            message.setFlags(message.flags() & ~Qt.ItemFlag.ItemIsEditable)
            value = mapping.get(text)
            self.list.setItem(row, 0, message)
            figure = QTableWidgetItem("" if value is None else f"{value:g}")
            figure.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.list.setItem(row, 1, figure)
        self.list.blockSignals(False)
        self.caution.setVisible(bool(mapping))

    @property
    def order(self) -> list[str]:
        """The texts as they stand, lowest first."""
        items = (self.list.item(row, 0) for row in range(self.list.rowCount()))
        return [item.text() for item in items if item is not None]

    def _move(self, by: int) -> None:
        order, row = self.order, self.list.currentRow()
        if 0 <= row < len(order) and 0 <= row + by < len(order):
            order[row], order[row + by] = order[row + by], order[row]
            ranked = self.hub.study.dictionary.of(self.name).mapping == by_rank(self.order)
            self._say(order, by_rank(order) if ranked else None)
            self.list.setCurrentCell(row + by, 0)

    def _rank(self) -> None:
        self._say(self.order, by_rank(self.order))

    def _range(self, end: RangeEnd) -> None:
        mapping = by_range(self.order, end)
        if not mapping:
            self.problem.emit("None of these texts names a number or a range; give them numbers by rank.")
            return
        self._say(self.order, mapping)

    def _clear(self) -> None:
        self._say(self.order, {})

    def _typed(self, item: QTableWidgetItem) -> None:
        if item.column() != 1:
            return
        mapping = dict(self.hub.study.dictionary.of(self.name).mapping)
        text, message = self.order[item.row()], item.text().strip()
        try:
            value = typed_number(message) if message else None
        except ValueError:
            self.problem.emit(f"The number for “{text}” must be a number, not “{item.text()}”.")
            value = mapping.get(text)
        mapping.pop(text, None)
        self._say(self.order, mapping if value is None else {**mapping, text: value})

    def _say(self, order: list[str], mapping: Mapping[str, float] | None) -> None:
        """Say the order and, unless None, the numbers; a column given numbers becomes one of numbers."""
        declared = self.hub.study.dictionary.of(self.name).mapping if mapping is None else mapping
        self._fill(order, declared)
        role = None
        if declared:
            role = Role.ORDERED if declared == by_rank(order) else Role.MEASURE

        def change(entry: object) -> object:
            numbers = MappingProxyType(dict(declared))
            if mapping is None:
                return replace(entry, order=tuple(order), mapping=numbers)  # type: ignore[type-var]
            return replace(entry, order=tuple(order), mapping=numbers, role=role)  # type: ignore[type-var]

        self.hub.edit_columns([self.name], change)  # type: ignore[arg-type]
