"""The declared valid range of a column: a value outside is an error, not an opinion."""

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.outliers.result import OutlierResult, beyond, cannot_flag
from culvix.stats.sample import Sample

__all__ = ["valid_range"]

_WIDEST = 1.7976931348623157e308


def valid_range(sample: Sample, *, lower: float | None = None, upper: float | None = None) -> OutlierResult:
    """Flag values outside the declared bounds; a bound that is None is open. The score is the distance outside.

    Raises StatisticsError where the lower bound lies above the upper one.
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
