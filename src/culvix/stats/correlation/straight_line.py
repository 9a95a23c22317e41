"""The least-squares line through two columns."""

from dataclasses import dataclass
from math import ldexp, sqrt

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.moments import moments
from culvix.stats.core.sums import binary_exponent, careful_sum
from culvix.stats.correlation.result import present_pairs

__all__ = ["StraightLine", "straight_line"]


@dataclass(frozen=True)
class StraightLine:
    """Least-squares line y = intercept + slope · x over n pairs, with the residual SD (n−2)."""

    slope: float
    intercept: float
    residual_sd: float | None
    n: int


def straight_line(x: Floats, y: Floats) -> StraightLine | None:
    """Least-squares line of one column on another.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.

    Returns
    -------
    StraightLine or None
        Slope, intercept and residual SD (n−2); None without a spread in ``x``.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Legendre, A. M. 1805: Nouvelles méthodes pour la détermination des orbites des comètes. Paris, Didot, appendix.
    """
    both = present_pairs(x, y)
    a, b = x[both], y[both]
    n = int(a.size)
    if n < 2 or a.min() == a.max():
        return None
    # Powers of two take out the size of the values, so that no square can overflow.
    size_x, size_y = (binary_exponent(float(c.min()), float(c.max())) for c in (a, b))
    a, b = np.ldexp(a, -size_x), np.ldexp(b, -size_y)
    mean_x, mean_y = moments(a).mean, moments(b).mean
    dx, dy = a - mean_x, b - mean_y
    reach = float(np.abs(dx).max())
    dx = dx / reach
    slope = careful_sum(dx * dy) / careful_sum(dx * dx)
    residual = dy - slope * dx
    spread = sqrt(careful_sum(residual * residual) / (n - 2)) if n > 2 else None
    try:
        steep = ldexp(slope / reach, size_y - size_x)
        foot = ldexp(mean_y - slope / reach * mean_x, size_y)
        return StraightLine(steep, foot, None if spread is None else ldexp(spread, size_y), n)
    except (OverflowError, ZeroDivisionError):
        return None
