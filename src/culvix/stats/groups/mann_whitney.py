"""Two groups by ranks: the Mann–Whitney U test, Cliff's δ and the Hodges–Lehmann shift, with their intervals."""

from functools import lru_cache
from math import floor, sqrt

import numpy as np
from scipy.special import ndtr, ndtri

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.core.selection import kth_and_next, kth_smallest
from culvix.stats.core.sums import binary_exponent
from culvix.stats.groups.result import Effect, GroupTest, no_effect, no_test

__all__ = ["cliff_delta", "hodges_lehmann_shift", "mann_whitney"]

_MOST_EXACT = 2500
"""Up to this product of sizes, without ties, p is that of all arrangements."""
_ROUNDING = 2.0**-50


def mann_whitney(x: Sample, y: Sample) -> GroupTest:
    """The Mann–Whitney test: whether a value of x is as often above one of y as below it.

    Parameters
    ----------
    x, y
        The values of either group, in one unit.

    Returns
    -------
    GroupTest
        U, the number of pairs where x is larger, ties counted half; p exact for few values without ties, else by the
        normal with the correction for ties and for continuity: ``p_by`` says which. None with a note where a group is
        empty, or all values are equal.

    References
    ----------
    Mann, H. B. & Whitney, D. R. 1947: On a test of whether one of two random variables is stochastically larger than
    the other. Annals of Mathematical Statistics 18, 50-60.
    """
    n, m, sizes = x.n, y.n, (x.n, y.n)
    if not n or not m:
        return no_test("mann_whitney", sizes, "One of the groups has no values.")
    above, tied = _pairs(x.sorted, y.sorted)
    u = above + tied / 2
    ties = _tie_sum(x.sorted, y.sorted)
    if not ties and n * m <= _MOST_EXACT:
        below = _arrangements(min(n, m), max(n, m))
        least = int(min(u, n * m - u))
        return GroupTest("mann_whitney", u, float(min(2 * below[least], 1.0)), sizes, p_by="all arrangements")
    total = n + m
    variance = n * m / 12 * (total + 1 - ties / (total * (total - 1)))
    if not variance > 0:
        return no_test("mann_whitney", sizes, "All values are equal.")
    z = max(abs(u - n * m / 2) - 0.5, 0.0) / sqrt(variance)
    by = "the normal, corrected for ties and continuity" if ties else "the normal, corrected for continuity"
    return GroupTest("mann_whitney", u, float(2 * ndtr(-z)), sizes, p_by=by)


def cliff_delta(x: Sample, y: Sample, confidence: float = 0.95) -> Effect:
    """Cliff's δ: how much more often a value of x is above one of y than below it, from −1 to 1.

    Parameters
    ----------
    x, y
        The values of either group, in one unit.
    confidence
        How often the interval holds δ, as a share.

    Returns
    -------
    Effect
        δ with its interval, asymmetric so that it stays within −1 to 1; without ends for groups of one value.

    References
    ----------
    Cliff, N. 1993: Dominance statistics. Psychological Bulletin 114, 494-509.
    Feng, D. & Cliff, N. 2004: Monte Carlo evaluation of ordinal d with improved confidence interval. Journal of Modern
    Applied Statistical Methods 3, 322-332.
    """
    n, m = x.n, y.n
    if not n or not m:
        return no_effect("cliff_delta", confidence, "One of the groups has no values.")
    of_x = _dominance(x.sorted, y.sorted)
    of_y = -_dominance(y.sorted, x.sorted)
    delta = float(of_x.mean())
    if min(n, m) < 2:
        return Effect("cliff_delta", delta, None, None, confidence, "An interval needs two values in each group.")
    _, tied = _pairs(x.sorted, y.sorted)
    # The sum of squares of all signs is the number of pairs that are not tied.
    spread = (n * m - tied) - n * m * delta**2
    first, second = (float(np.sum((each - delta) ** 2)) for each in (of_x, of_y))
    variance = (m * m * first + n * n * second - spread) / (n * m * (n - 1) * (m - 1))
    # It cannot be less than if all dominance were in the pairs themselves.
    variance = max(variance, (1 - delta**2) / (n * m - 1)) if n * m > 1 else variance
    z = -float(ndtri((1 - confidence) / 2))
    if abs(delta) == 1:
        # All lie on one side: the end is the δ that would let that happen as seldom as the confidence allows.
        inner = max((min(n, m) - z * z) / (min(n, m) + z * z), -1.0)
        return Effect("cliff_delta", delta, *((inner, 1.0) if delta > 0 else (-1.0, -inner)), confidence)
    reach = z * sqrt(variance) * sqrt((1 - delta**2) ** 2 + z * z * variance)
    low, high = ((delta - delta**3 + side * reach) / (1 - delta**2 + z * z * variance) for side in (-1, 1))
    return Effect("cliff_delta", delta, max(low, -1.0), min(high, 1.0), confidence)


