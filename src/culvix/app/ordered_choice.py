"""A button with a list of names to tick and to drag into order."""

from collections.abc import Mapping, Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QMenu, QToolButton, QWidget, QWidgetAction

__all__ = ["OrderedChoice"]

_MOST_HIGH = 14


class OrderedChoice(QToolButton):
    """``names`` are what can be chosen, by key; those ticked are told in their order."""

    chosen = pyqtSignal(list)

    def __init__(self, text: str, tip: str, names: Mapping[str, str], ticked: Sequence[str]) -> None:
        super().__init__()
        self.names = names
        self.setText(text)
        self.setToolTip(tip)
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.list = QListWidget()
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.show_names(ticked)
        self.list.setFixedSize(190, 24 * min(len(names), _MOST_HIGH) + 6)
        self.list.itemChanged.connect(self._said)
        model = self.list.model()
        assert model is not None
        model.rowsMoved.connect(self._said)
        self._menu = QMenu(self)
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

    def _said(self, *_: object) -> None:
        every = (self.list.item(place) for place in range(self.list.count()))
        ticked = [item for item in every if item and item.checkState() == Qt.CheckState.Checked]
        self.chosen.emit([item.data(Qt.ItemDataRole.UserRole) for item in ticked])
