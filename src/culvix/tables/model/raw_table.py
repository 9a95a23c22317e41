"""A table before anything is judged: names and cells, every cell as text, and what was decided to get there."""

import os
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
import polars as pl

from culvix.caching import cached_property
from culvix.errors import ReadError
from culvix.stats.core.arrays import Bools, Ints
from culvix.stats.display import plural
from culvix.tables.model.cell_texts import RawColumn, raw_column
from culvix.tables.model.options.extent import Extent
from culvix.tables.model.options.reading_questions import ReadingQuestion
from culvix.tables.model.provenance import Provenance
from culvix.tables.text.dialect import Dialect
from culvix.tables.text.text_backed import TextBackedCells

__all__ = ["RawTable", "raw_columns"]

_WORKERS = min(os.cpu_count() or 1, 8)


@dataclass(frozen=True, eq=False)
class RawTable:
    """The cells of a table: one column for each of ``names``; ``text`` where they stand in a delimited text.

    ``kind`` says what the file is; ``parts`` are its sheets or tables, of which ``part`` was read. ``notes`` are
    sentences on what was decided, ``questions`` what can be read in another way, too. ``dialect`` is given for
    delimited text only. ``rows_in_file`` are the rows of the file
    (ascending, from 0) where only some of them were read.
    """

    names: tuple[str, ...]
    columns: tuple[RawColumn, ...]
    kind: str
    encoding: str = ""
    dialect: Dialect | None = None
    notes: tuple[str, ...] = ()
    parts: tuple[str, ...] = ()
    part: str = ""
    text: TextBackedCells | None = None
    questions: tuple[ReadingQuestion, ...] = ()
    rows_in_file: Ints | None = None
    positions: tuple[int, ...] | None = None
    """Where the columns stand in ``text``, where only some of them were read."""

    every_name: tuple[str, ...] = ()
    """The names of all columns, where only some of them were read."""

    sample: Provenance | None = None
    """What the file says that it is a sample of."""

    def only(self, extent: Extent) -> "RawTable":
        """The columns that ``extent`` names, and its rows unless they have been chosen already.

        Raises ReadError for a column there is none of, or where no row is left.
        """
        unknown = [name for name in extent.columns if name not in self.names]
        if unknown:
            raise ReadError(f"There is no column called {unknown[0]!r}; there are {', '.join(self.names[:20])}.")
        chosen = self
        if extent.columns:
            positions = [self.names.index(name) for name in extent.columns]
            note = f"{len(positions)} of {plural(len(self.names), 'column')} are read."
            columns = tuple(self.columns[position] for position in positions)
            chosen = replace(
                self,
                names=extent.columns,
                columns=columns,
                notes=(*self.notes, note),
                positions=tuple(positions),
                every_name=self.names,
            )
        if extent.every_row or self.rows_in_file is not None:
            return chosen
        rows = extent.rows_of(self.rows)
        if not rows.size:
            raise ReadError(f"There are no rows from {extent.first} on; there are {plural(self.rows, 'row')}.")
        columns = tuple(raw_column(column.texts.at(rows), column.marks) for column in chosen.columns)
        note = extent.sentence(rows.size, self.rows)
        return replace(chosen, columns=columns, notes=(*chosen.notes, note), text=None, rows_in_file=rows)

    @property
    def rows(self) -> int:
        return len(self.columns[0])

    def records(self, rows: Ints) -> pl.DataFrame:
        """The cells of ``rows`` (ascending, from 0) as text, columns named by place."""
        if self.text is not None:
            records = self.text.records(rows)
            return records if self.positions is None else records.select(str(position) for position in self.positions)
        return pl.DataFrame(
            [column.texts.at(rows).alias(str(position)) for position, column in enumerate(self.columns)]
        )

    @cached_property
    def repeated_rows(self) -> Ints:
        """Rows (ascending, from 0) that repeat an earlier row in every cell.

        Rows are compared in full only where the numbers of all columns agree, or where there are none the texts.
        """
        alike: Ints = np.arange(self.rows)
        # Columns of numbers first: they tell rows apart at the least cost.
        for column in sorted(self.columns, key=lambda column: column.nonnumeric_rows.size):
            if not alike.size:
                return alike
            alike = alike[_repeated(column, alike)]
        if not alike.size:
            return alike
        keys = pl.DataFrame([_key(column, alike).alias(str(position)) for position, column in enumerate(self.columns)])
        alike = alike[keys.hash_rows().is_duplicated().to_numpy()]
        if not alike.size:
            return alike
        again = ~self.records(alike).to_struct("row").is_first_distinct().to_numpy()
        return np.asarray(alike[again], dtype=np.int64)


def _key(column: RawColumn, rows: Ints) -> pl.Series:
    """What rows that are the same have in common."""
    if column.nonnumeric_rows.size == len(column):
        return column.texts.at(rows)
    return pl.Series(column.numbers[rows])


def _repeated(column: RawColumn, rows: Ints) -> Bools:
    """Which of ``rows`` have a cell of ``column`` that occurs again among them."""
    if column.nonnumeric_rows.size == len(column):
        return np.asarray(column.texts.at(rows).is_duplicated().to_numpy())
    values = column.numbers[rows] if rows.size < len(column) else column.numbers
    ordered = np.sort(values)
    repeated = np.isnan(values)
    # Sorting tells at the least cost that there are none.
    if bool((ordered[1:] == ordered[:-1]).any()):
        repeated |= pl.Series(values).is_duplicated().to_numpy()
    return repeated


def raw_columns(frame: pl.DataFrame) -> tuple[RawColumn, ...]:
    """The columns of a ``frame`` of strings, their numbers read on all cores."""
    with ThreadPoolExecutor(_WORKERS, "numbers") as pool:
        return tuple(pool.map(raw_column, frame.get_columns()))
