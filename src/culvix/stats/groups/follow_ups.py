"""Which of several groups differ from which: all pairs at once, by means (Games & Howell) or by ranks (Dunn)."""

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import combinations
from math import sqrt

import numpy as np
from scipy.special import ndtr

from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.groups.several_ranks import ranks_of_groups, tie_correction
from culvix.stats.groups.studentized_range import studentized_range_quantile, studentized_range_tail
from culvix.stats.resampling.multiple_testing import holm

__all__ = ["PairOfGroups", "dunn", "games_howell"]


@dataclass(frozen=True)
class PairOfGroups:
    """The groups at places ``first`` and ``second``: how much the first lies higher, with ``p`` adjusted for all pairs.

    ``low`` and ``high`` hold the difference in all pairs at once; None where a method has none.
    """

    first: int
    second: int
    difference: float
    low: float | None
    high: float | None
    p: float | None
    note: str | None = None


def games_howell(groups: Sequence[Sample], confidence: float = 0.95) -> tuple[PairOfGroups, ...]:
    """Differences of the means of all pairs of groups, which may be of different widths, held all at once.

    Parameters
    ----------
    groups
        The values of each group, in one unit.
    confidence
        How often all intervals together hold the differences, as a share.

    Returns
    -------
    tuple of PairOfGroups
        All pairs in order, without p and ends where a group has fewer than two values or both have no spread.

    References
    ----------
    Games, P. A. & Howell, J. F. 1976: Pairwise multiple comparison procedures with unequal n's and/or variances: a
    Monte Carlo study. Journal of Educational Statistics 1, 113-125.
    """
    there = [index for index, group in enumerate(groups) if group.n]
    return tuple(_mean_pair(groups, i, j, len(there), confidence) for i, j in combinations(there, 2))


def _mean_pair(groups: Sequence[Sample], i: int, j: int, k: int, confidence: float) -> PairOfGroups:
    a, b = groups[i].moments, groups[j].moments
    assert a is not None and b is not None
    difference, unit = a.mean - b.mean, max(a.sd or 0.0, b.sd or 0.0)
    if min(a.n, b.n) < 2:
        return PairOfGroups(i, j, difference, None, None, None, "A group has a single value.")
    if not 0 < unit < np.inf:
        return PairOfGroups(i, j, difference, None, None, None, "Neither group has a spread.")
    parts = [((each.sd or 0.0) / unit) ** 2 / each.n for each in (a, b)]
    freedom = sum(parts) ** 2 / (parts[0] ** 2 / (a.n - 1) + parts[1] ** 2 / (b.n - 1))
    error = unit * sqrt(sum(parts) / 2)
    p = studentized_range_tail(abs(difference) / error, k, freedom)
    reach = studentized_range_quantile(1 - confidence, k, freedom) * error
    return PairOfGroups(i, j, difference, difference - reach, difference + reach, p)


def dunn(groups: Sequence[Sample]) -> tuple[PairOfGroups, ...]:
    """Differences of the mean ranks of all pairs of groups, with p adjusted for all of them by Holm.

    Parameters
    ----------
    groups
        The values of each group, in one unit.

    Returns
    -------
    tuple of PairOfGroups
        All pairs in order; ``difference`` is one of mean ranks among all values. p is None where all values are equal.

    References
    ----------
    Dunn, O. J. 1964: Multiple comparisons using rank sums. Technometrics 6, 241-252.
    Holm, S. 1979: A simple sequentially rejective multiple test procedure. Scandinavian Journal of Statistics 6, 65-70.
    """
    there = [index for index, group in enumerate(groups) if group.n]
    if len(there) < 2:
        return ()
    ranks = ranks_of_groups([groups[index].sorted for index in there])
    n = sum(each.size for each in ranks)
    variance = n * (n + 1) / 12 * tie_correction(np.concatenate(ranks))
    pairs = list(combinations(range(len(there)), 2))
    differences = [float(ranks[i].mean() - ranks[j].mean()) for i, j in pairs]
    adjusted: Floats | None = None
    if variance > 0:
        errors = [sqrt(variance * (1 / ranks[i].size + 1 / ranks[j].size)) for i, j in pairs]
        adjusted = holm(np.array([2 * ndtr(-abs(d) / e) for d, e in zip(differences, errors, strict=True)]))
    return tuple(
        PairOfGroups(
            there[i],
            there[j],
            difference,
            None,
            None,
            None if adjusted is None else float(adjusted[at]),
            None if adjusted is not None else "All values are equal.",
        )
        for at, ((i, j), difference) in enumerate(zip(pairs, differences, strict=True))
    )
