"""Grubbs' test for a single outlier (Grubbs 1969), two-sided: the largest |x − mean| / SD against its exact bound.

Made for one outlier: two of them widen the SD and hide each other (masking), which the note recalls.
"""

from math import sqrt

from scipy.special import stdtr, stdtrit

from culvix.stats.core.sample import Sample
from culvix.stats.outliers.result import OutlierResult, by_test, cannot_flag, check_level, extreme

__all__ = ["grubbs", "grubbs_bound"]


def grubbs_bound(n: int, alpha: float) -> float:
    """Critical value of the largest |z| of n values at level ``alpha``."""
    t = float(stdtrit(n - 2, 1 - alpha / (2 * n)))
    return (n - 1) / sqrt(n) * sqrt(t * t / (n - 2 + t * t))


def grubbs(sample: Sample, *, alpha: float = 0.05) -> OutlierResult:
    """Flag the value farthest from the mean where the test rejects; the score is its z.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    alpha
        The level of the test, between 0 and 1.

    Returns
    -------
    OutlierResult
        Span, flagged rows (from 0) in order of value with their scores, settings and n; a note where it cannot be
        applied. ``settings`` hold statistic, critical value and p.

    Raises
    ------
    StatisticsError
        For an α that does not lie between 0 and 1.

    References
    ----------
    Grubbs, F. E. 1969: Procedures for detecting outlying observations in samples. Technometrics 11, 1-21.
    """
    check_level("alpha", alpha)
    n, centre = sample.n, sample.moments
    if n < 3 or centre is None or not centre.sd:
        why = "Needs at least 3 values that are not all equal, with a spread a number can hold."
        return cannot_flag("grubbs", "z", n, {"alpha": alpha}, why)
    row, z = extreme(sample, centre.mean, centre.sd)
    g, bound = abs(z), grubbs_bound(n, alpha)
    room = (n - 1) ** 2 - n * g * g
    p = min(1.0, 2 * n * float(stdtr(n - 2, -sqrt(n * (n - 2) * g * g / room)))) if room > 0 else 0.0
    settings: dict[str, float | int | str] = {"alpha": alpha, "statistic": g, "critical": bound, "p": p}
    note = "A test for one outlier only: several may hide each other."
    if g <= bound:
        return by_test("grubbs", "z", n, settings, note)
    return by_test("grubbs", "z", n, settings, note, rows=[row], scores=[z])
