"""A button whose words end in an ellipsis where they are wider than it; its tip tells all of them."""

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QPushButton

from culvix.app.widgets.parts import plain_tip

__all__ = ["ElidedButton"]

_AROUND = 10


class ElidedButton(QPushButton):
    """Says ``text`` as far as there is room; the tip says it whole, and what the button does."""

    def __init__(self, text: str, tip: str) -> None:
        super().__init__(text)
        self._whole = text
        self.setAccessibleName(text)
        self.setToolTip(f"{plain_tip(text)}\n{tip}")

    def minimumSizeHint(self) -> QSize:
        return QSize(40, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        room = max(self.width() - _AROUND, 20)
        shown = self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideRight, room)
        if shown != self.text():
            self.setText(shown)
