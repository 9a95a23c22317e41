"""What single rows do to a least-squares line."""

from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.correlation.result import present_pairs
from culvix.stats.regression.straight_line import straight_line

__all__ = ["LineInfluence", "line_influence"]

_EXACT = 1e-12
"""A residual SD below this share of the spread of y is rounding: the line meets every row."""


@dataclass(frozen=True, eq=False)
class LineInfluence:
    """For each of ``rows`` (from 0, those with both values; all of shape ``(n,)``) what it does to the line.

    ``residual`` is in the unit of y; ``leverage`` says how far the row alone decides where the line passes, 0 to 1;
    ``studentised`` is the residual over its own standard error; ``distance`` is Cook's, how far the line moves at all
    rows when this one is left out. Those two are NaN where the line passes through a row whatever its value is.
    """

    rows: Ints
    fitted: Floats
    residual: Floats
    leverage: Floats
    studentised: Floats
    distance: Floats

    @property
    def worst(self) -> Ints:
        """The places in ``rows`` by Cook's distance, the largest first; those without one come last."""
        order = np.argsort(-np.nan_to_num(self.distance, nan=-1.0), kind="stable")
        return order.astype(np.int64)


def line_influence(x: Floats, y: Floats) -> LineInfluence | None:
    """Residuals, leverages and Cook's distances of the least-squares line.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.

    Returns
    -------
    LineInfluence or None
        One entry for each row with both values; None below four rows, without a spread in ``x``, for a line that meets
        every row, and where a residual is beyond the largest number there is.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Cook, R. D. 1977: Detection of influential observation in linear regression. Technometrics 19, 15-18.
    Hoaglin, D. C. & Welsch, R. E. 1978: The hat matrix in regression and ANOVA. American Statistician 32, 17-22.
    """
    both = present_pairs(x, y)
    rows = np.flatnonzero(both)
    a, b = x[rows], y[rows]
    line = straight_line(x, y)
    if line is None or line.residual_sd is None or rows.size < 4:
        return None
    leverage = 1 / rows.size + ((a - line.mean_x) / line.spread_x) ** 2
    with np.errstate(over="ignore", invalid="ignore"):
        fitted = line.at(a)
        residual = b - fitted
    # Half of it, which cannot overflow.
    spread = float(b.max()) / 2 - float(b.min()) / 2
    if not np.isfinite(residual).all() or not line.residual_sd / 2 > _EXACT * spread:
        return None
    with np.errstate(divide="ignore", invalid="ignore"):
        free = np.where(leverage < 1 - 1e-12, 1 - leverage, np.nan)
        studentised = residual / line.residual_sd / np.sqrt(free)
        distance = studentised * studentised * leverage / free / 2
    return LineInfluence(rows, fitted, residual, leverage, studentised, distance)
