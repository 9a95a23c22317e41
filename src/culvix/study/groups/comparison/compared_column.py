"""A column of the study compared by groups, or several columns with each other: values, numbers and test in one."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from types import MappingProxyType

import numpy as np

from culvix.errors import CulvixError, StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.describe.description import describe
from culvix.stats.display import NumberStyle, count, plural
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.grouping import Grouping
from culvix.study.groups.comparison.comparison import GroupComparison, compare_groups, compare_pairs
from culvix.study.groups.pooled_flags import PooledFlags, flag_pooled
from culvix.study.groups.row_groups import GroupsBy, row_groups
from culvix.study.groups.value_groups import ValueGroup, groups_of_columns, groups_of_values
from culvix.tables.model.table import Column, Role

__all__ = ["POOLED", "TOTAL", "ComparedColumn", "Comparing", "compare_column", "compare_columns"]

POOLED = "all columns"
TOTAL = "all groups"
"""What all of them together are called: columns pooled as one sample, and groups."""


@dataclass(frozen=True)
class Comparing:
    """How groups are compared: at ``alpha`` and a ``confidence``, with the ``answers`` and the ``test`` chosen."""

    alpha: float = 0.05
    confidence: float = 0.95
    quantile_type: int = 7
    answers: Mapping[str, bool] = field(default_factory=lambda: MappingProxyType({}))
    test: str | None = None


@dataclass(frozen=True, eq=False)
class ComparedColumn:
    """``measure`` compared by ``by``, both in words: its ``groups``, and what a test tells of them.

    ``comparison`` is None, with a ``note`` why, where there is nothing to test. ``outside`` counts rows with a value
    that are in no group.
    """

    measure: str
    by: str
    title: str
    unit: str | None
    style: NumberStyle
    groups: tuple[ValueGroup, ...]
    comparison: GroupComparison | None
    note: str
    outside: int = 0
    total: ValueGroup | None = None
    """All groups together, or all columns pooled as one sample."""
    pooled_flags: PooledFlags | None = None
    """Of columns, what is flagged where they are one sample."""

    @property
    def about(self) -> str:
        """How many groups there are, and which rows are in none."""
        parts = [plural(len(self.groups), "group")]
        if self.comparison is not None and self.comparison.pairs:
            parts = [plural(self.comparison.pairs, "row with both values", "rows with both values")]
        missing = sum(group.missing for group in self.groups)
        if missing:
            parts.append(f"{count(missing)} without a value")
        if self.outside:
            parts.append(f"{plural(self.outside, 'value')} in no group")
        return " · ".join(parts)


def compare_column(
    analysis: ColumnPreview,
    column: Column,
    by: GroupsBy,
    how: Comparing,
    date_order: str | None = None,
    progress: Progress = silent,
) -> ComparedColumn:
    """The column of ``analysis`` by the groups that ``column`` makes.

    Raises CulvixError where it makes none.
    """
    progress(0.0, f"grouping by {by.column}")
    return compare_grouped(analysis, row_groups(column, by, date_order), by.words, how, progress)


def compare_grouped(
    analysis: ColumnPreview, groups: Grouping, by: str, how: Comparing, progress: Progress = silent
) -> ComparedColumn:
    """The column of ``analysis`` by ``groups`` that are known, called ``by``."""
    values = analysis.sample.values
    found = groups_of_values(
        values,
        groups,
        analysis.flags.rows,
        quantile_type=how.quantile_type,
        confidence=how.confidence,
        progress=lambda share, words: progress(0.6 * share, words),
    )
    outside = int(np.count_nonzero(np.isfinite(values) & (groups.codes < 0)))
    samples = {group.name: group.sample for group in found}
    progress(0.7, "comparing the groups")
    comparison, note = None, ""
    try:
        comparison = compare_groups(
            samples,
            alpha=how.alpha,
            confidence=how.confidence,
            ordered=analysis.column.role is Role.ORDERED,
            answers=how.answers,
            test=how.test,
        )
    except StatisticsError as problem:
        note = str(problem)
    name, column = analysis.column.name, analysis.column
    total = _together(analysis, groups, found, outside)
    return ComparedColumn(name, by, column.title, column.unit, analysis.style, found, comparison, note, outside, total)


def _pooled(found: Sequence[ValueGroup]) -> ValueGroup | None:
    """The values of all columns as one sample, in the rows that have any."""
    if not found:
        return None
    values = np.concatenate([group.sample.values for group in found])
    rows = np.unique(np.concatenate([group.rows for group in found]))
    sample = Sample.of(values)
    return ValueGroup(POOLED, rows, sample, describe(sample), sum(group.missing for group in found), 0)


def _together(
    analysis: ColumnPreview, groups: Grouping, found: Sequence[ValueGroup], outside: int
) -> ValueGroup | None:
    """All groups as one; where no value is in none, that is what is known of the column."""
    if not found:
        return None
    if outside:
        every = Grouping(groups.by, (TOTAL,), np.where(groups.codes >= 0, 0, -1))
        return groups_of_values(analysis.sample.values, every, analysis.flags.rows)[0]
    rows = np.flatnonzero(np.isfinite(analysis.sample.values))
    missing, flagged = (sum(getattr(group, name) for group in found) for name in ("missing", "flagged"))
    return ValueGroup(TOTAL, rows, analysis.sample, analysis.description, missing, flagged)


def compare_columns(
    analyses: Sequence[ColumnPreview], how: Comparing, *, paired: bool, progress: Progress = silent
) -> ComparedColumn:
    """Several columns of one unit as groups; two of them ``paired`` by row.

    Raises CulvixError for fewer than two columns, for other than two that are paired, and for different units.
    """
    if len(analyses) < 2:
        raise CulvixError("Choose at least two columns to be compared with each other.")
    units = dict.fromkeys(each.column.unit or "" for each in analyses if each.column.unit)
    if len(units) > 1:
        raise CulvixError(f"These columns are in different units ({', '.join(units)}); they cannot be compared.")
    if paired and len(analyses) != 2:
        raise CulvixError("Rows are paired between two columns; choose two.")
    columns: dict[str, Floats] = {each.column.name: each.sample.values for each in analyses}
    flagged = {each.column.name: each.flags.rows for each in analyses}
    progress(0.2, "describing the columns")
    found = groups_of_columns(columns, flagged, quantile_type=how.quantile_type, confidence=how.confidence)
    progress(0.6, "comparing the columns")
    ordered = any(each.column.role is Role.ORDERED for each in analyses)
    options = {
        "alpha": how.alpha,
        "confidence": how.confidence,
        "ordered": ordered,
        "answers": how.answers,
        "test": how.test,
    }
    comparison, note = None, ""
    try:
        if paired:
            first, second = columns
            comparison = compare_pairs((first, second), columns[first], columns[second], **options)  # type: ignore[arg-type]
        else:
            comparison = compare_groups({group.name: group.sample for group in found}, **options)  # type: ignore[arg-type]
    except StatisticsError as problem:
        note = str(problem)
    unit = next(iter(units), None)
    flags, total = None if paired else flag_pooled(analyses), _pooled(found)
    if flags is not None and total is not None:
        total = replace(total, flagged=flags.count)
    words = " and ".join(columns) if len(columns) < 4 else plural(len(columns), "column")
    title = f"{words} ({unit})" if unit else words
    style = max((each.style for each in analyses), key=lambda style: style.statistic_decimals)
    return ComparedColumn(words, "column", title, unit, style, found, comparison, note, 0, total, flags)
