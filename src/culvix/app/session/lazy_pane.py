"""A pane made anew after the picture, once for many reasons, and only while it can be seen."""

from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QWidget

from culvix.app.session.scheduler import task_queue

__all__ = ["LazyPane", "hidden"]


def hidden(pane: QWidget) -> bool:
    """Whether ``pane``, or one around it, was hidden; a window that was never shown is not."""
    widget: QWidget | None = pane
    while widget is not None and widget.parentWidget() is not None:
        if widget.isHidden():
            return True
        widget = widget.parentWidget()
    return False


class LazyPane(QWidget):
    """Calls its `refresh` soon after `request_refresh`; while it is hidden, not before it is shown again."""

    patience = 0
    """Milliseconds it lets others go first, so that not all panes are made anew in one go."""

    def __init__(self) -> None:
        super().__init__()
        self._refresh_due = False
        self._delay = QTimer(self)
        self._delay.setSingleShot(True)
        self._delay.setInterval(self.patience)
        self._delay.timeout.connect(lambda: task_queue().take(self.apply_pending))

    def refresh(self) -> None:
        """Show things as they stand."""

    def request_refresh(self, *_: object) -> None:
        """Something shown here has changed."""
        self._refresh_due = True
        self._delay.start()

    def refresh_now(self, *_: object) -> None:
        """Something shown here has changed, and what follows from it is worked out in the background."""
        self._refresh_due = True
        self.apply_pending()

    def apply_pending(self) -> None:
        """Make the pane anew now, where that is owed and it can be seen."""
        if self._refresh_due and not hidden(self):
            self._refresh_due = False
            self.refresh()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self._refresh_due:
            self._delay.start()
