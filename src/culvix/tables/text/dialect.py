"""The dialect of a delimited text: how its lines split into cells, and how its numbers are written."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from typing import Any

from culvix.tables.model.options.reading_questions import ReadingQuestion
from culvix.tables.text.delimiters import DELIMITERS
from culvix.tables.text.number_marks import NumberMarks

__all__ = ["Dialect"]


@dataclass(frozen=True)
class Dialect:
    """How a delimited text is written. ``reasons`` has a sentence for each part that was guessed.

    ``comment`` is the mark with which lines to leave out begin; ``header_rows`` may be 0. ``decimal`` is "." or ",".
    """

    delimiter: str = ","
    quote: str = '"'
    decimal: str = "."
    thousands: str = ""
    header_rows: int = 1
    preamble_rows: int = 0
    comment: str = ""
    own_marks: Mapping[int, NumberMarks] = field(default_factory=dict)
    """Marks of columns (by place) that write their numbers otherwise."""

    reasons: Mapping[str, str] = field(default_factory=dict)
    questions: tuple[ReadingQuestion, ...] = field(default=(), compare=False)
    """What could be meant otherwise."""

    @property
    def delimiter_name(self) -> str:
        return DELIMITERS.get(self.delimiter, repr(self.delimiter))

    def marks(self, position: int) -> NumberMarks:
        """How the column at ``position`` writes its numbers."""
        return self.own_marks.get(position) or NumberMarks(self.decimal, self.thousands)

    def changed(self, **parts: Any) -> "Dialect":
        """The same dialect with ``parts`` chosen by hand; what was asked about them is answered."""
        if "decimal" in parts and "own_marks" not in parts:
            parts = {"thousands": "", **parts, "own_marks": {}}
        reasons = {**self.reasons, **{part: "chosen by hand" for part in parts if part != "own_marks"}}
        left = tuple(q for q in self.questions if not any(parts.keys() & choice.change.keys() for choice in q.choices))
        return replace(self, **parts, reasons=reasons, questions=left)
