"""The line under the top strip that says what needs attention, with what can be done about it."""

from collections.abc import Callable, Sequence

from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton

from culvix.app.widgets.parts import label

__all__ = ["Banner"]


class Banner(QFrame):
    """A sentence, at most two ways to go on, and a button that takes it down."""

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("banner")
        self.text = label("", wrap=True)
        self.action, self.second, close = QPushButton(), QPushButton(), QPushButton("Close")
        close.clicked.connect(self.hide)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 4, 6, 4)
        layout.addWidget(self.text, 1)
        for button in (self.action, self.second, close):
            layout.addWidget(button)
        self.hide()

    def offer(self, sentence: str, ways: Sequence[tuple[str, Callable[[], object]]]) -> None:
        """Show ``sentence`` with a button for each of at most two ``ways`` to go on."""
        self.text.setText(sentence)
        for position, button in enumerate((self.action, self.second)):
            button.setVisible(position < len(ways))
            if button.receivers(button.clicked):
                button.clicked.disconnect()
            if position < len(ways):
                message, act = ways[position]
                button.setText(message)
                button.clicked.connect(lambda _, act=act: act())
        self.show()
