"""Fences adjusted for skewness (Hubert & Vandervieren 2008): Tukey's, stretched on the long side by the medcouple.

Q1 − c·exp(−4·MC)·IQR to Q3 + c·exp(3·MC)·IQR for MC ≥ 0; the exponents change places for MC < 0.
"""

from math import exp

from culvix.stats.medcouple import medcouple
from culvix.stats.outliers.iqr_fences import beyond_fences
from culvix.stats.outliers.result import OutlierResult, cannot_flag, check_limit
from culvix.stats.sample import Sample

__all__ = ["adjusted_fences"]


def adjusted_fences(sample: Sample, *, c: float = 1.5, quantile_type: int = 7) -> OutlierResult:
    """Flag values beyond the adjusted fences; the score is the distance from the nearer quartile in IQRs.

    Raises StatisticsError for a limit ≤ 0 or an unknown quantile type.
    """
    check_limit("c", c)
    skew = medcouple(sample)
    settings: dict[str, float | int | str] = {"c": c, "quantile_type": quantile_type}
    if skew is None:
        why = "The medcouple needs three values that are not all equal."
        return cannot_flag("adjusted_fences", "IQRs", sample.n, settings, why)
    low, high = (-4 * skew, 3 * skew) if skew >= 0 else (-3 * skew, 4 * skew)
    return beyond_fences("adjusted_fences", sample, (c * exp(low), c * exp(high)), quantile_type, settings)
