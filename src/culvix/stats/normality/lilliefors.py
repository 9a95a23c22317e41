"""The Lilliefors test: the Kolmogorov–Smirnov distance with mean and SD estimated (Lilliefors 1967).

p below 0.1 by Dallal & Wilkinson 1986; above, by the polynomials that Molin & Abdi 1998 fitted to Stephens' modified
statistic (√n − 0.01 + 0.85/√n)·D. Ordinary Kolmogorov–Smirnov tables would be wrong here and are not offered.
p is good to about 0.005 around 0.05 and 0.02 above 0.2.
"""

from math import exp, sqrt

import numpy as np

from culvix.stats.normality.result import NormalityResult, too_few
from culvix.stats.sample import Sample

__all__ = ["lilliefors"]

_PIECES = (
    (0.5, (2.76773, -19.828315, 80.709644, -138.55152, 81.218052)),
    (0.9, (-4.901232, 40.662806, -97.490286, 94.029866, -32.355711)),
    (1.31, (6.198765, -19.558097, 23.186922, -12.234627, 2.423045)),
)


def lilliefors(sample: Sample) -> NormalityResult:
    """Test ``sample`` for normality with estimated mean and SD; a large distance D speaks against it."""
    refused = too_few(sample, "lilliefors", "D", 4)
    if refused:
        return refused
    distance, n = sample.edf.largest, sample.n
    return NormalityResult("lilliefors", "D", distance, _p_value(distance, n), n)


def _modified(distance: float, n: int) -> float:
    return (sqrt(n) - 0.01 + 0.85 / sqrt(n)) * distance


def _p_value(distance: float, n: int) -> float:
    k = _modified(distance, n)
    # Beyond n = 100 the formula is taken at the distance of 100 values that has the same modified statistic.
    d, m = (distance, float(n)) if n <= 100 else (k / _modified(1.0, 100), 100.0)
    p = exp(
        -7.01256 * d * d * (m + 2.78019) + 2.99587 * d * sqrt(m + 2.78019) - 0.122119 + 0.974598 / sqrt(m) + 1.67997 / m
    )
    if p <= 0.1:
        return p
    if k <= 0.302:
        return 1.0
    for end, coefficients in _PIECES:
        if k <= end:
            return min(max(float(np.polynomial.polynomial.polyval(k, coefficients)), 0.1), 1.0)
    return min(p, 0.1)
