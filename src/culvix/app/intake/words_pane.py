"""What the codes of a column stand for, written as lines such as "1 = never", for one column or for many at once."""

from collections.abc import Mapping, Sequence
from dataclasses import replace
from types import MappingProxyType

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPlainTextEdit, QPushButton, QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.widgets.parts import by_font, label, row_of
from culvix.tables.model.code_words import codes_of, lines_of, read_lines
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Column

__all__ = ["WordsPane"]


class WordsPane(QWidget):
    """The codes found stand in lines to be filled in; a code book can be pasted over them."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.names: tuple[str, ...] = ()
        self.lines = QPlainTextEdit()
        self.lines.setPlaceholderText("1 = never\n2 = sometimes")
        self.lines.setAccessibleName("What each code stands for")
        self.lines.setToolTip("One line a code: 1 = never. Codes without a word may stay as they are")
        self.lines.setFixedHeight(by_font(120))
        self.lines.setTabChangesFocus(True)
        self.give, self.clear = QPushButton("Give these words"), QPushButton("None")
        self.give.setToolTip("Show the words with the codes on axes, in groups and in the report")
        self.clear.setToolTip("Take the words away")
        self.give.clicked.connect(self._give)
        self.clear.clicked.connect(lambda: self._say({}))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(label("Words for codes", "head"))
        layout.addWidget(self.lines)
        layout.addLayout(row_of(self.give, self.clear, 1, spacing=4))

    def show_columns(self, columns: Sequence[Column]) -> None:
        """Show the codes of ``columns`` with what is said of them; nothing where these are no columns of codes."""
        codes = codes_of(columns)
        self.setVisible(bool(codes))
        self.names = tuple(column.name for column in columns)
        if codes:
            words = {code: word for column in columns for code, word in column.words.items()}
            text = lines_of(codes, words)
            if text != self.lines.toPlainText():
                self.lines.setPlainText(text)

    def _give(self) -> None:
        try:
            words = read_lines(self.lines.toPlainText())
        except ValueError as error:
            self.problem.emit(str(error))
            return
        self._say(words)

    def _say(self, words: Mapping[str, str]) -> None:
        def change(entry: ColumnEntry) -> ColumnEntry:
            return replace(entry, words=MappingProxyType(dict(words)))

        self.hub.edit_columns(self.names, change)
