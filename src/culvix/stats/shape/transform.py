"""Transformations of a column, each with its inverse, its domain, and a judgement before and after.

Powers are found in `power_transform`. Rank-based inverse normal: Blom 1958 positions, ties sharing their mean rank.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
from scipy.special import ndtri

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.pair_sums import average_ranks
from culvix.stats.describe.description import MAD_TO_SD
from culvix.stats.shape.power_transform import (
    BoxCox,
    box_cox,
    fit_box_cox,
    fit_yeo_johnson,
    refuse_rows,
    yeo_johnson,
)
from culvix.stats.shape.qq import straightness

__all__ = [
    "SCALE_NAMES",
    "TRANSFORMS",
    "Judgement",
    "Scale",
    "Transform",
    "fitted_scale",
    "judge",
    "on_that_scale",
    "transform",
]


@dataclass(frozen=True)
class Transform:
    """A transformation: what it is called, the values it is defined for, how it runs and how it is undone.

    ``run`` maps the finite values of a sample; ``inverse`` is None where the ranks alone decide. ``obstacle`` says in a
    sentence why a sample cannot be transformed as a whole, or None.
    """

    key: str
    name: str
    domain: str
    accepts: Callable[[Floats], np.ndarray]
    run: Callable[[Sample, Floats], Floats]
    inverse: Callable[[Floats], Floats] | None = None
    obstacle: Callable[[Sample], str | None] = lambda _: None


@dataclass(frozen=True)
class Judgement:
    """Shape before or after a transformation; None where the values have no spread."""

    skewness: float | None
    qq_correlation: float | None
    n: int


def _all(x: Floats) -> np.ndarray:
    return np.ones(x.shape, dtype=bool)


def _no_spread(sample: Sample) -> str | None:
    centre = sample.moments
    spread = centre is not None and centre.sd
    return None if spread else "All values are equal, so they cannot be standardised."


def _standard(sample: Sample, x: Floats) -> Floats:
    centre = sample.moments
    assert centre is not None and centre.sd
    return (x - centre.mean) / centre.sd


def _no_mad(sample: Sample) -> str | None:
    return None if sample.mad > 0 else "The MAD is 0, so the values cannot be standardised by it."


def _robust(sample: Sample, x: Floats) -> Floats:
    return (x - sample.median) / (sample.mad * MAD_TO_SD)


def _normal_ranks(_: Sample, x: Floats) -> Floats:
    return np.asarray(ndtri((average_ranks(x) - 0.375) / (x.size + 0.25)))


def _table(*rows: Transform) -> Mapping[str, Transform]:
    return MappingProxyType({row.key: row for row in rows})


TRANSFORMS = _table(
    Transform("ln", "ln x", "above 0", lambda x: x > 0, lambda _, x: np.log(x), np.exp),
    Transform("log10", "log10 x", "above 0", lambda x: x > 0, lambda _, x: np.log10(x), lambda y: 10.0**y),
    Transform("ln1p", "ln(1 + x)", "above −1", lambda x: x > -1, lambda _, x: np.log1p(x), np.expm1),
    Transform("sqrt", "√x", "not below 0", lambda x: x >= 0, lambda _, x: np.sqrt(x), np.square),
    Transform("reciprocal", "1/x", "other than 0", lambda x: x != 0, lambda _, x: 1 / x, lambda y: 1 / y),
    Transform("square", "x²", "not below 0", lambda x: x >= 0, lambda _, x: np.square(x), np.sqrt),
    Transform("normal_ranks", "normal scores of the ranks", "any", _all, _normal_ranks),
    Transform("standard", "(x − mean) / SD", "any", _all, _standard, obstacle=_no_spread),
    Transform("robust_standard", "(x − median) / scaled MAD", "any", _all, _robust, obstacle=_no_mad),
)


def usual_transform(sample: Sample) -> str:
    """The scale to look at first: the logarithm that takes all values, or where some are negative Yeo–Johnson's."""
    lowest = float(sample.sorted[0]) if sample.n else 1.0
    return "ln" if lowest > 0 else "ln1p" if lowest >= 0 else "yeo_johnson"


