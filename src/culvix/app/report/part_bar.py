"""The acts on a part of the report, at its upper corner while it is chosen."""

from PyQt6.QtCore import QRect, pyqtSignal
from PyQt6.QtWidgets import QFrame, QPushButton, QWidget

from culvix.app.widgets.parts import row_of

__all__ = ["PartBar"]


class PartBar(QFrame):
    """Lies over the page, out of the way of what is read."""

    copied = pyqtSignal()
    saved = pyqtSignal()
    written = pyqtSignal()

    def __init__(self, page: QWidget) -> None:
        super().__init__(page)
        self.setObjectName("panel")
        self.copy, self.save, self.write = QPushButton("Copy"), QPushButton("Save …"), QPushButton("Write below")
        self.copy.setToolTip("As rich text and as plain text, for another program (Ctrl+C)")
        row = row_of(self.copy, self.save, self.write, spacing=4)
        row.setContentsMargins(4, 3, 4, 3)
        self.setLayout(row)
        for button, signal in ((self.copy, self.copied), (self.save, self.saved), (self.write, self.written)):
            button.setObjectName("slim")
            button.clicked.connect(signal)
        self.hide()

    def show_at(self, room: QRect, *, saves: bool, writes: str, tip: str) -> None:
        """Stand over the upper right corner of ``room``, with the words ``writes`` on the button that writes."""
        self.save.setVisible(saves)
        self.write.setText(writes)
        self.write.setToolTip(tip)
        self.adjustSize()
        page = self.parentWidget()
        assert page is not None
        left = min(room.right() - self.width(), page.width() - self.width() - 4)
        top = room.top() - self.height() - 6
        self.move(max(left, 4), top if top >= 2 else max(min(room.bottom() + 6, page.height() - self.height() - 2), 2))
        self.setVisible(room.bottom() > 0 and room.top() < page.height())
        self.raise_()
