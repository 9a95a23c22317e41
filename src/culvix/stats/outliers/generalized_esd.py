"""Rosner's generalised extreme Studentised deviate test (Rosner 1983) for up to k outliers.

The farthest value is taken out k times, each deviate compared with its own bound; the number of outliers is the last
step at which the deviate passes its bound, so that masking does not end the search early. Valid from about n = 25.
"""

from math import sqrt

import numpy as np
from scipy.special import stdtrit

from culvix.stats.arrays import Floats
from culvix.stats.outliers.result import OutlierResult, by_test, cannot_flag, check_level
from culvix.stats.sample import Sample

__all__ = ["esd_bound", "generalized_esd"]


def esd_bound(n: int, step: int, alpha: float) -> float:
    """Critical value λ of the ``step``-th deviate (from 1) of n values."""
    left = n - step
    t = float(stdtrit(left - 1, 1 - alpha / (2 * (left + 1))))
    return left * t / sqrt((left - 1 + t * t) * (left + 1))


def generalized_esd(sample: Sample, *, alpha: float = 0.05, k: int = 10) -> OutlierResult:
    """Flag up to ``k`` outliers at level ``alpha``; the score is the deviate at which each was taken out.

    Raises StatisticsError for α outside 0 to 1 or k below 1.
    """
    check_level("alpha", alpha)
    n = sample.n
    most = min(int(k), (n - 1) // 2)
    settings: dict[str, float | int | str] = {"alpha": alpha, "k": most}
    if n < 5 or sample.moments is None or not sample.moments.sd:
        why = "Needs at least 5 values that are not all equal, with a spread a number can hold."
        return cannot_flag("generalized_esd", "deviate", n, settings, why)
    deviates, order = _deviates(sample.sorted, most)
    passed = [step for step, d in enumerate(deviates, start=1) if d > esd_bound(n, step, alpha)]
    found = passed[-1] if passed else 0
    note = f"With n = {n} the bounds are rough; they hold from about n = 25." if n < 25 else None
    rows = sample.rows[order[:found]].tolist()
    return by_test("generalized_esd", "deviate", n, settings, note, rows=rows, scores=deviates[:found])


def _deviates(x: Floats, most: int) -> tuple[list[float], list[int]]:
    """The deviates of up to ``most`` steps and the places (in ``x``, ascending) taken out."""
    size = float(np.abs(x).max())
    scaled = x / size
    # Deviations from the median stay small, so that sums can be kept up as values are taken out.
    scaled = scaled - scaled[x.size // 2]
    total, squares = float(scaled.sum()), float((scaled * scaled).sum())
    low, high, deviates, order = 0, x.size - 1, [], []
    for _ in range(most):
        n = high - low + 1
        mean = total / n
        variance = (squares - total * mean) / (n - 1)
        if not variance > 1e-14 * squares / n:
            inner = scaled[low : high + 1]
            variance = float(((inner - mean) ** 2).sum()) / (n - 1)
        if not variance > 0:
            break
        place = low if mean - scaled[low] > scaled[high] - mean else high
        value = float(scaled[place])
        deviates.append(abs(value - mean) / sqrt(variance))
        order.append(place)
        total, squares = total - value, squares - value * value
        low, high = (low + 1, high) if place == low else (low, high - 1)
    return deviates, order
