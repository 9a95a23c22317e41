"""The declared valid range of a column: a value outside is an error, not an opinion."""

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.outliers.result import OutlierResult, beyond, cannot_flag

__all__ = ["valid_range"]

_WIDEST = 1.7976931348623157e308


def valid_range(sample: Sample, *, lower: float | None = None, upper: float | None = None) -> OutlierResult:
    """Flag values outside declared bounds; the score is the distance outside.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    lower, upper
        The bounds, in the values' unit; None is open.

    Returns
    -------
    OutlierResult
        Span, flagged rows (from 0) in order of value with their scores, settings and n; a note where it cannot be
        applied.

    Raises
    ------
    StatisticsError
        Where the lower bound lies above the upper one.

    References
    ----------
    None: a value outside is an error by declaration, not by a rule.
    """
    n = sample.n
    if lower is None and upper is None:
        return cannot_flag("valid_range", "outside by", n, {}, "No valid range is declared for this column.")
    low, high = -_WIDEST if lower is None else lower, _WIDEST if upper is None else upper
    if not low <= high:
        raise StatisticsError(f"A valid range runs upwards; {low:g} to {high:g} does not.")
    values, rows = beyond(sample, low, high)
    with np.errstate(over="ignore"):
        scores = np.nan_to_num(np.where(values < low, values - low, values - high))
    settings: dict[str, float | int | str] = {"lower": low, "upper": high}
    return OutlierResult("valid_range", low, high, rows, scores, "outside by", n, settings)
