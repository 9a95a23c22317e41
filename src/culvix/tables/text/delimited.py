"""Delimited text into cells, by a dialect. Lines with too few or too many fields are refused, not padded or cut."""

import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import islice

import polars as pl

from culvix.errors import ReadError
from culvix.progress import Progress, silent
from culvix.stats.display import count, plural
from culvix.tables.model.options.extent import Extent, thinned
from culvix.tables.model.raw_table import RawTable
from culvix.tables.text.aligned import unaligned
from culvix.tables.text.dialect import Dialect
from culvix.tables.text.dialect_guess import guess_dialect
from culvix.tables.text.layout import Layout
from culvix.tables.text.lines import records, unique_names
from culvix.tables.text.ragged import REFUSED, Misfit, leave_last_note, ragged_lines, repair_ragged, without_last
from culvix.tables.text.record_splitter import StrayQuote, cut
from culvix.tables.text.text_backed import parse_chunks

__all__ = ["MOST_COLUMNS", "Head", "read_delimited", "read_head_of", "read_thinned"]

_HEAD_BYTES = 1 << 22
_FEW_GAPS = 2
"""Lines without a number, among the first ones, from which a column is read as text first."""
_FEW_BYTES = 1 << 16
_SOME_LINES = 20
MOST_COLUMNS = 20_000


@dataclass(frozen=True)
class Head:
    """What stands above the values: the names of the columns, and at which byte and line (from 0) the values begin."""

    dialect: Dialect
    names: tuple[str, ...]
    notes: tuple[str, ...]
    first: int
    above: int

    @property
    def layout(self) -> Layout:
        return Layout(self.dialect, len(self.names))


def read_head_of(utf8: bytes, dialect: Dialect | None = None) -> Head:
    """The head of a text by ``dialect``, or by the one that fits best. Raises ReadError where there is none."""
    dialect = guess_dialect(utf8) if dialect is None else dialect
    heads, first, body = _heads(utf8, dialect)
    heads, notes = _as_wide_as_lines(heads, body, dialect)
    width = max(len(head) for head in heads)
    if width > MOST_COLUMNS:
        raise ReadError(f"There are {count(width)} columns; at most {count(MOST_COLUMNS)} are read.")
    if dialect.header_rows:
        header = unique_names(
            [_joined(head[position] for head in heads if position < len(head)) for position in range(width)]
        )
    else:
        header = unique_names([f"column {position}" for position in range(1, width + 1)])
        notes = (*notes, "There is no line of names; the columns are numbered.")
    return Head(dialect, header.names, (*header.notes, *notes), first, utf8.count(b"\n", 0, first))


def _as_wide_as_lines(
    heads: list[list[str]], body: Sequence[Sequence[str]], dialect: Dialect
) -> tuple[list[list[str]], tuple[str, ...]]:
    """Names for one column more, where all lines below have one field more than the names."""
    width = max(len(head) for head in heads)
    if not dialect.header_rows or not body or any(len(record) != width + 1 for record in body):
        return heads, ()
    if not any(record[-1].strip() for record in body):
        return [[*head, ""] for head in heads], ()
    note = "There is one name less than fields in a line: the first column has none, as where it names the rows."
    return [["", *head] for head in heads], (note,)


def read_delimited(
    utf8: bytes,
    dialect: Dialect | None = None,
    *,
    encoding: str = "UTF-8",
    ragged: str = REFUSED,
    leave_last: int = 0,
    progress: Progress = silent,
) -> RawTable:
    """Split ``utf8`` by ``dialect``, or by the one that fits best; ``ragged`` says what is done with lines that misfit.

    The last ``leave_last`` rows are left out. Raises RaggedLines where lines do not fit together, ReadError where
    there are no data rows, and whatever ``progress`` raises.
    """
    outer = guess_dialect(utf8) if dialect is None else dialect
    utf8, inner = unaligned(utf8, outer)
    head = read_head_of(utf8, inner)
    if leave_last:
        utf8 = without_last(utf8, head.first, inner, len(head.names), leave_last)
    raw = _fitted(head, head.layout, utf8, head.first, encoding, ragged, progress)
    raw = _without_padding(raw)
    return replace(raw, dialect=outer, notes=(*raw.notes, *leave_last_note(leave_last)))


