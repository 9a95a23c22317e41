"""Fields in a menu, gone through with Tab: a menu by itself would take Tab for its own entries."""

from collections.abc import Sequence

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QApplication, QMenu, QWidget, QWidgetAction

__all__ = ["PopupForm"]


def _takes_tab(widget: QWidget) -> bool:
    can = bool(widget.focusPolicy() & Qt.FocusPolicy.TabFocus) and widget.focusProxy() is None
    return can and widget.isEnabled() and not widget.isHidden()


class PopupForm(QWidget):
    """Holds the fields; put into a menu, its first one has the keyboard when the menu opens."""

    order: Sequence[QWidget] = ()
    """The fields in their order, where that is not the one in which lines are read."""

    def put_into(self, menu: QMenu) -> None:
        """Make the form the content of ``menu``."""
        action = QWidgetAction(menu)
        action.setDefaultWidget(self)
        menu.addAction(action)
        menu.aboutToShow.connect(self._take_keys)

    @property
    def fields(self) -> list[QWidget]:
        """What can be reached with Tab, in order."""
        if self.order:
            return [field for field in self.order if _takes_tab(field)]
        # The list that a box opens is a window of its own.
        found = [child for child in self.findChildren(QWidget) if child.window() is self.window() and _takes_tab(child)]
        # In the order in which they are read, whatever the order they were made in.
        return sorted(found, key=lambda child: (child.mapTo(self, QPoint()).y(), child.mapTo(self, QPoint()).x()))

    def _take_keys(self) -> None:
        if self.fields:
            self.fields[0].setFocus(Qt.FocusReason.PopupFocusReason)

    def focusNextPrevChild(self, forward: bool) -> bool:
        fields, now = self.fields, QApplication.focusWidget()
        if not fields:
            return False
        position = fields.index(now) if now in fields else -1
        fields[(position + (1 if forward else -1)) % len(fields)].setFocus(Qt.FocusReason.TabFocusReason)
        return True
