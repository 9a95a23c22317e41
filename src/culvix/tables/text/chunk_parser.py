"""A long text in pieces of a few megabytes, each of whole records: read on all cores, stopped between any two.

A column that holds numbers is read as numbers at once. Its other cells, and any cell asked for later, are read again
from their line.
"""

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
import polars as pl

from culvix.errors import ReadError
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.display import plural
from culvix.tables.text.chunk_numbers import Cells, numbers_of_chunk
from culvix.tables.text.dialect import Dialect
from culvix.tables.text.empty_cells import all_empty
from culvix.tables.text.layout import Layout, lines_at
from culvix.tables.text.lines import find_misfits, quoting_of, records
from culvix.tables.text.ragged import Misfit
from culvix.tables.text.record_splitter import check_quotes

__all__ = ["Chunk", "parse_chunk"]

_NEWLINE, _RETURN = 10, 13
_BLANKS = b" \t\r\n\x0b\x0c"
NO_ROWS: Ints = np.zeros(0, dtype=np.int64)


@dataclass(eq=False)
class Chunk:
    """What a piece of the text holds.

    ``starts`` has the place in the text of each row's line; it is None where rows and lines do not go together, and
    ``frame`` then keeps the cells. ``texts`` has the cells of the columns not read as numbers, and ``nonnumeric_rows``,
    for each column, the rows (from 0 within the piece) that hold no finite number, with their texts.
    """

    rows: int
    starts: Ints | None
    frame: pl.DataFrame | None = None
    texts: dict[int, pl.Series] = field(default_factory=dict)
    nonnumeric_rows: dict[int, tuple[Ints, pl.Series]] = field(default_factory=dict)
    blank: int = 0


def parse_chunk(utf8: bytes, start: int, end: int, layout: Layout, numbers: Sequence[Floats]) -> Chunk:
    """Read the records between ``start`` and ``end``; the numbers of each column are put into ``numbers``.

    Those arrays, one for each column, are as long as there are lines at most. Raises ReadError naming the first line
    that does not fit, and StrayQuote unless the layout knows of such.
    """
    blank = 0
    if layout.width > 1:
        blank, start = _without_leading_blanks(utf8, start, end, layout.dialect.comment.encode())
    data = utf8[start:end]
    if not data:
        return Chunk(0, np.zeros(0, dtype=np.int64), blank=blank)
    quote = layout.dialect.quote.encode()
    if quote and quote in data and not layout.stray:
        check_quotes(data, layout.dialect)
    starts = _line_starts(data, layout.dialect.comment)
    try:
        # With a decimal comma, points may group thousands, which only a look at each cell can tell.
        comma = layout.dialect.decimal == ","
        plain = not comma or (b"." not in data and layout.dialect.delimiter != ",")
        frame = layout.split(data, typed=plain and bool(layout.numeric))
        direct = starts.size == frame.height
        whole = None if direct else layout.split(data, typed=False)
    except pl.exceptions.PolarsError:
        _refuse(utf8, start, data, layout)
        frame = whole = _walked(data, layout)
        direct = False
    even = all_empty(data, layout.dialect, starts, frame) if direct and layout.width > 1 else None
    empty = _blank_rows(utf8, start, data, frame, starts if direct else None, even, layout)
    if empty.size:
        keep = np.ones(frame.height, dtype=bool)
        keep[empty] = False
        frame, starts = frame.filter(keep), starts[keep] if direct else starts
        whole = None if whole is None else whole.filter(keep)
        even = None if even is None else even[keep]
    nonnumeric_rows = numbers_of_chunk(Cells(data, frame, starts, whole, even, layout), numbers)
    texts = {position: frame[str(position)] for position in range(layout.width) if position not in layout.numeric}
    return Chunk(
        frame.height, starts + start if direct else None, whole, texts, nonnumeric_rows, blank + int(empty.size)
    )


def _without_leading_blanks(utf8: bytes, start: int, end: int, comment: bytes) -> tuple[int, int]:
    """How many blank lines a piece begins with, comments aside, and where the first other line begins."""
    blank = 0
    while start < end and (utf8[start] in _BLANKS or (comment and utf8.startswith(comment, start))):
        data = utf8[start:end]
        left = len(data.lstrip())
        first = end if not left else utf8.rfind(b"\n", start, end - left) + 1 or start
        blank += utf8.count(b"\n", start, first)
        start = first
        if not (comment and utf8.startswith(comment, start, end)):
            break
        stop = utf8.find(b"\n", start, end)
        start = end if stop < 0 else stop + 1
    return blank, start


