"""The two-sample Kolmogorov–Smirnov test: how far apart two distribution functions are at the most."""

from math import sqrt

import numpy as np
from scipy.special import kolmogorov

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.groups.result import GroupTest, no_test

__all__ = ["distance_from_quantiles", "kolmogorov_smirnov", "two_sample_distance", "two_sample_p"]

_MOST_EXACT = 10_000
"""Up to this product of sizes the p value is that of all arrangements."""


def two_sample_distance(x: Floats, y: Floats) -> float:
    """The largest vertical distance of two empirical distribution functions.

    Parameters
    ----------
    x, y
        The two samples, each ascending, shapes ``(n,)`` and ``(m,)``, in one unit.

    Returns
    -------
    float
        The distance D, from 0 to 1.

    Raises
    ------
    StatisticsError
        Where a sample is empty.

    References
    ----------
    Smirnov, N. 1939: On the estimation of the discrepancy between empirical curves of distribution for two independent
    samples. Bulletin of Moscow University 2, 3-16.
    """
    if not x.size or not y.size:
        raise StatisticsError("Two samples are compared; one of them is empty.")
    at = np.concatenate((x, y))
    below = np.searchsorted(x, at, side="right") / x.size - np.searchsorted(y, at, side="right") / y.size
    return float(np.abs(below).max())


def kolmogorov_smirnov(x: Sample, y: Sample) -> GroupTest:
    """The two-sample Kolmogorov–Smirnov test: whether two groups are distributed alike.

    Parameters
    ----------
    x, y
        The values of either group, in one unit.

    Returns
    -------
    GroupTest
        D and p, exact up to a product of sizes of 10 000: ``p_by`` says which way; with ties p is too large, never too
        small. None with a note where a group has no values.

    References
    ----------
    Smirnov, N. 1939: On the estimation of the discrepancy between empirical curves of distribution for two independent
    samples. Bulletin of Moscow University 2, 3-16.
    """
    sizes = x.n, y.n
    if not x.n or not y.n:
        return no_test("kolmogorov_smirnov", sizes, "One of the groups has no values.")
    distance = two_sample_distance(x.sorted, y.sorted)
    by = "all arrangements" if x.n * y.n <= _MOST_EXACT else "the limiting distribution"
    return GroupTest("kolmogorov_smirnov", distance, two_sample_p(distance, x.n, y.n), sizes, p_by=by)


def distance_from_quantiles(x: Floats, quantiles: Floats) -> float:
    """The distance that ``x`` has at least from a sample of which only quantiles are known.

    Parameters
    ----------
    x
        The sample, ascending, shape ``(n,)``.
    quantiles
        The other sample's quantiles of type 1, which are values of it, at evenly spaced shares from 0 to 1, shape
        ``(k,)``, k ≥ 2.

    Returns
    -------
    float
        A lower bound of D: between two quantiles the other distribution function counts as wherever it is nearest.

    Raises
    ------
    StatisticsError
        Where the sample is empty, or there are fewer than two quantiles.
    """
    k = int(quantiles.size)
    if not x.size or k < 2:
        raise StatisticsError("A sample is compared with quantiles of another; one of them is empty.")
    # The other function rises from the share of the last quantile below a value to that of the first one above it.
    at = np.unique(quantiles)
    lowest = (np.searchsorted(quantiles, at, side="left") - 1) / (k - 1)
    highest = np.searchsorted(quantiles, at, side="right") / (k - 1)
    up_to = np.searchsorted(x, at, side="right") / x.size
    below = np.searchsorted(x, at, side="left") / x.size
    return float(max((up_to - np.minimum(highest, 1.0)).max(), (np.maximum(lowest, 0.0) - below).max(), 0.0))


def two_sample_p(distance: float, n: int, m: int) -> float:
    """How probable a distance at least as large is where both samples come from one continuous distribution.

    Exact up to a product of sizes of 10 000, by the limiting distribution beyond. With ties it is too large, never too
    small.

    Parameters
    ----------
    distance
        The distance D, from 0 to 1.
    n, m
        The sizes of the samples.

    Returns
    -------
    float
        The p value.

    Raises
    ------
    StatisticsError
        Where a sample is empty.

    References
    ----------
    Hodges, J. L. 1958: The significance probability of the Smirnov two-sample test. Arkiv för Matematik 3, 469-486.
    """
    if n < 1 or m < 1:
        raise StatisticsError("Two samples are compared; one of them is empty.")
    if distance <= 0:
        return 1.0
    if n * m <= _MOST_EXACT:
        return _exact_p(distance, n, m)
    return float(kolmogorov(sqrt(n / (n + m) * m) * distance))


def _exact_p(distance: float, n: int, m: int) -> float:
    """The share of all arrangements of both samples whose distance is at least ``distance``.

    An arrangement is a path over a lattice; step by step, the share of the paths to each point that stayed nearer.
    """
    # Distances are multiples of 1/(n·m); half a multiple keeps rounding from deciding.
    bound = distance - 0.5 / (n * m)
    steps = np.arange(m + 1) / m
    staying = np.zeros(m + 1)
    for i in range(n + 1):
        near = np.abs(i / n - steps) < bound
        for j in range(m + 1):
            if not near[j]:
                staying[j] = 0.0
            elif i == 0 and j == 0:
                staying[j] = 1.0
            elif i == 0:
                staying[j] = staying[j - 1]
            elif j > 0:
                staying[j] = (i * staying[j] + j * staying[j - 1]) / (i + j)
    return float(min(max(1.0 - staying[m], 0.0), 1.0))
