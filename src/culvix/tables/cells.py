"""From the text of cells to numbers, keeping account of every cell that is not one."""

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.stats.arrays import Bools, Floats, Ints
from culvix.tables.cell_texts import RawColumn, plain_numbers

__all__ = ["ParsedCells", "parse_cells"]

_INFINITY = r"(?i)^[+-]?inf(inity)?$"
_EXACT_FROM = 2**53
_FIRST = 1000
"""So many numbers show most columns of decimals for what they are."""


@dataclass(frozen=True)
class ParsedCells:
    """Numbers of a column of text; masks and values have shape ``(rows,)``.

    ``integers`` is given only where every number is whole and some lie beyond 2**53, where doubles lose digits.
    """

    values: Floats
    integers: Ints | None
    missing: Bools
    unread: Bools
    whole: bool

    @property
    def numbers(self) -> int:
        return int(self.values.size - self.missing.sum() - self.unread.sum())


def parse_cells(raw: RawColumn, missing_codes: Collection[str] = ()) -> ParsedCells:
    """The cells of ``raw`` as plain numbers, missing, or unread.

    An empty or blank cell is missing, and so is one equal to a code of ``missing_codes`` as text or as a number. All
    other text, "nan" included, is unread. "inf" is read as infinite; digits too large for a double are unread.
    """
    values, odd = raw.numbers, raw.odd
    missing = np.zeros(values.size, dtype=bool)
    if odd.size or missing_codes:
        values = values.copy()
    # Only cells that gave no finite number need to be looked at as text.
    if odd.size:
        cells = raw.odd_texts.str.strip_chars()
        missing[odd] = (cells.is_null() | (cells == "")).to_numpy()
        infinite = odd[np.isinf(values[odd])]
        if infinite.size:
            spelled = cells.str.contains(_INFINITY).fill_null(False).to_numpy()
            values[odd[np.isinf(values[odd]) & ~spelled]] = np.nan
    if missing_codes:
        _count_as_missing(missing_codes, raw, values, missing)
    unread = np.isnan(values) & ~missing
    finite = values[np.isfinite(values)] if odd.size or missing_codes else values
    whole = bool((finite[:_FIRST] == np.floor(finite[:_FIRST])).all()) and bool((finite == np.floor(finite)).all())
    return ParsedCells(values, _exact(raw, values, finite, whole), missing, unread, whole)


def _count_as_missing(codes: Collection[str], raw: RawColumn, values: Floats, missing: Bools) -> None:
    """Mark the cells equal to one of ``codes``, as text or as a number, in place."""
    numeric = plain_numbers(pl.Series(list(codes), dtype=pl.String), raw.decimal)
    missing |= np.isin(values, numeric[np.isfinite(numeric)])
    if raw.odd.size:
        missing[raw.odd] |= raw.odd_texts.str.strip_chars().is_in(list(codes)).fill_null(False).to_numpy()
    values[missing] = np.nan


def _exact(raw: RawColumn, values: Floats, finite: Floats, whole: bool) -> Ints | None:
    """The whole numbers exactly, where doubles would lose digits and 64 bits hold them all."""
    if not whole or not finite.size or max(-float(finite.min()), float(finite.max())) < _EXACT_FROM:
        return None
    exact = raw.texts.all.str.strip_chars().cast(pl.Int64, strict=False)
    if bool((exact.is_null().to_numpy() & np.isfinite(values)).any()):
        return None
    return exact.fill_null(0).to_numpy().astype(np.int64)
