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

    Columns are in the order of the table, patterns by their number of rows, then by the place of their columns.
    """
    gappy = [column for column in table.as_read if not column.present.all()]
    if not gappy or not table.rows:
        return MissingPatterns((), table.rows, 0, 0)
    gaps = pl.DataFrame({str(place): ~column.present for place, column in enumerate(gappy)})
    counted = gaps.group_by(gaps.columns).len("rows")
    found = [(rows, [place for place, gap in enumerate(pattern) if gap]) for *pattern, rows in counted.iter_rows()]
    complete = sum(rows for rows, places in found if not places)
    ordered = sorted(((rows, places) for rows, places in found if places), key=lambda each: (-each[0], each[1]))
    patterns = tuple(
        MissingPattern(tuple(gappy[place].name for place in places), rows) for rows, places in ordered[:most]
    )
    others = ordered[most:]
    return MissingPatterns(patterns, complete, len(others), sum(rows for rows, _ in others))


def rows_of_pattern(table: Table, pattern: MissingPattern) -> Ints:
    """The rows (ascending, from 0) that miss a usable cell in just the columns of ``pattern``."""
    inside = np.ones(table.rows, dtype=bool)
    for column in table.as_read:
        inside &= ~column.present if column.name in pattern.columns else column.present
    return np.flatnonzero(inside)
