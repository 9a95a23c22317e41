"""Lines that do not have as many fields as there are columns: which, and what can be done with them."""

import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culvix.errors import ReadError
from culvix.stats.core.arrays import Ints
from culvix.stats.display import count, plural
from culvix.tables.model.options.reading_questions import Choice
from culvix.tables.text.dialect import Dialect
from culvix.tables.text.lines import records
from culvix.tables.text.record_splitter import cut, lines_of

__all__ = [
    "FILLED",
    "LEFT_OUT",
    "REFUSED",
    "TREATMENTS",
    "Misfit",
    "RaggedLines",
    "RepairedText",
    "leave_last_note",
    "ragged_lines",
    "repair_ragged",
    "without_last",
]

REFUSED, FILLED, LEFT_OUT = "refused", "filled", "left out"
TREATMENTS = {FILLED: "Fill short lines with missing cells", LEFT_OUT: "Leave these lines out"}
_SHOWN = 5


class Misfit(ReadError):
    """A line has another number of fields than there are columns."""


class RaggedLines(ReadError):
    """Some lines have another number of fields than there are columns; ``choices`` say how they could be read."""

    def __init__(self, sentence: str, lines: Sequence[int], choices: tuple[Choice, ...]) -> None:
        super().__init__(sentence)
        self.lines = tuple(lines)
        self.choices = choices


@dataclass(frozen=True)
class _Record:
    """A record of the text: its first line and the one behind it (from 0), and its number of fields."""

    first: int
    end: int
    fields: int
    trailing: int
    """How many of its last fields are empty."""


@dataclass(frozen=True, eq=False)
class RepairedText:
    """A text whose lines all fit, the line of the old text (from 1) each came from, and the rows (from 0) kept."""

    utf8: bytes
    lines: Ints
    rows: Ints
    note: str


def _walk(utf8: bytes, dialect: Dialect) -> tuple[list[str], list[_Record]]:
    """The lines of a text and its records; blank lines and comments are none."""
    text = utf8.decode("utf-8")
    lines = list(io.StringIO(text, newline=""))
    stream = io.StringIO(text, newline="")
    found, first = [], 0
    for end, fields in records(stream, dialect.delimiter, dialect.quote, strict=True):
        if fields and not (dialect.comment and fields[0].startswith(dialect.comment)):
            last = max((position for position, cell in enumerate(fields, start=1) if cell.strip()), default=0)
            found.append(_Record(first, end, len(fields), len(fields) - last))
        first = end
    return lines, found


def repair_ragged(utf8: bytes, dialect: Dialect, width: int, how: str) -> RepairedText:
    """``utf8``, whose records begin at once, with every record of ``width`` fields.

    Short ones are filled where ``how`` says so, long ones keep what is not empty padding, all others are left out.
    """
    lines, found = _walk(utf8, dialect)
    parts: list[str] = []
    positions: list[int] = []
    rows: list[int] = []
    filled = left = 0
    for row, record in enumerate(found):
        text = "".join(lines[record.first : record.end]).rstrip("\r\n")
        short = width - record.fields
        if short > 0 and how == FILLED:
            text, filled = text + dialect.delimiter * short, filled + 1
        elif short < 0 and record.fields - record.trailing <= width and how == FILLED:
            text, filled = text[: len(text) + short], filled + 1
        elif short:
            left += 1
            continue
        parts.append(text + "\n")
        rows.append(row)
        positions += [record.first + 1 + offset for offset in range(text.count("\n") + 1)]
    sentences = [f"{plural(filled, 'line')} with another number of fields filled with missing cells"] * bool(filled)
    sentences += [f"{plural(left, 'line')} with another number of fields left out"] * bool(left)
    fitting = np.array(positions, dtype=np.int64)
    return RepairedText(
        "".join(parts).encode("utf-8"), fitting, np.array(rows, dtype=np.int64), f"{'; '.join(sentences)}."
    )


def ragged_lines(utf8: bytes, dialect: Dialect, width: int, above: int, first: Misfit) -> RaggedLines:
    """The error that tells all lines below the first ``above`` that do not fit, and what can be done."""
    _, found = _walk(utf8, dialect)
    wrong = [record for record in found if record.fields != width]
    numbers = [above + record.first + 1 for record in wrong]
    shown = ", ".join(count(number) for number in numbers[:_SHOWN]) + (" …" if len(numbers) > _SHOWN else "")
    short = sum(record.fields < width for record in wrong)
    sentence = str(first)
    if len(numbers) > 1:
        sentence += f" {plural(len(numbers), 'line')} do not fit: {shown}."
    footer = _footer(found, width)
    if footer:
        sentence += " The last line may be a footer." if footer == 1 else f" The last {footer} may be a footer."
    choices = []
    if short and short > footer:
        choices.append(Choice(TREATMENTS[FILLED], f"{plural(short, 'line')} filled", {"ragged": FILLED}))
    choices.append(Choice(TREATMENTS[LEFT_OUT], f"{plural(len(wrong), 'line')} left out", {"ragged": LEFT_OUT}))
    return RaggedLines(sentence, numbers, tuple(choices))


def _footer(found: Sequence[_Record], width: int) -> int:
    """How many of the last records fill one field only, as remarks below a table do."""
    number = 0
    for record in reversed(found):
        if width < 2 or record.fields - record.trailing > 1 or record.fields == width:
            break
        number += 1
    return number if number < len(found) else 0


def leave_last_note(records: int) -> tuple[str, ...]:
    """What is said of the last ``records`` rows that are not read, nothing where all are."""
    if not records:
        return ()
    return ("The last row is left out.",) if records == 1 else (f"The last {count(records)} rows are left out.",)


def without_last(utf8: bytes, first: int, dialect: Dialect, width: int, records: int) -> bytes:
    """``utf8`` without its last ``records`` records, which begin behind the byte ``first``.

    Raises ReadError where there are not more than that.
    """
    left = records
    for start, end in reversed(cut(utf8, first, dialect.quote)):
        starts = lines_of(utf8[start:end], dialect, width).starts
        if starts.size > left:
            return utf8[: start + int(starts[starts.size - left])] if left else utf8[:end]
        left -= int(starts.size)
    raise ReadError(f"There are no more than {plural(records, 'row')}, so none would be left.")
