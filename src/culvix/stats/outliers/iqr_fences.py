"""Tukey's fences (Tukey 1977): Q1 − c·IQR to Q3 + c·IQR, with c = 1.5, and 3 for values "far out".

In a normal sample about 0.7 % of the values lie beyond the inner fences, so at large n a flag is expected.
"""

from math import isfinite

import numpy as np

from culvix.stats.core.quantiles import quantile
from culvix.stats.core.sample import Sample
from culvix.stats.outliers.result import OutlierResult, beyond, cannot_flag, check_limit, distances

__all__ = ["beyond_fences", "iqr_fences"]


def iqr_fences(sample: Sample, *, c: float = 1.5, quantile_type: int = 7) -> OutlierResult:
    """Flag values beyond the fences; the score is the distance from the nearer quartile in IQRs.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    c
        The distance of the fences from the quartiles, in IQRs.
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
    Tukey, J. W. 1977: Exploratory Data Analysis. Reading, Addison-Wesley.
    """
    check_limit("c", c)
    return beyond_fences("iqr_fences", sample, (c, c), quantile_type, {"c": c, "quantile_type": quantile_type})


def beyond_fences(
    method: str,
    sample: Sample,
    reach: tuple[float, float],
    quantile_type: int,
    settings: dict[str, float | int | str],
) -> OutlierResult:
    """Flag values beyond Q1 − reach[0]·IQR and Q3 + reach[1]·IQR."""
    n = sample.n
    if not n:
        return cannot_flag(method, "IQRs", n, settings, "There are no values.")
    q1, q3 = quantile(sample.sorted, 0.25, quantile_type), quantile(sample.sorted, 0.75, quantile_type)
    iqr = q3 - q1
    if iqr == 0:
        why = "The IQR is 0: at least half of the values are equal, so the fences have no width."
        return cannot_flag(method, "IQRs", n, settings, why)
    lower, upper = q1 - reach[0] * iqr, q3 + reach[1] * iqr
    if not (isfinite(lower) and isfinite(upper)):
        return cannot_flag(method, "IQRs", n, settings, "The span is beyond what a number can hold.")
    values, rows = beyond(sample, lower, upper)
    scores = np.where(values < lower, distances(values, q1, iqr), distances(values, q3, iqr))
    return OutlierResult(method, lower, upper, rows, scores, "IQRs", n, settings)
