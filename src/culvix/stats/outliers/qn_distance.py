"""Distance in Qn: median ± k · Qn (Rousseeuw & Croux 1993), k 3 by default.

Qn measures spread without a centre, so skewness does not distort it, and uses the data better than the MAD.
"""

from culvix.stats.core.sample import Sample
from culvix.stats.describe.robust_scale import qn
from culvix.stats.outliers.result import OutlierResult, around

__all__ = ["qn_distance"]


def qn_distance(sample: Sample, *, k: float = 3.0) -> OutlierResult:
    """Flag values more than ``k`` Qn from the median.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    k
        The limit, in Qn.

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
    Rousseeuw, P. J. & Croux, C. 1993: Alternatives to the median absolute deviation. Journal of the American
    Statistical Association 88, 1273-1283.
    """
    scale = qn(sample) or 0.0
    why = "Qn is 0 or cannot be given: about half of the values are equal, or there are fewer than two."
    return around("qn_distance", sample, sample.median, (scale, scale), k, "Qn", {"k": k}, why)
