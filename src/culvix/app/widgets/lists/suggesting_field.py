"""A field that offers what could be typed; a suggestion fills it and does nothing else."""

from collections.abc import Sequence

from PyQt6.QtCore import QStringListModel, Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QCompleter, QLineEdit

__all__ = ["SuggestingField"]


class SuggestingField(QLineEdit):
    """Down lists every suggestion; Enter on one of them takes it, and Enter in the field says that it is complete."""

    completed = pyqtSignal()

    def __init__(self, placeholder: str) -> None:
        super().__init__()
        self.setPlaceholderText(placeholder)
        self._offered = QStringListModel(self)
        suggestions = QCompleter(self._offered, self)
        suggestions.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        suggestions.setFilterMode(Qt.MatchFlag.MatchContains)
        self.setCompleter(suggestions)
        self.suggestions = suggestions
        self.returnPressed.connect(self._entered)

    def offer(self, texts: Sequence[str]) -> None:
        """Offer ``texts``, the likeliest first."""
        self._offered.setStringList(list(texts))

    @property
    def offered(self) -> list[str]:
        """What is offered."""
        return self._offered.stringList()

    def empty(self) -> None:
        """Take everything out, as if nothing had been typed."""
        self.clear()
        self.setModified(False)

    def _entered(self) -> None:
        # The field hears of Enter before the list does.
        listed = self.suggestions.popup()
        if listed is None or not listed.isVisible() or not listed.currentIndex().isValid():
            self.completed.emit()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Down and self.offered:
            self.suggestions.setCompletionPrefix("")
            self.suggestions.complete()
        else:
            super().keyPressEvent(event)
