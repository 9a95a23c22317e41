"""A table as read: typed columns beside their original text, and where they came from."""

import os
from collections.abc import Iterable, Iterator, Mapping
from dataclasses import dataclass, field, replace
from enum import StrEnum
from math import isfinite
from pathlib import Path

import numpy as np
import polars as pl

from culvix.caching import cached_property
from culvix.errors import CulvixError
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.display import count
from culvix.tables.cells.cell_kinds import FoundKind
from culvix.tables.cells.missing_tokens import Token, count_spellings
from culvix.tables.model.cell_texts import RawColumn
from culvix.tables.model.derived.derivation import Derivation
from culvix.tables.model.options.read_options import PLAIN, ReadOptions
from culvix.tables.model.options.reading_questions import ReadingQuestion
from culvix.tables.model.provenance import Provenance
from culvix.tables.model.raw_table import RawTable
from culvix.tables.reading.sources import Checksum
from culvix.tables.text.dialect import Dialect
from culvix.tables.text.text_backed import TextBackedCells

__all__ = ["NUMERIC_ROLES", "Column", "Role", "Source", "Table"]


class Role(StrEnum):
    """What a column is for, which decides what may be computed from it."""

    MEASURE = "measure"
    COUNT = "count"
    ORDERED = "ordered"
    CATEGORY = "category"
    YES_NO = "yes/no"
    IDENTIFIER = "identifier"
    DATE = "date"
    TEXT = "text"

    def named(self, many: int) -> str:
        """The word for so many columns of this role."""
        if many == 1 or self in (Role.ORDERED, Role.YES_NO):
            return str(self)
        return "categories" if self is Role.CATEGORY else f"{self}s"


_REMEMBERED_CELLS = 50_000
_MOST_RANKS = 60
_MOST_NAMED, _LONGEST_NAME = 200_000, 40
"""A column of free text names rows in a table of so many rows, where its texts are short."""

NUMERIC_ROLES = frozenset({Role.MEASURE, Role.COUNT, Role.ORDERED, Role.YES_NO})


def _as_number(code: str) -> float | None:
    """The number that a code is, None for a text."""
    try:
        value = float(code)
    except ValueError:
        return None
    return value if isfinite(value) else None


