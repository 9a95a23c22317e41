"""The two-sided MAD: one MAD for the values below the median and one for those above.

Where a column is skewed, a single MAD is too narrow on the long side and too wide on the short one. Each
side is scaled as in Hampel 1974, so that both agree with the SD for a normal sample.
"""

import numpy as np

from culvix.stats.core.sample import Sample, median_of_sorted
from culvix.stats.describe.description import MAD_TO_SD
from culvix.stats.outliers.result import OutlierResult, around

__all__ = ["double_mad"]


def double_mad(sample: Sample, *, k: float = 3.0) -> OutlierResult:
    """Flag values more than ``k`` scaled MADs of their own side from the median.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    k
        The limit, in MADs times 1.4826.

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
    Hampel, F. R. 1974: The influence curve and its role in robust estimation. Journal of the American Statistical
    Association 69, 383-393.
    """
    x, centre = sample.sorted, sample.median
    scales = (0.0, 0.0)
    if sample.n:
        below, above = x[: np.searchsorted(x, centre, side="right")], x[np.searchsorted(x, centre) :]
        scales = (centre - median_of_sorted(below)) * MAD_TO_SD, (median_of_sorted(above) - centre) * MAD_TO_SD
    why = "The MAD of one side is 0: at least half of the values there equal the median."
    return around("double_mad", sample, centre, scales, k, "scaled MADs", {"k": k}, why)
