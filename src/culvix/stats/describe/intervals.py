"""Confidence intervals of the mean, any quantile and the standard deviation."""

from math import exp, isfinite, log, sqrt

from scipy.special import bdtr, bdtrik, chdtri, ndtri, stdtrit

from culvix.errors import StatisticsError
from culvix.stats.core.moments import Moments
from culvix.stats.core.sample import Sample
from culvix.stats.describe.trimmed_mean import trimmed_mean

__all__ = ["Interval", "OpenInterval", "bonett_interval", "mean_interval", "median_interval", "quantile_interval"]
__all__ += ["sd_interval"]

Interval = tuple[float, float]
OpenInterval = tuple[float | None, float | None]
"""An end that is None is open: no value of the sample bounds it with the asked confidence."""


def mean_interval(mean: float, sd: float, n: int, confidence: float) -> Interval | None:
    """Student's t interval of the mean.

    Parameters
    ----------
    mean, sd
        Mean and SD (n−1) of the sample, in its unit.
    n
        How many values it has.
    confidence
        How often, as a share, such an interval holds what it is for.

    Returns
    -------
    (float, float) or None
        Both ends, in the same unit; None below n = 2 and beyond a double's range.

    References
    ----------
    Student 1908: The probable error of a mean. Biometrika 6, 1-25.
    """
    if n < 2:
        return None
    reach = float(stdtrit(n - 1, (1 + confidence) / 2)) * sd / sqrt(n)
    bounds = mean - reach, mean + reach
    return bounds if isfinite(bounds[0]) and isfinite(bounds[1]) else None


def sd_interval(sd: float, n: int, confidence: float) -> Interval | None:
    """Chi-square interval of the standard deviation, which leans on normality.

    Parameters
    ----------
    sd
        SD (n−1) of the sample, in its unit.
    n
        How many values it has.
    confidence
        How often, as a share, such an interval holds what it is for.

    Returns
    -------
    (float, float) or None
        Both ends, in the same unit; None below n = 2.

    References
    ----------
    Fisher, R. A. 1925: Statistical Methods for Research Workers. Edinburgh, Oliver & Boyd.
    """
    if n < 2:
        return None
    tail = (1 - confidence) / 2
    low = sd * sqrt((n - 1) / float(chdtri(n - 1, tail)))
    high = sd * sqrt((n - 1) / float(chdtri(n - 1, 1 - tail)))
    return (low, high) if isfinite(high) else None


def bonett_interval(sample: Sample, confidence: float) -> Interval | None:
    """Interval of the standard deviation that does not rest on normality.

    Parameters
    ----------
    sample
        The values.
    confidence
        How often, as a share and nearly so, the interval holds the SD.

    Returns
    -------
    (float, float) or None
        Both ends, in the values' unit; None below n = 5, where all values are equal and beyond a double's range.

    References
    ----------
    Bonett, D. G. 2006: Approximate confidence interval for standard deviation of nonnormal distributions. Computational
    Statistics & Data Analysis 50, 775-782.
    """
    n, centre = sample.n, sample.moments
    z = float(ndtri((1 + confidence) / 2))
    if n < 5 or n <= z or centre is None or not centre.sd:
        return None
    # Half of the values cut from each end leave the one in the middle.
    cut = min(int(n / (2 * sqrt(n - 4))), (n - 1) // 2)
    kurtosis = _kurtosis_about(centre, trimmed_mean(sample, cut))
    if kurtosis is None:
        return None
    factor = n / (n - z)
    reach = z * factor * sqrt(max(kurtosis - (n - 3) / n, 0.0) / (n - 1))
    middle = log(factor) / 2
    ends = centre.sd * exp(middle - reach / 2), centre.sd * exp(min(middle + reach / 2, 700.0))
    return ends if isfinite(ends[1]) else None


def _kurtosis_about(centre: Moments, position: float) -> float | None:
    """Mean fourth power of the distances from ``position`` over the squared variance."""
    if centre.g1 is None or centre.g2 is None or not centre.sd:
        return None
    shift = (centre.mean - position) / (centre.sd * sqrt((centre.n - 1) / centre.n))
    return centre.g2 + 3 + shift * (4 * centre.g1 + shift * (6 + shift * shift))


def median_interval(sample: Sample, confidence: float) -> Interval | None:
    """Interval of the median between two order statistics, exact for any continuous distribution.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    confidence
        At least so often, as a share, the interval holds the median.

    Returns
    -------
    (float, float) or None
        Both ends, in the values' unit; None where n is too small for any.

    Raises
    ------
    StatisticsError
        For a confidence that does not lie between 0 and 1.

    References
    ----------
    Thompson, W. R. 1936: On confidence ranges for the median and other expectation distributions for populations of
    unknown distribution form. Annals of Mathematical Statistics 7, 122-128.
    """
    low, high = quantile_interval(sample, 0.5, confidence)
    return None if low is None or high is None else (low, high)


def quantile_interval(sample: Sample, p: float, confidence: float) -> OpenInterval:
    """Interval of the quantile at ``p`` between two order statistics, exact for any continuous distribution.

    Parameters
    ----------
    sample
        The values.
    p
        The share of the distribution below the quantile, between 0 and 1.
    confidence
        At least so often, as a share, the interval holds the quantile; it is missed as rarely on either side.

    Returns
    -------
    (float or None, float or None)
        The ends, in the values' unit: the k-th smallest value with the largest k for which P(B < k) ≤ (1−confidence)/2,
        B binomial with n and ``p``, and likewise from above. An end that no value bounds is None.

    Raises
    ------
    StatisticsError
        For a share or a confidence that does not lie between 0 and 1.

    References
    ----------
    Thompson, W. R. 1936: On confidence ranges for the median and other expectation distributions for populations of
    unknown distribution form. Annals of Mathematical Statistics 7, 122-128.
    """
    for name, share in (("quantile", p), ("confidence level", confidence)):
        if not 0 < share < 1:
            raise StatisticsError(f"A {name} lies between 0 and 1, not at {share}.")
    n, tail = sample.n, (1 - confidence) / 2
    low, high = _positions_below(n, p, tail), _positions_below(n, 1 - p, tail)
    return (
        float(sample.sorted[low - 1]) if low else None,
        float(sample.sorted[n - high]) if high else None,
    )


def _positions_below(n: int, p: float, tail: float) -> int:
    """The largest k with P(Binomial(``n``, ``p``) < k) ≤ ``tail``; 0 where there is none."""
    if not n or (1 - p) ** n > tail:
        return 0
    k = max(int(bdtrik(tail, n, p)) + 1, 1)
    while k > 1 and bdtr(k - 1, n, p) > tail:
        k -= 1
    while k < n and bdtr(k, n, p) <= tail:
        k += 1
    return k
