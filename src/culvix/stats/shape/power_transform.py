"""Power transformations with their exponent found by maximum likelihood.

Box–Cox: Box & Cox 1964, with the profile-likelihood interval and the nearest plain power inside it. Yeo–Johnson: Yeo &
Johnson 2000.
"""

from collections.abc import Callable
from dataclasses import dataclass
from math import isfinite, log

import numpy as np
from scipy.special import chdtri

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample

__all__ = ["SEARCHED", "BoxCox", "box_cox", "fit_box_cox", "fit_yeo_johnson", "refuse_rows", "yeo_johnson"]

SEARCHED = 5.0
"""Powers are searched from −5 to 5."""

_PLAIN_POWERS = (-2.0, -1.0, -0.5, 0.0, 0.5, 1.0, 2.0)


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


def refuse_rows(name: str, domain: str, rows: Ints) -> None:
    """Raise StatisticsError naming ``rows`` (from 0) that lie outside a domain; nothing where there are none."""
    if rows.size:
        listed = ", ".join(str(row + 1) for row in rows[:5].tolist()) + (" and others" if rows.size > 5 else "")
        verb = "is not, in row" if rows.size == 1 else "are not, in rows"
        raise StatisticsError(f"{name} needs values {domain}; {rows.size} {verb} {listed}.")


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
