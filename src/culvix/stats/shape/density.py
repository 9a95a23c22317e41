"""Gaussian kernel density on a fine grid, by linear binning and the fast Fourier transform.

Bandwidth: improved Sheather–Jones (Botev, Grotowski & Kroese 2010), which does not assume a normal shape, Silverman's
and Scott's rules, or one that follows the local density (Abramson 1982) and takes Silverman's as the common one. Where
the fixed-point equation of the first has no root (few or heavily tied values), Silverman's rule stands in and the
result says so. At a declared bound the part of the curve beyond it is folded back (Silverman 1986, section 2.10), so
that none of it lies where no value can.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import isfinite, pi, prod, sqrt

import numpy as np

from culvix.caching import cached_property
from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.fourier import cosine_transform, fast_size
from culvix.stats.core.quantiles import quantile
from culvix.stats.core.roots import root_between
from culvix.stats.core.sample import Sample
from culvix.stats.shape.adaptive_density import adaptive_density
from culvix.stats.shape.long_tail import squeezed

__all__ = [
    "ADAPTIVE",
    "BANDWIDTH_RULES",
    "CHOSEN",
    "Bounds",
    "Density",
    "density",
    "normal_density",
    "reflected",
    "usual_rule",
]

BANDWIDTH_RULES: dict[str, str] = {
    "isj": "improved Sheather–Jones",
    "silverman": "Silverman",
    "scott": "Scott",
    "adaptive": "Abramson, following the density",
}
"""The rules; the width of the last one is that of the second, which follows the density from value to value."""

ADAPTIVE = "adaptive"

CHOSEN = "chosen bandwidth"

_WIDEST = 100.0
"""Widest bandwidth, in ranges of the values."""

_REACH = 6.5
"""Bandwidths of grid beyond the extremes; less than 1e-10 of a kernel lies farther out."""

_LEVEL = 7
_STAGES = {s: 2 * (1 + 0.5 ** (s + 0.5)) / 3 * prod(range(1, 2 * s, 2)) / sqrt(2 * pi) for s in range(2, _LEVEL)}
"""What the paper's ξ takes from one derivative to the next one below, by its order."""
_NO_MORE = 200
"""Where x^s exp(−x) has come to nothing, for every s up to `_LEVEL`: below 1e-70."""

_FINEST_GRID = 2**17

_RESOLUTION = 0.8
"""Bandwidths under so many steps of rounded values would show the steps."""


@dataclass(frozen=True)
class Density:
    """Density estimate: ``y`` per unit of the column at the points ``x`` (both shape ``(m,)``, x evenly spaced)."""

    x: Floats
    y: Floats
    bandwidth: float
    rule: str
    n: int

    @cached_property
    def peaks(self) -> Floats:
        """Positions of local maxima at least 5 % as high as the highest."""
        y = self.y
        inner = np.flatnonzero((y[1:-1] > y[:-2]) & (y[1:-1] >= y[2:]) & (y[1:-1] > 0.05 * y.max())) + 1
        return self.x[inner]


Bounds = tuple[float | None, float | None]


def density(
    sample: Sample,
    rule: str = "isj",
    *,
    factor: float = 1.0,
    bandwidth: float | None = None,
    bounds: Bounds = (None, None),
) -> Density | None:
    """Gaussian kernel density of a sample, reflected at bounds that the data keep to.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    rule
        How wide the kernel is, by a name in `BANDWIDTH_RULES`.
    factor
        What that width is multiplied by.
    bandwidth
        The width, in the values' unit, in place of the rule; one finer than the grid can show is widened to what it
        can.
    bounds
        Where no value can lie beyond, (low, high); None is open. A bound with values beyond it is left out of account.

    Returns
    -------
    Density or None
        The curve on a grid; None where fewer than two different values leave no width, and for a range beyond a double.

    Raises
    ------
    StatisticsError
        For an unknown rule, and a factor or width that is not positive.

    References
    ----------
    Botev, Z. I., Grotowski, J. F. & Kroese, D. P. 2010: Kernel density estimation via diffusion. Annals of Statistics
    38, 2916-2957.
    Abramson, I. S. 1982: On bandwidth variation in kernel estimates – a square root law. Annals of Statistics 10,
    1217-1223.
    """
    if rule not in BANDWIDTH_RULES:
        raise StatisticsError(f"There is no bandwidth rule called {rule!r}; there are {', '.join(BANDWIDTH_RULES)}.")
    if not (isfinite(factor) and factor > 0):
        raise StatisticsError("A bandwidth factor must be a positive number.")
    if bandwidth is not None and not (isfinite(bandwidth) and bandwidth > 0):
        raise StatisticsError("A bandwidth must be a positive number.")
    x = sample.sorted
    if x.size < 2 or x[0] == x[-1] or not isfinite(2 * (float(x[-1]) - float(x[0]))):
        return None
    shift, scale = float(x[0]), float(x[-1] - x[0])
    if scale < 1e-290:
        return None
    # On the unit range neither tiny nor huge spreads can leave the range of a double.
    unit = (x - shift) / scale
    raw, name = (bandwidth / scale, CHOSEN) if bandwidth is not None else _bandwidth(sample, unit, scale, rule)
    # Far beyond the range of the values every curve is the kernel's own.
    width = min(raw * factor, _WIDEST)
    if not width > 0:
        return None
    if rule == ADAPTIVE and bandwidth is None:
        grid, height = adaptive_density(unit, width, _RESOLUTION * _step(sample, scale))
    else:
        grid, height, width = _smooth(unit, width)
    at, y = grid * scale + shift, height / scale
    if not (np.isfinite(at).all() and np.isfinite(y).all()):
        return None
    at, y = reflected(at, y, sample, bounds)
    return Density(at, y, width * scale, name, sample.n)


