"""Delimited text into cells, by a dialect. Lines with too few or too many fields are refused, not padded or cut."""

import io
import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from itertools import islice

import numpy as np
import polars as pl

from culvix.errors import ReadError
from culvix.progress import Progress, silent
from culvix.stats.display import count, plural
from culvix.tables.cell_texts import plain_numbers
from culvix.tables.cutting import StrayQuote, cut
from culvix.tables.dialect import Dialect, guess_dialect
from culvix.tables.extent import Extent, thinned
from culvix.tables.filed import read_pieces
from culvix.tables.lines import records, unique_names
from culvix.tables.pieces import Layout
from culvix.tables.raw import RawTable

__all__ = ["MOST_COLUMNS", "Head", "looks_like_values", "read_delimited", "read_head_of", "read_thinned"]

_LOOK = 1 << 22
_FEW_BYTES = 1 << 16
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
    heads, first = _heads(utf8, dialect)
    width = max(len(head) for head in heads)
    if width > MOST_COLUMNS:
        raise ReadError(f"There are {count(width)} columns; at most {count(MOST_COLUMNS)} are read.")
    if dialect.header_rows:
        header = unique_names([_joined(head[place] for head in heads if place < len(head)) for place in range(width)])
    else:
        header = unique_names([f"column {place}" for place in range(1, width + 1)])
    notes = header.notes
    if not dialect.header_rows:
        notes = (*notes, "There is no line of names; the columns are numbered.")
    return Head(dialect, header.names, notes, first, utf8.count(b"\n", 0, first))


def read_delimited(
    utf8: bytes, dialect: Dialect | None = None, *, encoding: str = "UTF-8", progress: Progress = silent
) -> RawTable:
    """Split ``utf8`` by ``dialect``, or by the one that fits best.

    Raises ReadError where lines do not fit together, naming the first that does not, or where there are no data rows,
    and whatever ``progress`` raises.
    """
    head = read_head_of(utf8, dialect)
    return _split(head, head.layout, utf8, head.first, encoding, progress)


def read_thinned(
    head: Head, blocks: Iterable[bytes], extent: Extent, *, encoding: str = "UTF-8", progress: Progress = silent
) -> RawTable:
    """The part of a text that ``extent`` names; ``blocks`` begin below ``head``. Raises as `read_delimited`."""
    part = thinned(blocks, head.layout, extent, head.above, progress)
    if not part.rows.size:
        end = "" if part.counted is None else f"; there are {plural(part.counted, 'row')}"
        raise ReadError(f"There are no rows from {count(extent.first)} on{end}.")
    raw = _split(head, replace(head.layout, lines=part.lines), part.utf8, 0, encoding, progress)
    said = extent.sentence(part.rows.size, part.counted)
    return replace(raw, notes=(*raw.notes, said), rows_in_file=part.rows)


def _split(head: Head, layout: Layout, utf8: bytes, first: int, encoding: str, progress: Progress) -> RawTable:
    """The columns of the records that begin at the byte ``first``."""
    layout = replace(layout, numeric=_numeric_places(utf8, first, layout))
    try:
        columns, text, blank = read_pieces(utf8, cut(utf8, first, head.dialect.quote), layout, progress)
    except StrayQuote:
        layout = replace(layout, numeric=frozenset(), stray=True)
        columns, text, blank = read_pieces(utf8, [(first, len(utf8))], layout, progress)
    if not len(columns[0]):
        raise ReadError(f"There is a header of {plural(len(head.names), 'column')} but no data rows.")
    notes = (f"{plural(blank, 'blank line')} left out.",) if blank else ()
    said = (*head.notes, *notes)
    return RawTable(head.names, columns, "delimited text", encoding, head.dialect, said, text=text)


def _numeric_places(utf8: bytes, first: int, layout: Layout) -> frozenset[int]:
    """Places of the columns that hold mostly plain numbers in the first lines, written without blanks around them."""
    end = first + _FEW_BYTES
    if end < len(utf8):
        last = utf8.rfind(b"\n", first, end)
        end = (last if last >= 0 else utf8.find(b"\n", end)) + 1 or len(utf8)
    try:
        cells = layout.split(utf8[first:end], typed=False)
    except pl.exceptions.PolarsError:
        # Whatever does not fit together is told, with its line, when the whole is read.
        return frozenset()
    numeric = []
    for place, column in enumerate(cells.get_columns()):
        marks = layout.dialect.marks(place)
        if marks.decimal != layout.dialect.decimal:
            # Only one decimal mark can be read at a time; columns with the other are read as text first.
            continue
        filled = int((column.is_not_null() & (column != "")).sum())
        numbers = int(np.count_nonzero(np.isfinite(plain_numbers(column, marks))))
        if 2 * numbers >= filled and 10 * numbers >= cells.height:
            numeric.append(place)
    return frozenset(numeric)


def _joined(parts: Iterable[str]) -> str:
    return " ".join(part.strip() for part in parts if part.strip())


def _heads(utf8: bytes, dialect: Dialect) -> tuple[list[list[str]], int]:
    """The lines of names (or the first of values where there are none), and at which byte the values begin."""
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
            above = lines[: skip + (last if dialect.header_rows else 0)]
            return heads, len("".join(above).encode("utf-8"))
    if not heads:
        raise ReadError("There is no header line.")
    return heads, len(utf8)


def looks_like_values(names: Sequence[str]) -> bool:
    """Whether a line of names holds mostly numbers, so that it may be the first line of values."""
    numbers = sum(bool(re.fullmatch(r"\s*[+\-−]?\d+([.,]\d+)?\s*", name)) for name in names)
    return 2 * numbers > len(names)
