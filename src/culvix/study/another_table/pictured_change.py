"""What is drawn of a column that is in two tables: both on one axis, or the shares of levels in both."""

import numpy as np

from culvix.stats.core.arrays import Ints
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.another_table.column_changes import ColumnChange
from culvix.study.groups.crossed import CrossedCategories, cross
from culvix.study.groups.value_groups import ValueGroup, groups_of_columns
from culvix.tables.model.table import Column

__all__ = ["levels_of_both", "values_of_both"]


def values_of_both(change: ColumnChange, here: str, there: str) -> tuple[ValueGroup, ...]:
    """The numbers of both tables as two groups, those ``there`` in the unit of those ``here``."""
    if change.here is None or change.there is None:
        return ()
    names = (here, there) if here != there else (f"{here}, this one", f"{there}, the other")
    columns = dict(zip(names, (change.here.values, change.there.values), strict=True))
    return groups_of_columns(columns, {})


def levels_of_both(here: Column, there: Column, names: tuple[str, str]) -> CrossedCategories:
    """The rows of both tables by the levels of a category.

    Raises CulvixError where a column has too many.
    """
    groups = grouping(here), grouping(there)
    levels = list(dict.fromkeys((*groups[0].names, *groups[1].names)))
    indices = [np.array([levels.index(name) for name in each.names] or [0], dtype=np.int64) for each in groups]
    codes: list[Ints] = [
        np.where(each.codes >= 0, indices_of_group[np.maximum(each.codes, 0)], -1)
        for each, indices_of_group in zip(groups, indices, strict=True)
    ]
    tables = np.repeat(np.arange(2), [each.size for each in codes])
    return cross(Grouping("table", names, tables), Grouping(here.name, tuple(levels), np.concatenate(codes)))