def usual_rule(sample: Sample) -> str:
    """The rule, by its name in `BANDWIDTH_RULES`, for the shape of ``sample``.

    Where far values squeeze all others, one bandwidth for all would draw each far value as a needle.
    """
    return ADAPTIVE if squeezed(sample) else "isj"


def normal_density(x: Floats | float, mean: float, sd: float) -> Floats:
    """Density of the normal with ``mean`` and ``sd`` > 0 at ``x`` (any shape, the same unit)."""
    return np.asarray(np.exp(-0.5 * ((x - mean) / sd) ** 2) / (sd * sqrt(2 * pi)))


def reflected(at: Floats, y: Floats, sample: Sample, bounds: Bounds) -> tuple[Floats, Floats]:
    """The curve with what lies beyond a bound folded back over it; the grid then begins or ends at the bound."""
    low, high = bounds
    if low is not None and at[0] < low <= sample.sorted[0]:
        at, y = _folded(at, y, low)
    if high is not None and sample.sorted[-1] <= high < at[-1]:
        at, y = _folded(-at[::-1], y[::-1], -high)
        at, y = -at[::-1], y[::-1]
    return at, y


def _folded(at: Floats, y: Floats, bound: float) -> tuple[Floats, Floats]:
    """The part of the curve from ``bound`` up, with the part below folded onto it."""
    steps = max(round(float((at[-1] - bound) / (at[1] - at[0]))), 1)
    grid = np.linspace(bound, at[-1], steps + 1)
    return grid, np.interp(grid, at, y) + np.interp(2 * bound - grid, at, y, left=0.0, right=0.0)


def _bandwidth(sample: Sample, unit: Floats, scale: float, rule: str) -> tuple[float, str]:
    """Bandwidth by ``rule`` in units of the range ``scale``; ``unit`` are the sorted values on that range."""
    n = sample.n
    centre = sample.moments
    spread = (centre.sd or 0.0) / scale if centre is not None else 0.0
    if not isfinite(spread):
        spread = float(np.std(unit, ddof=1))
    if rule == "scott":
        return 1.059 * spread * n**-0.2, BANDWIDTH_RULES[rule]
    iqr = (quantile(unit, 0.75) - quantile(unit, 0.25)) / 1.349
    silverman = 0.9 * min(spread, iqr if iqr > 0 else spread) * n**-0.2
    if rule in ("silverman", ADAPTIVE):
        return silverman, BANDWIDTH_RULES[rule]
    step = _step(sample, scale)
    found = _improved_sheather_jones(unit, sample.distinct, step)
    # Values recorded in steps would otherwise be taken for as many peaks.
    if found is None:
        return max(silverman, _RESOLUTION * step), BANDWIDTH_RULES["silverman"]
    return max(found, _RESOLUTION * step), BANDWIDTH_RULES[rule]


def _step(sample: Sample, scale: float) -> float:
    """The usual distance between neighbouring distinct values in units of the range ``scale``; 0 if none can be seen.

    Half of the distances are at least as long as the usual one, and all together are the range: of very many values
    it is shorter than the finest grid can show.
    """
    if not 1 < sample.distinct <= 2 * _FINEST_GRID:
        return 0.0
    return float(np.median(np.diff(np.asarray(sample.runs[0], dtype=np.float64) / scale)))


