"""What can be told from the lines of a delimited text alone: their records, their names, and those that do not fit."""

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from culvix.errors import ReadError

__all__ = ["Header", "Misfits", "find_misfits", "quoting_of", "records", "unique_names"]

_LONGEST_FIELD = 1 << 27


@dataclass(frozen=True)
class Header:
    """Column names, made unique and non-empty, and notes on those that had to be changed."""

    names: tuple[str, ...]
    notes: tuple[str, ...]


@dataclass(frozen=True)
class Misfits:
    """Data rows (from 0, as read) that are blank lines, and the first line with a wrong number of fields."""

    blank: tuple[int, ...]
    line: int | None = None
    fields: int = 0


def records(
    text: io.TextIOBase, delimiter: str, quote: str = '"', *, strict: bool = False
) -> Iterator[tuple[int, list[str]]]:
    """Records with the number of the line each ends on; ``strict`` refuses a quotation mark that is never closed."""
    previous = csv.field_size_limit(_LONGEST_FIELD)
    try:
        reader = csv.reader(
            text, delimiter=delimiter, quotechar=quote or None, quoting=quoting_of(quote), strict=strict
        )
        for record in reader:
            yield reader.line_num, record
    except csv.Error as error:
        raise ReadError(f"Line {reader.line_num} cannot be split into fields: {error}.") from error
    finally:
        csv.field_size_limit(previous)


def quoting_of(quote: str) -> Literal[0, 3]:
    """`csv.QUOTE_MINIMAL` where fields may be quoted, `csv.QUOTE_NONE` where nothing quotes."""
    return 0 if quote else 3


def _text(utf8: bytes) -> io.TextIOWrapper:
    return io.TextIOWrapper(io.BytesIO(utf8), encoding="utf-8", newline="")


def unique_names(raw: list[str]) -> Header:
    """``raw`` with empty names numbered and repeated ones told apart."""
    names: list[str] = []
    notes: list[str] = []
    taken = set(raw)
    seen: set[str] = set()
    for position, name in enumerate(raw, start=1):
        new = name or f"column {position}"
        copy = 2
        while new in seen or (new != name and new in taken):
            new = f"{name or f'column {position}'} ({copy})"
            copy += 1
        if new != name:
            was = f"repeats the name {name!r}" if name else "has no name"
            notes.append(f"Column {position} {was}; it is called {new!r}.")
        names.append(new)
        seen.add(new)
    return Header(tuple(names), tuple(notes))


def find_misfits(utf8: bytes, delimiter: str, width: int, *, quote: str = '"', comment: str = "") -> Misfits:
    """Walk all records for blank ones and the first without ``width`` fields."""
    text = _text(utf8)
    blank: list[int] = []
    row = 0
    for line, record in records(text, delimiter, quote):
        if comment and record and record[0].startswith(comment):
            continue
        if not record:
            blank.append(row)
        elif len(record) != width:
            return Misfits(tuple(blank), line, len(record))
        row += 1
    return Misfits(tuple(blank))
