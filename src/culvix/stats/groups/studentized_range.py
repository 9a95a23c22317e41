"""The distribution of the studentized range, for intervals and p of all pairs of several means at once.

The distribution of the range of k normal values is an integral over where the largest one lies; that of the studentized
range is its mean over the estimated standard deviation (Tukey 1953; Copenhaver & Holland 1988). Both are worked out by
Gauss–Legendre quadrature over where the integrand is not nothing.
"""

from functools import lru_cache
from math import lgamma, log, sqrt

import numpy as np
from scipy.special import ndtr

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.roots import root_between

__all__ = ["studentized_range_quantile", "studentized_range_tail"]

_NODES, _SCALES = 160, 192
_FAR = 9.0
"""So many standard deviations out nothing is left of a normal density that counts."""
_NORMAL = 25_000.0
"""With more degrees of freedom than this the standard deviation is taken for known."""


@lru_cache(4)
def _legendre(nodes: int) -> tuple[Floats, Floats]:
    at, weights = np.polynomial.legendre.leggauss(nodes)
    return at, weights


def _range_below(width: Floats, k: int) -> Floats:
    """P(range of ``k`` standard normal values ≤ ``width``), of the shape of ``width``."""
    at, weights = _legendre(_NODES)
    # The largest value lies somewhere, all others within the width below it.
    half = _FAR
    z = half * at[:, None]
    density = np.exp(-z * z / 2) / sqrt(2 * np.pi)
    inside = ndtr(z) - ndtr(z - width[None, :])
    return np.asarray(np.minimum(k * half * (weights @ (density * inside ** (k - 1))), 1.0))


def studentized_range_tail(q: float, k: int, freedom: float) -> float:
    """P(Q > ``q``) for the range of ``k`` means over a standard error of ``freedom`` degrees of freedom.

    Parameters
    ----------
    q
        The range in standard errors, at least 0.
    k
        The number of means, at least two.
    freedom
        Degrees of freedom of the standard error, above 0; may be infinite.

    Returns
    -------
    float
        The probability, right to about ten decimals.

    Raises
    ------
    StatisticsError
        For fewer than two means, or no degrees of freedom.

    References
    ----------
    Copenhaver, M. D. & Holland, B. 1988: Computation of the distribution of the maximum studentized range statistic
    with application to multiple significance testing of simple effects. Journal of Statistical Computation and
    Simulation 30, 1-15.
    """
    if k < 2 or not freedom > 0:
        raise StatisticsError("A studentized range needs at least two means and some degrees of freedom.")
    if not q > 0:
        return 1.0
    if freedom > _NORMAL:
        return float(max(1.0 - _range_below(np.array([q]), k)[0], 0.0))
    scale, density = _scales(freedom)
    below = float(density @ _range_below(q * scale, k))
    return min(max(1.0 - below, 0.0), 1.0)


@lru_cache(64)
def _scales(freedom: float) -> tuple[Floats, Floats]:
    """Where the estimated over the true standard deviation lies, and how much of it (adding up to 1)."""
    # Its logarithm is well behaved for any degrees of freedom.
    low = -(_FAR / sqrt(2 * freedom) + 30 / freedom)
    high = log(1 + 80 / freedom + 10 / sqrt(freedom)) / 2
    at, weights = _legendre(_SCALES)
    u = low + (high - low) * (at + 1) / 2
    constant = log(2) + (freedom / 2) * log(freedom / 2) - lgamma(freedom / 2)
    density = np.exp(constant + freedom * u - freedom / 2 * np.exp(2 * u))
    shares = weights * density * (high - low) / 2
    return np.exp(u), shares / shares.sum()


def studentized_range_quantile(tail: float, k: int, freedom: float) -> float:
    """The q that a studentized range exceeds with the probability ``tail``.

    Parameters
    ----------
    tail
        The probability, between 0 and 1.
    k, freedom
        The number of means, and the degrees of freedom of their standard error.

    Returns
    -------
    float
        The quantile.

    Raises
    ------
    StatisticsError
        For fewer than two means, no degrees of freedom, or a probability that is none.
    """
    if not 0 < tail < 1:
        raise StatisticsError("A quantile needs a probability between 0 and 1.")
    high = 4.0
    while studentized_range_tail(high, k, freedom) > tail and high < 1e8:
        high *= 2
    return root_between(lambda q: studentized_range_tail(q, k, freedom) - tail, 0.0, high, 1e-12)
