"""Normal quantile–quantile points with a band, as they stand or with the line taken out.

Positions (i−a)/(n+1−2a), a = 3/8 by default (Blom 1958). The pointwise band is the exact one for single order
statistics of a normal sample with known mean and SD: its i-th value has a Beta(i, n+1−i) distributed probability. The
simultaneous band has the same form at the local level at which it holds all points together. Large samples are thinned
for drawing, never in their tails; the correlation of the points uses them all.
"""

from dataclasses import dataclass, replace
from functools import lru_cache
from math import sqrt

import numpy as np
from scipy.special import betaincinv, ndtr, ndtri

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.normal_scores import BLOM, upper_scores
from culvix.stats.core.quantiles import quantile
from culvix.stats.core.sample import Sample
from culvix.stats.shape.qq_band import local_level

__all__ = ["QQ", "qq", "straightness"]

_TAIL = 100


@dataclass(frozen=True)
class QQ:
    """Points of the plot, ascending: ``value`` against normal quantile ``z`` (both shape ``(m,)``).

    ``positions`` has each point's place in the sample's order (from 0). The line is value = ``centre`` + ``slope`` · z;
    ``low`` and ``high`` are the band in the value's unit at each z. ``correlation`` is that of all ``n`` points.
    """

    value: Floats
    z: Floats
    positions: Ints
    low: Floats
    high: Floats
    centre: float
    slope: float
    line: str
    correlation: float
    level: float
    n: int
    band: str = "pointwise"

    def detrended(self) -> "QQ":
        """The same points as deviations from the line, still in the value's unit, so that the line lies at 0."""
        line = self.centre + self.slope * self.z
        return replace(self, value=self.value - line, low=self.low - line, high=self.high - line, centre=0.0, slope=0.0)

    def thinned(self, points: int) -> "QQ":
        """The same plot with at most about ``points`` points, both tails whole as far as that allows."""
        if self.value.size <= points:
            return self
        # The points already stand evenly in z between their tails, so even steps keep them so.
        tail = min(_TAIL, points // 4)
        middle = np.linspace(tail, self.value.size - tail - 1, points - 2 * tail).astype(np.int64)
        size = self.value.size
        at = np.unique(np.concatenate((np.arange(tail), middle, np.arange(size - tail, size))))
        return replace(
            self, value=self.value[at], z=self.z[at], positions=self.positions[at], low=self.low[at], high=self.high[at]
        )


def straightness(sample: Sample) -> tuple[float, float]:
    """How straight the Q-Q points lie, at Blom's positions.

    Parameters
    ----------
    sample
        The values, which have a spread.

    Returns
    -------
    (float, float)
        The correlation r of the points, and 1 − r² without cancellation.

    Raises
    ------
    StatisticsError
        For a sample without a spread.

    References
    ----------
    Blom, G. 1958: Statistical Estimates and Transformed Beta-Variables. New York, Wiley.
    """
    sums, yy = sample.scores, sample.sum_of_squares
    root = sqrt(yy * sums.squares)
    lack = (root - sums.product) * (root + sums.product) / (yy * sums.squares)
    return min(sums.product / root, 1.0), min(max(lack, 0.0), 1.0)


def qq(
    sample: Sample,
    *,
    a: float = BLOM,
    line: str = "moments",
    level: float = 0.95,
    band: str = "pointwise",
    points: int = 600,
) -> QQ | None:
    """Points of the normal quantile-quantile plot, with a line and a band.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    a
        The constant of the plotting position (i−a)/(n+1−2a).
    line
        Through mean and SD (``"moments"``) or through the quartiles (``"quartiles"``).
    level
        The probability with which the band holds.
    band
        Of each point by itself (``"pointwise"``), or of all at once (``"simultaneous"``).
    points
        About so many points are returned at the most; never fewer in the tails.

    Returns
    -------
    QQ or None
        None where fewer than three values or no spread leave no line.

    Raises
    ------
    StatisticsError
        For settings outside their range.

    References
    ----------
    Wilk, M. B. & Gnanadesikan, R. 1968: Probability plotting methods for the analysis of data. Biometrika 55, 1-17.
    """
    if band not in ("pointwise", "simultaneous"):
        raise StatisticsError(f"A band is 'pointwise' or 'simultaneous', not {band!r}.")
    if line not in ("moments", "quartiles"):
        raise StatisticsError(f"The line runs through 'moments' or 'quartiles', not {line!r}.")
    if not 0 < level < 1:
        raise StatisticsError(f"The level of a band lies between 0 and 1, not at {level}.")
    x, n = sample.sorted, sample.n
    if n < 3 or x[0] == x[-1]:
        return None
    centre, slope = _line(sample, line)
    if slope is None or not slope > 0 or not np.isfinite(slope):
        return None
    at, low_z = _band(n, points, (local_level(n, level) if band == "simultaneous" else 1 - level) / 2)
    # The points stand symmetrically, and so does the band.
    high_z = -low_z[::-1]
    with np.errstate(over="ignore"):
        low, high = centre + slope * low_z, centre + slope * high_z
    if not (np.isfinite(low).all() and np.isfinite(high).all()):
        return None
    # From the nearer end, so that the scores are antisymmetric to the last digit.
    z = np.where(2 * at < n, -1.0, 1.0) * upper_scores(np.minimum(at, n - 1 - at) + 1.0, n, a)
    return QQ(x[at], z, at, low, high, centre, slope, line, straightness(sample)[0], level, n, band)


def _line(sample: Sample, line: str) -> tuple[float, float | None]:
    x, centre = sample.sorted, sample.moments
    if line == "moments" and centre is not None:
        return centre.mean, centre.sd
    q1, q3 = quantile(x, 0.25), quantile(x, 0.75)
    return q1 / 2 + q3 / 2, (q3 - q1) / (2 * float(ndtri(0.75)))


@lru_cache(maxsize=64)
def _band(n: int, points: int, tail: float) -> tuple[Ints, Floats]:
    """Indices kept for drawing, and the quantile at ``tail`` of each one's place, as a normal score.

    The columns of a table share it, for it hangs on the number of values alone.
    """
    at = _thinned(n, points)
    rank = at + 1.0
    return at, ndtri(betaincinv(rank, n + 1 - rank, tail))


def _thinned(n: int, points: int) -> Ints:
    """Indices kept for drawing: both tails whole, and between them even steps in the normal quantile."""
    if n <= points:
        return np.arange(n)
    edge = float(ndtri((_TAIL + 0.5) / n))
    steps = np.linspace(edge, 0, max(points // 2 - _TAIL, 2))
    middle = np.clip((ndtr(steps) * n).astype(np.int64), _TAIL, (n - 1) // 2)
    lower = np.unique(np.concatenate((np.arange(_TAIL), middle)))
    return np.unique(np.concatenate((lower, n - 1 - lower)))
