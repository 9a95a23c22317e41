"""Pairs of which one column, or both, are categories: how much each tells of the other."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from itertools import combinations

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.association.correlation_ratio import epsilon_squared, eta_squared
from culvix.stats.association.cramers_v import cramers_v
from culvix.stats.association.result import Association
from culvix.stats.core.arrays import Floats
from culvix.stats.display import count, number, p_value
from culvix.stats.resampling.multiple_testing import benjamini_hochberg
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.analysis.working_set import WorkingSet
from culvix.tables.model.table import Column, Role, Table

__all__ = ["MOST_LEVELS", "CategoryPair", "categories_of", "category_pairs", "pairs_with_categories"]

MOST_LEVELS = 50
"""Columns with more different values tell rows apart rather than groups."""
_MOST_CATEGORIES = 40
_MOST_NUMERIC = 300


@dataclass(frozen=True)
class CategoryPair:
    """The category ``x`` and the column ``y``, numeric or ``both`` categories, with the association of either kind.

    Of a numeric column these are η² and, of its ranks, ε²; of two categories it is Cramér's V, corrected for bias.
    ``lost`` rows lack one of both values. ``adjusted`` is the p of the first, adjusted for all pairs that were tried
    (Benjamini & Hochberg 1995).
    """

    x: str
    y: str
    both: bool
    found: Association
    of_ranks: Association | None
    lost: int
    adjusted: float | None = None

    @property
    def symbol(self) -> str:
        return "V" if self.both else "η²"

    @property
    def strength(self) -> float:
        """On the scale of a correlation: V, or the root of η²."""
        value = self.found.value or 0.0
        return value if self.both else float(np.sqrt(value))

    @property
    def sentence(self) -> str:
        """How much the two have in common."""
        if self.found.value is None:
            return self.found.note or ""
        ends = f"{p_value(self.found.p)}, n {count(self.found.n)}"
        if self.both:
            return f"Cramér's V, its bias taken out: {number(self.found.value, 3)}, {ends}."
        ranks = self.of_ranks.value if self.of_ranks else None
        of_ranks = "" if ranks is None else f"; of its ranks ε² is {number(ranks, 3)}"
        return f"η² {number(self.found.value, 3)}, {ends}{of_ranks}."


def categories_of(table: Table) -> list[Column]:
    """The columns that make groups, as far as they have between two and `MOST_LEVELS` of them."""
    kinds = (Role.CATEGORY, Role.YES_NO, Role.ORDERED)
    found = [column for column in table if column.role in kinds and 2 <= column.distinct <= MOST_LEVELS]
    return found[:_MOST_CATEGORIES]


def pairs_with_categories(table: Table, working: WorkingSet, progress: Progress = silent) -> tuple[CategoryPair, ...]:
    """All pairs of ``table`` that have a category, with numbers as they are in use; the strongest first."""
    groups = [grouping(column) for column in categories_of(table)]
    numeric = [column for column in table.numeric if column.is_data and column.role is not Role.YES_NO]
    values = {column.name: working.sample(column).values for column in numeric[:_MOST_NUMERIC]}
    return category_pairs(groups, values, progress)


def category_pairs(
    groups: Sequence[Grouping], values: Mapping[str, Floats], progress: Progress = silent
) -> tuple[CategoryPair, ...]:
    """Each of ``groups`` with each of ``values`` (shape ``(rows,)`` by name) and with each other, the strongest first.

    Raises what ``progress`` raises.
    """
    found = []
    for position, each in enumerate(groups):
        progress(position / len(groups), f"comparing by {each.by}")
        there = each.codes >= 0
        for name, column in values.items():
            if name == each.by:
                continue
            progress(position / len(groups), f"comparing {name} by {each.by}")
            lost = int(np.count_nonzero(there != np.isfinite(column)))
            plain, ranks = eta_squared(column, each.codes), epsilon_squared(column, each.codes)
            found.append(CategoryPair(each.by, name, False, plain, ranks, lost))
    # Codes with an order are taken for numbers beside another category, which tells more of them.
    for one, other in combinations([each for each in groups if each.by not in values], 2):
        lost = int(np.count_nonzero((one.codes >= 0) != (other.codes >= 0)))
        found.append(CategoryPair(one.by, other.by, True, cramers_v(one.codes, other.codes), None, lost))
    return tuple(sorted(_adjusted(found), key=lambda pair: (-pair.strength, pair.x, pair.y)))


def _adjusted(pairs: Sequence[CategoryPair]) -> list[CategoryPair]:
    tried = [index for index, pair in enumerate(pairs) if pair.found.p is not None]
    adjusted = benjamini_hochberg(np.array([pairs[index].found.p for index in tried], dtype=np.float64))
    known = dict(zip(tried, adjusted.tolist(), strict=True))
    return [replace(pair, adjusted=known.get(index)) for index, pair in enumerate(pairs)]
