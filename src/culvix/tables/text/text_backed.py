"""Cells that stand in the bytes of a delimited text, and how its pieces are put together to columns."""

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field

import numpy as np
import polars as pl

from culvix.progress import Progress
from culvix.stats.core.arrays import Floats, Ints
from culvix.tables.model.cell_texts import CellTexts, RawColumn, StoredTexts
from culvix.tables.text.chunk_parser import Chunk, parse_chunk
from culvix.tables.text.layout import Layout, records_at
from culvix.tables.text.record_splitter import Spans

__all__ = ["TextBackedCells", "parse_chunks"]

_WORKERS = min(os.cpu_count() or 1, 8)
_REMEMBERED = 4096
_WIDE, _FEW_CELLS = 64, 5_000_000
"""A table of more columns than this, and no more cells than that, is kept as text once it is asked for."""


@dataclass(eq=False)
class TextBackedCells:
    """A delimited text whose rows can be found again."""

    utf8: bytes
    layout: Layout
    begins: Ints
    """The first row of each piece, and behind the last the number of rows."""

    starts: list[Ints | None]
    frames: list[pl.DataFrame | None]
    _record: dict[int, tuple[str | None, ...]] = field(default_factory=dict)
    _column: tuple[int, pl.Series] | None = None
    _whole: pl.DataFrame | None = None

    def records(self, rows: Ints) -> pl.DataFrame:
        """The cells of ``rows`` (ascending, from 0) as text, columns named by place."""
        pieces = np.searchsorted(self.begins, rows, side="right") - 1
        parts, lines = [], []
        for piece in np.unique(pieces).tolist():
            local = rows[pieces == piece] - self.begins[piece]
            starts, frame = self.starts[piece], self.frames[piece]
            if starts is not None:
                lines.append(starts[local])
            elif frame is not None:
                # Whatever precedes goes first, so that the order of the rows is kept.
                parts += self._lines(lines)
                lines = []
                parts.append(frame.filter(np.isin(np.arange(frame.height), local)))
        parts += self._lines(lines)
        return pl.concat(parts) if parts else self.layout.nothing()

    def _lines(self, starts: list[Ints]) -> list[pl.DataFrame]:
        return [records_at(self.utf8, np.concatenate(starts), self.layout)] if starts else []

    def record(self, row: int) -> tuple[str | None, ...]:
        """The cells of one row."""
        found = self._record.get(row)
        if found is None:
            found = self.records(np.array([row])).row(0)
            if len(self._record) >= _REMEMBERED:
                self._record.clear()
            self._record[row] = found
        return found

    def remember(self, rows: Ints) -> None:
        """Read ``rows`` at once, so that `record` finds them."""
        requested = np.unique(
            np.array([row for row in rows.tolist() if row not in self._record][:_REMEMBERED], dtype=int)
        )
        if requested.size:
            if len(self._record) + requested.size > _REMEMBERED:
                self._record.clear()
            self._record.update(zip(requested.tolist(), self.records(requested).rows(), strict=True))

    def column(self, position: int) -> pl.Series:
        """All cells of one column; the last one asked for is kept."""
        cached = self._column
        if cached is not None and cached[0] == position:
            return cached[1]
        rows = int(self.begins[-1])
        if self.layout.width > _WIDE and rows * self.layout.width <= _FEW_CELLS:
            # Of a wide table each column would read the whole text once more.
            if self._whole is None:
                self._whole = self.records(np.arange(rows))
            return self._whole[str(position)]
        parts = []
        for piece, (starts, frame) in enumerate(zip(self.starts, self.frames, strict=True)):
            if starts is None:
                assert frame is not None  # a piece has one or the other
                parts.append(frame[str(position)])
            elif starts.size:
                parts.append(self._part(piece, starts, position))
        column = pl.concat(parts) if parts else pl.Series(dtype=pl.String)
        self._column = (position, column)
        return column

    def _part(self, piece: int, starts: Ints, position: int) -> pl.Series:
        last = int(starts[-1])
        end = self.utf8.find(b"\n", last)
        data = self.utf8[int(starts[0]) : len(self.utf8) if end < 0 else end + 1]
        frame = self.layout.split(data, typed=False, positions=(position,))
        if frame.height != starts.size:
            # Blank lines stand between the rows.
            frame = records_at(self.utf8, starts, self.layout)
        return frame[str(position)]


