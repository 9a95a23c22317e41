"""The Hodges–Lehmann estimate of the centre, and its interval.

The estimate is the median of the means of all pairs of values, each paired with itself too (Hodges & Lehmann 1963); the
interval ends at those pair means at which the signed-rank test turns (Tukey 1949), exact to n = 100, by the normal
approximation beyond. For a symmetric column it is the centre; else the centre of the pairs' means, between mean and
median.
"""

from collections.abc import Callable
from functools import lru_cache
from math import floor, sqrt
from typing import TypeVar

import numpy as np
from scipy.special import ndtri

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample, once
from culvix.stats.core.selection import kth_and_next, kth_smallest
from culvix.stats.core.sums import binary_exponent
from culvix.stats.describe.intervals import Interval

__all__ = ["hodges_lehmann", "hodges_lehmann_interval", "signed_rank_shares"]

_EXACT = 100
_ROUNDING = 2.0**-50
"""What rounding may part means by that are equal, the values being below 1."""

Selected = TypeVar("Selected", float, tuple[float, float])


@once
def hodges_lehmann(sample: Sample) -> float | None:
    """The median of the n(n+1)/2 means of pairs.

    Parameters
    ----------
    sample
        The values.

    Returns
    -------
    float or None
        The estimate, in the values' unit; None without values.

    References
    ----------
    Hodges, J. L. & Lehmann, E. L. 1963: Estimates of location based on rank tests. Annals of Mathematical Statistics
    34, 598-611.
    """
    if not sample.n:
        return None
    return _PairMeans(sample).median


def hodges_lehmann_interval(sample: Sample, confidence: float = 0.95) -> Interval | None:
    """The interval of the Hodges–Lehmann estimate, which holds for a symmetric distribution.

    Parameters
    ----------
    sample
        The values.
    confidence
        At least so often, as a share, the interval holds the centre.

    Returns
    -------
    (float, float) or None
        Both ends, in the values' unit; None where n is too small for the asked confidence.

    References
    ----------
    Tukey, J. W. 1949: The simplest signed-rank tests. Princeton, Statistical Research Group, memorandum 17.
    Hollander, M. & Wolfe, D. A. 1999: Nonparametric Statistical Methods, section 3.3.
    """
    if not sample.n:
        return None
    k = _turns_at(sample.n, (1 - confidence) / 2)
    if k < 1:
        return None
    pairs = _PairMeans(sample)
    return pairs.smallest(k), pairs.smallest(pairs.many + 1 - k)


def _turns_at(n: int, tail: float) -> int:
    """The largest k with P(T⁺ < k) ≤ ``tail`` for the signed-rank sum T⁺ of ``n`` values; 0 where there is none."""
    if n <= _EXACT:
        return int(np.searchsorted(signed_rank_shares(n), tail, side="right"))
    centre, spread = n * (n + 1) / 4, sqrt(n * (n + 1) * (2 * n + 1) / 24)
    # Half a step more, for a sum that moves in whole ones.
    return floor(centre + float(ndtri(tail)) * spread + 0.5)


@lru_cache(maxsize=_EXACT)
def signed_rank_shares(n: int) -> Floats:
    """P(T⁺ ≤ t) for every t from 0, all signs of the ranks being as likely."""
    ways = np.ones(1)
    for rank in range(1, n + 1):
        longer = np.zeros(ways.size + rank)
        longer[: ways.size] += ways / 2
        longer[rank:] += ways / 2
        ways = longer
    return np.cumsum(ways)


class _PairMeans:
    """The means of all pairs of a sample (n ≥ 1), in rows: that of each value with itself and all larger ones."""

    def __init__(self, sample: Sample) -> None:
        self._ends = float(sample.sorted[0]), float(sample.sorted[-1])
        self._exponent = binary_exponent(*self._ends) + 1
        self._x = np.ldexp(sample.sorted, -self._exponent)
        self._position = np.arange(sample.n)
        self.many = sample.n * (sample.n + 1) // 2

    def smallest(self, k: int) -> float:
        """The ``k``-th smallest, k from 1."""
        return self._back(self._select(kth_smallest, k))

    @property
    def median(self) -> float:
        if self.many % 2:
            return self.smallest(self.many // 2 + 1)
        lower, upper = self._select(kth_and_next, self.many // 2)
        return self._back(lower / 2 + upper / 2)

    def _select(self, select: Callable[..., Selected], k: int) -> Selected:
        # No mean is at or below the start: the next number below the smallest.
        start = float(np.nextafter(self._x[0], -np.inf))
        return select(k, start, float(self._x[-1]), self._x.size - self._position, self._count, self._value, _ROUNDING)

    def _back(self, value: float) -> float:
        # Beside the largest values the smallest ones lose their digits, which may not push the result out.
        return min(max(float(np.ldexp(value, self._exponent)), self._ends[0]), self._ends[1])

    def _count(self, bound: float) -> Ints:
        return np.asarray(np.maximum(np.searchsorted(self._x, 2 * bound - self._x, side="right") - self._position, 0))

    def _value(self, rows: Ints, positions: Ints) -> Floats:
        return np.asarray(self._x[rows] / 2 + self._x[rows + positions] / 2)
