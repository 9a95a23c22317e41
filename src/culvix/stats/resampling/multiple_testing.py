"""p values adjusted for how many there are.

Holm 1979 guards against any false rejection, Benjamini & Hochberg 1995 against a large share of them.
"""

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats

__all__ = ["benjamini_hochberg", "holm"]


def _checked(p: Floats) -> Floats:
    values = np.asarray(p, dtype=np.float64)
    if not ((values >= 0) & (values <= 1)).all():
        raise StatisticsError("A p value lies between 0 and 1.")
    return values


def holm(p: Floats) -> Floats:
    """p values adjusted for their number, so that none of them is wrong more often than its level.

    Parameters
    ----------
    p
        The p values, shape ``(m,)``.

    Returns
    -------
    array
        The adjusted ones, in the same order.

    Raises
    ------
    StatisticsError
        For a p outside 0 to 1.

    References
    ----------
    Holm, S. 1979: A simple sequentially rejective multiple test procedure. Scandinavian Journal of Statistics 6, 65-70.
    """
    values = _checked(p)
    order = np.argsort(values, kind="stable")
    stepped = np.maximum.accumulate(values[order] * np.arange(values.size, 0, -1))
    adjusted = np.empty_like(values)
    adjusted[order] = np.minimum(stepped, 1.0)
    return adjusted


def benjamini_hochberg(p: Floats) -> Floats:
    """p values adjusted for their number, so that the share of wrong ones among those told is held.

    Parameters
    ----------
    p
        The p values, shape ``(m,)``.

    Returns
    -------
    array
        The adjusted ones, in the same order.

    Raises
    ------
    StatisticsError
        For a p outside 0 to 1.

    References
    ----------
    Benjamini, Y. & Hochberg, Y. 1995: Controlling the false discovery rate. Journal of the Royal Statistical Society B
    57, 289-300.
    """
    values = _checked(p)
    order = np.argsort(values, kind="stable")[::-1]
    stepped = np.minimum.accumulate(values[order] * values.size / np.arange(values.size, 0, -1))
    adjusted = np.empty_like(values)
    adjusted[order] = np.minimum(stepped, 1.0)
    return adjusted
