"""The groups into which rows of a table are put: by the values of a column, by its ranges, or by periods of dates."""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np
import polars as pl

from culvix.errors import CulvixError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.display import style_for
from culvix.study.analysis.grouping import MOST_GROUPS, Grouping, grouping
from culvix.study.groups.date_periods import PERIODS, period_name, period_numbers
from culvix.tables.cells.date_values import days_of
from culvix.tables.model.table import Column, Role

__all__ = ["GroupsBy", "equal_cuts", "quantile_cuts", "range_grouping", "row_groups", "ways_to_group"]


@dataclass(frozen=True)
class GroupsBy:
    """What makes groups of rows: each value of ``column``, or that many ``ranges`` of it, or each ``period`` of dates.

    Ranges have about as many rows each; ``period`` is one of `PERIODS` or `WEEKDAY`.
    """

    column: str
    ranges: int = 0
    period: str = ""

    @property
    def words(self) -> str:
        """What the groups are called together."""
        if self.ranges:
            return f"{self.column} in {self.ranges} ranges"
        return f"{self.column} by {self.period}" if self.period else self.column


def ways_to_group(column: Column) -> tuple[str, ...]:
    """How ``column`` can make groups: by ``values``, ``ranges`` or ``periods``, the usual way first."""
    if column.role is Role.DATE:
        return ("periods",)
    if column.values is None:
        return ("values",)
    if column.role in (Role.ORDERED, Role.YES_NO):
        return ("values", "ranges")
    return ("ranges", "values")


def row_groups(column: Column, by: GroupsBy, date_order: str | None = None) -> Grouping:
    """The group of each row as ``by`` has it; ``date_order`` is what was said of dates that can be read both ways.

    Raises CulvixError where there are no groups of that kind in ``column``, or more than `MOST_GROUPS`.
    """
    if by.ranges:
        if column.values is None:
            raise CulvixError(f"{column.name} has no numbers to make ranges of.")
        sample = Sample.of(column.values)
        cuts = quantile_cuts(sample, by.ranges)
        if not cuts.size:
            raise CulvixError(f"The values of {column.name} do not make {by.ranges} ranges.")
        return range_grouping(column.name, column.values, cuts, sample)
    if by.period:
        return _by_period(column, by.period, date_order)
    return grouping(column)


def quantile_cuts(sample: Sample, parts: int) -> Floats:
    """Values at which ``parts`` ranges of about as many values each begin, ascending; fewer where values repeat."""
    if sample.n < parts:
        return np.zeros(0)
    x = sample.sorted
    cuts = np.unique(x[np.arange(1, parts) * x.size // parts])
    return np.asarray(cuts[cuts > x[0]])


def equal_cuts(sample: Sample, parts: int) -> Floats:
    """Values at which ``parts`` ranges as wide as each other meet, ascending."""
    if not sample.n or sample.sorted[0] == sample.sorted[-1]:
        return np.zeros(0)
    return np.linspace(float(sample.sorted[0]), float(sample.sorted[-1]), parts + 1)[1:-1]


def range_grouping(name: str, values: Floats, cuts: Floats, sample: Sample) -> Grouping:
    """Groups of the ``values`` (shape ``(rows,)``) by ranges that meet at ``cuts`` (ascending) and begin there."""
    style = style_for(sample, sample.moments.sd if sample.moments else None)
    ends = [style.statistic(float(cut)) for cut in cuts]
    if len(set(ends)) < len(ends):
        ends = [f"{cut:.12g}" for cut in cuts]
    names = [f"below {ends[0]}", *(f"{low} to below {high}" for low, high in pairwise(ends))]
    codes: Ints = np.searchsorted(cuts, values, side="right").astype(np.int64)
    codes[~np.isfinite(values)] = -1
    return Grouping(name, (*names, f"{ends[-1]} and more"), codes)


def _by_period(column: Column, period: str, date_order: str | None) -> Grouping:
    texts = column.text.str.strip_chars().set(~pl.Series(column.present), None)
    days = days_of(texts, date_order)
    if days is None or not np.isfinite(days).any():
        raise CulvixError(f"The dates of {column.name} cannot be read; Intake says why.")
    there = np.isfinite(days)
    numbers, codes = np.unique(period_numbers(days[there].astype(np.int64), period), return_inverse=True)
    if numbers.size > MOST_GROUPS:
        coarser = PERIODS[-1]
        raise CulvixError(f"{column.name} spans {numbers.size} {period}s; choose a longer period, up to a {coarser}.")
    every = np.full(days.size, -1, dtype=np.int64)
    every[there] = codes
    return Grouping(column.name, tuple(period_name(int(number), period) for number in numbers), every)
