"""The least-squares line through two columns, with the errors of what it is made of."""

from dataclasses import dataclass
from math import isfinite, ldexp, sqrt

import numpy as np
from scipy.special import stdtrit

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.moments import moments
from culvix.stats.core.sums import binary_exponent, careful_sum, total_product
from culvix.stats.correlation.result import present_pairs

__all__ = ["LineErrors", "StraightLine", "line_band", "line_errors", "straight_line"]


@dataclass(frozen=True)
class StraightLine:
    """Least-squares line y = intercept + slope · x over n pairs, with the residual SD (n−2).

    ``mean_x`` and ``mean_y`` are where it surely passes; ``spread_x`` is the root of the sum of squares about
    ``mean_x``, which the errors of the line follow from.
    """

    slope: float
    intercept: float
    residual_sd: float | None
    n: int
    mean_x: float = 0.0
    mean_y: float = 0.0
    spread_x: float = 0.0

    def at(self, x: Floats) -> Floats:
        """The line over ``x`` (any shape)."""
        return np.asarray(self.mean_y + self.slope * (x - self.mean_x))


@dataclass(frozen=True)
class LineErrors:
    """Standard errors of slope and intercept, and the interval of the slope."""

    slope: float
    intercept: float
    slope_interval: tuple[float, float]


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
    squares = total_product(dx, dx)
    slope = careful_sum(dx * dy) / squares
    residual = dy - slope * dx
    spread = sqrt(total_product(residual, residual) / (n - 2)) if n > 2 else None
    try:
        return StraightLine(
            ldexp(slope / reach, size_y - size_x),
            ldexp(mean_y - slope / reach * mean_x, size_y),
            None if spread is None else ldexp(spread, size_y),
            n,
            ldexp(mean_x, size_x),
            ldexp(mean_y, size_y),
            ldexp(reach * sqrt(squares), size_x),
        )
    except (OverflowError, ZeroDivisionError):
        return None


def _quantile(line: StraightLine, confidence: float) -> float:
    """How many standard errors the ends of an interval lie from the line. Raises StatisticsError."""
    if not 0 < confidence < 1:
        raise StatisticsError(f"A confidence level lies between 0 and 1, not at {confidence}.")
    return float(stdtrit(line.n - 2, (1 + confidence) / 2))


def line_errors(line: StraightLine, confidence: float = 0.95) -> LineErrors | None:
    """The standard errors of a line, from the spread of what it leaves.

    They hold where this spread is the same all along the line, and rows do not depend on each other.

    Parameters
    ----------
    line
        The line, as by `straight_line`.
    confidence
        How often, as a share, such an interval of the slope holds the slope.

    Returns
    -------
    LineErrors or None
        The errors, and the interval of the slope by t with n − 2 degrees of freedom; None below three rows.

    Raises
    ------
    StatisticsError
        For a confidence that does not lie between 0 and 1.

    References
    ----------
    Gauss, C. F. 1823: Theoria combinationis observationum erroribus minimis obnoxiae. Göttingen, Dieterich.
    Student 1908: The probable error of a mean. Biometrika 6, 1-25.
    """
    reach = _quantile(line, confidence) if line.n > 2 else 0.0
    if line.residual_sd is None or not line.spread_x > 0:
        return None
    of_slope = line.residual_sd / line.spread_x
    of_intercept = line.residual_sd * sqrt(1 / line.n + (line.mean_x / line.spread_x) ** 2)
    if not (isfinite(of_slope) and isfinite(of_intercept)):
        return None
    return LineErrors(of_slope, of_intercept, (line.slope - reach * of_slope, line.slope + reach * of_slope))


def line_band(line: StraightLine, x: Floats, confidence: float = 0.95) -> tuple[Floats, Floats] | None:
    """The band in which the mean of y lies over each x, one x at a time.

    Parameters
    ----------
    line
        The line, as by `straight_line`.
    x
        Where the band is wanted, of any shape, in the unit of the values along the axis.
    confidence
        How often, as a share, such an interval holds the mean.

    Returns
    -------
    (array, array) or None
        Both edges, each as long as ``x``; None below three rows.

    Raises
    ------
    StatisticsError
        For a confidence that does not lie between 0 and 1.

    References
    ----------
    Working, H. & Hotelling, H. 1929: Applications of the theory of error to the interpretation of trends. Journal of
    the American Statistical Association 24 (Supplement), 73-85.
    """
    if line.residual_sd is None or not line.spread_x > 0:
        return None
    away = (x - line.mean_x) / line.spread_x
    reach = _quantile(line, confidence) * line.residual_sd * np.sqrt(1 / line.n + away * away)
    return line.at(x) - reach, line.at(x) + reach
