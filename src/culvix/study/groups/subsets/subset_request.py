"""A search for subsets in a study: which column, by which others, and what is left out because it moves with it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culvix.errors import CulvixError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Ints
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.grouping import can_group, grouping
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.groups.attributes import Attribute, Condition, attributes_of
from culvix.study.groups.subsets.confirmed_subsets import (
    ConfirmedSubset,
    SubsetSearch,
    subsets_of_levels,
    subsets_of_values,
)
from culvix.study.groups.subsets.subset_search import target_of_values
from culvix.tables.model.derived.column_rule import Clause, ColumnRule
from culvix.tables.model.table import Column, Role, Table

__all__ = ["SubsetRequest", "SubsetsOfStudy", "subset_columns"]

_MOVES_WITH = 0.5
"""From this correlation of ranks on a column of numbers says where the target is high: Relations shows that."""
_MOST_COLUMNS = 60


def subset_columns(table: Table) -> list[str]:
    """The columns that can name subsets."""
    meant = can_group(table)
    return [column.name for column in table if (column.is_numeric and column.is_data) or column.name in meant]


@dataclass(frozen=True, eq=False)
class SubsetRequest:
    """The search in ``target`` by ``columns``; None for all of the file that can and do not move with it."""

    table: Table
    working: WorkingSet
    target: Column
    columns: tuple[str, ...] | None = None
    conditions: int = 3
    level: float = 0.05
    seed: int = 1

    def run(self, preview: ColumnPreview | None, progress: Progress = silent) -> "SubsetsOfStudy":
        """Search, as long as ``progress`` lets it.

        Raises CulvixError where there is nothing to search in or by.
        """
        progress(0.0, f"reading what names subsets of {self.target.name}")
        # What follows from other columns names what these do, and a subset once found would be found again.
        every = [name for name in subset_columns(self.table) if self.table[name].derivation is None]
        names = self.columns if self.columns is not None else every[:_MOST_COLUMNS]
        attributes = attributes_of(self.table, self.working, self.target.name, names)
        left_out: list[str] = []
        if preview is not None and self.columns is None:
            aim = target_of_values(preview.sample.values).codes
            left_out = [a.column for a in attributes if a.is_ordered and abs(_moving(a, aim)) >= _MOVES_WITH]
            attributes = tuple(a for a in attributes if a.column not in left_out)
        if not attributes:
            raise CulvixError("No column is left that could name a subset.")
        options = {"conditions": self.conditions, "level": self.level, "seed": self.seed, "progress": progress}
        if preview is not None:
            values = preview.sample.values
            found = subsets_of_values(self.target.name, values, preview.style, attributes, **options)  # type: ignore[arg-type]
        elif self.target.role in (Role.CATEGORY, Role.YES_NO) or self.target.name in can_group(self.table):
            groups = grouping(self.target)
            found = subsets_of_levels(self.target.name, groups.codes, groups.names, attributes, **options)  # type: ignore[arg-type]
        else:
            raise CulvixError(f"{self.target.name} has neither numbers nor categories whose distribution could differ.")
        return SubsetsOfStudy(found, attributes, tuple(left_out), 0 if self.columns else len(every) - len(names))


@dataclass(frozen=True, eq=False)
class SubsetsOfStudy:
    """What was found, by which attributes, and columns ``left_out`` because they move with the target."""

    search: SubsetSearch
    attributes: Sequence[Attribute]
    left_out: Sequence[str]
    beyond: int = 0
    """So many more columns could name a subset, and were not asked."""

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns that could name a subset."""
        return tuple(attribute.column for attribute in self.attributes)

    def rule_of(self, subset: ConfirmedSubset) -> tuple[str, ColumnRule]:
        """The first column and the rule of a column that says yes in the rows of ``subset``."""
        by_name = {attribute.column: attribute for attribute in self.attributes}
        clauses = tuple(clause for each in subset.conditions for clause in _clauses(each, by_name[each.column]))
        return clauses[0].column, ColumnRule("condition", clauses=clauses)


def _clauses(condition: Condition, attribute: Attribute) -> list[Clause]:
    """What ``condition`` says, as it is typed."""
    name, many = condition.column, len(attribute.levels)
    if condition.first == many:
        return [Clause(name, "missing")]
    if not attribute.is_ordered:
        return [Clause(name, "is", attribute.levels[condition.first])]
    lower = [Clause(name, "at_least", attribute.cuts[condition.first - 1])] if condition.first else []
    upper = [Clause(name, "below", attribute.cuts[condition.last])] if condition.last < many - 1 else []
    return [*lower, *upper]


def _moving(attribute: Attribute, aim: Ints) -> float:
    """About the correlation of ranks of an attribute of numbers and the target."""
    both = (attribute.codes >= 0) & (aim >= 0)
    x, y = attribute.codes[both].astype(np.float64), aim[both].astype(np.float64)
    if x.size < 3 or not x.std() or not y.std():
        return 0.0
    return float(np.corrcoef(x, y)[0, 1])
