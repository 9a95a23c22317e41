"""A margin that tells of what its view shows, line by line."""

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from culvix.app.widgets.parts import clear_layout, label

__all__ = ["TextMargin"]


class TextMargin(QWidget):
    """Lines go into ``body``."""

    def __init__(self) -> None:
        super().__init__()
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(10, 8, 10, 8)
        self.body.setSpacing(5)

    def say(self, message: str) -> None:
        """Show ``message`` in place of numbers."""
        self.clear()
        self.body.addWidget(label(message, "quiet", wrap=True))

    def clear(self) -> None:
        """Take all lines away."""
        clear_layout(self.body)