def read_thinned(
    head: Head,
    blocks: Iterable[bytes],
    extent: Extent,
    *,
    encoding: str = "UTF-8",
    ragged: str = REFUSED,
    progress: Progress = silent,
) -> RawTable:
    """The part of a text that ``extent`` names; ``blocks`` begin below ``head``. Raises as `read_delimited`."""
    part = thinned(blocks, head.layout, extent, head.above, progress)
    if not part.rows.size:
        end = "" if part.counted is None else f"; there are {plural(part.counted, 'row')}"
        raise ReadError(f"There are no rows from {count(extent.first)} on{end}.")
    raw = _fitted(head, replace(head.layout, lines=part.lines), part.utf8, 0, encoding, ragged, progress)
    note = extent.sentence(part.rows.size, part.counted)
    rows = part.rows if raw.rows_in_file is None else part.rows[raw.rows_in_file]
    return _without_padding(replace(raw, notes=(*raw.notes, note), rows_in_file=rows))


def _fitted(
    head: Head, layout: Layout, utf8: bytes, first: int, encoding: str, ragged: str, progress: Progress
) -> RawTable:
    """The columns of the records that begin at the byte ``first``; what does not fit is told or treated."""
    try:
        return _split(head, layout, utf8, first, encoding, progress)
    except Misfit as error:
        if layout.dialect.delimiter.encode() not in utf8[first:]:
            raise
        if ragged == REFUSED:
            raise ragged_lines(utf8[first:], layout.dialect, layout.width, head.above, error) from None
    mend = repair_ragged(utf8[first:], layout.dialect, layout.width, ragged)
    above = 0 if layout.lines is not None else head.above
    lines = mend.lines + above if layout.lines is None else layout.lines[mend.lines - 1]
    raw = _split(head, replace(layout, lines=lines), mend.utf8, 0, encoding, progress)
    every = mend.rows.size == 0 or int(mend.rows[-1]) + 1 == mend.rows.size
    return replace(raw, notes=(*raw.notes, mend.note), rows_in_file=None if every else mend.rows)


def _without_padding(raw: RawTable) -> RawTable:
    """The table without a last column that has neither a name nor a cell: every line ends with a delimiter."""
    last = raw.columns[-1]
    named = any(name != f"column {position}" for position, name in enumerate(raw.names, start=1))
    unnamed = named and raw.names[-1] == f"column {len(raw.names)}"
    if len(raw.columns) < 2 or not unnamed or last.nonnumeric_rows.size < len(last):
        return raw
    if bool((last.nonnumeric_texts.str.strip_chars() != "").fill_null(False).any()):
        return raw
    note = "Every line ends with a delimiter; the column behind it has no name and no cell, and is left out."
    notes = tuple(each for each in raw.notes if f"'{raw.names[-1]}'" not in each)
    positions = tuple(range(len(raw.columns) - 1))
    return replace(raw, names=raw.names[:-1], columns=raw.columns[:-1], notes=(*notes, note), positions=positions)


def _split(head: Head, layout: Layout, utf8: bytes, first: int, encoding: str, progress: Progress) -> RawTable:
    """The columns of the records that begin at the byte ``first``."""
    numeric, gaps = _numeric_positions(utf8, first, layout)
    layout = replace(layout, numeric=numeric, gaps=gaps)
    try:
        columns, text, blank = parse_chunks(utf8, cut(utf8, first, head.dialect.quote), layout, progress)
    except StrayQuote:
        layout = replace(layout, numeric=frozenset(), gaps=frozenset(), stray=True)
        columns, text, blank = parse_chunks(utf8, [(first, len(utf8))], layout, progress)
    if not len(columns[0]):
        raise ReadError(f"There is a header of {plural(len(head.names), 'column')} but no data rows.")
    notes = (f"{plural(blank, 'blank line')} left out.",) if blank else ()
    notes = (*head.notes, *notes)
    return RawTable(head.names, columns, "delimited text", encoding, head.dialect, notes, text=text)


