"""Normal quantile–quantile points with a pointwise band.

Positions (i−a)/(n+1−2a), a = 3/8 by default (Blom 1958). The band is the exact one for single order statistics
of a normal sample: its i-th value has a Beta(i, n+1−i) distributed probability. Large samples are thinned for
drawing, never in their tails; the correlation of the points uses them all.
"""

from dataclasses import dataclass, replace
from functools import lru_cache
from math import sqrt

import numpy as np
from scipy.special import betaincinv, ndtr, ndtri

from culvix.errors import StatisticsError
from culvix.stats.arrays import Floats, Ints
from culvix.stats.quantiles import quantile
from culvix.stats.sample import Sample
from culvix.stats.sums import SHORT, plain_sum

__all__ = ["QQ", "antisymmetric_product", "normal_positions", "qq", "straightness", "sum_of_squares", "upper_positions"]

_TAIL = 100


@dataclass(frozen=True)
class QQ:
    """Points of the plot, ascending: ``value`` against normal quantile ``z`` (both shape ``(m,)``).

    ``places`` has each point's place in the sample's order (from 0). The line is value = ``centre`` + ``slope`` · z;
    ``low`` and ``high`` are the band in the value's unit at each z. ``correlation`` is that of all ``n`` points.
    """

    value: Floats
    z: Floats
    places: Ints
    low: Floats
    high: Floats
    centre: float
    slope: float
    line: str
    correlation: float
    level: float
    n: int

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
            self, value=self.value[at], z=self.z[at], places=self.places[at], low=self.low[at], high=self.high[at]
        )


@lru_cache(maxsize=4)
def upper_positions(n: int, a: float = 0.375) -> Floats:
    """Normal quantiles of the plotting positions above the middle, largest first; shape ``(n // 2,)``, read-only."""
    upper = np.asarray(-ndtri((np.arange(1, n // 2 + 1) - a) / (n + 1 - 2 * a)))
    upper.setflags(write=False)
    return upper


def normal_positions(n: int, a: float = 0.375) -> Floats:
    """Normal quantiles of the plotting positions of n ordered values; shape ``(n,)``, antisymmetric."""
    if n < 1:
        raise StatisticsError("There are no plotting positions without values.")
    if not 0 <= a < 1:
        raise StatisticsError(f"The constant of the plotting position lies between 0 and 1, not at {a}.")
    upper = upper_positions(n, a)
    return np.concatenate((-upper, np.zeros(n % 2), upper[::-1]))


def antisymmetric_product(y: Floats, upper: Floats) -> float:
    """Σ y·z of ordered ``y`` with an antisymmetric z, whose upper half, largest first, is ``upper``."""
    half = upper.size
    return plain_sum(upper * (y[::-1][:half] - y[:half]))


def sum_of_squares(sample: Sample) -> float:
    """Σ y² of the standardised values: n−1 by their definition, summed only where rounding could show."""
    return plain_sum(sample.standardised**2) if sample.n <= SHORT else sample.n - 1.0


def straightness(sample: Sample, a: float = 0.375) -> tuple[float, float]:
    """Correlation r of the Q-Q points of ``sample`` (with a spread), and 1−r² without cancellation."""
    y, upper = sample.standardised, upper_positions(sample.n, a)
    yy, zz = sum_of_squares(sample), 2 * plain_sum(upper * upper)
    yz, root = antisymmetric_product(y, upper), sqrt(yy * zz)
    return min(yz / root, 1.0), min(max((root - yz) * (root + yz) / (yy * zz), 0.0), 1.0)


def qq(
    sample: Sample, *, a: float = 0.375, line: str = "moments", level: float = 0.95, points: int = 1000
) -> QQ | None:
    """Q-Q points of ``sample``; None where fewer than three values or no spread leave no line.

    ``line`` runs through mean and SD (``"moments"``) or through the quartiles (``"quartiles"``). At most about
    ``points`` points are returned. Raises StatisticsError for settings outside their range.
    """
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
    at = _thinned(n, points)
    tail = (1 - level) / 2
    rank = at + 1.0
    low_z = ndtri(betaincinv(rank, n + 1 - rank, tail))
    # The points stand symmetrically, and so does the band.
    high_z = -low_z[::-1]
    with np.errstate(over="ignore"):
        low, high = centre + slope * low_z, centre + slope * high_z
    if not (np.isfinite(low).all() and np.isfinite(high).all()):
        return None
    upper = upper_positions(n, a)
    z = np.where(at < n // 2, -upper[np.minimum(at, n // 2 - 1)], upper[np.clip(n - 1 - at, 0, n // 2 - 1)])
    z[2 * at == n - 1] = 0.0
    return QQ(x[at], z, at, low, high, centre, slope, line, straightness(sample, a)[0], level, n)


def _line(sample: Sample, line: str) -> tuple[float, float | None]:
    x, centre = sample.sorted, sample.moments
    if line == "moments" and centre is not None:
        return centre.mean, centre.sd
    q1, q3 = quantile(x, 0.25), quantile(x, 0.75)
    return q1 / 2 + q3 / 2, (q3 - q1) / (2 * float(ndtri(0.75)))


def _thinned(n: int, points: int) -> Ints:
    """Indices kept for drawing: both tails whole, and between them even steps in the normal quantile."""
    if n <= points:
        return np.arange(n)
    edge = float(ndtri((_TAIL + 0.5) / n))
    steps = np.linspace(edge, 0, max(points // 2 - _TAIL, 2))
    middle = np.clip((ndtr(steps) * n).astype(np.int64), _TAIL, (n - 1) // 2)
    lower = np.unique(np.concatenate((np.arange(_TAIL), middle)))
    return np.unique(np.concatenate((lower, n - 1 - lower)))
