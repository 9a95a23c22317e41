"""A long text in pieces of a few megabytes, each of whole records: read on all cores, stopped between any two.

A column that holds numbers is read as numbers at once. Its other cells, and any cell asked for later, are read again
from their line.
"""

import csv
import io
import warnings
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field

import numpy as np
import polars as pl

from culvix.errors import ReadError
from culvix.stats.arrays import Floats, Ints
from culvix.stats.display import plural
from culvix.tables.cell_texts import plain_numbers
from culvix.tables.cutting import check_quotes
from culvix.tables.dialect import Dialect
from culvix.tables.lines import find_misfits, quoting_of, records
from culvix.tables.ragged import Misfit

__all__ = ["Layout", "Piece", "read_piece", "records_at"]

_NEWLINE = 10
_MANY = 4
"""Where more than one line in so many is asked for, the whole piece is read again rather than line by line."""


# What does not fit together raises an error as well, which is told in words.
warnings.filterwarnings("ignore", "CSV malformed", UserWarning)


@dataclass(frozen=True)
class Layout:
    """How records are read: the dialect, the number of fields, and the places of those read as numbers.

    ``stray`` says that quotation marks stand within fields, so that only a walk through them tells records apart.
    """

    dialect: Dialect
    width: int
    numeric: frozenset[int] = frozenset()
    stray: bool = False
    lines: Ints | None = None
    """The lines of the file (from 1) that the text was made of, where it is not the whole file."""

    def line(self, number: int) -> int:
        """The line of the file that is line ``number`` (from 1) of the text."""
        return number if self.lines is None else int(self.lines[number - 1])

    def nothing(self) -> pl.DataFrame:
        """No rows of text."""
        return pl.DataFrame(schema={str(place): pl.String for place in range(self.width)})

    def split(self, data: bytes, *, typed: bool, places: tuple[int, ...] | None = None) -> pl.DataFrame:
        """The cells of ``data``, columns named by place. Raises PolarsError where its lines do not fit together."""
        schema = {
            str(place): pl.Float64 if typed and place in self.numeric else pl.String for place in range(self.width)
        }
        return pl.read_csv(
            data,
            separator=self.dialect.delimiter,
            quote_char=self.dialect.quote or None,
            comment_prefix=self.dialect.comment or None,
            has_header=False,
            schema=schema,
            columns=None if places is None else list(places),
            ignore_errors=typed,
            decimal_comma=typed and self.dialect.decimal == "," and self.dialect.delimiter != ",",
            raise_if_empty=False,
        )


@dataclass(eq=False)
class Piece:
    """What a piece of the text holds.

    ``starts`` has the place in the text of each row's line; it is None where rows and lines do not go together, and
    ``frame`` then keeps the cells. ``texts`` has the cells of the columns not read as numbers, and ``odd``, for each
    column, the rows (from 0 within the piece) that hold no finite number, with their texts.
    """

    rows: int
    starts: Ints | None
    frame: pl.DataFrame | None = None
    texts: dict[int, pl.Series] = field(default_factory=dict)
    odd: dict[int, tuple[Ints, pl.Series]] = field(default_factory=dict)
    blank: int = 0


def read_piece(utf8: bytes, start: int, end: int, layout: Layout, numbers: Sequence[Floats]) -> Piece:
    """Read the records between ``start`` and ``end``; the numbers of each column are put into ``numbers``.

    Those arrays, one for each column, are as long as there are lines at most. Raises ReadError naming the first line
    that does not fit, and StrayQuote unless the layout knows of such.
    """
    blank = 0
    if layout.width > 1:
        blank, start = _without_leading_blanks(utf8, start, end, layout.dialect.comment.encode())
    data = utf8[start:end]
    if not data:
        return Piece(0, np.zeros(0, dtype=np.int64), blank=blank)
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
    empty = _blank_rows(utf8, start, data, frame, starts if direct else None, layout)
    if empty.size:
        keep = np.ones(frame.height, dtype=bool)
        keep[empty] = False
        frame, starts = frame.filter(keep), starts[keep] if direct else starts
        whole = None if whole is None else whole.filter(keep)
    odd = _numbers(data, frame, starts, whole, layout, numbers)
    texts = {place: frame[str(place)] for place in range(layout.width) if place not in layout.numeric}
    return Piece(frame.height, starts + start if direct else None, whole, texts, odd, blank + int(empty.size))