def _numeric_positions(utf8: bytes, first: int, layout: Layout) -> tuple[frozenset[int], frozenset[int]]:
    """Places of the columns of mostly plain numbers in the first lines, and of those among them with gaps there."""
    end = first + _FEW_BYTES
    if end < len(utf8):
        last = utf8.rfind(b"\n", first, end)
        end = (last if last >= 0 else utf8.find(b"\n", end)) + 1 or len(utf8)
    try:
        cells = layout.split(utf8[first:end], typed=False)
    except pl.exceptions.PolarsError:
        # Whatever does not fit together is told, with its line, when the whole is read.
        return frozenset(), frozenset()
    # All columns at once: whether a column is read as numbers at once is a question of speed, not of what is read.
    comma = layout.dialect.decimal == ","
    texts = pl.all().str.replace(",", ".", literal=True) if comma else pl.all()
    filled, numbers = (
        cells.select(counted).row(0)
        for counted in (
            (pl.all().is_not_null() & (pl.all() != "")).sum(),
            texts.cast(pl.Float64, strict=False).is_finite().sum(),
        )
    )
    # Only one decimal mark can be read at a time; columns with the other are read as text first.
    same = (layout.dialect.marks(position).decimal == layout.dialect.decimal for position in range(layout.width))
    numeric = frozenset(
        position
        for position, (mark, some, all_) in enumerate(zip(same, numbers, filled, strict=True))
        if mark and 2 * some >= all_ and 10 * some >= cells.height
    )
    # Where marks quote, an empty cell is told from another only once it is read.
    quoted = bool(layout.dialect.quote) and layout.dialect.quote.encode() in utf8[first:end]
    whole = [cells.height] * layout.width if quoted else filled
    return numeric, frozenset(position for position in numeric if whole[position] - numbers[position] > _FEW_GAPS)


def _joined(parts: Iterable[str]) -> str:
    return " ".join(part.strip() for part in parts if part.strip())


def _heads(utf8: bytes, dialect: Dialect) -> tuple[list[list[str]], int, list[list[str]]]:
    """The lines of names (or the first of values where there are none), where the values begin, and some of them."""
    stream = io.TextIOWrapper(io.BytesIO(utf8[:_HEAD_BYTES]), encoding="utf-8", errors="replace", newline="")
    lines = list(islice(stream, 500))
    skip = _lines_above(lines, dialect)
    rest = io.StringIO("".join(lines[skip:]), newline="")
    heads: list[list[str]] = []
    body: list[list[str]] = []
    requested, end = max(dialect.header_rows, 1), 0
    for last, record in records(rest, dialect.delimiter, dialect.quote):
        remark = dialect.comment and record and record[0].startswith(dialect.comment)
        if len(heads) < requested:
            heads += [record] if record else []
            end = skip + (last if dialect.header_rows else 0)
        elif record and not remark:
            body.append(record)
        if len(body) > _SOME_LINES:
            break
    if not heads:
        raise ReadError("There is no header line.")
    if len(heads) < requested:
        return heads, len(utf8), body
    # A line that is cut off by the end of what is looked at says nothing of its width.
    whole = body[:-1] if len(utf8) > _HEAD_BYTES or len(body) > _SOME_LINES else body
    return heads, len("".join(lines[:end]).encode("utf-8")), whole


def _lines_above(lines: Sequence[str], dialect: Dialect) -> int:
    """How many lines stand above the names: the preamble, remarks and blank lines."""
    skip, left = 0, dialect.preamble_rows
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
    return skip
