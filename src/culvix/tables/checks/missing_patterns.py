"""Which cells are missing together: the patterns of gaps that rows have, the most frequent first."""

from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.stats.core.arrays import Ints
from culvix.tables.model.table import Table

__all__ = ["MissingPattern", "MissingPatterns", "missing_patterns", "rows_of_pattern"]


@dataclass(frozen=True)
class MissingPattern:
    """``rows`` rows miss a usable cell in just these ``columns``."""

    columns: tuple[str, ...]
    rows: int


@dataclass(frozen=True)
class MissingPatterns:
    """The most frequent ``patterns``, and how many ``others`` in how many rows; ``complete`` rows have no gap."""

    patterns: tuple[MissingPattern, ...]
    complete: int
    others: int
    rows_of_others: int


def missing_patterns(table: Table, most: int = 20) -> MissingPatterns:
    """The patterns of missing and unread cells in the rows of ``table``; ``most`` of them are named.

    Columns are in the order of the table, patterns by their number of rows, then those first that have a gap in an
    earlier column.
    """
    gappy = [column for column in table.as_read if not column.present.all()]
    if not gappy or not table.rows:
        return MissingPatterns((), table.rows, 0, 0)
    gaps = pl.DataFrame({str(index): ~column.present for index, column in enumerate(gappy)})
    counted = gaps.group_by(gaps.columns).len("rows")
    some = counted.filter(pl.any_horizontal(gaps.columns)).sort(["rows", *gaps.columns], descending=True)
    patterns = tuple(
        MissingPattern(tuple(column.name for column, gap in zip(gappy, pattern, strict=True) if gap), rows)
        for *pattern, rows in some.head(most).iter_rows()
    )
    complete = table.rows - int(some["rows"].sum())
    others = some["rows"].slice(most)
    return MissingPatterns(patterns, complete, len(others), int(others.sum()))


def rows_of_pattern(table: Table, pattern: MissingPattern) -> Ints:
    """The rows (ascending, from 0) that miss a usable cell in just the columns of ``pattern``."""
    inside = np.ones(table.rows, dtype=bool)
    for column in table.as_read:
        inside &= ~column.present if column.name in pattern.columns else column.present
    return np.flatnonzero(inside)
