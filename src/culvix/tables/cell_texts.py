"""The cells of a column as they were written: kept as they are, or found again in the file's text when asked for.

A clean column of numbers is as long as its text twice over. Its numbers are kept; the text of a row stands in the bytes
that were read, and is taken from there.
"""

from abc import ABC, abstractmethod
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.stats.arrays import Floats, Ints

__all__ = ["CellTexts", "KeptTexts", "RawColumn", "plain_numbers", "raw_column"]


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
class KeptTexts(CellTexts):
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

    ``numbers`` has shape ``(rows,)``, NaN where a cell is none; ``odd`` are the rows (ascending, from 0) whose number
    is not finite, and ``odd_texts`` what stands there.
    """

    texts: CellTexts
    numbers: Floats
    odd: Ints
    odd_texts: pl.Series
    decimal: str = "."

    def __len__(self) -> int:
        return len(self.texts)


def plain_numbers(texts: pl.Series, decimal: str = ".") -> Floats:
    """The plain numbers among ``texts``, shape ``(n,)``, NaN elsewhere: digits, one ``decimal`` mark, an exponent.

    Where the decimal mark is a comma, points and apostrophes between threes of digits group thousands.
    """
    cells = texts.str.strip_chars()
    if decimal == ",":
        cells = _with_points(cells)
    numbers = cells.cast(pl.Float64, strict=False)
    return numbers.fill_null(np.nan).to_numpy().astype(np.float64, copy=False)


def _with_points(cells: pl.Series) -> pl.Series:
    """Numbers written with a decimal comma, rewritten with a point; other cells as they are."""
    if not bool(cells.str.contains(r"[.'’ \x{00A0}\x{202F}]").any()):
        return cells.str.replace(",", ".", literal=True)
    comma = cells.str.contains(r"^[+-]?(?:(?:\d{1,3}(?:[.'’ \x{00A0}\x{202F}]\d{3})+|\d*),\d+|\d+,)(?:[eE][+-]?\d+)?$")
    grouped = cells.str.contains(r"^[+-]?\d{1,3}(?:[.'’ \x{00A0}\x{202F}]\d{3})+$")
    digits = cells.str.replace_all(r"[.'’ \x{00A0}\x{202F}]", "").str.replace(",", ".", literal=True)
    return pl.select(pl.when(comma | grouped).then(digits).otherwise(cells)).to_series()


def raw_column(series: pl.Series, decimal: str = ".") -> RawColumn:
    """A column whose cells are the strings of ``series``."""
    numbers = plain_numbers(series, decimal)
    odd = np.flatnonzero(~np.isfinite(numbers))
    texts = KeptTexts(series)
    return RawColumn(texts, numbers, odd, texts.at(odd), decimal)
