"""The modified z-score (Iglewicz & Hoaglin 1993): 0.6745 · (x − median) / MAD, flagged where it passes 3.5.

Where the MAD is 0 (more than half of the values are equal) the mean absolute deviation from the median, times
1.2533, takes its place as the same authors advise; the note says so.
"""

from math import isfinite

import numpy as np

from culvix.stats.core.sample import Sample
from culvix.stats.core.sums import careful_sum
from culvix.stats.outliers.result import OutlierResult, beyond, cannot_flag, check_limit, distances

__all__ = ["modified_z", "robust_scale"]

_MAD_FACTOR = 0.6745
_HUGE = 1e307
_MEAN_DEVIATION_FACTOR = 1.253314


def robust_scale(sample: Sample) -> tuple[float, str | None]:
    """Scale that divides x − median, and the note that goes with it; 0 where all values are equal."""
    if not sample.n:
        return 0.0, "There are no values."
    if sample.mad > 0:
        return sample.mad / _MAD_FACTOR, None
    # Made smaller first where the distance of two values could be beyond a double.
    size = 4.0 if max(-sample.sorted[0], sample.sorted[-1]) > _HUGE else 1.0
    deviations = np.abs(sample.sorted / size - sample.median / size)
    largest = float(deviations.max())
    if not largest:
        return 0.0, "All values are equal."
    mean_deviation = careful_sum(deviations / largest) / sample.n * largest * size
    note = "The MAD is 0: more than half of the values are equal. The mean absolute deviation takes its place."
    return mean_deviation * _MEAN_DEVIATION_FACTOR, note


def modified_z(sample: Sample, *, limit: float = 3.5) -> OutlierResult:
    """Flag values whose modified z-score, 0.6745 · (x − median) / MAD, passes ``limit``.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    limit
        The limit of the score.

    Returns
    -------
    OutlierResult
        Span, flagged rows (from 0) in order of value with their scores, settings and n; a note where it cannot be
        applied.

    Raises
    ------
    StatisticsError
        For a limit that is not above 0.

    References
    ----------
    Iglewicz, B. & Hoaglin, D. C. 1993: How to Detect and Handle Outliers. Milwaukee, ASQC Quality Press.
    """
    check_limit("limit", limit)
    n = sample.n
    settings: dict[str, float | int | str] = {"limit": limit}
    with np.errstate(over="ignore"):
        scale, note = robust_scale(sample)
    if not scale:
        return cannot_flag("modified_z", "robust z", n, settings, note or "There is no spread.")
    lower, upper = sample.median - limit * scale, sample.median + limit * scale
    if not (isfinite(lower) and isfinite(upper)):
        return cannot_flag("modified_z", "robust z", n, settings, "The span is beyond what a number can hold.")
    values, rows = beyond(sample, lower, upper)
    scores = distances(values, sample.median, scale)
    return OutlierResult("modified_z", lower, upper, rows, scores, "robust z", n, settings, note)
