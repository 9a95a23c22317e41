"""Which lanes are shown, and in which order."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QListWidget, QListWidgetItem, QMenu, QToolButton, QWidgetAction

from culvix.charts.stack import LANES

__all__ = ["LanesButton"]


class LanesButton(QToolButton):
    """A list with ticks; lanes are dragged up and down in it."""

    chosen = pyqtSignal(list)

    def __init__(self, names: Sequence[str]) -> None:
        super().__init__()
        self.setText("Lanes")
        self.setToolTip("Choose the lanes, and drag them into order")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.list = QListWidget()
        self.list.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.show_names(names)
        self.list.setFixedSize(170, 24 * len(LANES) + 6)
        self.list.itemChanged.connect(self._said)
        model = self.list.model()
        assert model is not None
        model.rowsMoved.connect(self._said)
        action = QWidgetAction(self)
        action.setDefaultWidget(self.list)
        menu = QMenu(self)
        menu.addAction(action)
        self.setMenu(menu)

    def show_names(self, names: Sequence[str]) -> None:
        """Tick ``names``, which stand first and in this order."""
        self.list.blockSignals(True)
        self.list.clear()
        for name in [*names, *(name for name in LANES if name not in names)]:
            item = QListWidgetItem(name)
            item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
            item.setCheckState(Qt.CheckState.Checked if name in names else Qt.CheckState.Unchecked)
            self.list.addItem(item)
        self.list.blockSignals(False)

    def _said(self, *_: object) -> None:
        every = (self.list.item(place) for place in range(self.list.count()))
        self.chosen.emit([item.text() for item in every if item and item.checkState() == Qt.CheckState.Checked])