@dataclass(frozen=True, eq=False)
class Column:
    """One column: its cells as read, and for a numeric role its numbers.

    ``values`` has shape ``(rows,)`` with NaN where a cell is missing or unread; ``integers`` the same whole numbers
    exactly. ``unread_rows`` (from 0) hold text that was not read as a number. ``reason`` says why the role was chosen.
    """

    name: str
    role: Role
    reason: str
    raw: RawColumn
    missing: int
    values: Floats | None = None
    integers: Ints | None = None
    unread_rows: Ints = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    unit: str | None = None
    label: str | None = None
    kinds: Mapping[str, FoundKind] = field(default_factory=dict)
    """Cells that are no plain numbers in the file's own dialect, by kind, settled or not."""

    order: tuple[str, ...] = ()
    words: Mapping[str, str] = field(default_factory=dict)
    """What codes stand for, by code: "1" for "never"."""

    rules: Mapping[str, str] = field(default_factory=dict)
    """How kinds of cells were settled."""

    asks: str = ""
    """What is to be asked about its role, empty where nothing is."""

    is_first: bool = False
    """Whether no other column stands before it."""

    table_codes: tuple[str, ...] = ()
    """Texts that count as missing in every column of the table."""

    tokens: tuple[Token, ...] = ()
    """Spellings for a missing value that stand in the column, those among them that are levels included."""

    not_missing: tuple[str, ...] = ()
    """Spellings that count as missing in no column of the table."""

    missing_written: Ints = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    """Rows (ascending, from 0) that are missing because of what is written there, not because nothing is."""

    derivation: Derivation | None = None
    """How a column that was not read but worked out follows from another."""

    taken_as_data: bool = False
    """Whether a column that was worked out is data all the same, because the analyst gave it a role."""

    @property
    def is_data(self) -> bool:
        """Whether it was read, or is taken as if it had been: only then is it flagged, asked about and related."""
        return self.derivation is None or self.taken_as_data

    @property
    def is_numeric(self) -> bool:
        return self.values is not None

    @property
    def unread(self) -> int:
        return int(self.unread_rows.size)

    @property
    def title(self) -> str:
        """Label and unit as they stand on an axis: "length (mm)"."""
        shown = self.label or self.name
        return f"{shown} ({self.unit})" if self.unit else shown

    @cached_property
    def words_of_numbers(self) -> Mapping[float, str]:
        """What the codes that are numbers stand for."""
        return {value: word for code, word in self.words.items() if (value := _as_number(code)) is not None}

    def named(self, code: str) -> str:
        """A code with what it stands for, where that is known: "1 never"."""
        word = self.words.get(code)
        if word is None and (value := _as_number(code)) is not None:
            word = self.words_of_numbers.get(value)
        return code if word is None else f"{code} {word}"

    @cached_property
    def sample(self) -> Sample:
        """The numbers as imported. Raises CulvixError for a column that has none."""
        if self.values is None:
            raise CulvixError(f"The column {self.name} is read as {self.role}, so it has no numbers.")
        return Sample.of(self.values, self.integers)

    @property
    def rows(self) -> int:
        return len(self.raw)

    @property
    def text(self) -> pl.Series:
        """Every cell as read, as strings. For a column of numbers it is read again from the file's text: slow."""
        return self.raw.texts.all.alias(self.name)

    def cell(self, row: int) -> str:
        """Text of one cell as read; an empty string where there was none."""
        return self.raw.texts[row] or ""

    @cached_property
    def has_few_ranks(self) -> bool:
        """Whether it holds ordered codes, and so few of them that each can have a bar of its own."""
        if self.role is not Role.ORDERED or self.values is None:
            return False
        there = self.values[np.isfinite(self.values)]
        return not there.size or bool(np.ptp(there) < _MOST_RANKS and (there == np.rint(there)).all())

    @cached_property
    def present(self) -> Bools:
        """Mask of the rows with a usable cell: a finite number, or any text in a column without numbers."""
        if self.values is not None:
            return np.isfinite(self.values)
        present = np.ones(self.rows, dtype=bool)
        present[self.raw.nonnumeric_rows] = (
            (self.raw.nonnumeric_texts.str.strip_chars() != "").fill_null(False).to_numpy()
        )
        present[self.missing_written] = False
        return present

    @cached_property
    def missing_by(self) -> dict[str, int]:
        """How often each spelling stands for a missing value; "" for empty cells, which come first."""
        empty = self.missing - int(self.missing_written.size)
        spelled = count_spellings(self.raw.texts.at(self.missing_written)) if self.missing_written.size else {}
        return ({"": empty} if empty else {}) | dict(spelled)

    @cached_property
    def distinct(self) -> int:
        """Number of different present cells: of numbers where the column has any, else of texts."""
        if self.values is not None:
            return int(self.sample.runs[0].size)
        return int(self.text.filter(pl.Series(self.present)).str.strip_chars().n_unique())

    @property
    def known_distinct(self) -> int | None:
        """The same where it has been counted already; counting a long column takes a while."""
        return self.__dict__.get("distinct")

    def texts_up_to(self, most: int) -> list[str] | None:
        """The different texts of its present cells, None where there are more than ``most``."""
        texts = self.text.filter(pl.Series(self.present)).str.strip_chars().unique().drop_nulls()
        return [text for text in texts.to_list() if text] if len(texts) <= most + 1 else None

    def most_frequent(self, k: int = 10) -> list[tuple[str, int]]:
        """The ``k`` most frequent cells with their counts, ties in order of text."""
        texts = self.text.filter(pl.Series(self.present)).str.strip_chars()
        # Under a name of its own, as the column's may be that of the counts.
        counted = texts.rename("text").value_counts(name="n").sort(["n", "text"], descending=[True, False]).head(k)
        return [(str(value), int(n)) for value, n in counted.iter_rows()]


@dataclass(frozen=True)
class Source:
    """Where a table came from. ``notes`` are sentences on what the reader decided."""

    path: Path
    checksum: Checksum
    size: int
    encoding: str
    delimiter: str
    notes: tuple[str, ...] = ()
    kind: str = "delimited text"
    dialect: Dialect | None = None
    parts: tuple[str, ...] = ()
    part: str = ""
    provenance: str = ""
    questions: tuple[ReadingQuestion, ...] = ()
    """What can be read in more than one way."""

    options: ReadOptions = PLAIN
    names: tuple[str, ...] = ()
    """All columns of the file, of which some may not have been read."""

    sample: Provenance | None = None
    """What the file says that it is a sample of."""

    @property
    def name(self) -> str:
        """The name of the file, with marks in place of bytes that are no text."""
        return os.fsencode(self.path.name).decode("utf-8", errors="replace")

    @property
    def sha256(self) -> str:
        """Checksum of the file; the first to ask may have to wait for it."""
        return self.checksum.text