def transform(sample: Sample, key: str, *, lenient: bool = False) -> Floats:
    """The values of a sample on another scale.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    key
        The scale, by its name in `TRANSFORMS`.
    lenient
        Whether a result beyond a double is NaN rather than an error, and all of them where values have no spread to be
        standardised by.

    Returns
    -------
    array
        Shape ``(rows,)``, NaN where values are missing or not finite.

    Raises
    ------
    StatisticsError
        For an unknown scale, values that have no place on it, naming their rows (from 1), and results beyond the range
        of a double.

    References
    ----------
    Box, G. E. P. & Cox, D. R. 1964: An analysis of transformations. Journal of the Royal Statistical Society B 26,
    211-252.
    """
    if key not in TRANSFORMS:
        raise StatisticsError(f"There is no transformation called {key!r}; there are {', '.join(TRANSFORMS)}.")
    chosen = TRANSFORMS[key]
    finite = np.flatnonzero(np.isfinite(sample.values))
    values = sample.values[finite]
    refuse_rows(chosen.name, chosen.domain, finite[~chosen.accepts(values)])
    out = np.full(sample.values.shape, np.nan)
    obstacle = chosen.obstacle(sample) if finite.size else None
    if obstacle is not None and not lenient:
        raise StatisticsError(obstacle)
    if finite.size and obstacle is None:
        with np.errstate(over="ignore"):
            out[finite] = chosen.run(sample, values)
    too_far = finite[~np.isfinite(out[finite])]
    if too_far.size and lenient:
        out[too_far] = np.nan
    elif too_far.size:
        raise StatisticsError(f"{chosen.name} of row {too_far[0] + 1} is larger than a number can hold.")
    return out


SCALE_NAMES: Mapping[str, str] = MappingProxyType(
    {
        **{key: row.name for key, row in TRANSFORMS.items()},
        "box_cox": "Box–Cox",
        "yeo_johnson": "Yeo–Johnson",
    }
)
"""Every transformation there is, the fitted powers among them."""


@dataclass(frozen=True)
class Scale:
    """A transformation that can be applied again: its key, and the power of the two that have one.

    ``divisor`` (above 0, in the unit of the values) is what values are divided by first.
    """

    key: str
    power: float | None = None
    divisor: float = 1.0

    @property
    def name(self) -> str:
        if self.power is None:
            return SCALE_NAMES[self.key]
        of = "" if self.divisor == 1 else f" of x/{self.divisor:.4g}"
        return f"{SCALE_NAMES[self.key]} with λ {self.power:.3g}{of}"


def fitted_scale(sample: Sample, key: str) -> tuple[Scale, BoxCox | None]:
    """The scale called ``key``, its power fitted to ``sample`` where it has one. Raises StatisticsError as the fits."""
    if key not in SCALE_NAMES:
        raise StatisticsError(f"There is no transformation called {key!r}; there are {', '.join(SCALE_NAMES)}.")
    if key in TRANSFORMS:
        return Scale(key), None
    fit = fit_box_cox(sample) if key == "box_cox" else fit_yeo_johnson(sample)
    return Scale(key, fit.power, fit.divisor), fit


def on_that_scale(sample: Sample, scale: Scale, *, lenient: bool = False) -> Floats:
    """``sample``'s values on ``scale``, shape ``(rows,)``, NaN where they are missing or not finite.

    Values outside its domain, and results beyond the range of a double, become NaN where ``lenient``; otherwise
    StatisticsError names their rows (from 1).
    """
    values = sample.values
    inside = np.isfinite(values)
    if scale.key in TRANSFORMS:
        inside[inside] = TRANSFORMS[scale.key].accepts(values[inside])
        inside_domain = sample if not lenient or inside.all() else Sample(np.where(inside, values, np.nan))
        return transform(inside_domain, scale.key, lenient=lenient)
    if scale.key == "box_cox":
        inside &= values > 0
        if not lenient:
            refuse_rows("Box–Cox", "above 0", np.flatnonzero(np.isfinite(values) & ~inside))
    power = 1.0 if scale.power is None else scale.power
    out = np.full(values.shape, np.nan)
    with np.errstate(over="ignore"):
        out[inside] = (box_cox if scale.key == "box_cox" else yeo_johnson)(values[inside] / scale.divisor, power)
    too_far = np.flatnonzero(inside & ~np.isfinite(out))
    if too_far.size and not lenient:
        raise StatisticsError(f"{scale.name} of row {too_far[0] + 1} is larger than a number can hold.")
    out[too_far] = np.nan
    return out


def judge(sample: Sample) -> Judgement:
    """The shape of a sample, to be set beside that of its transformed values.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.

    Returns
    -------
    Judgement
        Skewness G1 and the correlation of the Q-Q points; None where there is none.

    References
    ----------
    Joanes, D. N. & Gill, C. A. 1998: Comparing measures of sample skewness and kurtosis. The Statistician 47, 183-189.
    """
    centre = sample.moments
    if centre is None or sample.n < 3 or not centre.sd:
        return Judgement(None, None, sample.n)
    return Judgement(centre.skewness, straightness(sample)[0], sample.n)
