"""Tukey's fences (Tukey 1977): Q1 − c·IQR to Q3 + c·IQR, with c = 1.5, and 3 for values "far out".

In a normal sample about 0.7 % of the values lie beyond the inner fences, so at large n a flag is expected.
"""

from math import isfinite

import numpy as np

from culvix.stats.outliers.result import OutlierResult, beyond, cannot_flag, check_limit, distances
from culvix.stats.quantiles import quantile
from culvix.stats.sample import Sample

__all__ = ["iqr_fences"]


def iqr_fences(sample: Sample, *, c: float = 1.5, quantile_type: int = 7) -> OutlierResult:
    """Flag values beyond the fences; the score is the distance from the nearer quartile in IQRs.

    Raises StatisticsError for a limit ≤ 0 or an unknown quantile type.
    """
    check_limit("c", c)
    n = sample.n
    settings: dict[str, float | int | str] = {"c": c, "quantile_type": quantile_type}
    if not n:
        return cannot_flag("iqr_fences", "IQRs", n, settings, "There are no values.")
    q1, q3 = quantile(sample.sorted, 0.25, quantile_type), quantile(sample.sorted, 0.75, quantile_type)
    iqr = q3 - q1
    if iqr == 0:
        why = "The IQR is 0: at least half of the values are equal, so the fences have no width."
        return cannot_flag("iqr_fences", "IQRs", n, settings, why)
    lower, upper = q1 - c * iqr, q3 + c * iqr
    if not (isfinite(lower) and isfinite(upper)):
        return cannot_flag("iqr_fences", "IQRs", n, settings, "The span is beyond what a number can hold.")
    values, rows = beyond(sample, lower, upper)
    below = values < lower
    scores = np.where(below, distances(values, q1, iqr), distances(values, q3, iqr))
    return OutlierResult("iqr_fences", lower, upper, rows, scores, "IQRs", n, settings)
