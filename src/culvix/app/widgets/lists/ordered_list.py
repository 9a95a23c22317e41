"""A list of names to tick and to put into order, with the mouse or with keys, and to search where it is long."""

from collections.abc import Container, Mapping, Sequence

from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from culvix.app.session.configured import configured

__all__ = ["OrderedList"]

_SEARCHED = 15
"""Names from which on they can be searched."""
_MOVES = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
_SIZES = {"+": 1, "-": -1, "−": -1}


class _Names(QListWidget):
    """Lines are dragged, or moved with Ctrl and an arrow; Space ticks them, plus and minus size them."""

    sized = pyqtSignal(int)
    """1 for larger, −1 for smaller, of the current line."""

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        ctrl = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if ctrl and event.key() in _MOVES:
            self._move(_MOVES[Qt.Key(event.key())])
        elif event.text() in _SIZES:
            self.sized.emit(_SIZES[event.text()])
        else:
            super().keyPressEvent(event)

    def _move(self, by: int) -> None:
        model, row = self.model(), self.currentRow()
        assert model is not None
        if row >= 0 and 0 <= row + by < self.count():
            # A row moves before another one: downwards that is the one after the next.
            model.moveRow(QModelIndex(), row, QModelIndex(), row + by + (by > 0))


class OrderedList(QWidget):
    """``names`` are what can be chosen, by key; those ticked are told in their order."""

    chosen = pyqtSignal(list)
    sized = pyqtSignal(str, int)
    """A key to be made larger (1) or smaller (−1)."""

    def __init__(self, names: Mapping[str, str], ticked: Sequence[str]) -> None:
        super().__init__()
        self.names = names
        self.search = configured(QLineEdit(), placeholderText="Find", clearButtonEnabled=True)
        self.search.setAccessibleName("Find a name in the list")
        if len(names) < _SEARCHED:
            self.search.hide()
        self.search.textChanged.connect(self._narrow)
        self.list = _Names()
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.list.setTabKeyNavigation(False)
        self.show_names(ticked)
        self.list.itemChanged.connect(self._changed)
        model = self.list.model()
        assert model is not None
        model.rowsMoved.connect(self._changed)
        self.list.sized.connect(self._size)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        layout.addWidget(self.search)
        layout.addWidget(self.list)

    def show_names(self, ticked: Sequence[str]) -> None:
        """Tick the keys ``ticked``, which stand first and in this order."""
        self.show_order([*ticked, *(key for key in self.names if key not in ticked)], set(ticked))

    def show_order(self, order: Sequence[str], ticked: Container[str]) -> None:
        """Show all keys in ``order``, those of ``ticked`` with a tick; the current line stays."""
        current = self.current
        self.list.blockSignals(True)
        self.list.clear()
        for key in order:
            item = QListWidgetItem(self.names[key])
            item.setData(Qt.ItemDataRole.UserRole, key)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if key in ticked else Qt.CheckState.Unchecked)
            self.list.addItem(item)
            if key == current:
                self.list.setCurrentItem(item)
        self.list.blockSignals(False)
        self._narrow()

    @property
    def order(self) -> list[str]:
        """All keys, in order."""
        return [item.data(Qt.ItemDataRole.UserRole) for item in self._items()]

    @property
    def current(self) -> str | None:
        """The key of the current line."""
        item = self.list.currentItem()
        return None if item is None else item.data(Qt.ItemDataRole.UserRole)

    @property
    def ticked(self) -> list[str]:
        """The keys that are ticked, in order."""
        ticked = [item for item in self._items() if item.checkState() == Qt.CheckState.Checked]
        return [item.data(Qt.ItemDataRole.UserRole) for item in ticked]

    def tick(self, key: str, on: bool = True) -> None:
        """Tick one key, or take its tick away, and tell."""
        for item in self._items():
            if item.data(Qt.ItemDataRole.UserRole) == key:
                item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)

    def _items(self) -> list[QListWidgetItem]:
        every = (self.list.item(position) for position in range(self.list.count()))
        return [item for item in every if item is not None]

    def _narrow(self) -> None:
        """Show the names with the text searched for, in the order in which they stand."""
        text = self.search.text().strip().lower()
        for item in self._items():
            item.setHidden(text not in item.text().lower())

    def _size(self, by: int) -> None:
        item = self.list.currentItem()
        if item is not None and item.checkState() == Qt.CheckState.Checked:
            self.sized.emit(item.data(Qt.ItemDataRole.UserRole), by)

    def _changed(self, *_: object) -> None:
        self.chosen.emit(self.ticked)
