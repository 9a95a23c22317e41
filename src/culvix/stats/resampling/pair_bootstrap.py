"""Bootstrap intervals of correlation coefficients, seeded: pairs of values are drawn together.

Corrected for bias and acceleration up to 2000 pairs, or 500 for Kendall's (see `bootstrap_interval`).
"""

from collections.abc import Callable, Mapping
from dataclasses import replace
from types import MappingProxyType

import numpy as np

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sums import unit_scaled
from culvix.stats.correlation.kendall import kendall_coefficient
from culvix.stats.correlation.result import present_pairs
from culvix.stats.correlation.robust import biweight, winsorized
from culvix.stats.resampling.bootstrap_interval import BootstrapInterval, Resampled, Resampling
from culvix.stats.resampling.simulation import SEED

__all__ = ["BOOTSTRAPPED_COEFFICIENTS", "bootstrap_correlation"]

_MOST, _MOST_OF_SLOW = 2000, 500


def _pearson(x: Floats, y: Floats) -> Resampled:
    x, y = unit_scaled(x), unit_scaled(y)

    def run(positions: Ints) -> Floats:
        return _products(x[positions], y[positions])

    return run


def _products(a: Floats, b: Floats) -> Floats:
    """Product-moment coefficient of each row."""
    a, b = a - a.mean(axis=1, keepdims=True), b - b.mean(axis=1, keepdims=True)
    spread = np.sqrt((a * a).sum(axis=1)) * np.sqrt((b * b).sum(axis=1))
    return np.asarray(np.clip((a * b).sum(axis=1) / spread, -1.0, 1.0))


def _spearman(x: Floats, y: Floats) -> Resampled:
    runs_x, runs_y = (np.unique(values, return_inverse=True)[1].ravel() for values in (x, y))

    def run(positions: Ints) -> Floats:
        return _products(_ranks(runs_x[positions]), _ranks(runs_y[positions]))

    return run


def _ranks(runs: Ints) -> Floats:
    """Average ranks along each row of ``runs``, whole numbers from 0 in the order of the values they stand for."""
    rows = runs.shape[0]
    width = int(runs.max()) + 1
    placed = runs + width * np.arange(rows)[:, None]
    counts = np.bincount(placed.ravel(), minlength=rows * width).reshape(rows, width)
    middles = np.cumsum(counts, axis=1) - (counts - 1) / 2
    return np.asarray(np.take_along_axis(middles, runs, axis=1))


def _each(coefficient: Callable[[Floats, Floats], float | None]) -> Callable[[Floats, Floats], Resampled]:
    """A coefficient that is found for one resample at a time; NaN where a resample has none."""

    def of(x: Floats, y: Floats) -> Resampled:
        def run(positions: Ints) -> Floats:
            found = [coefficient(x[row], y[row]) for row in positions]
            return np.array([np.nan if r is None else r for r in found])

        return run

    return of


BOOTSTRAPPED_COEFFICIENTS: Mapping[str, Callable[[Floats, Floats], Resampled]] = MappingProxyType(
    {
        "pearson": _pearson,
        "spearman": _spearman,
        "kendall": _each(kendall_coefficient),
        "biweight": _each(lambda x, y: biweight(x, y).r),
        "winsorized": _each(lambda x, y: winsorized(x, y).r),
    }
)
"""The kinds of correlation that have a bootstrap, by their keys."""

_SLOW = frozenset({"kendall", "biweight", "winsorized"})


def bootstrap_correlation(
    x: Floats,
    y: Floats,
    kind: str = "pearson",
    *,
    confidence: float = 0.95,
    repeats: int = 999,
    seed: int = SEED,
    progress: Progress = silent,
) -> BootstrapInterval:
    """Interval of a correlation coefficient from resamples of the pairs of values that are both present.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in any units; a pair with a missing or infinite value is left out.
    kind
        The coefficient, by its name in `BOOTSTRAPPED_COEFFICIENTS`.
    confidence
        How often, as a share and nearly so, the interval holds the coefficient of what was sampled.
    repeats, seed
        How many resamples are drawn, and what they begin from.
    progress
        Told how far the work is; whatever it raises ends it.

    Returns
    -------
    BootstrapInterval
        Its ends between −1 and 1.

    Raises
    ------
    StatisticsError
        For an unknown kind, columns of different lengths, a confidence outside 0 to 1 or fewer than one repeat.

    References
    ----------
    Efron, B. 1987: Better bootstrap confidence intervals. Journal of the American Statistical Association 82, 171-185.
    """
    if kind not in BOOTSTRAPPED_COEFFICIENTS:
        raise StatisticsError(f"There is no bootstrap of {kind!r}; there are {', '.join(BOOTSTRAPPED_COEFFICIENTS)}.")
    resampling = Resampling(confidence, repeats, seed, progress)
    both = present_pairs(x, y)
    x, y = x[both], y[both]
    n, most = int(x.size), _MOST_OF_SLOW if kind in _SLOW else _MOST
    if n < 5:
        return resampling.none(kind, n, most, f"A bootstrap needs at least 5 complete pairs; there are {n}.")
    found = resampling.interval(kind, n, most, BOOTSTRAPPED_COEFFICIENTS[kind](x, y))
    return _within_bounds(found)


def _within_bounds(found: BootstrapInterval) -> BootstrapInterval:
    """Ends shifted beyond −1 or 1 stand there."""
    if found.low is None or found.high is None:
        return found
    return replace(found, low=max(found.low, -1.0), high=min(found.high, 1.0))
