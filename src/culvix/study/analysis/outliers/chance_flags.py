"""How many values of a normal column a method flags by chance alone, at its limits and at the column's n.

Up to n = 2000 that is counted in seeded normal samples of about that n, for the usual methods in all of them at once.
Beyond, spans lie where they do for the normal itself; tests hold their level, as at n = 2000.
"""

from collections.abc import Callable, Mapping
from functools import lru_cache
from types import MappingProxyType

import numpy as np
from scipy.special import ndtr, ndtri

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.display import number
from culvix.stats.registry import OUTLIER_METHODS
from culvix.stats.resampling.simulation import SEED
from culvix.study.analysis.outliers.flags import run_method
from culvix.study.document.choices.settings import Settings

__all__ = ["QUICKLY_COUNTED", "chance_flags", "few_digits"]

_LONG = 2000
_QUANTILES = 40_001
_VALUES, _SLOW_VALUES = 150_000, 30_000
"""Simulated values of one method, and of one that is slow; no more samples are made than `_MOST`."""
_AT_ONCE, _MOST_AT_ONCE = 200_000, 4000
"""Simulated values of a method that sees all samples at once, and how many samples these make at the most."""
_MOST, _TESTED = 1000, 400
"""A test flags in few samples at all: so many are made at the least."""


_Limits = tuple[float, float]
_Ends = Callable[[Floats, _Limits, int], tuple[Floats, Floats]]
"""Both ends of a method's span in each of many ascending samples (rows), with its limits and the type of quartiles."""

_QUANTILE_NAMES = (
    "inverted_cdf",
    "averaged_inverted_cdf",
    "closest_observation",
    "interpolated_inverted_cdf",
    "hazen",
    "weibull",
    "linear",
    "median_unbiased",
    "normal_unbiased",
)


def _z_ends(x: Floats, limits: _Limits, _: int) -> tuple[Floats, Floats]:
    mean, sd = x.mean(axis=1), x.std(axis=1, ddof=1)
    return mean - limits[0] * sd, mean + limits[1] * sd


def _fences(x: Floats, limits: _Limits, quantile_type: int) -> tuple[Floats, Floats]:
    name = _QUANTILE_NAMES[(quantile_type or 7) - 1]
    q1, q3 = np.quantile(x, (0.25, 0.75), axis=1, method=name)  # type: ignore[call-overload]
    return q1 - limits[0] * (q3 - q1), q3 + limits[1] * (q3 - q1)


def _mad_ends(factor: float) -> _Ends:
    def ends(x: Floats, limits: _Limits, _: int) -> tuple[Floats, Floats]:
        middle = np.median(x, axis=1)
        mad = factor * np.median(np.abs(x - middle[:, None]), axis=1)
        return middle - limits[0] * mad, middle + limits[1] * mad

    return ends


_ENDS: Mapping[str, _Ends] = MappingProxyType(
    {"z_score": _z_ends, "iqr_fences": _fences, "modified_z": _mad_ends(1 / 0.6745), "hampel": _mad_ends(1.4826)}
)
"""The methods whose spans are quickly found in many samples at once."""

QUICKLY_COUNTED = frozenset(_ENDS)
"""The methods for which counting takes about a tenth of a second."""


def chance_flags(
    key: str, n: int, settings: Settings, *, column: str = "", progress: Progress = silent
) -> float | None:
    """How many of ``n`` normal values the method ``key`` flags on average, with the limits it has for ``column``.

    None for a method that does not speak of chance, and where it cannot be applied to so few. Raises whatever
    ``progress`` raises.
    """
    method = OUTLIER_METHODS[key]
    if method.follows_range or n < 3:
        return None
    progress(0.0, "counting what chance alone flags")
    asked = key, settings.limits_of(column, key), settings.quantile_type if method.follows_quantiles else 0
    if n > _LONG and method.anchor is not None:
        return n * _share(*asked)
    near = _near(min(n, _LONG))
    flagged = _flagged(*asked, near)
    return flagged if flagged is None or method.anchor is None else flagged * n / near


def _near(n: int) -> int:
    """``n``, or above 30 a number near it by 3 %: what is counted for one column then serves many."""
    if n <= 30:
        return n
    step = 10 ** (len(str(n)) - 2) // 2 or 1
    return round(n / step) * step


def _settings(key: str, limits: tuple[float, float] | None, quantile_type: int) -> Settings:
    plain = Settings() if not quantile_type else Settings(quantile_type=quantile_type)
    return plain if limits is None else plain.with_own_limits("", key, limits)


@lru_cache(maxsize=4096)
def _flagged(key: str, limits: tuple[float, float] | None, quantile_type: int, n: int) -> float | None:
    """The mean number flagged in normal samples of ``n`` values; None where the method cannot be applied."""
    settings, draw = _settings(key, limits, quantile_type), np.random.Generator(np.random.PCG64((SEED, n)))
    method = OUTLIER_METHODS[key]
    if key in _ENDS and limits is not None:
        x = np.sort(draw.standard_normal((min(max(_AT_ONCE // n, 100), _MOST_AT_ONCE), n)))
        low, high = _ENDS[key](x, limits, quantile_type)
        return float(((x < low[:, None]) | (x > high[:, None])).sum(axis=1).mean())
    many = min((_SLOW_VALUES if method.deferred else _VALUES) // n, _MOST)
    many = max(many, _TESTED if method.anchor is None else 1)
    flagged = 0
    for _ in range(many):
        found = run_method(key, Sample(draw.standard_normal(n)), settings)
        if not found.applies:
            return None
        flagged += found.rows.size
    return flagged / many


@lru_cache(maxsize=1024)
def _share(key: str, limits: tuple[float, float] | None, quantile_type: int) -> float:
    """The share of a normal beyond a method's span."""
    quantiles = Sample(ndtri((np.arange(_QUANTILES) + 0.5) / _QUANTILES))
    found = run_method(key, quantiles, _settings(key, limits, quantile_type))
    return sum(float(ndtr(sign * end)) for sign, end in ((1, found.lower), (-1, found.upper)) if end is not None)


def few_digits(value: float) -> str:
    """An average count, in as many digits as say something."""
    return "below 0.01" if value < 0.01 else number(value, 2 if value < 0.1 else 1 if value < 10 else 0)