def hodges_lehmann_shift(x: Sample, y: Sample, confidence: float = 0.95) -> Effect:
    """The median of all differences of a value of x and one of y, with the interval of the Mann–Whitney test.

    Parameters
    ----------
    x, y
        The values of either group, in one unit.
    confidence
        At least so often, as a share, the interval holds the shift, where both groups are of one shape.

    Returns
    -------
    Effect
        The shift, in the values' unit; without ends where the groups are too small for the asked confidence.

    References
    ----------
    Hodges, J. L. & Lehmann, E. L. 1963: Estimates of location based on rank tests. Annals of Mathematical Statistics
    34, 598-611.
    Hollander, M. & Wolfe, D. A. 1999: Nonparametric Statistical Methods, section 4.3.
    """
    if not x.n or not y.n:
        return no_effect("hodges_lehmann_shift", confidence, "One of the groups has no values.")
    differences = _Differences(x.sorted, y.sorted)
    k = _turns_at(x.n, y.n, (1 - confidence) / 2)
    if k < 1:
        note = "The groups are too small for an interval of this confidence."
        return Effect("hodges_lehmann_shift", differences.median, None, None, confidence, note)
    ends = differences.smallest(k), differences.smallest(differences.many + 1 - k)
    return Effect("hodges_lehmann_shift", differences.median, *ends, confidence)


def _pairs(x: Floats, y: Floats) -> tuple[int, int]:
    """In how many pairs a value of ascending ``x`` is larger than one of ascending ``y``, and in how many as large."""
    below, up_to = (np.searchsorted(y, x, side=side) for side in ("left", "right"))
    return int(below.sum()), int((up_to - below).sum())


def _dominance(x: Floats, y: Floats) -> Floats:
    """For each value of ``x`` the share of ascending ``y`` below it less that above it."""
    below, up_to = (np.searchsorted(y, x, side=side) for side in ("left", "right"))
    return np.asarray((below - (y.size - up_to)) / y.size)


def _tie_sum(x: Floats, y: Floats) -> float:
    """Σ (t³ − t) over the runs of equal values of both together."""
    both = np.sort(np.concatenate((x, y)), kind="stable")
    starts = np.flatnonzero(np.concatenate(([True], both[1:] != both[:-1])))
    counts = np.diff(np.append(starts, both.size)).astype(np.float64)
    return float(np.sum(counts**3 - counts))


@lru_cache(maxsize=64)
def _arrangements(n: int, m: int) -> Floats:
    """P(U ≤ u) for every u from 0, all arrangements of ``n`` and ``m`` different values being as likely."""
    # The number of ways is a Gaussian binomial: a product of polynomials over another, term by term.
    ways = np.zeros(n * m + 1)
    ways[0] = 1.0
    for step in range(1, n + 1):
        # Times (1 − q^(m+step)), over (1 − q^step), the shares kept small by the number of ways as it grows.
        longer = ways.copy()
        longer[m + step :] -= ways[: ways.size - m - step] if m + step < ways.size else 0
        for at in range(step):
            longer[at::step] = np.cumsum(longer[at::step])
        ways = longer * step / (m + step)
    return np.cumsum(np.maximum(ways, 0.0))


def _turns_at(n: int, m: int, tail: float) -> int:
    """The largest k with P(U < k) ≤ ``tail``; 0 where there is none."""
    if n * m <= _MOST_EXACT:
        return int(np.searchsorted(_arrangements(min(n, m), max(n, m)), tail, side="right"))
    return floor(n * m / 2 + float(ndtri(tail)) * sqrt(n * m * (n + m + 1) / 12) + 0.5)


class _Differences:
    """All differences x − y, in a row for each value of ascending ``x``, which takes ``y`` from the largest down."""

    def __init__(self, x: Floats, y: Floats) -> None:
        self._exponent = binary_exponent(float(min(x[0], y[0])), float(max(x[-1], y[-1]))) + 2
        self._x, self._down = np.ldexp(x, -self._exponent), np.ldexp(y[::-1], -self._exponent)
        self._up = self._down[::-1]
        self.many = x.size * y.size
        self._start = float(np.nextafter(self._x[0] - self._down[0], -np.inf))
        self._end = float(self._x[-1] - self._down[-1])

    def smallest(self, k: int) -> float:
        """The ``k``-th smallest, k from 1."""
        sizes = np.full(self._x.size, self._down.size)
        found = kth_smallest(k, self._start, self._end, sizes, self._count, self._value, _ROUNDING)
        return float(np.ldexp(found, self._exponent))

    @property
    def median(self) -> float:
        if self.many % 2:
            return self.smallest(self.many // 2 + 1)
        sizes = np.full(self._x.size, self._down.size)
        lower, upper = kth_and_next(self.many // 2, self._start, self._end, sizes, self._count, self._value, _ROUNDING)
        return float(np.ldexp(lower / 2 + upper / 2, self._exponent))

    def _count(self, bound: float) -> Ints:
        return np.asarray(self._down.size - np.searchsorted(self._up, self._x - bound, side="left"))

    def _value(self, rows: Ints, positions: Ints) -> Floats:
        return np.asarray(self._x[rows] - self._down[positions])
