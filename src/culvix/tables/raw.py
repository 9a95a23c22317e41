"""A table before anything is judged: names and cells, every cell as text, and what was decided to get there."""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import polars as pl

from culvix.stats.arrays import Bools, Ints
from culvix.tables.cell_texts import RawColumn, raw_column
from culvix.tables.dialect import Dialect
from culvix.tables.filed import FiledText

__all__ = ["RawTable", "raw_columns"]

_WORKERS = min(os.cpu_count() or 1, 8)


@dataclass(frozen=True, eq=False)
class RawTable:
    """The cells of a table: one column for each of ``names``; ``text`` where they stand in a delimited text.

    ``kind`` says what the file is; ``parts`` are its sheets or tables, of which ``part`` was read. ``notes`` are
    sentences on what was decided. ``dialect`` is given for delimited text only.
    """

    names: tuple[str, ...]
    columns: tuple[RawColumn, ...]
    kind: str
    encoding: str = ""
    dialect: Dialect | None = None
    notes: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    part: str = ""
    text: FiledText | None = None

    @property
    def rows(self) -> int:
        return len(self.columns[0])

    def records(self, rows: Ints) -> pl.DataFrame:
        """The cells of ``rows`` (ascending, from 0) as text, columns named by place."""
        if self.text is not None:
            return self.text.records(rows)
        return pl.DataFrame([column.texts.at(rows).alias(str(place)) for place, column in enumerate(self.columns)])

    @cached_property
    def repeated_rows(self) -> Ints:
        """Rows (ascending, from 0) that repeat an earlier row in every cell.

        Rows are compared in full only where the numbers of all columns agree, or where there are none the texts.
        """
        alike: Ints = np.arange(self.rows)
        # Columns of numbers first: they tell rows apart at the least cost.
        for column in sorted(self.columns, key=lambda column: column.odd.size):
            if not alike.size:
                return alike
            alike = alike[_repeated(column, alike)]
        if not alike.size:
            return alike
        keys = pl.DataFrame([_key(column, alike).alias(str(place)) for place, column in enumerate(self.columns)])
        alike = alike[keys.hash_rows().is_duplicated().to_numpy()]
        if not alike.size:
            return alike
        again = ~self.records(alike).to_struct("row").is_first_distinct().to_numpy()
        return np.asarray(alike[again], dtype=np.int64)


def _key(column: RawColumn, rows: Ints) -> pl.Series:
    """What rows that are the same have in common."""
    if column.odd.size == len(column):
        return column.texts.at(rows)
    return pl.Series(column.numbers[rows])


def _repeated(column: RawColumn, rows: Ints) -> Bools:
    """Which of ``rows`` have a cell of ``column`` that occurs again among them."""
    if column.odd.size == len(column):
        return np.asarray(column.texts.at(rows).is_duplicated().to_numpy())
    values = column.numbers[rows] if rows.size < len(column) else column.numbers
    ordered = np.sort(values)
    again = ordered[1:][ordered[1:] == ordered[:-1]]
    repeated = np.isnan(values)
    if again.size:
        repeated |= np.isin(values, np.unique(again))
    return repeated


def raw_columns(frame: pl.DataFrame) -> tuple[RawColumn, ...]:
    """The columns of a ``frame`` of strings, their numbers read on all cores."""
    with ThreadPoolExecutor(_WORKERS, "numbers") as pool:
        return tuple(pool.map(raw_column, frame.get_columns()))
