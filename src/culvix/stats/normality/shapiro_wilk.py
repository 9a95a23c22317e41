"""The Shapiro–Wilk test of normality.

Royston 1992 gives the approximate weights and Royston 1995 (Applied Statistics algorithm AS R94) the normalising
transformation of ln(1−W), for n from 3 to 5000. Beyond 5000 the same formulas are extrapolated and the
result says that it is approximate. W agrees with the published algorithm to about 1e-12, p to about 1e-10 of its value.
"""

from math import asin, exp, log, pi, sqrt

import numpy as np
from scipy.special import ndtr

from culvix.stats.arrays import Floats
from culvix.stats.normality.result import NormalityResult, too_few
from culvix.stats.qq import antisymmetric_product, sum_of_squares, upper_positions
from culvix.stats.sample import Sample
from culvix.stats.sums import plain_sum

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
    """Test ``sample`` for normality with estimated mean and SD; small W speaks against it."""
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


def weights(n: int) -> Floats:
    """Weights of the upper half of the order statistics, largest first; shape ``(n // 2,)``."""
    if n == 3:
        return np.array([sqrt(0.5)])
    m = upper_positions(n)
    total = 2 * plain_sum(m * m)
    root = 1 / sqrt(n)
    first = _polynomial(_LAST, root) + m[0] / sqrt(total)
    if n <= 5:
        factor = sqrt((total - 2 * m[0] ** 2) / (1 - 2 * first**2))
        fixed = [first]
    else:
        second = _polynomial(_NEXT_TO_LAST, root) + m[1] / sqrt(total)
        factor = sqrt((total - 2 * m[0] ** 2 - 2 * m[1] ** 2) / (1 - 2 * first**2 - 2 * second**2))
        fixed = [first, second]
    a = m / factor
    a[: len(fixed)] = fixed
    return np.asarray(a, dtype=np.float64)


def _statistic(sample: Sample) -> tuple[float, float]:
    """W and 1−W, the latter without cancellation."""
    upper, y = weights(sample.n), sample.standardised
    saa, syy = 2 * plain_sum(upper * upper), sum_of_squares(sample)
    say, root = antisymmetric_product(y, upper), sqrt(saa * syy)
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
