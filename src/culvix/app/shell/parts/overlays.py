"""What the window says to the analyst, over the page: nothing that is to be clicked moves for it."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QEvent, QObject, Qt, QTimer
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QWidget

from culvix.app.session.configured import configured
from culvix.app.widgets.parts import label

__all__ = ["Banner", "Hint", "Remark"]

SECONDS_SHOWN, _SECONDS_WITH_ACTION = 7, 15
_MARGIN = 8


class _Overlay(QFrame):
    """Stands over its parent, and stays in its place there whatever the size of that is."""

    def __init__(self, parent: QWidget, name: str) -> None:
        super().__init__(parent)
        self.setObjectName(name)
        self.text = label("", wrap=True)
        parent.installEventFilter(self)
        self.hide()

    def eventFilter(self, watched: QObject | None, event: QEvent | None) -> bool:
        if event is not None and event.type() == QEvent.Type.Resize and self.isVisible():
            self.take_place()
        return False

    def take_place(self) -> None:
        """Take the place that is meant for it."""
        raise NotImplementedError


class Banner(_Overlay):
    """What went wrong or is asked, under the top strip: a sentence, at most two ways to go on, and a button to close.

    Failures are red; questions are not.
    """

    def __init__(self, parent: QWidget, below: QWidget) -> None:
        super().__init__(parent, "banner")
        self.below = below
        self.action, self.second, close = QPushButton(), QPushButton(), QPushButton("Close")
        close.clicked.connect(self.hide)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 4, 6, 4)
        layout.addWidget(self.text, 1)
        for button in (self.action, self.second, close):
            layout.addWidget(button)

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
        self.setProperty("asks", bool(ways))
        style = self.style()
        if style is not None:
            # The colours of the style sheet follow a property only when they are looked up again.
            style.unpolish(self)
            style.polish(self)
        self.show()
        self.take_place()
        self.raise_()

    def take_place(self) -> None:
        parent = self.parentWidget()
        if parent is None:
            return
        width = parent.width() - 2 * _MARGIN
        layout = self.layout()
        height = layout.heightForWidth(width) if layout is not None else 0
        self.setGeometry(_MARGIN, self.below.geometry().bottom() + 3, width, max(height, self.sizeHint().height()))


class Remark(_Overlay):
    """A quiet line at the foot of the window that leaves by itself; with a button where there is something to do."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, "remark")
        self.action = QPushButton()
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 5, 8, 5)
        layout.addWidget(self.text)
        layout.addWidget(self.action)
        self._leaving = configured(QTimer(self), singleShot=True)
        self._leaving.timeout.connect(self.hide)

    def say(self, sentence: str, action: str = "", act: Callable[[], object] | None = None) -> None:
        """Show ``sentence`` for some seconds."""
        self.text.setText(sentence)
        self.action.setVisible(act is not None)
        self.action.setText(action)
        if self.action.receivers(self.action.clicked):
            self.action.clicked.disconnect()
        if act is not None:
            self.action.clicked.connect(lambda _: act())
        # What lies below it can be clicked, as if it were not there.
        self.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents, act is None)
        self.show()
        self.take_place()
        self.raise_()
        self._leaving.start(1000 * (SECONDS_SHOWN if act is None else _SECONDS_WITH_ACTION))

    def take_place(self) -> None:
        _stand_at_foot(self)


class Hint(_Overlay):
    """What a newcomer may want to know of what is in view, at the foot of the window, until it is put away."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent, "remark")
        self.understood = QPushButton("Got it")
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 5, 8, 5)
        layout.addWidget(self.text)
        layout.addWidget(self.understood)

    def say(self, sentence: str) -> None:
        """Show ``sentence``."""
        self.text.setText(sentence)
        self.show()
        self.take_place()
        self.raise_()

    def take_place(self) -> None:
        _stand_at_foot(self)


def _stand_at_foot(overlay: _Overlay) -> None:
    """Put ``overlay`` into the middle at the foot of its parent, as wide as its words ask for."""
    parent, layout = overlay.parentWidget(), overlay.layout()
    if parent is None:
        return
    widest = parent.width() - 4 * _MARGIN
    overlay.text.setWordWrap(False)
    width = overlay.sizeHint().width()
    overlay.text.setWordWrap(width > widest)
    width = min(width, widest)
    tall = layout.heightForWidth(width) if layout is not None and layout.hasHeightForWidth() else 0
    height = max(tall, overlay.sizeHint().height())
    overlay.setGeometry((parent.width() - width) // 2, parent.height() - height - _MARGIN, width, height)
