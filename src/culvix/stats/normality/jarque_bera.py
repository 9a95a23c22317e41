"""The adjusted Jarque–Bera test: skewness and kurtosis over their exact finite-sample variances.

Jarque & Bera 1980 with the adjustment of Urzúa 1996. The sum follows χ² with 2 degrees of freedom only slowly, so below
n = 2000 the result carries a caution.
"""

from math import exp

from culvix.stats.core.sample import Sample
from culvix.stats.normality.result import NormalityResult, too_few

__all__ = ["jarque_bera"]

_LARGE = 2000


def jarque_bera(sample: Sample) -> NormalityResult:
    """Test ``sample`` for normality by its third and fourth moments; a large statistic speaks against it.

    Adjusted for n; below n = 2000 the result carries a caution.

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
    Urzúa, C. M. 1996: On the correct use of omnibus tests for normality. Economics Letters 53, 247-251.
    """
    refused = too_few(sample, "jarque_bera", "AJB", 8)
    if refused:
        return refused
    centre, n = sample.moments, sample.n
    assert centre is not None and centre.g1 is not None and centre.g2 is not None
    skewness_variance = 6 * (n - 2) / ((n + 1) * (n + 3))
    kurtosis_variance = 24 * n * (n - 2) * (n - 3) / ((n + 1) ** 2 * (n + 3) * (n + 5))
    off = centre.g2 + 3 - 3 * (n - 1) / (n + 1)
    statistic = centre.g1**2 / skewness_variance + off * off / kurtosis_variance
    note = f"The χ² approximation is slow: below n = {_LARGE} p is rough; n is {n}." if n < _LARGE else None
    return NormalityResult("jarque_bera", "AJB", statistic, exp(-statistic / 2), n, note)
