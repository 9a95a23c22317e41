"""A pair of columns within each group of rows."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Ints
from culvix.stats.core.sums import unit_scaled
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.registry import CORRELATION_KINDS
from culvix.stats.regression.straight_line import StraightLine, straight_line
from culvix.study.analysis.grouping import Grouping
from culvix.study.relations.pair_view import PairView

__all__ = ["PairGroup", "PairGroups", "group_pair"]


@dataclass(frozen=True, eq=False)
class PairGroup:
    """One group: its ``indices`` among the rows of the pair, its coefficients by kind, and its own line."""

    name: str
    indices: Ints
    coefficients: dict[str, PairCorrelation]
    line: StraightLine | None

    @property
    def n(self) -> int:
        return int(self.indices.size)


@dataclass(frozen=True, eq=False)
class PairGroups:
    """The groups that the column ``by`` makes of a pair, the largest first.

    ``within`` is Pearson's r once the means of each group are taken out of both columns; ``missing`` rows have none.
    """

    by: str
    groups: tuple[PairGroup, ...]
    within: PairCorrelation
    missing: int

    def group_of(self, index: int) -> str:
        """The name of the group that the row at ``index`` of the pair is in, empty for none."""
        return next((group.name for group in self.groups if (group.indices == index).any()), "")

    def named(self, names: Sequence[str]) -> tuple[PairGroup, ...]:
        """The groups called ``names``, in that order, as far as they are there."""
        known = {group.name: group for group in self.groups}
        return tuple(known[name] for name in names if name in known)


def group_pair(view: PairView, groups: Grouping, kinds: Sequence[str] = ("pearson", "spearman")) -> PairGroups:
    """``view`` within each of ``groups``, with the coefficients of ``kinds`` (keys of `CORRELATION_KINDS`)."""
    codes = groups.codes[view.rows]
    order = np.argsort(codes, kind="stable")
    ends = np.searchsorted(codes[order], np.arange(len(groups.names) + 1))
    left_x, left_y = unit_scaled(view.x_values), unit_scaled(view.y_values)
    found = []
    for name, start, end in zip(groups.names, ends[:-1], ends[1:], strict=True):
        points = order[start:end]
        if not points.size:
            continue
        x, y = view.x_values[points], view.y_values[points]
        coefficients = {key: CORRELATION_KINDS[key].run(x, y) for key in kinds}
        found.append(PairGroup(name, points, coefficients, straight_line(x, y)))
        for values in (left_x, left_y):
            values[points] -= values[points].mean()
    grouped = codes >= 0
    found.sort(key=lambda group: -group.n)
    within = pearson(left_x[grouped], left_y[grouped])
    return PairGroups(groups.by, tuple(found), within, int(ends[0]))
