"""Intervals of correlation coefficients by Fisher's transformation."""

from math import sqrt

import numpy as np
from scipy.special import ndtri

from culvix.errors import StatisticsError

__all__ = ["fisher_interval", "z_interval"]


def z_interval(r: float, variance: float, confidence: float) -> tuple[float, float] | None:
    """Interval of a coefficient whose arctanh has about the given variance; None for r = ±1.

    Raises StatisticsError for a confidence outside 0 to 1.
    """
    if not 0 < confidence < 1:
        raise StatisticsError(f"A confidence level lies between 0 and 1, not at {confidence}.")
    if abs(r) >= 1:
        return None
    reach = float(ndtri((1 + confidence) / 2)) * sqrt(variance)
    return float(np.tanh(np.arctanh(r) - reach)), float(np.tanh(np.arctanh(r) + reach))


def fisher_interval(r: float, n: int, confidence: float = 0.95) -> tuple[float, float] | None:
    """Interval of Pearson's coefficient by Fisher's z.

    Parameters
    ----------
    r
        The coefficient.
    n
        How many pairs it is of.
    confidence
        How often, as a share, such an interval holds what it is for.

    Returns
    -------
    (float, float) or None
        Both ends; None below n = 4 and for r = ±1.

    Raises
    ------
    StatisticsError
        For a confidence that does not lie between 0 and 1.

    References
    ----------
    Fisher, R. A. 1921: On the probable error of a coefficient of correlation deduced from a small sample. Metron 1,
    3-32.
    """
    return z_interval(r, 1 / (n - 3), confidence) if n > 3 else None
