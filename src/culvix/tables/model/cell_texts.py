"""The cells of a column as they were written: kept as they are, or found again in the file's text when asked for.

A clean column of numbers is as long as its text twice over. Its numbers are kept; the text of a row stands in the bytes
that were read, and is taken from there.
"""

from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.stats.core.arrays import Floats, Ints
from culvix.tables.text.number_marks import POINT, NumberMarks

__all__ = ["CellTexts", "RawColumn", "StoredTexts", "plain_numbers", "raw_column"]


class CellTexts(ABC):
    """The text of each cell of a column; null where there was none."""

    @abstractmethod
    def __len__(self) -> int: ...

    @property
    @abstractmethod
    def all(self) -> pl.Series:
        """Every cell, as strings."""

    @abstractmethod
    def at(self, rows: Ints) -> pl.Series:
        """The cells of ``rows`` (from 0), in their order."""

    @abstractmethod
    def __getitem__(self, row: int) -> str | None:
        """One cell."""


@dataclass(frozen=True, eq=False)
class StoredTexts(CellTexts):
    """Cells that are held as text."""

    series: pl.Series

    def __len__(self) -> int:
        return len(self.series)

    @property
    def all(self) -> pl.Series:
        return self.series

    def at(self, rows: Ints) -> pl.Series:
        return self.series.gather(pl.Series(rows, dtype=pl.UInt32))

    def __getitem__(self, row: int) -> str | None:
        value = self.series[row]
        return None if value is None else str(value)


@dataclass(frozen=True, eq=False)
class RawColumn:
    """A column before it is judged: its cells, and the plain numbers among them.

    ``numbers`` has shape ``(rows,)``, NaN where a cell is none; ``nonnumeric_rows`` are the rows (ascending, from 0)
    whose number is not finite, and ``nonnumeric_texts`` what stands there.
    """

    texts: CellTexts
    numbers: Floats
    nonnumeric_rows: Ints
    nonnumeric_texts: pl.Series
    marks: NumberMarks = POINT

    def __len__(self) -> int:
        return len(self.texts)


_SIGN, _EXPONENT = r"[+\-]?", r"(?:[eE][+-]?\d+)?"
_GROUPERS = r".'’ \x{00A0}\x{202F}\x{2009}"


def plain_numbers(texts: pl.Series, marks: NumberMarks = POINT) -> Floats:
    """The plain numbers among ``texts``, shape ``(n,)``, NaN elsewhere: a sign, digits, the decimal mark, an exponent.

    Thousands are grouped in threes by the mark that is known to do so; with a decimal comma by a point, an apostrophe
    or a space, too. With a decimal comma, "1.5" is no plain number: it cannot be known what its point is.
    """
    if marks.decimal == "." and not marks.thousands:
        return _as_they_stand(texts)
    cells = texts.str.strip_chars()
    if marks.decimal == ",":
        cells = _with_points(cells)
    numbers = cells.cast(pl.Float64, strict=False)
    if marks.thousands and marks.decimal == ".":
        numbers = _with_grouped(cells, numbers, marks)
    return numbers.fill_null(np.nan).to_numpy().astype(np.float64, copy=False)


def _as_they_stand(texts: pl.Series) -> Floats:
    """Numbers with a decimal point; most have no blanks around them, which are taken off the others only."""
    numbers = texts.cast(pl.Float64, strict=False)
    values: Floats = numbers.fill_null(np.nan).to_numpy()
    if numbers.null_count() > texts.null_count():
        others = np.flatnonzero((numbers.is_null() & texts.is_not_null()).to_numpy())
        values = values.copy()
        values[others] = texts.gather(others).str.strip_chars().cast(pl.Float64, strict=False).to_numpy()
    return values


def _with_grouped(cells: pl.Series, numbers: pl.Series, marks: NumberMarks) -> pl.Series:
    """The ``numbers`` and those whose thousands are grouped."""
    groups = f"[{marks.thousands}]" if marks.thousands.strip() else r"[ \x{00A0}\x{202F}\x{2009}]"
    fits = cells.str.contains(rf"^{_SIGN}\d{{1,3}}(?:{groups}\d{{3}})+(?:\.\d*)?{_EXPONENT}$").fill_null(False)
    bare = cells.filter(fits).str.replace_all(groups, "").cast(pl.Float64, strict=False)
    values = numbers.fill_null(np.nan).to_numpy().copy()
    values[fits.to_numpy()] = bare.to_numpy()
    return pl.Series(values)


def _with_points(cells: pl.Series) -> pl.Series:
    """Numbers written with a decimal comma, rewritten with a point; null where a cell is none."""
    grouped = rf"\d{{1,3}}(?:[{_GROUPERS}]\d{{3}})+"
    fits = cells.str.contains(rf"^{_SIGN}(?:(?:\d+|{grouped})(?:,\d*)?|,\d+){_EXPONENT}$")
    spelled = cells.str.contains(r"(?i)^[+-]?(?:inf|infinity)$")
    bare = cells.str.replace_all(rf"[{_GROUPERS}]", "")
    digits = bare.str.replace(",", ".", literal=True)
    return pl.select(pl.when(fits).then(digits).when(spelled).then(cells).otherwise(None)).to_series()


def raw_column(series: pl.Series, marks: NumberMarks = POINT) -> RawColumn:
    """A column whose cells are the strings of ``series``."""
    numbers = plain_numbers(series, marks)
    nonnumeric_rows = np.flatnonzero(~np.isfinite(numbers))
    texts = StoredTexts(series)
    return RawColumn(texts, numbers, nonnumeric_rows, texts.at(nonnumeric_rows), marks)
