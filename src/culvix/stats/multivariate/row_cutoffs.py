"""How far a normal row lies by robust distance: χ², stretched in short tables.

Over few rows the reweighted minimum covariance determinant is too tight around the rows that it is made of, and the
others lie far beyond χ² (Pison, Van Aelst & Willems 2002; Hardin & Rocke 2005; Cerioli 2010). The factors here were
simulated (bench/row_cutoffs.py); between them, their excess over 1 is interpolated on logarithmic scales. The tightest
"half" is (n + p + 1) // 2 rows: where nothing is rounded off there, a table is as good as one of two rows more.
"""

from math import exp, log

import numpy as np
from scipy.special import chdtri

from culvix.errors import StatisticsError

__all__ = ["COLUMNS", "LEVELS", "RATIOS", "row_cutoff"]

COLUMNS = (2, 3, 4, 6, 8, 10)
RATIOS = (5, 6, 8, 11, 16, 25, 50, 100)
"""Rows for each column, of the tables that were simulated."""
LEVELS = (0.95, 0.975, 0.99, 0.999)

_WIDE_RATIO = 25
"""Rows for each of more columns than were simulated, from which the cut-offs of the most that were serve well."""
_LEAST = 1e-3

_FACTORS: dict[tuple[int, int], tuple[float, ...]] = {
    (2, 5): (15.453, 22.538, 32.753, 79.833),
    (2, 6): (11.098, 14.958, 20.864, 58.054),
    (2, 8): (6.386, 8.459, 11.720, 22.254),
    (2, 11): (3.372, 4.118, 5.141, 9.444),
    (2, 16): (2.199, 2.397, 2.776, 3.762),
    (2, 25): (1.551, 1.684, 1.824, 2.280),
    (2, 50): (1.205, 1.258, 1.275, 1.372),
    (2, 100): (1.123, 1.136, 1.138, 1.274),
    (3, 5): (16.703, 21.226, 28.938, 58.888),
    (3, 6): (7.884, 10.026, 13.611, 25.203),
    (3, 8): (5.225, 6.386, 8.102, 13.004),
    (3, 11): (3.232, 3.717, 4.421, 6.912),
    (3, 16): (1.979, 2.141, 2.355, 3.032),
    (3, 25): (1.422, 1.490, 1.597, 1.711),
    (3, 50): (1.165, 1.192, 1.214, 1.299),
    (3, 100): (1.083, 1.097, 1.098, 1.223),
    (4, 5): (13.546, 17.262, 23.185, 41.191),
    (4, 6): (9.531, 12.233, 16.176, 28.742),
    (4, 8): (5.147, 6.180, 7.828, 12.042),
    (4, 11): (2.830, 3.281, 3.970, 5.868),
    (4, 16): (1.817, 1.965, 2.152, 2.704),
    (4, 25): (1.354, 1.429, 1.512, 1.666),
    (4, 50): (1.125, 1.152, 1.165, 1.179),
    (4, 100): (1.045, 1.063, 1.069, 1.041),
    (6, 5): (10.824, 13.681, 17.543, 30.064),
    (6, 6): (7.338, 9.091, 11.503, 17.380),
    (6, 8): (3.878, 4.606, 5.865, 9.240),
    (6, 11): (2.206, 2.395, 2.751, 3.874),
    (6, 16): (1.536, 1.597, 1.680, 1.907),
    (6, 25): (1.215, 1.243, 1.263, 1.366),
    (6, 50): (1.061, 1.088, 1.107, 1.123),
    (6, 100): (1.014, 1.022, 1.043, 1.033),
    (8, 5): (7.707, 9.595, 12.069, 20.359),
    (8, 6): (5.381, 6.351, 8.039, 12.353),
    (8, 8): (3.019, 3.461, 4.025, 5.564),
    (8, 11): (1.865, 1.986, 2.164, 2.684),
    (8, 16): (1.386, 1.433, 1.478, 1.626),
    (8, 25): (1.159, 1.190, 1.216, 1.248),
    (8, 50): (1.058, 1.078, 1.091, 1.117),
    (8, 100): (1.014, 1.026, 1.030, 1.032),
    (10, 5): (5.730, 6.987, 8.615, 13.308),
    (10, 6): (3.998, 4.572, 5.433, 7.952),
    (10, 8): (2.430, 2.635, 2.983, 4.011),
    (10, 11): (1.670, 1.740, 1.840, 2.141),
    (10, 16): (1.294, 1.319, 1.351, 1.443),
    (10, 25): (1.132, 1.156, 1.178, 1.199),
    (10, 50): (1.038, 1.062, 1.073, 1.087),
    (10, 100): (1.017, 1.030, 1.039, 1.047),
}
"""By columns and rows for each: what the χ² point at each of `LEVELS` is multiplied by."""


def row_cutoff(n: int, p: int, level: float) -> float:
    """The squared robust distance that the share ``level`` of ``n`` normal rows over ``p`` columns does not pass.

    Raises StatisticsError for a level outside 0.5 to 1, and where so few rows over so many columns were not simulated.
    """
    if not 0.5 < level < 1:
        raise StatisticsError(f"The level of the cut-off lies between 0.5 and 1, not at {level}.")
    plain = float(chdtri(p, 1 - level))
    ratio = _rows_that_count(n, p) / p
    if p > COLUMNS[-1] and ratio < _WIDE_RATIO:
        least = _WIDE_RATIO * p
        raise StatisticsError(
            f"Over {p} columns it is known from {least} rows on how far from the others is far; there are {n}."
        )
    # Beyond what was simulated the excess falls as 1/n, and of more columns is less than of the most.
    columns, rows = min(p, COLUMNS[-1]), min(ratio, float(RATIOS[-1]))
    excess = [_excess(columns, rows, position) for position in range(len(LEVELS))]
    tails = [-log(1 - each) for each in LEVELS]
    found = exp(float(np.interp(-log(1 - level), tails, np.log(excess))))
    return plain * (1 + found * rows / ratio)


def _rows_that_count(n: int, p: int) -> int:
    return n if (n + p + 1) % 2 else n + 2


def _excess(p: int, ratio: float, level: int) -> float:
    """How much the factor of ``ratio`` rows for each of ``p`` columns is above 1, at one of `LEVELS`."""
    by_columns = []
    for c in COLUMNS:
        positions = [log(_rows_that_count(r * c, c) / c) for r in RATIOS]
        heights = [log(max(_FACTORS[c, r][level] - 1, _LEAST)) for r in RATIOS]
        by_columns.append(float(np.interp(log(ratio), positions, heights)))
    return exp(float(np.interp(log(p), np.log(COLUMNS), by_columns)))
