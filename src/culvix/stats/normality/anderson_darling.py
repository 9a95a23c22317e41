"""The Anderson–Darling test with mean and SD estimated, which weighs the tails.

Statistic and p value formulas as in Stephens 1986 (D'Agostino & Stephens 1986, table 4.9), after the correction
A*² = A²(1 + 0.75/n + 2.25/n²). p is good to about 0.002 between 0.01 and 0.2; below 1e-20 it is an order of magnitude.
"""

from math import exp, inf

from culvix.stats.core.sample import Sample
from culvix.stats.normality.falling import falling
from culvix.stats.normality.result import NormalityResult, too_few

__all__ = ["anderson_darling"]

_FARTHEST = 150.0
"""Beyond this the fitted parabola would turn upwards."""


_PIECES = (
    (0.2, lambda a: 1 - exp(-13.436 + 101.14 * a - 223.73 * a * a)),
    (0.34, lambda a: 1 - exp(-8.318 + 42.796 * a - 59.938 * a * a)),
    (0.6, lambda a: exp(0.9177 - 4.279 * a - 1.38 * a * a)),
    (inf, lambda a: exp(1.2937 - 5.709 * a + 0.0186 * a * a)),
)


def anderson_darling(sample: Sample) -> NormalityResult:
    """Test ``sample`` for normality with mean and SD estimated; a large A² speaks against it.

    For n from 8.

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
    D'Agostino, R. B. & Stephens, M. A. 1986: Goodness-of-Fit Techniques. New York, Dekker, table 4.9.
    """
    refused = too_few(sample, "anderson_darling", "A²", 8)
    if refused:
        return refused
    statistic, n = sample.edf.weighted, sample.n
    return NormalityResult("anderson_darling", "A²", statistic, _p_value(statistic, n), n)


def _p_value(statistic: float, n: int) -> float:
    a = min(statistic * (1 + 0.75 / n + 2.25 / n**2), _FARTHEST)
    return falling(a, _PIECES, 0.05)
