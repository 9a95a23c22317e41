"""Bootstrap intervals of the statistics of one column, seeded (see `culvix.stats.resampling.bootstrap_interval`).

Corrected for bias and acceleration up to 2000 values, or 250 for the statistics made of all pairs.
"""

from collections.abc import Callable, Mapping
from math import sqrt
from types import MappingProxyType

import numpy as np

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.quantiles import quantile
from culvix.stats.core.sample import Sample
from culvix.stats.describe.description import MAD_TO_SD
from culvix.stats.describe.hodges_lehmann import hodges_lehmann
from culvix.stats.describe.medcouple import medcouple
from culvix.stats.describe.robust_scale import qn, sn
from culvix.stats.resampling.bootstrap_interval import BootstrapInterval, Resampling
from culvix.stats.resampling.simulation import SEED

__all__ = ["BOOTSTRAPPED", "BootstrapInterval", "bootstrap_interval"]

_MOST = 2000
_MOST_OF_PAIRS = 250
_LARGEST = 1e300

Rows = Callable[[Floats], Floats]
"""The statistic of each row of an array, shape ``(m, n)``, whose rows are ascending; shape ``(m,)``."""


def _means(x: Floats) -> Floats:
    return np.asarray(x.mean(axis=1))


def _sds(x: Floats) -> Floats:
    return np.asarray(x.std(axis=1, ddof=1))


def _skewnesses(x: Floats) -> Floats:
    n = x.shape[1]
    deviations = x - x.mean(axis=1, keepdims=True)
    deviations /= np.abs(deviations).max(axis=1, keepdims=True)
    squares = deviations * deviations
    g1 = (squares * deviations).mean(axis=1) / squares.mean(axis=1) ** 1.5
    return np.asarray(g1 * sqrt(n * (n - 1)) / (n - 2))


def _medians(x: Floats) -> Floats:
    n = x.shape[1]
    return np.asarray(x[:, (n - 1) // 2] / 2 + x[:, n // 2] / 2)


def _trimmed_means(x: Floats) -> Floats:
    cut = int(_TRIM * x.shape[1])
    return np.asarray(x[:, cut : x.shape[1] - cut].mean(axis=1))


def _winsorized_means(x: Floats) -> Floats:
    n = x.shape[1]
    cut = int(_TRIM * n)
    middle = x[:, cut : n - cut]
    return np.asarray((middle.sum(axis=1) + cut * (middle[:, 0] + middle[:, -1])) / n)


def _mads(x: Floats) -> Floats:
    return _medians(np.sort(np.abs(x - _medians(x)[:, None]), axis=1)) * MAD_TO_SD


def _iqrs(x: Floats) -> Floats:
    return np.array([quantile(row, 0.75) - quantile(row, 0.25) for row in x])


def _each(run: Callable[[Sample], float | None]) -> Rows:
    """The statistic of a sample, row by row; NaN where a resample has none."""

    def rows(x: Floats) -> Floats:
        found = [run(Sample(row)) for row in x]
        return np.array([np.nan if value is None else value for value in found])

    return rows


_TRIM = 0.1

BOOTSTRAPPED: Mapping[str, Rows] = MappingProxyType(
    {
        "mean": _means,
        "sd": _sds,
        "skewness": _skewnesses,
        "median": _medians,
        "trimmed_mean": _trimmed_means,
        "winsorized_mean": _winsorized_means,
        "iqr": _iqrs,
        "mad_scaled": _mads,
        "sn": _each(sn),
        "qn": _each(qn),
        "medcouple": _each(medcouple),
        "hodges_lehmann": _each(hodges_lehmann),
    }
)
"""The statistics that can be asked for, by their names in the description; quartiles of type 7, trimming a tenth."""

_OF_PAIRS = frozenset({"sn", "qn", "medcouple", "hodges_lehmann"})


def bootstrap_interval(
    sample: Sample,
    key: str,
    *,
    confidence: float = 0.95,
    repeats: int = 999,
    seed: int = SEED,
    progress: Progress = silent,
) -> BootstrapInterval:
    """Interval of one statistic of a column from resamples of its values.

    Parameters
    ----------
    sample
        The values.
    key
        The statistic, by its name in `BOOTSTRAPPED`.
    confidence
        How often, as a share and nearly so, the interval holds what the statistic estimates.
    repeats, seed
        How many resamples are drawn, and what they begin from.
    progress
        Told how far the work is; whatever it raises ends it.

    Returns
    -------
    BootstrapInterval
        In the values' unit, or without one for skewness and medcouple.

    Raises
    ------
    StatisticsError
        For an unknown statistic, a confidence outside 0 to 1 or fewer than one repeat.

    References
    ----------
    Efron, B. 1987: Better bootstrap confidence intervals. Journal of the American Statistical Association 82, 171-185.
    """
    if key not in BOOTSTRAPPED:
        raise StatisticsError(f"There is no bootstrap of {key!r}; there are {', '.join(BOOTSTRAPPED)}.")
    resampling = Resampling(confidence, repeats, seed, progress)
    x, n = sample.sorted, sample.n
    most = _MOST_OF_PAIRS if key in _OF_PAIRS else _MOST
    if n < 5:
        return resampling.none(key, n, most, f"A bootstrap needs at least 5 values; n is {n}.")
    if max(-float(x[0]), float(x[-1])) > _LARGEST:
        return resampling.none(key, n, most, "The values are beyond what a number can hold.")
    run = BOOTSTRAPPED[key]

    def of_positions(positions: Ints) -> Floats:
        return run(x[positions])

    return resampling.interval(key, n, most, of_positions)