def _without_leading_blanks(utf8: bytes, start: int, end: int, comment: bytes) -> tuple[int, int]:
    """How many blank lines a piece begins with, comments aside, and where the first other line begins."""
    blank = 0
    while start < end:
        data = utf8[start:end]
        kept = len(data.lstrip())
        first = end if not kept else utf8.rfind(b"\n", start, end - kept) + 1 or start
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
        said = [place for place in maybe.tolist() if data.startswith(mark, starts[place])]
        starts = np.delete(starts, said)
    return starts


def _blank_rows(utf8: bytes, start: int, data: bytes, frame: pl.DataFrame, starts: Ints | None, layout: Layout) -> Ints:
    """Rows that are blank lines. Raises ReadError where a line is cut short: both show as an empty last cell."""
    none = np.zeros(0, dtype=np.int64)
    last = frame[str(layout.width - 1)]
    if layout.width == 1 or not last.null_count():
        return none
    if starts is None:
        rows = _refuse(utf8, start, data, layout)
        return np.array([row for row in rows if row < frame.height], dtype=np.int64)
    doubtful = np.flatnonzero(last.is_null().to_numpy())
    view = np.frombuffer(data, dtype=np.uint8)
    empty = np.isin(view[starts[doubtful]], (_NEWLINE, 13))
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


def lines_at(data: bytes, starts: Ints) -> Iterator[bytes]:
    """The lines of ``data`` that begin at ``starts``, each with its end."""
    for begin in starts.tolist():
        end = data.find(b"\n", begin)
        yield data[begin:] + b"\n" if end < 0 else data[begin : end + 1]


def _numbers(
    data: bytes,
    frame: pl.DataFrame,
    starts: Ints,
    whole: pl.DataFrame | None,
    layout: Layout,
    numbers: Sequence[Floats],
) -> dict[int, tuple[Ints, pl.Series]]:
    """Put the numbers of all columns into ``numbers``; return the rows without a finite one and what stands there."""
    marks = layout.dialect.marks
    doubtful = {}
    odd = {}
    for place in range(layout.width):
        column, values = frame[str(place)], numbers[place][: frame.height]
        typed = column.dtype == pl.Float64
        values[:] = column.to_numpy() if typed else plain_numbers(column, marks(place))
        finite = np.isfinite(values)
        if finite.all():
            continue
        rows = np.flatnonzero(~finite)
        if typed:
            doubtful[place] = rows
        else:
            odd[place] = rows, column if rows.size == frame.height else column.gather(rows)
    for place, cells in _texts_of(data, doubtful, starts, whole, layout).items():
        # Some are a number once the blanks around them are taken off.
        again = plain_numbers(cells, marks(place))
        numbers[place][doubtful[place]] = again
        left = ~np.isfinite(again)
        if left.any():
            odd[place] = doubtful[place][left], cells.filter(left)
    return odd


def _texts_of(
    data: bytes, wanted: dict[int, Ints], starts: Ints, whole: pl.DataFrame | None, layout: Layout
) -> dict[int, pl.Series]:
    """What stands in the rows ``wanted`` of each column."""
    if not wanted:
        return {}
    if whole is None:
        rows = np.unique(np.concatenate(list(wanted.values())))
        if rows.size * _MANY < starts.size:
            texts = records_at(data, starts[rows], layout)
            return {place: texts[str(place)].gather(np.searchsorted(rows, at)) for place, at in wanted.items()}
        whole = layout.split(data, typed=False, places=tuple(wanted))
        if whole.height != starts.size:
            whole = records_at(data, starts, layout)
    return {place: whole[str(place)].gather(at) for place, at in wanted.items()}


def records_at(data: bytes, starts: Ints, layout: Layout) -> pl.DataFrame:
    """The cells, as text, of the lines of ``data`` that begin at ``starts``."""
    return layout.split(b"".join(lines_at(data, starts)), typed=False)


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
    cells = {str(place): [row[place] if row else None for row in rows] for place in range(layout.width)}
    return pl.DataFrame(cells, schema=dict.fromkeys(cells, pl.String))


def misfit(line: int, fields: int, layout: Layout) -> None:
    """Raise Misfit for a ``line`` (from 1) with another number of fields than there are columns."""
    above = "the header has" if layout.dialect.header_rows else "the first line has"
    raise Misfit(
        f"Line {layout.line(line)} has {plural(fields, 'field')} where {above} {layout.width}; "
        f"the columns are taken to be separated by a {layout.dialect.delimiter_name}."
    )