def _improved_sheather_jones(unit: Floats, distinct: int, step: float) -> float | None:
    """Bandwidth on the unit range, or None where the fixed point is not found."""
    if distinct < 5:
        return None
    n, bins = unit.size, 2**14
    padded = 1.2
    counts = _linear_bins(unit, -0.1, padded / (bins - 1), bins) / n
    waves = np.arange(1, bins, dtype=np.float64)
    # Rounded values are spread over the step they were rounded to, or the steps would be taken for the shape.
    wide = step if 2 * distinct < n else 0.0
    coefficients = cosine_transform(counts)[1:] / 2 * np.sinc(waves * wide / (2 * padded))
    squares = coefficients * coefficients
    frequency = waves**2
    weights = {s: 2 * pi ** (2 * s) * frequency**s * squares for s in range(2, _LEVEL + 1)}
    root = _fixed_point(lambda t: _gamma(t, n if wide else distinct, frequency, weights))
    return None if root is None else sqrt(root) * padded


def _gamma(t: float, n: int, frequency: Floats, weights: Mapping[int, Floats]) -> float:
    """The function ξγ^[7] of the paper, at squared bandwidth ``t``."""
    f = _norm(t, frequency, weights[_LEVEL])
    for s in range(_LEVEL - 1, 1, -1):
        if not f > 0:
            return float("inf")
        time = (_STAGES[s] / (n * f)) ** (2 / (3 + 2 * s))
        f = _norm(time, frequency, weights[s])
    return float((2 * n * sqrt(pi) * f) ** -0.4) if f > 0 else float("inf")


def _norm(t: float, frequency: Floats, weights: Floats) -> float:
    # Terms fall as x^s exp(−x): beyond the cut all together are less than the rounding of those before it.
    keep = int(np.searchsorted(frequency, _NO_MORE / (pi * pi * t))) if t > 0 else frequency.size
    decay = frequency[:keep] * -(pi * pi * t)
    np.exp(decay, out=decay)
    return float(weights[:keep] @ decay)


def _fixed_point(gamma: Callable[[float], float]) -> float | None:
    """Smallest t = ``gamma``(t) on the squared unit range, by widening brackets, and narrowing the last one down.

    Each norm falls as its t rises, so that gamma rises with t: no fixed point lies below gamma(0), and the search
    begins there.
    """
    low = high = gamma(0.0)
    while (reached := gamma(high)) > high:
        # Nor does any lie below gamma of a point that is too low.
        low, high = high, max(2 * high, reached)
        if not high <= 0.1:
            return None
    if low < high:
        high = root_between(lambda t: t - gamma(t), low, high, 1e-10)
    # A root at the very start of the search is the grid seen through ties, not a shape.
    return high if high > 2e-12 else None


def _linear_bins(x: Floats, start: float, step: float, bins: int) -> Floats:
    """Each of the ascending ``x`` shared between its two neighbouring grid points by distance; shape ``(bins,)``.

    What a cell gives to its upper end is the sum of its values' distances from the lower one.
    """
    grid = start + step * np.arange(bins + 1)
    ends = np.searchsorted(x, grid)
    counts = np.diff(ends).astype(np.float64)
    filled = np.flatnonzero(counts)
    sums = np.zeros(bins)
    if filled.size:
        sums[filled] = np.add.reduceat(x, ends[filled])
        tail = x[ends[filled[-1] + 1] :]
        if tail.size:
            # The last sum ran on to the end.
            sums[filled[-1]] -= float(tail.sum())
    upper = np.clip((sums - counts * grid[:-1]) / step, 0.0, counts)
    shared = counts - upper
    shared[1:] += upper[:-1]
    return shared


def _smooth(unit: Floats, width: float) -> tuple[Floats, Floats, float]:
    """Grid, density on it and the bandwidth used, on the unit range."""
    points = 1024
    while (1 + 2 * _REACH * width) / (points - 1) > width / 4 and points < _FINEST_GRID:
        points *= 2
    # The grid stays finite: a narrower bandwidth than it resolves is widened to what it does.
    width = max(width, 4 / points) if points == _FINEST_GRID else width
    start = -_REACH * width
    step = (1 + 2 * _REACH * width) / (points - 1)
    counts = _linear_bins(unit, start, step, points)
    size = fast_size(2 * points)
    frequency = 2 * pi * np.arange(size // 2 + 1) / (size * step)
    smooth = np.fft.irfft(np.fft.rfft(counts, size) * np.exp(-0.5 * (frequency * width) ** 2), size)[:points]
    height: Floats = np.asarray(np.maximum(smooth, 0.0) / (unit.size * step), dtype=np.float64)
    grid = np.asarray(start + step * np.arange(points), dtype=np.float64)
    return grid, height, float(width)
