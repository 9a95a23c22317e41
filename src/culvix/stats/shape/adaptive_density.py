"""A density whose bandwidth follows the local density: narrow where values are many, wide where they are few.

Abramson, I. S. 1982: On bandwidth variation in kernel estimates – a square root law. Annals of Statistics 10,
1217-1223. Each value's bandwidth is the common one times the square root of g/f, where f is a first estimate of the
density at the value and g the geometric mean of f over all values. The first estimate is that of the nearest neighbours
(Loftsgaarden & Quesenberry 1965), which no single far value deceives. Bandwidths are rounded to steps of an eighth, so
that the values of one step are smoothed together.
"""

from math import ceil, log, pi, sqrt

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.fourier import fast_size

__all__ = ["adaptive_density"]

_STEP = log(1.125)
_WIDEST = 0.1
"""No value's bandwidth is wider than this share of the range."""
_REACH = 6.5
_RESOLVED = 2.0
"""A kernel has at least so many cells of the grid to a bandwidth, or it would ring."""
_FINEST_GRID = 2**16


def adaptive_density(unit: Floats, width: float, least: float = 0.0) -> tuple[Floats, Floats]:
    """The density of values on the unit range.

    Parameters
    ----------
    unit
        The values, ascending, from 0 to 1, shape ``(n,)``, n ≥ 2.
    width
        The common bandwidth, above 0, in the same unit.
    least
        No value's bandwidth is narrower than this, in the same unit: what values were rounded to.

    Returns
    -------
    tuple
        Grid and density, both shape ``(m,)``; the density integrates to 1 over the grid.

    References
    ----------
    Abramson 1982, see above. Loftsgaarden, D. O. & Quesenberry, C. P. 1965: A nonparametric estimate of a multivariate
    density function. Annals of Mathematical Statistics 36, 1049-1051.
    """
    beyond = _REACH * max(_WIDEST, width)
    length = 1 + 2 * beyond
    points = 4096
    while length / points > width / (2 * _RESOLVED) and points < _FINEST_GRID:
        points *= 2
    step = length / (points - 1)
    least = max(least, _RESOLVED * step)
    widths = np.clip(_local_widths(unit, width), least, max(_WIDEST, width, least))
    steps = np.round(np.log(widths / least) / _STEP).astype(np.int64)
    cells = np.round((unit + beyond) / step).astype(np.int64)
    size = fast_size(2 * points)
    frequency = 2 * pi * np.arange(size // 2 + 1) / (size * step)
    total = np.zeros(size // 2 + 1, dtype=np.complex128)
    for each in np.flatnonzero(np.bincount(steps)).tolist():
        counts = np.bincount(cells[steps == each], minlength=points)
        total += np.fft.rfft(counts, size) * np.exp(-0.5 * (frequency * least * np.exp(each * _STEP)) ** 2)
    y = np.maximum(np.fft.irfft(total, size)[:points], 0.0) / (unit.size * step)
    grid = -beyond + step * np.arange(points)
    return np.asarray(grid), np.asarray(y)


def _local_widths(unit: Floats, width: float) -> Floats:
    """The bandwidth of each value by the square root law."""
    n, near = unit.size, ceil(sqrt(unit.size))
    last = np.minimum(np.arange(n) + near, n - 1)
    first = np.maximum(np.arange(n) - near, 0)
    # Ties have no distance; they are as dense as the grid can tell.
    sparse = np.maximum((unit[last] - unit[first]) / (last - first), 1e-12)
    return np.asarray(width * np.sqrt(sparse / np.exp(np.mean(np.log(sparse)))))
