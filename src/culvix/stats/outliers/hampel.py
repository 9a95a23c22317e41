"""The Hampel rule (Hampel 1974): median ± k · 1.4826 · MAD, the scaled MAD standing in for the SD; k 3 by default."""

from culvix.stats.core.sample import Sample
from culvix.stats.describe.description import MAD_TO_SD
from culvix.stats.outliers.result import OutlierResult, around

__all__ = ["hampel"]


def hampel(sample: Sample, *, k: float = 3.0) -> OutlierResult:
    """Flag values more than ``k`` scaled MADs from the median.

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
    why = "The MAD is 0: more than half of the values are equal, so the rule has no width."
    scale = sample.mad * MAD_TO_SD if sample.n else 0.0
    return around("hampel", sample, sample.median, (scale, scale), k, "scaled MADs", {"k": k}, why)
