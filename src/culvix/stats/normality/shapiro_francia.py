"""The Shapiro–Francia test (Shapiro & Francia 1972): the squared correlation of the normal Q-Q points.

Royston 1993 gives the normalising transformation of ln(1−W′) for n from 5 to 5000. p agrees with simulation to about
0.002 around 0.05; beyond n = 5000 the formula is extrapolated and the result says so.
"""

from math import log

from scipy.special import ndtr

from culvix.stats.core.sample import Sample
from culvix.stats.normality.departure import lack_distribution
from culvix.stats.normality.result import NormalityResult, too_few
from culvix.stats.shape.qq import straightness

__all__ = ["shapiro_francia"]

_LARGEST_N = 5000


def shapiro_francia(sample: Sample) -> NormalityResult:
    """Test ``sample`` for normality with mean and SD estimated; a small W′ speaks against it.

    Valid for n from 5 to 5000; beyond, the result says that it is extrapolated.

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
    Royston, P. 1993: A toolkit for testing for non-normality in complete and censored samples. The Statistician 42,
    37-43.
    """
    refused = too_few(sample, "shapiro_francia", "W′", 5)
    if refused:
        return refused
    n = sample.n
    lack = max(straightness(sample)[1], 1e-300)
    mean, sd = lack_distribution(n)
    p = float(ndtr((mean - log(lack)) / sd))
    note = None
    if n > _LARGEST_N:
        note = f"The p value is approximate: its formula was fitted for n up to {_LARGEST_N}, and n is {n}."
    return NormalityResult("shapiro_francia", "W′", 1 - lack, p, n, note)
