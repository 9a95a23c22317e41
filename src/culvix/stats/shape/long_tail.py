"""Whether far values squeeze the picture of a column on a measured axis, and which scale would show it."""

from math import log10

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.shape.axis_scale import axis_scale, on_axis

__all__ = ["bulk", "decades", "squeezed", "suggested_axis"]

_BULK, _NARROW = 0.9, 0.05
"""A picture is squeezed where this share of the rows has less than that share of its width."""
_FEWEST = 10
"""Of fewer values every picture is wide enough."""
_MOST_DECADES = 3.0
"""Positive values over more powers of ten than these are better seen on a log axis."""


def bulk(sample: Sample) -> tuple[float, float] | None:
    """The narrowest interval that holds 90 % of the values.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.

    Returns
    -------
    tuple or None
        Its ends (low, high), in the values' unit; None where there are fewer than ten values.
    """
    x = sample.sorted
    if x.size < _FEWEST:
        return None
    inside = int(np.ceil(_BULK * x.size)) - 1
    # Halved, so that the distance of two doubles is never too large for one.
    first = int(np.argmin(x[inside:] / 2 - x[: x.size - inside] / 2))
    return float(x[first]), float(x[first + inside])


def squeezed(sample: Sample) -> bool:
    """Whether a measured axis leaves 90 % of the values less than 5 % of its width."""
    ends = bulk(sample)
    if ends is None:
        return False
    low, high = ends
    whole = float(sample.sorted[-1]) / 2 - float(sample.sorted[0]) / 2
    return bool(whole > 0 and high / 2 - low / 2 < _NARROW * whole)


def decades(sample: Sample) -> float | None:
    """How many powers of ten lie between the smallest and the largest value; None where not all are positive."""
    if sample.n < _FEWEST or sample.sorted[0] <= 0:
        return None
    return log10(float(sample.sorted[-1])) - log10(float(sample.sorted[0]))


def suggested_axis(sample: Sample) -> str | None:
    """The scale, by its key in `AXIS_SCALES`, on which the values are better seen than on a measured axis.

    Parameters
    ----------
    sample
        The values in use, in any unit; missing and infinite ones are left out.

    Returns
    -------
    str or None
        None where the measured axis does: positive values lie within three powers of ten, and 90 % of all values have
        5 % of its width or more. Of scales that take all values the first that is not squeezed itself.
    """
    far = decades(sample)
    if not squeezed(sample) and not (far is not None and far > _MOST_DECADES):
        return None
    for key in ("log", "ln1p" if sample.is_whole else "signed_log", "signed_log", "normal_quantile"):
        try:
            scale = axis_scale(sample, key)
        except StatisticsError:
            continue
        if not squeezed(on_axis(sample, scale)):
            return key
    return "normal_quantile"
