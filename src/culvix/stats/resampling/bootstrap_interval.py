"""What every bootstrap interval shares: resamples of rows, and the ends of the interval read from them.

Bias-corrected and accelerated (BCa, Efron 1987), the acceleration from leaving out each row once, up to a number of
rows; above, resamples of so many rows, their deviations shrunk to the full n (the m-out-of-n bootstrap: Bickel, Götze &
van Zwet 1997), because there bias and skewness of the estimate no longer show while the work would grow with n.
"""

from collections.abc import Callable
from dataclasses import dataclass
from math import sqrt

import numpy as np
from scipy.special import ndtr, ndtri

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.quantiles import quantile
from culvix.stats.core.sample import median_of_sorted
from culvix.stats.resampling.simulation import SEED, check_repeats

__all__ = ["BootstrapInterval", "Resampled", "Resampling"]

_AT_A_TIME = 400_000

Resampled = Callable[[Ints], Floats]
"""The statistic of each row of an array of places, shape ``(m, size)``, ascending along each row; shape ``(m,)``."""


@dataclass(frozen=True)
class BootstrapInterval:
    """Interval of one statistic; ``low`` and ``high`` are None where ``note`` says why."""

    statistic: str
    estimate: float | None
    low: float | None
    high: float | None
    method: str
    repeats: int
    seed: int
    note: str | None = None


@dataclass(frozen=True)
class Resampling:
    """How an interval is found. Raises StatisticsError for a confidence outside 0 to 1 or fewer than one repeat."""

    confidence: float = 0.95
    repeats: int = 999
    seed: int = SEED
    progress: Progress = silent

    def __post_init__(self) -> None:
        if not 0 < self.confidence < 1:
            raise StatisticsError(f"A confidence level lies between 0 and 1, not at {self.confidence}.")
        check_repeats(self.repeats)

    def none(self, key: str, n: int, most: int, why: str) -> BootstrapInterval:
        """The result where there is no interval, and why."""
        return BootstrapInterval(key, None, None, None, _method(n, most), self.repeats, self.seed, why)

    def interval(self, key: str, n: int, most: int, run: Resampled) -> BootstrapInterval:
        """The interval of the statistic ``run``, called ``key``, of ``n`` rows; BCa up to ``most`` of them.

        Raises whatever ``progress`` raises.
        """
        with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
            estimate = float(run(np.arange(n)[None, :])[0])
            drawn = self._drawn(n, min(n, most), run)
        drawn = np.sort(drawn[np.isfinite(drawn)])
        if not np.isfinite(estimate) or drawn.size < self.repeats / 2:
            return self.none(key, n, most, "The statistic has no value in this sample or in most resamples of it.")
        tails = (1 - self.confidence) / 2, (1 + self.confidence) / 2
        if n <= most:
            low, high = (quantile(drawn, p) for p in _corrected(n, estimate, drawn, run, tails))
        else:
            centre, shrink = median_of_sorted(drawn), sqrt(most / n)
            low, high = (estimate + shrink * (quantile(drawn, p) - centre) for p in tails)
        note = "All resamples gave the same value: too many values are equal." if drawn[0] == drawn[-1] else None
        return BootstrapInterval(key, estimate, low, high, _method(n, most), self.repeats, self.seed, note)

    def _drawn(self, n: int, size: int, run: Resampled) -> Floats:
        """The statistic of as many samples as are asked for, each of ``size`` rows drawn with replacement."""
        draw = np.random.Generator(np.random.PCG64(self.seed))
        rows = max(1, min(_AT_A_TIME // size, 50))
        found = []
        for first in range(0, self.repeats, rows):
            self.progress(first / self.repeats, "resampling")
            positions = draw.integers(0, n, (min(rows, self.repeats - first), size))
            positions.sort(axis=1)
            found.append(run(positions))
        return np.concatenate(found)


def _method(n: int, most: int) -> str:
    return "BCa" if n <= most else "m out of n"


def _corrected(n: int, estimate: float, drawn: Floats, run: Resampled, tails: tuple[float, float]) -> list[float]:
    """The shares of the resampled statistics at which the interval ends, corrected for bias and acceleration."""
    m = drawn.size
    below = (np.searchsorted(drawn, estimate, "left") + np.searchsorted(drawn, estimate, "right")) / 2
    bias = float(ndtri(min(max(below, 0.5), m - 0.5) / m))
    acceleration = _acceleration(n, run)
    ends = []
    for tail in tails:
        z = bias + float(ndtri(tail))
        # Where the correction has no solution the plain end is the honest one.
        ends.append(float(ndtr(bias + z / (1 - acceleration * z))) if acceleration * z < 1 else tail)
    return sorted(ends)


def _acceleration(n: int, run: Resampled) -> float:
    position = np.arange(n - 1)
    rows = max(1, _AT_A_TIME // n)
    found = []
    with np.errstate(over="ignore", invalid="ignore", divide="ignore"):
        for first in range(0, n, rows):
            left_out = np.arange(first, min(first + rows, n))[:, None]
            found.append(run(position + (position >= left_out)))
    values = np.concatenate(found)
    values = values[np.isfinite(values)]
    deviations = values.mean() - values if values.size else values
    largest = float(np.abs(deviations).max(initial=0.0))
    if not largest:
        return 0.0
    deviations = deviations / largest
    return float((deviations**3).sum() / (6 * (deviations**2).sum() ** 1.5))
