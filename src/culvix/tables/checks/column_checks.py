"""What looks wrong with single columns before anything is computed from them: codes, constants, identifiers, size.

Each check says what it saw and where; what to do about it is the analyst's.
"""

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np

from culvix.stats.core.arrays import Ints
from culvix.stats.core.quantiles import quantile
from culvix.stats.core.sample import Sample
from culvix.stats.display import count, number, plural
from culvix.tables.model.table import Column, Role

__all__ = ["ColumnFinding", "SuspectedCode", "check_column", "suspected_codes"]

_NINES = frozenset(float(sign * int("9" * digits)) for digits in range(1, 8) for sign in (1, -1))
_OFTEN = 3
_LEVELS = 12
_FAR = 2.0
"""IQRs between a code and the nearest other value."""

_LARGEST_DOUBLE_WHOLE = 2**53


@dataclass(frozen=True, eq=False)
class SuspectedCode:
    """A value that may stand for a missing one, its rows (from 0, ascending), and what speaks for it."""

    value: float
    rows: Ints
    reason: str

    @property
    def count(self) -> int:
        return int(self.rows.size)


@dataclass(frozen=True, eq=False)
class ColumnFinding:
    """Something to know about a column, with the rows (from 0) it rests on, none where it is about all of them."""

    kind: str
    evidence: str
    rows: Ints = field(default_factory=lambda: np.zeros(0, dtype=np.int64))


def suspected_codes(sample: Sample) -> list[SuspectedCode]:
    """Values at either end of ``sample`` that repeat far outside all others, are all nines, or a lone −1."""
    values, counts = sample.runs
    if values.size < 5:
        return []
    found = []
    for position, beside in ((0, 1), (-1, -2)):
        value, times = float(values[position]), int(counts[position])
        others = np.delete(counts, position)
        reason = _reason(sample, value, times, float(values[beside]), others)
        if reason:
            rows = np.sort(sample.rows[:times] if position == 0 else sample.rows[-times:])
            found.append(SuspectedCode(value, rows, reason))
    return found


def _reason(sample: Sample, value: float, times: int, beside: float, others: Ints) -> str | None:
    if value != np.floor(value):
        return None
    core = sample.without(np.flatnonzero(sample.values == value)).sorted
    if not core.size:
        return None
    spread = quantile(core, 0.75) - quantile(core, 0.25)
    gap = abs(value - beside)
    if value == -1 and beside >= 0 and times > 1:
        return f"the only negative value, {count(times)} times in a column that is never below 0 otherwise"
    if spread <= 0:
        return None
    far = gap / spread
    # Where there are few values, or all of them as often, the outermost is one level among others.
    level = (others.size <= _LEVELS and times <= int(others.max())) or times <= int(others.min())
    if times >= _OFTEN and far >= _FAR and not level:
        return f"{count(times)} times the same value, {number(far, 2)} IQRs beyond all others"
    if value in _NINES and times > 1 and far >= 1:
        return f"all nines, {count(times)} times, {number(far, 2)} IQRs beyond all others"
    return None


def check_column(column: Column, repeated_rows: Ints) -> Iterator[ColumnFinding]:
    """What there is to know about ``column``; rows that repeat an earlier row are not held against it."""
    present = int(column.present.sum())
    if not present:
        yield _nothing(column)
        return
    if column.distinct == 1 and present > 1:
        first = int(np.flatnonzero(column.present)[0])
        yield ColumnFinding("constant", f"All {plural(present, 'cell')} hold {column.cell(first).strip()!r}.")
    yield from _near_unique(column, repeated_rows)
    yield from _large_whole(column)
    yield from _leading_zeros(column)


def _nothing(column: Column) -> ColumnFinding:
    """What a column without a usable cell holds."""
    if column.unread:
        words = f"No cell was read as a number: {plural(column.unread, 'cell')} hold something else."
        return ColumnFinding("no_numbers", words, column.unread_rows)
    if column.is_numeric and column.missing < column.rows:
        return ColumnFinding("no_numbers", "No number is finite.")
    written = [spelling for spelling in column.missing_by if spelling]
    if written:
        return ColumnFinding("empty", f"Every cell is missing: empty, or {', '.join(written[:5])}.")
    return ColumnFinding("empty", "Every cell is empty.")


def _near_unique(column: Column, repeated_rows: Ints) -> Iterator[ColumnFinding]:
    """An identifier that is not one: a few of its values occur twice in rows that differ."""
    if column.role is not Role.IDENTIFIER:
        return
    counted = column.present.copy()
    counted[repeated_rows] = False
    rows = np.flatnonzero(counted)
    again = column.text.filter(counted).str.strip_chars().is_duplicated().to_numpy()
    if again.any():
        words = plural(int(again.sum()), "row")
        yield ColumnFinding("near_unique", f"{words} share their identifier with another row.", rows[again])


def _large_whole(column: Column) -> Iterator[ColumnFinding]:
    if column.integers is None:
        return
    finite = np.isfinite(column.values) if column.values is not None else np.zeros(0, dtype=bool)
    rows = np.flatnonzero(finite & (np.abs(column.integers) > _LARGEST_DOUBLE_WHOLE))
    if rows.size:
        words = plural(int(rows.size), "whole number")
        yield ColumnFinding("large_integers", f"{words} beyond 2^53, where doubles lose digits; kept exactly.", rows)


def _leading_zeros(column: Column) -> Iterator[ColumnFinding]:
    if column.role is Role.IDENTIFIER and column.reason.startswith("whole numbers written with leading zeros"):
        rows = np.flatnonzero(column.text.str.contains(r"^\s*0\d").fill_null(False).to_numpy())
        yield ColumnFinding("leading_zeros", f"{plural(int(rows.size), 'cell')} begin with a zero that counts.", rows)
