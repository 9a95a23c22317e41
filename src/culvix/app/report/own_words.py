"""The field in which the analyst's own words are written into a page, where they will stand."""

from PyQt6.QtCore import QRect, Qt, pyqtSignal
from PyQt6.QtGui import QFocusEvent, QKeyEvent
from PyQt6.QtWidgets import QPlainTextEdit, QWidget

__all__ = ["OwnWordsField"]

_LEAST = 74
_MOST_OF_PAGE = 0.75
_MARGINS = 24


class OwnWordsField(QPlainTextEdit):
    """Lies over the page. Ctrl+Enter or a click elsewhere takes the words over, Escape leaves what was there."""

    written = pyqtSignal(str)
    """The words as they are now."""

    def __init__(self, page: QWidget) -> None:
        super().__init__(page)
        self._before = ""
        self.setTabChangesFocus(True)
        self.setAccessibleName("Own words in the report")
        self.textChanged.connect(self._grow)
        self.hide()

    def begin(self, words: str, room: QRect, hint: str) -> None:
        """Write on at ``words``, under or over what lies in ``room`` of the page; ``hint`` says what goes here."""
        self._before = words
        self.setPlaceholderText(hint)
        self.setToolTip("Ctrl+Enter takes it over, Escape leaves it as it was")
        self.setGeometry(room)
        self.setPlainText(words)
        self.show()
        self._grow()
        self.selectAll() if not words else self.moveCursor(self.textCursor().MoveOperation.End)
        self.setFocus(Qt.FocusReason.OtherFocusReason)

    def finish(self, *, take: bool = True) -> None:
        """Put the field away; its words are taken over, or left."""
        if self.isHidden():
            return
        self.hide()
        words = self.toPlainText().strip()
        if take and words != self._before.strip():
            self.written.emit(words)

    def _grow(self) -> None:
        """As high as its words, within reason."""
        lines = self.document()
        page = self.parentWidget()
        assert lines is not None and page is not None
        needed = round(lines.size().height() * self.fontMetrics().lineSpacing()) + _MARGINS
        height = round(min(max(needed, _LEAST), _MOST_OF_PAGE * page.height()))
        top = max(min(self.y(), page.height() - height - 4), 0)
        self.setGeometry(self.x(), top, self.width(), height)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        ctrl = bool(event.modifiers() & Qt.KeyboardModifier.ControlModifier)
        if event.key() == Qt.Key.Key_Escape:
            self.finish(take=False)
        elif ctrl and event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.finish()
        else:
            super().keyPressEvent(event)

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        if event is not None and event.reason() not in (
            Qt.FocusReason.PopupFocusReason,
            Qt.FocusReason.ActiveWindowFocusReason,
        ):
            self.finish()
