"""A button whose menu has a tick for each numeric column."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QMenu, QToolButton

from culvix.app.session.hub import Hub
from culvix.app.widgets.parts import shortened

__all__ = ["ColumnsButton"]

_MOST_OFFERED = 60


class ColumnsButton(QToolButton):
    """Ticks stand at the columns that ``chosen`` names when the menu is opened."""

    column_toggled = pyqtSignal(str, bool)
    """A column was ticked, or its tick taken away."""

    def __init__(self, hub: Hub, chosen: Callable[[], Sequence[str]]) -> None:
        super().__init__()
        self.setText("Columns")
        self.hub, self.chosen = hub, chosen
        self.setToolTip("Choose the columns")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self)
        menu.aboutToShow.connect(lambda: self.offer(menu))
        self.setMenu(menu)

    def offer(self, menu: QMenu) -> None:
        """List the columns anew."""
        menu.clear()
        names = self.chosen()
        for column in self.hub.study.table.numeric[:_MOST_OFFERED]:
            action = menu.addAction(shortened(column.name, 40))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(column.name in names)
                action.toggled.connect(lambda on, name=column.name: self.column_toggled.emit(name, on))
