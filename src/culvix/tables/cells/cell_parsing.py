"""From the text of cells to numbers, keeping account of every cell that is not one."""

from collections.abc import Collection
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.tables.model.cell_texts import RawColumn, plain_numbers

__all__ = ["ParsedCells", "parse_cells"]

_INFINITY = r"(?i)^[+-]?inf(inity)?$"
_EXACT_FROM = 2**53
_GROUPS = r"[.,'’ \x{00A0}\x{202F}\x{2009}]"
_FIRST = 1000
"""So many numbers show most columns of decimals for what they are."""


@dataclass(frozen=True)
class ParsedCells:
    """Numbers of a column of text; masks and values have shape ``(rows,)``.

    ``coded`` are the rows (ascending, from 0) that are missing because of what is written there, not because nothing
    is. ``integers`` is given only where every number is whole and some lie beyond 2**53, where doubles lose digits: in
    64 bits where those hold them, else as Python's own integers.
    """

    values: Floats
    integers: Ints | None
    missing: Bools
    unread: Bools
    whole: bool
    coded: Ints

    @property
    def numbers(self) -> int:
        return int(self.values.size - self.missing.sum() - self.unread.sum())


def parse_cells(
    raw: RawColumn,
    missing_codes: Collection[str] = (),
    tokens: Ints | None = None,
    words: pl.Series | None = None,
) -> ParsedCells:
    """The cells of ``raw`` as plain numbers, missing, or unread; ``words`` are its odd texts, stripped, where known.

    An empty or blank cell is missing, and so are the rows of ``tokens`` and cells equal to a code of ``missing_codes``
    as text or as a number. All other text is unread. "inf" is read as infinite; digits too large for a double are
    unread.
    """
    values, nonnumeric_rows = raw.numbers, raw.nonnumeric_rows
    words = raw.nonnumeric_texts.str.strip_chars() if words is None else words
    missing, unread = np.zeros(values.size, dtype=bool), np.zeros(values.size, dtype=bool)
    coded = np.zeros(0, dtype=np.int64) if tokens is None else tokens
    if missing_codes:
        coded = np.union1d(coded, _coded(missing_codes, raw, words, values))
    # Only cells that gave no finite number need to be looked at as text.
    if nonnumeric_rows.size:
        missing[nonnumeric_rows] = (words.is_null() | (words == "")).to_numpy()
        infinite = np.isinf(values[nonnumeric_rows])
        if infinite.any():
            spelled = words.str.contains(_INFINITY).fill_null(False).to_numpy()
            values = values.copy()
            values[nonnumeric_rows[infinite & ~spelled]] = np.nan
    if coded.size:
        missing[coded] = True
        if not np.isnan(values[coded]).all():
            values = values.copy()
            values[coded] = np.nan
    unread[nonnumeric_rows] = np.isnan(values[nonnumeric_rows]) & ~missing[nonnumeric_rows]
    some = values[:_FIRST]
    whole = bool((some == np.floor(some))[np.isfinite(some)].all())
    finite = values if not whole or not (nonnumeric_rows.size or coded.size) else values[np.isfinite(values)]
    whole = whole and bool((finite == np.floor(finite)).all())
    return ParsedCells(values, _exact(raw, values, finite, whole), missing, unread, whole, coded)


def _coded(codes: Collection[str], raw: RawColumn, words: pl.Series, values: Floats) -> Ints:
    """Rows (ascending, from 0) whose cells equal one of ``codes``, as text or as a number."""
    numeric = plain_numbers(pl.Series(list(codes), dtype=pl.String), raw.marks)
    numeric = numeric[np.isfinite(numeric)]
    rows = np.flatnonzero(np.isin(values, numeric)) if numeric.size else np.zeros(0, dtype=np.int64)
    if raw.nonnumeric_rows.size:
        known = pl.Series(list(codes), dtype=pl.String)
        rows = np.union1d(rows, raw.nonnumeric_rows[words.is_in(known.implode()).fill_null(False).to_numpy()])
    return rows.astype(np.int64)


def _exact(raw: RawColumn, values: Floats, finite: Floats, whole: bool) -> Ints | None:
    """The whole numbers exactly, where doubles would lose digits."""
    if not whole or not finite.size or max(-float(finite.min()), float(finite.max())) < _EXACT_FROM:
        return None
    texts = raw.texts.all.str.strip_chars()
    requested = np.isfinite(values)
    exact = texts.cast(pl.Int64, strict=False)
    if not bool((exact.is_null().to_numpy() & requested).any()):
        return exact.fill_null(0).to_numpy().astype(np.int64)
    digits = texts.filter(pl.Series(requested)).str.replace_all(_GROUPS, "").str.replace("−", "-", literal=True)
    if not bool(digits.str.contains(r"^[+-]?\d+$").all()):
        # Written with decimals or an exponent, numbers claim no more digits than a double has.
        return None
    large = np.zeros(values.size, dtype=object)
    large[requested] = [int(text) for text in digits.to_list()]
    if all(-(2**63) <= number < 2**63 for number in large[requested].tolist()):
        return large.astype(np.int64)
    return large
