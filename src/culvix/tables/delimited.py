"""Delimited text into cells, by a dialect. Lines with too few or too many fields are refused, not padded or cut."""

import io
import re
from collections.abc import Iterable, Sequence
from itertools import islice

import numpy as np
import polars as pl

from culvix.errors import ReadError
from culvix.stats.arrays import Ints
from culvix.stats.display import count, plural
from culvix.tables.dialect import Dialect, guess_dialect
from culvix.tables.lines import find_misfits, records, unique_names
from culvix.tables.raw import RawTable

__all__ = ["looks_like_values", "read_delimited"]

_LOOK = 1 << 22
MOST_COLUMNS = 20_000


def read_delimited(utf8: bytes, dialect: Dialect | None = None, *, encoding: str = "UTF-8") -> RawTable:
    """Split ``utf8`` by ``dialect``, or by the one that fits best.

    Raises ReadError where lines do not fit together, naming the first that does not, or where there are no data rows.
    """
    dialect = guess_dialect(utf8) if dialect is None else dialect
    heads, skip = _heads(utf8, dialect)
    width = max(len(head) for head in heads)
    if width > MOST_COLUMNS:
        raise ReadError(f"There are {count(width)} columns; at most {count(MOST_COLUMNS)} are read.")
    if dialect.header_rows:
        header = unique_names([_joined(head[place] for head in heads if place < len(head)) for place in range(width)])
    else:
        header = unique_names([f"column {place}" for place in range(1, width + 1)])
    frame, blank = _split(utf8, dialect, width, skip)
    if not frame.height:
        raise ReadError(f"There is a header of {plural(width, 'column')} but no data rows.")
    notes = header.notes
    if blank:
        notes = (*notes, f"{plural(blank, 'blank line')} left out.")
    if not dialect.header_rows:
        notes = (*notes, "There is no line of names; the columns are numbered.")
    return RawTable(header.names, frame, "delimited text", encoding, dialect, notes)


def _joined(parts: Iterable[str]) -> str:
    return " ".join(part.strip() for part in parts if part.strip())


def _heads(utf8: bytes, dialect: Dialect) -> tuple[list[list[str]], int]:
    """The lines of names (or the first of values where there are none), and how many lines stand above the values."""
    stream = io.TextIOWrapper(io.BytesIO(utf8[:_LOOK]), encoding="utf-8", errors="replace", newline="")
    lines = list(islice(stream, 500))
    skip = 0
    left = dialect.preamble_rows
    while skip < len(lines):
        line = lines[skip]
        if dialect.comment and line.startswith(dialect.comment):
            skip += 1
        elif left:
            left, skip = left - 1, skip + 1
        elif not line.strip():
            skip += 1
        else:
            break
    rest = io.StringIO("".join(lines[skip:]), newline="")
    heads: list[list[str]] = []
    for last, record in records(rest, dialect.delimiter, dialect.quote):
        if record:
            heads.append(record)
        if len(heads) == max(dialect.header_rows, 1):
            return heads, skip + (last if dialect.header_rows else 0)
    if not heads:
        raise ReadError("There is no header line.")
    return heads, len(lines)


def _split(utf8: bytes, dialect: Dialect, width: int, skip: int) -> tuple[pl.DataFrame, int]:
    """All cells as text, and the number of blank lines left out."""
    names = [str(place) for place in range(width)]
    try:
        frame = pl.read_csv(
            utf8,
            separator=dialect.delimiter,
            quote_char=dialect.quote or None,
            comment_prefix=dialect.comment or None,
            has_header=False,
            skip_lines=skip,
            infer_schema=False,
            raise_if_empty=False,
        )
    except pl.exceptions.PolarsError as error:
        _refuse(utf8, dialect, width, skip)
        raise ReadError("The lines cannot be split into columns; a quotation mark may never be closed.") from error
    if not frame.width:
        return pl.DataFrame(schema=dict.fromkeys(names, pl.String)), 0
    if frame.width != width:
        _refuse(utf8, dialect, width, skip)
        raise ReadError(f"The header has {plural(width, 'field')}, but the lines split into {frame.width}.")
    frame.columns = names
    last = frame.to_series(width - 1)
    if width == 1 or not last.null_count():
        return frame, 0
    # A cut-off line and a blank line both show as an empty last cell; only the lines themselves can tell.
    doubtful = np.flatnonzero(last.is_null().to_numpy())
    blank = _blank_lines(utf8, dialect, width, skip, doubtful, frame.height)
    if blank.size:
        keep = np.ones(frame.height, dtype=bool)
        keep[blank] = False
        frame = frame.filter(pl.Series(keep))
    return frame, int(blank.size)


def _blank_lines(utf8: bytes, dialect: Dialect, width: int, skip: int, doubtful: Ints, rows: int) -> Ints:
    """Which of the ``doubtful`` rows are blank lines. Raises ReadError where one has too few fields."""
    quoted = bool(dialect.quote) and dialect.quote.encode() in utf8
    if quoted or dialect.comment:
        blank = _refuse(utf8, dialect, width, skip)
        return np.array([row for row in blank if row < rows], dtype=np.int64)
    starts = _line_starts(utf8)[skip:]
    mark = dialect.delimiter.encode()
    found = []
    for row in doubtful.tolist():
        line = utf8[starts[row] : starts[row + 1] if row + 1 < starts.size else None]
        fields = line.count(mark) + 1
        if not line.strip():
            found.append(row)
        elif fields != width:
            _misfit(skip + row + 1, fields, width, dialect)
    return np.array(found, dtype=np.int64)


def _line_starts(utf8: bytes) -> Ints:
    """Where each line begins, found block by block so that no array as long as the text is kept."""
    starts = [np.zeros(1, dtype=np.int64)]
    view = np.frombuffer(utf8, dtype=np.uint8)
    for first in range(0, view.size, _LOOK):
        starts.append(np.flatnonzero(view[first : first + _LOOK] == 10) + first + 1)
    return np.concatenate(starts)


def _refuse(utf8: bytes, dialect: Dialect, width: int, skip: int) -> tuple[int, ...]:
    """Rows that are blank lines. Raises ReadError naming the first line with another number of fields."""
    misfits = find_misfits(utf8, dialect.delimiter, width, quote=dialect.quote, skip=skip, comment=dialect.comment)
    if misfits.line is not None:
        _misfit(misfits.line, misfits.fields, width, dialect)
    return misfits.blank


def _misfit(line: int, fields: int, width: int, dialect: Dialect) -> None:
    above = "the header has" if dialect.header_rows else "the first line has"
    raise ReadError(
        f"Line {line} has {plural(fields, 'field')} where {above} {width}; "
        f"the columns are taken to be separated by a {dialect.delimiter_name}."
    )


def looks_like_values(names: Sequence[str]) -> bool:
    """Whether a line of names holds mostly numbers, so that it may be the first line of values."""
    numbers = sum(bool(re.fullmatch(r"\s*[+\-−]?\d+([.,]\d+)?\s*", name)) for name in names)
    return 2 * numbers > len(names)
