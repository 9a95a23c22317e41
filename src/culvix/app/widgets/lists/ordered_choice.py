"""A button with a list of names to tick and to put into order."""

from collections.abc import Mapping, Sequence

from PyQt6.QtWidgets import QMenu, QToolButton, QVBoxLayout, QWidget

from culvix.app.widgets.lists.ordered_list import OrderedList
from culvix.app.widgets.parts import by_font
from culvix.app.widgets.popup_form import PopupForm

__all__ = ["OrderedChoice"]

_MOST_HIGH = 14


class OrderedChoice(QToolButton):
    """Opens an `OrderedList` of ``names``, by key, which stays open until all is chosen."""

    def __init__(self, text: str, tip: str, names: Mapping[str, str], ticked: Sequence[str]) -> None:
        super().__init__()
        self.setText(text)
        self.setToolTip(tip)
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        offered = OrderedList(names, ticked)
        self.list = offered.list
        self.list.setFixedSize(by_font(190), by_font(24) * min(len(names), _MOST_HIGH) + 6)
        self.chosen, self.sized, self.show_names = offered.chosen, offered.sized, offered.show_names
        menu = QMenu(self)
        form = PopupForm()
        self._fields = QVBoxLayout(form)
        self._fields.setContentsMargins(2, 2, 2, 2)
        self._fields.setSpacing(3)
        self.add_below(offered)
        form.put_into(menu)
        menu.aboutToShow.connect(self._begin)
        self.setMenu(menu)

    def add_below(self, widget: QWidget) -> None:
        """One thing more to set, under the list."""
        self._fields.addWidget(widget)

    def _begin(self) -> None:
        if self.list.currentRow() < 0:
            self.list.setCurrentRow(0)
