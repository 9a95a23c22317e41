"""What subsets of rows can be named by: categories, and columns of numbers cut into ranges."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culvix.caching import cached_property
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.display import style_for
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.analysis.working_set import WorkingSet
from culvix.tables.model.table import Column, Role, Table

__all__ = ["Attribute", "Condition", "attribute_of", "attributes_of", "within", "words_of"]

_BINS = 8
"""Into so many ranges of about as many rows each a column of numbers is cut; subsets are stretches of them."""
_MOST_LEVELS = 40


@dataclass(frozen=True, eq=False)
class Attribute:
    """A column by which subsets are named: its ``codes``, shape ``(rows,)``, −1 for a missing cell, and its ``levels``.

    ``cuts`` are the values at which neighbouring levels of a column of numbers meet; without them levels have no order.
    """

    column: str
    codes: Ints
    levels: tuple[str, ...]
    cuts: tuple[str, ...] = ()

    @property
    def is_ordered(self) -> bool:
        return bool(self.cuts)

    @cached_property
    def shifted(self) -> Ints:
        """The codes with missing cells as the last one."""
        return np.where(self.codes < 0, len(self.levels), self.codes)


@dataclass(frozen=True)
class Condition:
    """Rows in which ``column`` has a level from ``first`` to ``last`` (places in its `Attribute`); one alike for one.

    Both are the number of levels where the cell is missing. ``words`` say it.
    """

    column: str
    first: int
    last: int
    words: str


def within(attributes: Sequence[Attribute], conditions: Sequence[Condition]) -> Bools:
    """Which rows fulfil all of ``conditions``, shape ``(rows,)``."""
    by_name = {attribute.column: attribute for attribute in attributes}
    inside = np.ones(attributes[0].codes.size, dtype=bool)
    for condition in conditions:
        codes = by_name[condition.column].shifted
        inside &= (codes >= condition.first) & (codes <= condition.last)
    return inside


def words_of(attribute: Attribute, first: int, last: int) -> str:
    """What a condition on ``attribute`` says: "tank is T3", "length_mm from 190 to below 210", "mass_g is missing"."""
    name, many = attribute.column, len(attribute.levels)
    if first == many:
        return f"{name} is missing"
    if not attribute.is_ordered:
        return f"{name} is {attribute.levels[first]}"
    if first == 0:
        return f"{name} below {attribute.cuts[last]}"
    if last == many - 1:
        return f"{name} at least {attribute.cuts[first - 1]}"
    return f"{name} from {attribute.cuts[first - 1]} to below {attribute.cuts[last]}"


def attributes_of(table: Table, working: WorkingSet, target: str, columns: Sequence[str]) -> tuple[Attribute, ...]:
    """The attributes that ``columns`` make, but for the ``target`` itself; those with a single level are left out."""
    made = (attribute_of(table[name], working) for name in columns if name in table and name != target)
    return tuple(attribute for attribute in made if attribute is not None)


def attribute_of(column: Column, working: WorkingSet) -> Attribute | None:
    """``column`` as an attribute; None where it has one value only, or neither numbers nor few levels."""
    if column.is_numeric and column.role not in (Role.YES_NO,):
        return _of_numbers(column.name, working.sample(column))
    if column.role in (Role.CATEGORY, Role.YES_NO) or column.distinct <= _MOST_LEVELS:
        return _of_levels(grouping(column)) if column.distinct <= _MOST_LEVELS else None
    return None


def _of_levels(groups: Grouping) -> Attribute | None:
    return Attribute(groups.by, groups.codes, groups.names) if len(groups.names) > 1 else None


def _of_numbers(name: str, sample: Sample) -> Attribute | None:
    cuts = _cuts(sample.sorted)
    if not cuts.size:
        return None
    codes: Ints = np.searchsorted(cuts, sample.values, side="right").astype(np.int64)
    codes[~np.isfinite(sample.values)] = -1
    style = style_for(sample, sample.moments.sd if sample.moments else None)
    words = [style.value(float(cut)) for cut in cuts]
    if len(set(words)) < len(words):
        words = [repr(float(cut)) for cut in cuts]
    return Attribute(name, codes, tuple(map(str, range(cuts.size + 1))), tuple(words))


def _cuts(x: Floats) -> Floats:
    """Values of ``x`` (ascending) at which stretches of about as many values begin."""
    if not x.size or x[0] == x[-1]:
        return np.zeros(0)
    cuts = np.unique(x[(np.arange(1, _BINS) * x.size) // _BINS])
    return np.asarray(cuts[cuts > x[0]])
