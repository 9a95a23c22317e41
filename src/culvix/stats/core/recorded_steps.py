"""The step in which values were recorded: a tenth, a whole, a multiple of five."""

from math import gcd

import numpy as np

from culvix.stats.core.sample import Sample, once
from culvix.stats.display import decimals_of

__all__ = ["recorded_step", "rounded_to"]

_MOST = 2.0**53


@once
def recorded_step(sample: Sample) -> float | None:
    """The step in which values were recorded: all differences between them are multiples of it.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.

    Returns
    -------
    float or None
        The step, in the values' unit; None without two different values, and where they have no common resolution.

    References
    ----------
    Sheppard, W. F. 1898: On the calculation of the most probable values of frequency-constants, for data arranged
    according to equidistant divisions of a scale. Proceedings of the London Mathematical Society 29, 353-380.
    """
    decimals, values = decimals_of(sample), np.asarray(sample.runs[0], dtype=np.float64)
    if decimals is None or values.size < 2:
        return None
    counted = np.round((values - values[0]) * 10.0**decimals)
    if not counted[-1] < _MOST:
        return None
    step = 0
    for each in counted[1:].astype(np.int64).tolist():
        step = gcd(step, each)
        if step == 1:
            break
    return step / 10.0**decimals if step else None


def rounded_to(x: np.ndarray, step: float, origin: float) -> np.ndarray:
    """``x`` rounded to whole steps from ``origin``."""
    return np.asarray(np.round((x - origin) / step) * step + origin)
