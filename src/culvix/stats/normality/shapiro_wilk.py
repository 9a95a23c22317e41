"""The Shapiro–Wilk test of normality.

Royston 1992 gives the approximate weights and Royston 1995 (Applied Statistics algorithm AS R94) the normalising
transformation of ln(1−W), for n from 3 to 5000. Beyond 5000 the same formulas are extrapolated and the
result says that it is approximate. W agrees with the published algorithm to about 1e-12, p to about 1e-10 of its value.
"""

from math import asin, exp, log, pi, sqrt

import numpy as np
from scipy.special import ndtr

from culvix.stats.core.arrays import Floats
from culvix.stats.core.moments import standardise
from culvix.stats.core.normal_scores import upper_scores
from culvix.stats.core.sample import Sample
from culvix.stats.normality.result import NormalityResult, too_few

__all__ = ["LARGEST_N", "shapiro_wilk", "weights"]

LARGEST_N = 5000

_LAST = (0.0, 0.221157, -0.147981, -2.07119, 4.434685, -2.706056)
_NEXT_TO_LAST = (0.0, 0.042981, -0.293762, -1.752461, 5.682633, -3.582633)
_SMALL_MEAN = (0.544, -0.39978, 0.025054, -6.714e-4)
_SMALL_SD = (1.3822, -0.77857, 0.062767, -0.0020322)
_LARGE_MEAN = (-1.5861, -0.31082, -0.083751, 0.0038915)
_LARGE_SD = (-0.4803, -0.082676, 0.0030302)
_SMALL_BOUND = (-2.273, 0.459)


def shapiro_wilk(sample: Sample) -> NormalityResult:
    """Test ``sample`` for normality with mean and SD estimated; a small W speaks against it.

    Valid for n from 3 to 5000; beyond, the result says that it is extrapolated.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.

    Returns
    -------
    NormalityResult
        Statistic, p and n; None with a note where there are too few values or they are all equal.

    References
    ----------
    Royston, P. 1995: Remark AS R94: A remark on algorithm AS 181: the W-test for normality. Applied Statistics 44,
    547-551.
    """
    refused = too_few(sample, "shapiro_wilk", "W", 3)
    if refused:
        return refused
    n = sample.n
    w, lack = _statistic(sample)
    p = _p_value(w, lack, n)
    note = None
    if n > LARGEST_N:
        note = f"The p value is approximate: its formula was fitted for n up to {LARGEST_N}, and n is {n}."
    return NormalityResult("shapiro_wilk", "W", w, p, n, note)


def _polynomial(coefficients: tuple[float, ...], x: float) -> float:
    return float(np.polynomial.polynomial.polyval(x, coefficients))


def weights(n: int, squares: float) -> tuple[Floats, float]:
    """Weights of the outermost order statistics, largest first, and the factor that divides the scores of the rest.

    ``squares`` is the sum of the squared normal scores of n ≥ 4 values.
    """
    m = upper_scores(np.array([1.0, 2.0]), n)
    root = 1 / sqrt(n)
    first = _polynomial(_LAST, root) + m[0] / sqrt(squares)
    if n <= 5:
        factor = sqrt((squares - 2 * m[0] ** 2) / (1 - 2 * first**2))
        return np.array([first]), factor
    second = _polynomial(_NEXT_TO_LAST, root) + m[1] / sqrt(squares)
    factor = sqrt((squares - 2 * m[0] ** 2 - 2 * m[1] ** 2) / (1 - 2 * first**2 - 2 * second**2))
    return np.array([first, second]), factor


def _statistic(sample: Sample) -> tuple[float, float]:
    """W and 1−W, the latter without cancellation."""
    n, sums = sample.n, sample.scores
    outer, factor = (np.array([sqrt(0.5)]), 1.0) if n == 3 else weights(n, sums.squares)
    scores = upper_scores(np.arange(1.0, outer.size + 1), n)
    x, (_, sd) = sample.sorted, sample.fit
    gaps = standardise(x[::-1][: outer.size], 0.0, sd) - standardise(x[: outer.size], 0.0, sd)
    # The weights of all but the outermost are their scores over the factor.
    rest_squares, rest = sums.squares - 2 * float(scores @ scores), sums.product - float(scores @ gaps)
    saa, say = 2 * float(outer @ outer), float(outer @ gaps)
    if n > 3:
        saa, say = saa + rest_squares / factor**2, say + rest / factor
    syy = sample.sum_of_squares
    root = sqrt(saa * syy)
    lack = min(max((root - say) * (root + say) / (saa * syy), 0.0), 1.0)
    return 1 - lack, lack


def _p_value(w: float, lack: float, n: int) -> float:
    if n == 3:
        p = 6 / pi * (asin(min(sqrt(w), 1.0)) - asin(sqrt(0.75)))
        return min(max(p, 0.0), 1.0)
    if lack <= 0:
        return 1.0
    y, log_n = log(lack), log(n)
    if n <= 11:
        bound = _polynomial(_SMALL_BOUND, n)
        if y >= bound:
            return 0.0
        y = -log(bound - y)
        mean, sd = _polynomial(_SMALL_MEAN, n), exp(_polynomial(_SMALL_SD, n))
    else:
        mean, sd = _polynomial(_LARGE_MEAN, log_n), exp(_polynomial(_LARGE_SD, log_n))
    return float(ndtr((mean - y) / sd))
