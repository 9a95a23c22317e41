"""Fences adjusted for skewness (Hubert & Vandervieren 2008): Tukey's, stretched on the long side by the medcouple.

Q1 − c·exp(−4·MC)·IQR to Q3 + c·exp(3·MC)·IQR for MC ≥ 0; the exponents change places for MC < 0.
"""

from math import exp

from culvix.stats.core.sample import Sample
from culvix.stats.describe.medcouple import medcouple
from culvix.stats.outliers.iqr_fences import beyond_fences
from culvix.stats.outliers.result import OutlierResult, cannot_flag, check_limit

__all__ = ["adjusted_fences"]


def adjusted_fences(sample: Sample, *, c: float = 1.5, quantile_type: int = 7) -> OutlierResult:
    """Flag values beyond fences stretched on the long side; the score is the distance from the nearer quartile.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    c
        The distance of the fences from the quartiles of a symmetric column, in IQRs.
    quantile_type
        The definition of the quartiles, 1 to 9.

    Returns
    -------
    OutlierResult
        Span, flagged rows (from 0) in order of value with their scores, settings and n; a note where it cannot be
        applied.

    Raises
    ------
    StatisticsError
        For a limit that is not above 0, and an unknown definition.

    References
    ----------
    Hubert, M. & Vandervieren, E. 2008: An adjusted boxplot for skewed distributions. Computational Statistics & Data
    Analysis 52, 5186-5201.
    """
    check_limit("c", c)
    skew = medcouple(sample)
    settings: dict[str, float | int | str] = {"c": c, "quantile_type": quantile_type}
    if skew is None:
        why = "The medcouple needs three values that are not all equal."
        return cannot_flag("adjusted_fences", "IQRs", sample.n, settings, why)
    low, high = (-4 * skew, 3 * skew) if skew >= 0 else (-3 * skew, 4 * skew)
    return beyond_fences("adjusted_fences", sample, (c * exp(low), c * exp(high)), quantile_type, settings)