@dataclass(frozen=True, eq=False)
class _TextBackedColumn(CellTexts):
    """A column of numbers: the cells that hold none are kept, the others stand in the text."""

    text: TextBackedCells
    position: int
    nonnumeric_rows: Ints
    nonnumeric_texts: pl.Series

    def __len__(self) -> int:
        return int(self.text.begins[-1])

    @property
    def all(self) -> pl.Series:
        return self.text.column(self.position)

    def at(self, rows: Ints) -> pl.Series:
        if not rows.size:
            return pl.Series(dtype=pl.String)
        if self.nonnumeric_rows.size:
            found = np.minimum(np.searchsorted(self.nonnumeric_rows, rows), self.nonnumeric_rows.size - 1)
            if np.array_equal(self.nonnumeric_rows[found], rows):
                return self.nonnumeric_texts.gather(pl.Series(found, dtype=pl.UInt32))
        if rows.size * 4 > len(self):
            return self.all.gather(pl.Series(rows, dtype=pl.UInt32))
        ascending, back = np.unique(rows, return_inverse=True)
        return self.text.records(ascending)[str(self.position)].gather(pl.Series(back, dtype=pl.UInt32))

    def __getitem__(self, row: int) -> str | None:
        return self.text.record(row)[self.position]


def parse_chunks(
    utf8: bytes, spans: Spans, layout: Layout, progress: Progress
) -> tuple[tuple[RawColumn, ...], TextBackedCells, int]:
    """The columns of all pieces, the text they stand in, and the number of blank lines left out.

    Raises as `parse_chunk`, and whatever ``progress`` raises, between two pieces.
    """
    # There are as many rows as lines at most, so that each piece knows where its own go.
    # A return on its own ends a record, too, where they have to be walked through.
    ends = (10, 13) if b"\r" in utf8 and utf8.count(b"\r") != utf8.count(b"\r\n") else (10,)
    view = np.frombuffer(utf8, dtype=np.uint8)
    most = [sum(int(np.count_nonzero(view[first:last] == end)) for end in ends) + 1 for first, last in spans]
    lines = np.concatenate([[0], np.cumsum(most)])
    numbers = [np.empty(int(lines[-1])) for _ in range(layout.width)]
    pieces: list[Chunk] = []
    pool = ThreadPoolExecutor(_WORKERS, "reading")
    try:
        futures = []
        for (start, end), first, last in zip(spans, lines[:-1].tolist(), lines[1:].tolist(), strict=True):
            slots = [column[first:last] for column in numbers]
            futures.append(pool.submit(parse_chunk, utf8, start, end, layout, slots))
        for number, future in enumerate(futures):
            progress(0.3 + 0.4 * number / len(futures), "splitting lines into cells")
            pieces.append(future.result())
    finally:
        pool.shutdown(wait=True, cancel_futures=True)
    begins = np.concatenate([[0], np.cumsum([piece.rows for piece in pieces])])
    text = TextBackedCells(utf8, layout, begins, [piece.starts for piece in pieces], [piece.frame for piece in pieces])
    columns = []
    for position in range(layout.width):
        progress(0.7, "putting the columns together")
        columns.append(_joined(pieces, position, text, _closed_up(numbers[position], lines, begins)))
        numbers[position] = np.zeros(0)
    return tuple(columns), text, sum(piece.blank for piece in pieces)


def _closed_up(values: Floats, lines: Ints, begins: Ints) -> Floats:
    """The numbers of the pieces, which stand in ``values`` from ``lines`` on, moved together in place."""
    for first, begin, end in zip(lines[:-1].tolist(), begins[:-1].tolist(), begins[1:].tolist(), strict=True):
        if first != begin:
            values[begin:end] = values[first : first + end - begin]
    return values[: int(begins[-1])]


def _joined(pieces: Sequence[Chunk], position: int, text: TextBackedCells, numbers: Floats) -> RawColumn:
    """One column from its numbers and what the pieces say of its other cells."""
    nonnumeric_rows, texts = [np.zeros(0, dtype=np.int64)], []
    for piece, begin in zip(pieces, text.begins.tolist(), strict=False):
        if position in piece.nonnumeric_rows:
            rows, cells = piece.nonnumeric_rows.pop(position)
            nonnumeric_rows.append(rows + begin)
            texts.append(cells)
    marks = text.layout.dialect.marks(position)
    rows = np.concatenate(nonnumeric_rows)
    cells = pl.concat(texts) if texts else pl.Series(dtype=pl.String)
    if position in text.layout.numeric:
        return RawColumn(_TextBackedColumn(text, position, rows, cells), numbers, rows, cells, marks)
    series = pl.concat([piece.texts.pop(position) for piece in pieces if piece.rows] or [cells])
    if rows.size == numbers.size:
        return RawColumn(StoredTexts(series), np.broadcast_to(np.nan, rows.size), rows, series, marks)
    return RawColumn(StoredTexts(series), numbers, rows, cells, marks)
