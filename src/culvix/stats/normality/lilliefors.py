"""The Lilliefors test: the Kolmogorov–Smirnov distance with mean and SD estimated (Lilliefors 1967).

p below 0.1 by Dallal & Wilkinson 1986; above, by the polynomials that Molin & Abdi 1998 fitted to Stephens' modified
statistic (√n − 0.01 + 0.85/√n)·D. Ordinary Kolmogorov–Smirnov tables would be wrong here and are not offered.
p is good to about 0.005 around 0.05 and 0.02 above 0.2.
"""

from functools import partial
from math import exp, inf, sqrt

from numpy.polynomial.polynomial import polyval

from culvix.stats.core.sample import Sample
from culvix.stats.normality.falling import falling
from culvix.stats.normality.result import NormalityResult, too_few

__all__ = ["lilliefors"]


def _polynomial(coefficients: tuple[float, ...], k: float) -> float:
    return min(max(float(polyval(k, coefficients)), _SURE), 1.0)


_SURE = 0.1
"""Up to this p the formula of Dallal & Wilkinson is good."""
_PIECES = (
    (0.302, lambda k: 1.0),
    (0.5, partial(_polynomial, (2.76773, -19.828315, 80.709644, -138.55152, 81.218052))),
    (inf, partial(_polynomial, (-4.901232, 40.662806, -97.490286, 94.029866, -32.355711))),
)


def lilliefors(sample: Sample) -> NormalityResult:
    """Test ``sample`` for normality with mean and SD estimated; a large distance D speaks against it.

    For n from 5.

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
    Dallal, G. E. & Wilkinson, L. 1986: An analytic approximation to the distribution of Lilliefors's test statistic for
    normality. The American Statistician 40, 294-296.
    """
    refused = too_few(sample, "lilliefors", "D", 5)
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
    return p if p <= _SURE else falling(k, _PIECES, 0.01)
