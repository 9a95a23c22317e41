"""Bootstrap intervals of robust statistics, seeded.

Up to 2000 values (250 for the statistics made of all pairs): bias-corrected and accelerated (BCa, Efron 1987), the
acceleration from leaving out each value once. Above: resamples of so many values, their deviations shrunk to the full n
(the m-out-of-n bootstrap: Bickel, Götze & van Zwet 1997), because there bias and skewness of the estimate no longer
show while the work would grow with n.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import sqrt
from types import MappingProxyType

import numpy as np
from scipy.special import ndtr, ndtri

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.arrays import Floats
from culvix.stats.describe import MAD_TO_SD
from culvix.stats.medcouple import medcouple
from culvix.stats.quantiles import quantile
from culvix.stats.robust_scale import qn, sn
from culvix.stats.sample import Sample
from culvix.stats.simulate import SEED, check_repeats

__all__ = ["BOOTSTRAPPED", "BootstrapInterval", "bootstrap_interval"]

_MOST = 2000
_MOST_OF_PAIRS = 250
_AT_A_TIME = 400_000
_LARGEST = 1e300

Rows = Callable[[Floats], Floats]
"""The statistic of each row of an array, shape ``(m, n)``, whose rows are ascending; shape ``(m,)``."""


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


def _medians(x: Floats) -> Floats:
    n = x.shape[1]
    return np.asarray(x[:, (n - 1) // 2] / 2 + x[:, n // 2] / 2)


def _trimmed_means(x: Floats) -> Floats:
    cut = int(_TRIM * x.shape[1])
    return np.asarray(x[:, cut : x.shape[1] - cut].mean(axis=1))


def _winsorized_means(x: Floats) -> Floats:
    n = x.shape[1]
    cut = int(_TRIM * n)
    kept = x[:, cut : n - cut]
    return np.asarray((kept.sum(axis=1) + cut * (kept[:, 0] + kept[:, -1])) / n)


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
        "median": _medians,
        "trimmed_mean": _trimmed_means,
        "winsorized_mean": _winsorized_means,
        "iqr": _iqrs,
        "mad_scaled": _mads,
        "sn": _each(sn),
        "qn": _each(qn),
        "medcouple": _each(medcouple),
    }
)
"""The statistics that can be asked for, by their names in the description; quartiles of type 7, trimming a tenth."""

_OF_PAIRS = frozenset({"sn", "qn", "medcouple"})


def bootstrap_interval(
    sample: Sample,
    key: str,
    *,
    confidence: float = 0.95,
    repeats: int = 999,
    seed: int = SEED,
    progress: Progress = silent,
) -> BootstrapInterval:
    """Interval of the statistic ``key`` of ``sample`` from ``repeats`` resamples.

    Raises StatisticsError for an unknown statistic, a confidence outside 0 to 1 or fewer than one repeat, and whatever
    ``progress`` raises.
    """
    if key not in BOOTSTRAPPED:
        raise StatisticsError(f"There is no bootstrap of {key!r}; there are {', '.join(BOOTSTRAPPED)}.")
    if not 0 < confidence < 1:
        raise StatisticsError(f"A confidence level lies between 0 and 1, not at {confidence}.")
    check_repeats(repeats)
    x, n = sample.sorted, sample.n
    most = _MOST_OF_PAIRS if key in _OF_PAIRS else _MOST
    method = "BCa" if n <= most else "m out of n"

    def without(why: str) -> BootstrapInterval:
        return BootstrapInterval(key, None, None, None, method, repeats, seed, why)

    if n < 5:
        return without(f"A bootstrap needs at least 5 values; n is {n}.")
    if max(-float(x[0]), float(x[-1])) > _LARGEST:
        return without("The values are beyond what a number can hold.")
    run = BOOTSTRAPPED[key]
    with np.errstate(over="ignore", invalid="ignore"):
        estimate = float(run(x[None, :])[0])
        drawn = _resampled(x, min(n, most), run, repeats, seed, progress)
    drawn = np.sort(drawn[np.isfinite(drawn)])
    if not np.isfinite(estimate) or drawn.size < repeats / 2:
        return without("The statistic has no value in this sample or in most resamples of it.")
    tails = (1 - confidence) / 2, (1 + confidence) / 2
    if n <= most:
        low, high = (quantile(drawn, p) for p in _corrected(x, estimate, drawn, run, tails))
    else:
        centre, shrink = float(_medians(drawn[None, :])[0]), sqrt(most / n)
        low, high = (estimate + shrink * (quantile(drawn, p) - centre) for p in tails)
    note = "All resamples gave the same value: too many values are equal." if drawn[0] == drawn[-1] else None
    return BootstrapInterval(key, estimate, low, high, method, repeats, seed, note)


def _resampled(x: Floats, size: int, run: Rows, repeats: int, seed: int, progress: Progress) -> Floats:
    """The statistic of ``repeats`` samples of ``size`` values drawn from ``x`` with replacement."""
    draw = np.random.Generator(np.random.PCG64(seed))
    rows = max(1, min(_AT_A_TIME // size, 50))
    found = []
    for first in range(0, repeats, rows):
        progress(first / repeats, "resampling")
        places = draw.integers(0, x.size, (min(rows, repeats - first), size))
        places.sort(axis=1)
        found.append(run(x[places]))
    return np.concatenate(found)


def _corrected(x: Floats, estimate: float, drawn: Floats, run: Rows, tails: tuple[float, float]) -> tuple[float, float]:
    """The shares of the resampled statistics at which the interval ends, corrected for bias and acceleration."""
    m = drawn.size
    below = (np.searchsorted(drawn, estimate, "left") + np.searchsorted(drawn, estimate, "right")) / 2
    bias = float(ndtri(min(max(below, 0.5), m - 0.5) / m))
    acceleration = _acceleration(x, run)
    ends = []
    for tail in tails:
        z = bias + float(ndtri(tail))
        # Where the correction has no solution the plain end is the honest one.
        ends.append(float(ndtr(bias + z / (1 - acceleration * z))) if acceleration * z < 1 else tail)
    return min(ends), max(ends)


def _acceleration(x: Floats, run: Rows) -> float:
    n = x.size
    place = np.arange(n - 1)
    rows = max(1, _AT_A_TIME // n)
    found = []
    for first in range(0, n, rows):
        left_out = np.arange(first, min(first + rows, n))[:, None]
        found.append(run(x[place + (place >= left_out)]))
    values = np.concatenate(found)
    values = values[np.isfinite(values)]
    deviations = values.mean() - values if values.size else values
    largest = float(np.abs(deviations).max(initial=0.0))
    if not largest:
        return 0.0
    deviations = deviations / largest
    return float((deviations**3).sum() / (6 * (deviations**2).sum() ** 1.5))
