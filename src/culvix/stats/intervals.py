"""Confidence intervals of the mean, the median and the standard deviation."""

from math import isfinite, sqrt

from scipy.special import bdtr, bdtrik, chdtri, stdtrit

from culvix.stats.sample import Sample

__all__ = ["Interval", "mean_interval", "median_interval", "sd_interval"]

Interval = tuple[float, float]


def mean_interval(mean: float, sd: float, n: int, confidence: float) -> Interval | None:
    """Student's t interval of the mean (Student 1908); None below n = 2 or beyond a double's range."""
    if n < 2:
        return None
    reach = float(stdtrit(n - 1, (1 + confidence) / 2)) * sd / sqrt(n)
    bounds = mean - reach, mean + reach
    return bounds if isfinite(bounds[0]) and isfinite(bounds[1]) else None


def sd_interval(sd: float, n: int, confidence: float) -> Interval | None:
    """Chi-square interval of the standard deviation, which leans on normality; None below n = 2."""
    if n < 2:
        return None
    tail = (1 - confidence) / 2
    low = sd * sqrt((n - 1) / float(chdtri(n - 1, tail)))
    high = sd * sqrt((n - 1) / float(chdtri(n - 1, 1 - tail)))
    return (low, high) if isfinite(high) else None


def median_interval(sample: Sample, confidence: float) -> Interval | None:
    """Interval of the median between two order statistics, with at least the asked confidence.

    Exact for any continuous distribution (Thompson 1936): the k-th smallest and k-th largest value, k being
    the largest with P(Binomial(n, ½) < k) ≤ (1−confidence)/2. None where n is too small for any k ≥ 1.
    """
    n = sample.n
    tail = (1 - confidence) / 2
    if not n or 0.5**n > tail:
        return None
    k = int(bdtrik(tail, n, 0.5)) + 1
    while k > 1 and bdtr(k - 1, n, 0.5) > tail:
        k -= 1
    while bdtr(k, n, 0.5) <= tail:
        k += 1
    return float(sample.sorted[k - 1]), float(sample.sorted[n - k])