def _line_starts(data: bytes, comment: str) -> Ints:
    """Where each line begins that is no comment."""
    view = np.frombuffer(data, dtype=np.uint8)
    ends = np.flatnonzero(view == _NEWLINE)
    if ends.size and ends[-1] == view.size - 1:
        ends = ends[:-1]
    starts = np.empty(ends.size + 1, dtype=np.int64)
    starts[0] = 0
    np.add(ends, 1, out=starts[1:])
    if comment:
        mark = comment.encode()
        maybe = np.flatnonzero(view[starts] == mark[0])
        marked = [position for position in maybe.tolist() if data.startswith(mark, starts[position])]
        starts = np.delete(starts, marked)
    return starts


def _blank_rows(
    utf8: bytes,
    start: int,
    data: bytes,
    frame: pl.DataFrame,
    starts: Ints | None,
    even: Bools | None,
    layout: Layout,
) -> Ints:
    """Rows that are blank lines. Raises ReadError where a line is cut short: both show as an empty last cell.

    Of rows that are ``even`` every cell stands in the line, empty or not.
    """
    last = frame[str(layout.width - 1)]
    if layout.width == 1 or not last.null_count():
        return NO_ROWS
    if starts is None:
        rows = _refuse(utf8, start, data, layout)
        return np.array([row for row in rows if row < frame.height], dtype=np.int64)
    missing = last.is_null().to_numpy()
    doubtful = np.flatnonzero(missing if even is None else missing & ~even)
    view = np.frombuffer(data, dtype=np.uint8)
    empty = np.isin(view[starts[doubtful]], (_NEWLINE, _RETURN))
    blank = doubtful[empty].tolist()
    doubtful = doubtful[~empty]
    for row, line in zip(doubtful.tolist(), lines_at(data, starts[doubtful]), strict=True):
        if not line.strip():
            blank.append(row)
        elif (fields := _field_count(line, layout.dialect)) != layout.width:
            misfit(utf8.count(b"\n", 0, start + int(starts[row])) + 1, fields, layout)
    return np.sort(np.array(blank, dtype=np.int64))


def _field_count(line: bytes, dialect: Dialect) -> int:
    quote = dialect.quote.encode()
    if quote and quote in line.replace(quote + quote, b""):
        stream = io.StringIO(line.decode("utf-8"), newline="")
        return sum(len(record) for _, record in records(stream, dialect.delimiter, dialect.quote))
    return line.count(dialect.delimiter.encode()) + 1


def _refuse(utf8: bytes, start: int, data: bytes, layout: Layout) -> tuple[int, ...]:
    """Rows that are blank lines. Raises ReadError naming the first line with another number of fields."""
    dialect = layout.dialect
    misfits = find_misfits(data, dialect.delimiter, layout.width, quote=dialect.quote, comment=dialect.comment)
    if misfits.line is not None:
        misfit(utf8.count(b"\n", 0, start) + misfits.line, misfits.fields, layout)
    return misfits.blank


def _walked(data: bytes, layout: Layout) -> pl.DataFrame:
    """The cells of records that can only be told apart by walking through them one by one: slow.

    Raises ReadError where a quotation mark is never closed, or closes before the end of its field.
    """
    comment = layout.dialect.comment
    stream = io.TextIOWrapper(io.BytesIO(data), encoding="utf-8", newline="")
    try:
        mark = layout.dialect.quote
        walk = csv.reader(
            stream,
            delimiter=layout.dialect.delimiter,
            quotechar=mark or None,
            quoting=quoting_of(mark),
            strict=True,
        )
        rows = [row for row in walk if not (comment and row and row[0].startswith(comment))]
    except csv.Error as error:
        raise ReadError("The lines cannot be split into columns; a quotation mark may never be closed.") from error
    cells = {str(position): [row[position] if row else None for row in rows] for position in range(layout.width)}
    return pl.DataFrame(cells, schema=dict.fromkeys(cells, pl.String))


def misfit(line: int, fields: int, layout: Layout) -> None:
    """Raise Misfit for a ``line`` (from 1) with another number of fields than there are columns."""
    above = "the header has" if layout.dialect.header_rows else "the first line has"
    raise Misfit(
        f"Line {layout.line(line)} has {plural(fields, 'field')} where {above} {layout.width}; "
        f"the columns are taken to be separated by a {layout.dialect.delimiter_name}."
    )
