"""The mean of the values between two tails (Tukey 1962)."""

import numpy as np

from culvix.stats.core.moments import accurate_mean
from culvix.stats.core.sample import Sample
from culvix.stats.core.sums import SHORT, total

__all__ = ["trimmed_mean"]

_FAR = 1000.0


def trimmed_mean(sample: Sample, cut: int) -> float:
    """The mean of ``sample`` without its ``cut`` smallest and ``cut`` largest values, fewer than half of n each."""
    x, n, centre = sample.sorted, sample.n, sample.moments
    middle = x[cut : n - cut]
    if (
        centre is None
        or n <= SHORT
        or 4 * cut > n
        or not _is_near(x, centre.mean, float(middle[-1]) - float(middle[0]))
    ):
        return accurate_mean(middle)
    # The deviations from the mean add up to nothing, so those kept are what the tails leave.
    tails = total(x[:cut] - centre.mean) + total(x[n - cut :] - centre.mean)
    return centre.mean - tails / middle.size


def _is_near(x: np.ndarray, mean: float, width: float) -> bool:
    """Whether no value lies so many ``width`` of the kept ones away that its rounding would show in their mean."""
    return bool(max(float(x[-1]) - mean, mean - float(x[0])) <= _FAR * width < np.inf)
