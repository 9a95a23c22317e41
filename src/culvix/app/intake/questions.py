"""What reading the file left open: how missing values are written, and what could be read in another way."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.parts import clear_layout, label, panel, plain_tip, row_of, shortened
from culvix.errors import CulvixError
from culvix.stats.display import count
from culvix.tables.cells.missing_summary import MissingSpelling, counted_as, missing_spellings
from culvix.tables.model.options.reading_questions import ReadingQuestion
from culvix.tables.model.table import Column

__all__ = ["MissingBar", "QuestionCards"]

_MOST, _BESIDE = 12, 7
_LONGEST = 64


class MissingBar(QWidget):
    """Every spelling for a missing value as a button: pressed, it counts as missing; a click takes that back."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub, head: str, *, beside: int = _BESIDE) -> None:
        """``beside`` so many buttons stand in a line; the words stand before those of the first where there is room."""
        super().__init__()
        self.hub, self.head, self.beside = hub, head, beside
        self.names: tuple[str, ...] = ()
        self.buttons: dict[str, QPushButton] = {}
        self._rows = QVBoxLayout(self)
        self._rows.setContentsMargins(0, 0, 0, 0)
        self._rows.setSpacing(4)
        self._shown: object = None

    def show_columns(self, columns: Sequence[Column]) -> None:
        """Show how missing values are written in ``columns``."""
        self.names = tuple(column.name for column in columns)
        empty = sum(column.missing - int(column.missing_written.size) for column in columns)
        spellings = missing_spellings(columns)
        if (self.names, empty, spellings) == self._shown:
            return
        self._shown = (self.names, empty, spellings)
        clear_layout(self._rows)
        text = f"{self.head} empty ({count(empty)})" if empty else self.head if spellings else "No cell is missing."
        message = label(text + ("," if empty and spellings else ""), "quiet")
        self.buttons = {each.spelling: self._button(each) for each in spellings[:_MOST]}
        parts: list[QWidget] = list(self.buttons.values())
        if len(spellings) > _MOST:
            parts.append(label(f"and {count(len(spellings) - _MOST)} more", "quiet"))
        if self.beside < _BESIDE:
            self._rows.addWidget(message)
        else:
            parts.insert(0, message)
        for first in range(0, len(parts), self.beside):
            self._rows.addLayout(row_of(*parts[first : first + self.beside], 1, spacing=4))

    def _button(self, each: MissingSpelling) -> QPushButton:
        button = configured(QPushButton(f"{shortened(each.spelling, 16)} ({count(each.cells)})"), checkable=True)
        button.setChecked(each.is_missing)
        act = "Click to take it as a value" if each.is_missing else "Click to count it as missing"
        button.setToolTip(plain_tip(f"{each.about}\n{act}"))
        button.clicked.connect(lambda _, each=each: self._toggle(each))
        return button

    def _toggle(self, each: MissingSpelling) -> None:
        missing = not each.is_missing
        table = self.hub.study.table
        self._shown = None
        try:
            changes = {
                name: partial(counted_as, table[name], spelling=each.spelling, missing=missing)
                for name in each.columns
                if name in table
            }
            self.hub.edit_each(changes)
        except CulvixError as error:
            self.problem.emit(error.sentence)


class QuestionCards(QWidget):
    """What can be read in more than one way, each reading with what it gives; a click reads the file so."""

    answered = pyqtSignal(object)
    """What the answer changes in the reading."""

    def __init__(self) -> None:
        super().__init__()
        self.buttons: dict[tuple[str, str], QPushButton] = {}
        self._cards = QVBoxLayout(self)
        self._cards.setContentsMargins(0, 0, 0, 0)
        self._cards.setSpacing(4)

    def show_questions(self, questions: Sequence[ReadingQuestion]) -> None:
        """Show ``questions``, of which there may be none."""
        clear_layout(self._cards)
        self.buttons = {}
        for asked in questions:
            card, inside = panel(margins=(8, 4, 8, 4))
            card.setObjectName("mild")
            inside.addWidget(label(asked.sentence, wrap=True))
            buttons: list[QWidget | int] = []
            for choice in asked.choices:
                button = configured(QPushButton(shortened(f"{choice.label}: {choice.gives}", _LONGEST)), checkable=True)
                button.setChecked(choice.in_force)
                button.setEnabled(not choice.in_force)
                state = "The file is read so" if choice.in_force else "Read the file so"
                button.setToolTip(plain_tip(f"{choice.gives}\n{state}"))
                button.clicked.connect(lambda _, choice=choice: self.answered.emit(choice.change))
                self.buttons[asked.kind, choice.label] = button
                buttons.append(button)
            inside.addLayout(row_of(*buttons, 1, spacing=4))  # type: ignore[attr-defined]
            self._cards.addWidget(card)
        self.setVisible(bool(questions))
