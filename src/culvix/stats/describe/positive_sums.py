"""Sums that geometric and harmonic means are made of: for positive values only."""

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.row_sums import ROW, RowSums
from culvix.stats.core.sums import plain_sum, summed

__all__ = ["positive_sums"]

_NARROW = 2.0**-9
"""Widest row, as a share of its middle, over which ln and 1/x are polynomials of the fourth degree to 1e-16."""


def positive_sums(x: Floats, rows: RowSums | None) -> tuple[float, float]:
    """Σ ln x and Σ x₀/x of ``x`` (shape ``(n,)``, ascending, positive), x₀ being the smallest value.

    ``rows`` are the sums over its rows, where they are known.
    """
    least = float(x[0])
    if rows is None:
        return summed(x, np.log), summed(x, lambda part: least / part)
    narrow = rows.width <= _NARROW * rows.middles
    wide = (rows.starts[~narrow, None] + np.arange(ROW)).ravel()
    rest = x[np.concatenate((rows.left, wide))]
    middles = rows.middles[narrow]
    scaled = [rows.powers[narrow, degree, 0] / middles ** (degree + 1) for degree in range(4)]
    logarithms = ROW * np.log(middles) + scaled[0] - scaled[1] / 2 + scaled[2] / 3 - scaled[3] / 4
    reciprocals = least / middles * (ROW - scaled[0] + scaled[1] - scaled[2] + scaled[3])
    return (
        plain_sum(logarithms) + summed(rest, np.log),
        plain_sum(reciprocals) + summed(rest, lambda part: least / part),
    )