@dataclass(frozen=True, eq=False)
class Table:
    """Columns of equal length and their source."""

    columns: tuple[Column, ...]
    rows: int
    source: Source
    raw: RawTable
    """The cells before anything was judged."""

    rows_in_file: Ints | None = None
    """The rows of the file (from 0) where only some of them were read."""

    text: TextBackedCells | None = None
    key: tuple[str, ...] = ()
    """Columns said to tell every row apart."""

    @property
    def repeated_rows(self) -> Ints:
        """Rows (from 0) that repeat an earlier row in every cell; the first to ask has to wait for them."""
        return self.raw.repeated_rows

    def numbers_of(self, rows: Ints) -> Ints:
        """The numbers (from 1) under which ``rows`` (from 0) stand in the file."""
        return np.asarray((rows if self.rows_in_file is None else self.rows_in_file[rows]) + 1, dtype=np.int64)

    def number_of(self, row: int) -> int:
        """The number (from 1) under which ``row`` (from 0) stands in the file."""
        return int(self.numbers_of(np.array([row]))[0])

    def name_of(self, row: int) -> str:
        """How ``row`` (from 0) is spoken of: its number in the file, and the cell that names it."""
        position, named = f"row {count(self.number_of(row))}", self.label_column
        return position if named is None else f"{named.cell(row)} ({position})"

    def remember(self, rows: Ints) -> None:
        """Read the cells of ``rows`` at once, where they are soon to be shown and stand in a text."""
        if self.text is not None:
            self.text.remember(rows[: max(_REMEMBERED_CELLS // len(self.columns), 1)])

    def with_columns(self, columns: Iterable[Column], key: tuple[str, ...], provenance: str) -> "Table":
        """The same table with other ``columns``, and what is said of it as a whole; itself where all are the same."""
        new = tuple(columns)
        same = len(new) == len(self.columns) and all(a is b for a, b in zip(new, self.columns, strict=True))
        if same and (key, provenance) == (self.key, self.source.provenance):
            return self
        return replace(self, columns=new, key=key, source=replace(self.source, provenance=provenance))

    @property
    def as_read(self) -> "Table":
        """The table without columns that were worked out."""
        texts = tuple(column for column in self.columns if column.derivation is None)
        return self if len(texts) == len(self.columns) else replace(self, columns=texts)

    def __iter__(self) -> Iterator[Column]:
        return iter(self.columns)

    @cached_property
    def _by_name(self) -> dict[str, Column]:
        return {column.name: column for column in self.columns}

    def __getitem__(self, name: str) -> Column:
        try:
            return self._by_name[name]
        except KeyError:
            raise CulvixError(f"There is no column called {name!r} in {self.source.name}.") from None

    def __contains__(self, name: object) -> bool:
        return name in self._by_name

    @cached_property
    def numeric(self) -> tuple[Column, ...]:
        return tuple(column for column in self.columns if column.is_numeric)

    @cached_property
    def complete_rows(self) -> int:
        """Rows with a usable cell in every column: what a listwise deletion would leave."""
        complete = np.ones(self.rows, dtype=bool)
        for column in self.columns:
            complete &= column.present
        return int(complete.sum())

    @cached_property
    def label_column(self) -> Column | None:
        """What is shown for a row everywhere: the first column of the key, or the first that tells rows apart.

        Texts come before numbers, and the number a row has anyway is none.
        """
        if self.key and self.key[0] in self:
            return self[self.key[0]]
        named = [c for c in self.columns if c.role is Role.IDENTIFIER and c.missing * 10 < self.rows]
        texts = [c for c in named if c.raw.nonnumeric_rows.size == self.rows]
        if not texts:
            texts = [c for c in self.columns if c.role in (Role.TEXT, Role.CATEGORY) and self._tells_rows_apart(c)]
        numbers = [c for c in named if not self._counts_rows(c)]
        return next(iter((*texts, *numbers)), None)

    def _tells_rows_apart(self, column: Column) -> bool:
        if column.missing or not 2 < self.rows <= _MOST_NAMED:
            return False
        words = column.text.str.strip_chars()
        return column.distinct == self.rows and bool((words.str.len_chars() <= _LONGEST_NAME).all())

    def _counts_rows(self, column: Column) -> bool:
        """Whether ``column`` holds the number of each row, from 0 or 1 on."""
        numbers = column.raw.numbers
        if column.raw.nonnumeric_rows.size or not numbers.size or numbers[0] not in (0.0, 1.0):
            return False
        return bool((numbers[1:] - numbers[:-1] == 1).all())
