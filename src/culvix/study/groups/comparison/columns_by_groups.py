"""Many columns by the same groups: which of them differ, with p adjusted for all that were tried."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from math import inf

import numpy as np

from culvix.errors import CulvixError
from culvix.progress import Progress, silent
from culvix.stats.resampling.multiple_testing import holm
from culvix.stats.shape.axis_scale import AxisScale
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.groups.comparison.compared_column import ComparedColumn, Comparing, compare_grouped
from culvix.study.groups.row_groups import GroupsBy, row_groups
from culvix.study.pictures.groups.small_rows import SmallRow, small_row
from culvix.tables.model.table import Column

__all__ = ["ColumnByGroups", "compare_every_column"]


@dataclass(frozen=True, eq=False)
class ColumnByGroups:
    """The column ``name`` by groups: its ``row`` in the picture, and p ``adjusted`` over all columns that were tested.

    ``share`` is how much of the variation lies between the groups, or how far two of them are apart, from 0 to 1: by
    it columns that differ equally surely are ordered. ``note`` says why there is no test.
    """

    name: str
    row: SmallRow
    p: float | None
    share: float
    note: str = ""
    adjusted: float | None = None

    def differs(self, alpha: float) -> bool:
        """Whether the groups differ at the level ``alpha``, all columns taken together."""
        return self.adjusted is not None and self.adjusted < alpha


def compare_every_column(
    previews: Sequence[tuple[str, Callable[[], ColumnPreview]]],
    column: Column,
    by: GroupsBy,
    how: Comparing,
    date_order: str | None = None,
    progress: Progress = silent,
) -> tuple[ColumnByGroups, ...]:
    """The columns of ``previews``, each by its name with what makes it, by the groups of ``column``.

    Those that differ most surely come first, p adjusted by Holm. Raises CulvixError where ``column`` makes no groups.
    """
    progress(0.0, f"grouping by {by.column}")
    groups = row_groups(column, by, date_order)
    found = []
    for index, (name, make) in enumerate(previews):
        progress(index / len(previews), f"comparing {name}")
        try:
            preview = make()
            compared = compare_grouped(preview, groups, by.words, how)
        except CulvixError as problem:
            found.append(ColumnByGroups(name, SmallRow(name, name), None, 0.0, str(problem)))
            continue
        found.append(_column(name, compared, preview.axis.scale))
    tested = [each for each in found if each.p is not None]
    adjusted = holm(np.array([each.p for each in tested])) if tested else ()
    named = {each.name: float(p) for each, p in zip(tested, adjusted, strict=True)}
    found = [replace(each, adjusted=named.get(each.name)) for each in found]
    return tuple(sorted(found, key=lambda each: (inf if each.adjusted is None else each.adjusted, -each.share)))


def _column(name: str, compared: ComparedColumn, scale: AxisScale) -> ColumnByGroups:
    comparison = compared.comparison
    if comparison is None:
        return ColumnByGroups(name, small_row(compared, scale=scale), None, 0.0, compared.note)
    # Of two groups the last measure is the one without a unit, of more all of them are.
    effect = comparison.effects[-1 if len(comparison.samples) == 2 else 0]
    share = 0.0 if effect.value is None else min(abs(effect.value), 1.0)
    return ColumnByGroups(
        name, small_row(compared, effect, scale), comparison.result.p, share, comparison.result.note or ""
    )
