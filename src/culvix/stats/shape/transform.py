"""Transformations of a column, each with its inverse, its domain, and a judgement before and after.

Box–Cox: Box & Cox 1964, λ by maximum likelihood, with the profile-likelihood interval and the nearest plain
power inside it. Yeo–Johnson: Yeo & Johnson 2000. Rank-based inverse normal: Blom 1958 positions, ties sharing their
mean rank.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import isfinite, log
from types import MappingProxyType

import numpy as np
from scipy.special import chdtri, ndtri

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.pearson import average_ranks
from culvix.stats.describe.description import MAD_TO_SD
from culvix.stats.shape.qq import straightness

__all__ = [
    "SCALE_NAMES",
    "SEARCHED",
    "TRANSFORMS",
    "BoxCox",
    "Judgement",
    "Scale",
    "Transform",
    "box_cox",
    "fit_box_cox",
    "fit_yeo_johnson",
    "fitted_scale",
    "judge",
    "on_that_scale",
    "transform",
    "yeo_johnson",
]

SEARCHED = 5.0
"""Powers are searched from −5 to 5."""

_PLAIN_POWERS = (-2.0, -1.0, -0.5, 0.0, 0.5, 1.0, 2.0)


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


@dataclass(frozen=True)
class BoxCox:
    """Fitted power λ, its interval at the asked confidence, and a plain power within it: 1 where it is there.

    An end of ``interval`` is None where the search ended before it; ``plain`` is otherwise the nearest one, None where
    none lies within. The power is that of the values over ``divisor`` (in their unit).
    """

    power: float
    interval: tuple[float | None, float | None]
    plain: float | None
    n: int
    divisor: float = 1.0
    note: str | None = None
    """What to beware of, where the search ended before a best power was found."""


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
        kept = sample if not lenient or inside.all() else Sample(np.where(inside, values, np.nan))
        return transform(kept, scale.key, lenient=lenient)
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


def refuse_rows(name: str, domain: str, rows: Ints) -> None:
    """Raise StatisticsError naming ``rows`` (from 0) that lie outside a domain; nothing where there are none."""
    if rows.size:
        listed = ", ".join(str(row + 1) for row in rows[:5].tolist()) + (" …" if rows.size > 5 else "")
        raise StatisticsError(f"{name} needs values {domain}; {rows.size} are not, in row {listed}.")


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


def box_cox(x: Floats, power: float) -> Floats:
    """(x^λ − 1)/λ, or ln x for λ = 0, without cancellation near 0.

    Parameters
    ----------
    x
        Positive values, of any shape.
    power
        λ.

    Returns
    -------
    array
        Of the shape of ``x``.

    References
    ----------
    Box, G. E. P. & Cox, D. R. 1964: An analysis of transformations. Journal of the Royal Statistical Society B 26,
    211-252.
    """
    logs = np.log(x)
    return np.asarray(logs if power == 0 else np.expm1(power * logs) / power)


def yeo_johnson(x: Floats, power: float) -> Floats:
    """Box–Cox of 1 + x with λ where x ≥ 0, and mirrored with 2 − λ of 1 − x where it is below.

    Parameters
    ----------
    x
        Values of any shape.
    power
        λ.

    Returns
    -------
    array
        Of the shape of ``x``.

    References
    ----------
    Yeo, I.-K. & Johnson, R. A. 2000: A new family of power transformations to improve normality or symmetry. Biometrika
    87, 954-959.
    """
    up, down = np.log1p(np.maximum(x, 0)), np.log1p(np.maximum(-x, 0))
    high = up if power == 0 else np.expm1(power * up) / power
    low = -down if power == 2 else -np.expm1((2 - power) * down) / (2 - power)
    return np.where(x >= 0, high, low)


def _likelihood(y: Floats, power: float, logs: float) -> float:
    variance = float(np.var(y))
    if not (isfinite(variance) and variance > 0):
        return -float("inf")
    return -y.size / 2 * log(variance) + (power - 1) * logs


def _highest(f: Callable[[float], float], low: float, high: float) -> float:
    """Where ``f`` with one peak is highest, by golden sections."""
    golden = 0.6180339887498949
    a, b = high - golden * (high - low), low + golden * (high - low)
    fa, fb = f(a), f(b)
    for _ in range(80):
        if fa >= fb:
            high, b, fb = b, a, fa
            a = high - golden * (high - low)
            fa = f(a)
        else:
            low, a, fa = a, b, fb
            b = low + golden * (high - low)
            fb = f(b)
    return (low + high) / 2


def _crossing(f: Callable[[float], float], inside: float, outside: float) -> float:
    """Where ``f`` changes sign between a point where it is positive and one where it is not, by bisection."""
    for _ in range(60):
        middle = (inside + outside) / 2
        inside, outside = (middle, outside) if f(middle) > 0 else (inside, middle)
    return inside


def _fit(f: Callable[[float], float], n: int, confidence: float, divisor: float = 1.0) -> BoxCox:
    best = _highest(f, -SEARCHED, SEARCHED)
    note = None
    if SEARCHED - abs(best) < 1e-6:
        best = SEARCHED if best > 0 else -SEARCHED
        end = f"{best:g}".replace("-", "−")
        note = f"The search ends at λ {end}, where a power still more extreme would fit better."
    floor = f(best) - float(chdtri(1, 1 - confidence)) / 2
    low, high = (
        None if f(end) > floor else _crossing(lambda power: f(power) - floor, best, end)
        for end in (-SEARCHED, SEARCHED)
    )
    inside = [p for p in _PLAIN_POWERS if (low is None or low <= p) and (high is None or p <= high)]
    # Values that are as good as they stand need no power.
    plain = 1.0 if 1.0 in inside else min(inside, key=lambda power: abs(power - best), default=None)
    return BoxCox(best, (low, high), plain, n, divisor, note)


def fit_box_cox(sample: Sample, confidence: float = 0.95) -> BoxCox:
    """Fit the power λ of Box and Cox by maximum likelihood.

    Parameters
    ----------
    sample
        The values, all above 0, in any unit.
    confidence
        How often, as a share and nearly so, the interval of λ holds.

    Returns
    -------
    BoxCox
        λ, its interval, open at an end where the search ended first, and the nearest plain power in it.

    Raises
    ------
    StatisticsError
        Below n = 3, without a spread, or naming the rows that are not above 0.

    References
    ----------
    Box, G. E. P. & Cox, D. R. 1964: An analysis of transformations. Journal of the Royal Statistical Society B 26,
    211-252.
    """
    rows = np.flatnonzero(np.isfinite(sample.values) & (sample.values <= 0))
    refuse_rows("Box–Cox", "above 0", rows)
    x = sample.sorted
    if x.size < 3 or x[0] == x[-1]:
        raise StatisticsError("Box–Cox needs at least three values that are not all equal.")
    # Over their geometric mean, so that no power overflows; λ does not depend on the unit.
    x = np.exp(np.log(x) - float(np.log(x).mean()))
    with np.errstate(over="ignore", invalid="ignore"):
        return _fit(lambda power: _likelihood(box_cox(x, power), power, 0.0), x.size, confidence)


def fit_yeo_johnson(sample: Sample, confidence: float = 0.95) -> BoxCox:
    """Fit the power λ of Yeo and Johnson to the values over their SD, so that it does not hang on their unit.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    confidence
        How often, as a share and nearly so, the interval of λ holds.

    Returns
    -------
    BoxCox
        λ, its interval, open at an end where the search ended first, and what the values were divided by.

    Raises
    ------
    StatisticsError
        Below n = 3 and without a spread.

    References
    ----------
    Yeo, I.-K. & Johnson, R. A. 2000: A new family of power transformations to improve normality or symmetry. Biometrika
    87, 954-959.
    """
    x, centre = sample.sorted, sample.moments
    if x.size < 3 or centre is None or not centre.sd:
        raise StatisticsError("Yeo–Johnson needs at least three values that are not all equal.")
    x = x / centre.sd
    logs = float((np.sign(x) * np.log1p(np.abs(x))).sum())
    with np.errstate(over="ignore", invalid="ignore"):
        return _fit(lambda power: _likelihood(yeo_johnson(x, power), power, logs), x.size, confidence, centre.sd)
