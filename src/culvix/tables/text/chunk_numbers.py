"""The numbers of a piece of text, and what stands in the cells that hold none."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.tables.model.cell_texts import plain_numbers
from culvix.tables.text.layout import Layout, records_at

__all__ = ["Cells", "numbers_of_chunk"]

_MANY = 4
"""Where more than one line in so many is asked for, the whole piece is read again rather than line by line."""

Nonnumeric = dict[int, tuple[Ints, pl.Series]]


@dataclass(frozen=True, eq=False)
class Cells:
    """The cells of a piece: ``frame`` as they were read, ``data`` as they were written.

    ``starts`` has the place of each row's line; ``whole`` has all cells as text where rows and lines do not pair;
    in rows that are ``even`` cells without a value are empty.
    """

    data: bytes
    frame: pl.DataFrame
    starts: Ints
    whole: pl.DataFrame | None
    even: Bools | None
    layout: Layout

    def empty(self, position: int, rows: Ints) -> Ints:
        """Those of ``rows`` whose cell in the column is known to be empty."""
        if self.even is None:
            return rows[:0]
        if rows.size == self.frame[str(position)].null_count() and self.even.all():
            return rows
        known: Bools = self.even & self.frame[str(position)].is_null().to_numpy()
        return rows[known[rows]]


def numbers_of_chunk(cells: Cells, numbers: Sequence[Floats]) -> Nonnumeric:
    """Put the numbers of all columns into ``numbers``; return the rows without a finite one and what stands there."""
    layout, frame = cells.layout, cells.frame
    # All columns at once: of each by itself gaps cost several times as much.
    read = frame.select(pl.col(pl.Float64).fill_null(np.nan))
    empty: dict[int, Ints] = {}
    doubtful: dict[int, Ints] = {}
    nonnumeric_rows: Nonnumeric = {}
    for position in range(layout.width):
        column, values = frame[str(position)], numbers[position][: frame.height]
        typed = column.dtype == pl.Float64
        values[:] = read[str(position)].to_numpy() if typed else plain_numbers(column, layout.dialect.marks(position))
        finite = np.isfinite(values)
        if finite.all():
            continue
        rows = np.flatnonzero(~finite)
        if not typed:
            nonnumeric_rows[position] = rows, column if rows.size == frame.height else column.gather(rows)
            continue
        empty[position] = cells.empty(position, rows)
        if empty[position].size < rows.size:
            doubtful[position] = np.setdiff1d(rows, empty[position], assume_unique=True)
        else:
            nonnumeric_rows[position] = rows, _no_texts(rows.size)
    for position, texts in _texts_of(cells, doubtful).items():
        # Some are a number once the blanks around them are taken off.
        again = plain_numbers(texts, layout.dialect.marks(position))
        numbers[position][doubtful[position]] = again
        left = ~np.isfinite(again)
        nonnumeric_rows |= _merged_nonnumeric(position, empty[position], doubtful[position][left], texts.filter(left))
    return nonnumeric_rows


def _no_texts(many: int) -> pl.Series:
    return pl.Series([None], dtype=pl.String).new_from_index(0, many)


def _merged_nonnumeric(position: int, empty: Ints, rows: Ints, texts: pl.Series) -> Nonnumeric:
    """The odd cells of a column: those that are ``empty``, and ``rows`` with their ``texts``."""
    every = np.concatenate((empty, rows))
    if not every.size:
        return {}
    order = np.argsort(every)
    return {position: (every[order], pl.concat([_no_texts(empty.size), texts]).gather(order))}


def _texts_of(cells: Cells, requested: dict[int, Ints]) -> dict[int, pl.Series]:
    """What stands in the rows ``requested`` of each column."""
    if not requested:
        return {}
    whole, starts, layout = cells.whole, cells.starts, cells.layout
    if whole is None:
        rows = np.unique(np.concatenate(list(requested.values())))
        if rows.size * _MANY < starts.size:
            texts = records_at(cells.data, starts[rows], layout)
            return {
                position: texts[str(position)].gather(np.searchsorted(rows, at)) for position, at in requested.items()
            }
        whole = layout.split(cells.data, typed=False, positions=tuple(requested))
        if whole.height != starts.size:
            whole = records_at(cells.data, starts, layout)
    return {position: whole[str(position)].gather(at) for position, at in requested.items()}
