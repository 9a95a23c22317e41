"""What can be told from the lines of a delimited text alone: its delimiter, its header, and lines that do not fit."""

import csv
import io
from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from culvix.errors import ReadError

__all__ = ["DELIMITERS", "Header", "Misfits", "find_misfits", "guess_delimiter", "read_header", "unique_names"]

DELIMITERS = {",": "comma", ";": "semicolon", "\t": "tab", "|": "vertical bar"}
_SAMPLE = 1 << 16
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


def _records(text: io.TextIOBase, delimiter: str) -> Iterator[tuple[int, list[str]]]:
    """Records with the number of the line each ends on."""
    previous = csv.field_size_limit(_LONGEST_FIELD)
    try:
        reader = csv.reader(text, delimiter=delimiter)
        for record in reader:
            yield reader.line_num, record
    except csv.Error as error:
        raise ReadError(f"Line {reader.line_num} cannot be split into fields: {error}.") from error
    finally:
        csv.field_size_limit(previous)


def _text(utf8: bytes) -> io.TextIOWrapper:
    return io.TextIOWrapper(io.BytesIO(utf8), encoding="utf-8", newline="")


def guess_delimiter(utf8: bytes) -> str:
    """The delimiter that splits the first lines into the same number of fields, more than one, most often."""
    sample = utf8[:_SAMPLE]
    if len(utf8) > _SAMPLE and b"\n" in sample:
        sample = sample[: sample.rfind(b"\n") + 1]
    text = sample.decode("utf-8", errors="replace")

    def quality(delimiter: str) -> tuple[float, int]:
        try:
            widths = [len(r) for _, r in _records(io.StringIO(text, newline=""), delimiter) if r]
        except ReadError:
            return 0.0, 0
        if not widths:
            return 0.0, 0
        width, often = Counter(widths).most_common(1)[0]
        return (often / len(widths) if width > 1 else 0.0), width

    return max(DELIMITERS, key=quality)


def read_header(utf8: bytes, delimiter: str) -> Header:
    """Names from the first line that is not blank."""
    for _, record in _records(_text(utf8), delimiter):
        if record:
            return unique_names([name.strip() for name in record])
    raise ReadError("There is no header line.")


def unique_names(raw: list[str]) -> Header:
    """``raw`` with empty names numbered and repeated ones told apart."""
    names: list[str] = []
    notes: list[str] = []
    taken = set(raw)
    seen: set[str] = set()
    for place, name in enumerate(raw, start=1):
        new = name or f"column {place}"
        copy = 2
        while new in seen or (new != name and new in taken):
            new = f"{name or f'column {place}'} ({copy})"
            copy += 1
        if new != name:
            was = f"repeats the name {name!r}" if name else "has no name"
            notes.append(f"Column {place} {was}; it is called {new!r}.")
        names.append(new)
        seen.add(new)
    return Header(tuple(names), tuple(notes))


def find_misfits(utf8: bytes, delimiter: str, width: int) -> Misfits:
    """Walk all records after the header for blank lines and the first that does not have ``width`` fields."""
    blank: list[int] = []
    records = _records(_text(utf8), delimiter)
    for _, record in records:
        if record:
            break
    for row, (line, record) in enumerate(records):
        if not record:
            blank.append(row)
        elif len(record) != width:
            return Misfits(tuple(blank), line, len(record))
    return Misfits(tuple(blank))
