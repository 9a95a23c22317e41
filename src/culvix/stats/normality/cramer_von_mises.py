"""The Cramér–von Mises test with mean and SD estimated: the mean squared gap between data and normal.

Statistic and p value formulas as in Stephens 1986, after the correction W*² = W²(1 + 0.5/n). p is good to about 0.002
between 0.01 and 0.2. The formulas end at W*² = 1.1; what lies beyond is reported as at most 7.4e-10.
"""

from math import exp, inf

from culvix.stats.core.sample import Sample
from culvix.stats.normality.falling import falling
from culvix.stats.normality.result import NormalityResult, too_few

__all__ = ["cramer_von_mises"]

_END = 1.1


_PIECES = (
    (0.0275, lambda w: 1 - exp(-13.953 + 775.5 * w - 12542.61 * w * w)),
    (0.051, lambda w: 1 - exp(-5.903 + 179.546 * w - 1515.29 * w * w)),
    (0.092, lambda w: exp(0.886 - 31.62 * w + 10.897 * w * w)),
    (inf, lambda w: exp(1.111 - 34.242 * w + 12.832 * w * w)),
)


def cramer_von_mises(sample: Sample) -> NormalityResult:
    """Test ``sample`` for normality with mean and SD estimated; a large W² speaks against it.

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
    refused = too_few(sample, "cramer_von_mises", "W²", 8)
    if refused:
        return refused
    statistic, n = sample.edf.squared, sample.n
    corrected = statistic * (1 + 0.5 / n)
    note = "The p value is an upper bound: the formula ends here." if corrected > _END else None
    return NormalityResult("cramer_von_mises", "W²", statistic, falling(min(corrected, _END), _PIECES, 0.002), n, note)
