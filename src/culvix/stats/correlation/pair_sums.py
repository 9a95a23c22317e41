"""Sums over the rows that two columns share, without cancellation, and the product-moment coefficient of them."""

from dataclasses import dataclass
from math import sqrt

import numpy as np
from scipy.special import betainc

from culvix.stats.core.arrays import Floats
from culvix.stats.core.ordering import stable_order
from culvix.stats.core.sums import total, total_product
from culvix.stats.correlation.result import PairCorrelation, no_coefficient

__all__ = [
    "CANCELS",
    "NEAR_ONE",
    "PairSums",
    "average_ranks",
    "coefficient_of",
    "p_values",
    "pair_sums",
    "product_moment",
]

CANCELS = 1e-3
"""A sum of products below this share of its parts has lost too many digits."""

NEAR_ONE = 1 - 1e-6
"""A coefficient beyond this is worked out from the differences of the two columns."""

_HUGE = 1e200


def average_ranks(x: Floats) -> Floats:
    """Ranks of ``x`` (shape ``(n,)``, finite) from 1, ties sharing their mean rank."""
    order = stable_order(x)
    ordered = x[order]
    starts = np.flatnonzero(np.concatenate(([True], ordered[1:] != ordered[:-1])))
    counts = np.diff(np.append(starts, x.size))
    ranks = np.empty(x.size)
    ranks[order] = np.repeat(starts + (counts + 1) / 2, counts)
    return ranks


@dataclass(frozen=True, eq=False)
class _Scaled:
    """A column as ``centre`` + ``scale`` × ``values``, the values without a mean and none of them far beyond 1."""

    values: Floats
    centre: float
    scale: float


def _scaled(x: Floats) -> _Scaled | None:
    """``x`` (shape ``(n,)``, finite) on its own scale; None where all values are equal, or as good as."""
    # Made smaller first: sums of extremes and the deviations from their mean stay inside a double.
    factor = 2.0**600 if np.abs(x).max() > _HUGE else 1.0
    half = x / factor if factor > 1 else x
    if half.min() == half.max():
        return None
    mean = total(half) / half.size
    deviation = half - mean
    largest = float(np.abs(deviation).max())
    if not largest:
        return None
    values = deviation / largest
    if not np.isfinite(values).all():
        return None
    # The first mean is a rounding or two off.
    rest = total(values) / values.size
    values -= rest
    return _Scaled(values, factor * (mean + rest * largest), factor * largest)


@dataclass(frozen=True)
class PairSums:
    """What complete pairs of two columns add up to: n, means, SDs (n in the denominator) and Pearson's r."""

    n: int
    means: tuple[float, float]
    sds: tuple[float, float]
    r: float


def pair_sums(x: Floats, y: Floats) -> PairSums | None:
    """The sums that a product-moment coefficient is made of, so that rows can be taken out of them.

    Parameters
    ----------
    x, y
        Two columns without gaps, both of shape ``(n,)`` with n ≥ 2, in any units.

    Returns
    -------
    PairSums or None
        None where one of the columns is all equal.

    References
    ----------
    Chan, T. F., Golub, G. H. & LeVeque, R. J. 1983: Algorithms for computing the sample variance. The American
    Statistician 37, 242-247.
    """
    a, b = (_scaled(x), _scaled(y)) if x.size > 1 else (None, None)
    if a is None or b is None:
        return None
    spreads = total_product(a.values, a.values), total_product(b.values, b.values)
    r = total_product(a.values, b.values) / (sqrt(spreads[0]) * sqrt(spreads[1]))
    if abs(r) > NEAR_ONE:
        # Half the squared distance of the two directions has the digits that the quotient rounds away.
        difference = a.values / sqrt(spreads[0]) - np.sign(r) * b.values / sqrt(spreads[1])
        r = float(np.sign(r)) * (1 - total_product(difference, difference) / 2)
    n = int(x.size)
    sds = a.scale * sqrt(spreads[0] / n), b.scale * sqrt(spreads[1] / n)
    return PairSums(n, (a.centre, b.centre), sds, min(max(r, -1.0), 1.0))


def product_moment(kind: str, x: Floats, y: Floats) -> PairCorrelation:
    """Product-moment correlation of complete columns (both shape ``(n,)``), named ``kind``."""
    n = int(x.size)
    if n < 2:
        return no_coefficient(kind, n, f"Needs at least 2 complete pairs; there {'is' if n == 1 else 'are'} {n}.")
    return coefficient_of(kind, n, pair_sums(x, y))


def coefficient_of(kind: str, n: int, sums: PairSums | None) -> PairCorrelation:
    """The coefficient that ``sums`` of ``n`` pairs (2 at least) hold."""
    if sums is None:
        return no_coefficient(kind, n, "One of the columns has the same value in all complete pairs.")
    if n < 3:
        return PairCorrelation(kind, sums.r, None, n, "Two pairs always lie on a line; a p value needs n ≥ 3.")
    return PairCorrelation(kind, sums.r, float(p_values(np.array(sums.r), np.array(float(n)))), n)


def p_values(r: Floats, n: Floats) -> Floats:
    """Two-sided p of the t test with n−2 degrees of freedom, as the incomplete beta function of 1−r²."""
    return np.asarray(betainc((n - 2) / 2, 0.5, (1 - r) * (1 + r)))
