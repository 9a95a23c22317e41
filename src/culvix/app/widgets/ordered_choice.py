"""A button with a list of names to tick and to put into order, with the mouse or with keys."""

from collections.abc import Mapping, Sequence

from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QMenu, QToolButton, QWidget, QWidgetAction

from culvix.app.widgets.parts import by_font

__all__ = ["OrderedChoice"]

_MOST_HIGH = 14
_MOVES = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}
_SIZES = {"+": 1, "-": -1, "−": -1}


class _OrderedList(QListWidget):
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


class OrderedChoice(QToolButton):
    """``names`` are what can be chosen, by key; those ticked are told in their order."""

    chosen = pyqtSignal(list)
    sized = pyqtSignal(str, int)
    """A key to be made larger (1) or smaller (−1)."""

    def __init__(self, text: str, tip: str, names: Mapping[str, str], ticked: Sequence[str]) -> None:
        super().__init__()
        self.names = names
        self.setText(text)
        self.setToolTip(tip)
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.list = _OrderedList()
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.show_names(ticked)
        self.list.setFixedSize(by_font(190), by_font(24) * min(len(names), _MOST_HIGH) + 6)
        self.list.itemChanged.connect(self._changed)
        model = self.list.model()
        assert model is not None
        model.rowsMoved.connect(self._changed)
        self.list.sized.connect(self._size)
        self._menu = QMenu(self)
        # Opened with a key, it is gone on with keys.
        self._menu.aboutToShow.connect(self._take_keys)
        self.add_below(self.list)
        self.setMenu(self._menu)

    def add_below(self, widget: QWidget) -> None:
        """One thing more to set, under the list."""
        action = QWidgetAction(self)
        action.setDefaultWidget(widget)
        self._menu.addAction(action)

    def show_names(self, ticked: Sequence[str]) -> None:
        """Tick the keys ``ticked``, which stand first and in this order."""
        self.list.blockSignals(True)
        self.list.clear()
        for key in [*ticked, *(key for key in self.names if key not in ticked)]:
            item = QListWidgetItem(self.names[key])
            item.setData(Qt.ItemDataRole.UserRole, key)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if key in ticked else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        self.list.blockSignals(False)

    def _take_keys(self) -> None:
        if self.list.currentRow() < 0:
            self.list.setCurrentRow(0)
        self.list.setFocus(Qt.FocusReason.PopupFocusReason)

    def _size(self, by: int) -> None:
        item = self.list.currentItem()
        if item is not None and item.checkState() == Qt.CheckState.Checked:
            self.sized.emit(item.data(Qt.ItemDataRole.UserRole), by)

    def _changed(self, *_: object) -> None:
        every = (self.list.item(position) for position in range(self.list.count()))
        ticked = [item for item in every if item and item.checkState() == Qt.CheckState.Checked]
        self.chosen.emit([item.data(Qt.ItemDataRole.UserRole) for item in ticked])
