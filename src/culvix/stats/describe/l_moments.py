"""L-moments and their ratios (Hosking 1990): spread, skewness and kurtosis from sums linear in the ordered values.

They exist wherever the mean does, far values enter them unsquared, and the ratios lie within known bounds. The sample
figures are the unbiased ones.
"""

from dataclasses import dataclass
from math import fsum

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.rank_sums import between_nodes, chebyshev_nodes, spreading
from culvix.stats.core.row_sums import NODES, ROW, RowSums
from culvix.stats.core.sums import blocks, plain_sum

__all__ = ["LMoments", "l_moments"]

_NODES = 4
"""Nodes that carry a polynomial of the third degree exactly."""


@dataclass(frozen=True)
class LMoments:
    """``scale`` is the second L-moment in the column's unit; the ratios are None where n or the spread does not allow.

    ``skewness`` is τ3, between −1 and 1; ``kurtosis`` is τ4, at most 1 and 0.1226 for a normal. A distribution has none
    below −¼; the unbiased ones of short samples reach lower, to −1.5 at n = 4.
    """

    scale: float
    skewness: float | None
    kurtosis: float | None


def l_moments(x: Floats, mean: float, rows: RowSums | None = None) -> LMoments | None:
    """L-moments: spread, skewness and kurtosis from sums linear in the ordered values.

    Parameters
    ----------
    x
        The values, ascending and finite, shape ``(n,)``, in any unit.
    mean
        Their mean, in the same unit.
    rows
        The sums over rows of a long column, where they are known; the result is the same without.

    Returns
    -------
    LMoments or None
        The scale in the unit of ``x``, the ratios without one; None below n = 2 and where a deviation from the mean is
        beyond a double.

    References
    ----------
    Hosking, J. R. M. 1990: L-moments: analysis and estimation of distributions using linear combinations of order
    statistics. Journal of the Royal Statistical Society B 52, 105-124.
    """
    n = int(x.size)
    reach = max(float(x[-1]) - mean, mean - float(x[0])) if n else 0.0
    if n < 2 or not np.isfinite(2 * reach):
        return None
    if not reach:
        return LMoments(0.0, None, None)
    second, third, fourth = (reach * value for value in _sums(x, mean, reach, rows))
    if not second > 0:
        return LMoments(0.0, None, None)
    return LMoments(
        second, _ratio(third, second, -1.0) if n > 2 else None, _ratio(fourth, second, -1.5) if n > 3 else None
    )


def _ratio(value: float, scale: float, least: float) -> float:
    """A ratio, held at its bounds, which rounding might pass."""
    return min(max(value / scale, least), 1.0)


def _weights(position: Floats, n: int) -> tuple[Floats, Floats, Floats]:
    """Weights of the value at ``position`` (from 0) in the second to fourth L-moment, by weighted probabilities."""
    one = position / (n - 1)
    two = one * (position - 1) / max(n - 2, 1)
    three = two * (position - 2) / max(n - 3, 1)
    return 2 * one - 1, 6 * two - 6 * one + 1, 20 * three - 30 * two + 12 * one - 1


def _sums(x: Floats, mean: float, reach: float, rows: RowSums | None) -> list[float]:
    """The second to fourth L-moments of (x − mean) / reach."""
    n = int(x.size)
    left = np.arange(n) if rows is None else rows.left
    parts = [
        [plain_sum(weight * ((x[part] - mean) / reach)) for weight in _weights(part.astype(np.float64), n)]
        for part in (left[block] for block in blocks(left.size))
    ]
    if rows is not None:
        # Weights of the third degree need fewer nodes than the rows were spread over.
        fewer = between_nodes(ROW, NODES, _NODES)
        middles = (rows.middles - mean)[:, None] * spreading(ROW, _NODES).sum(axis=0)
        at_nodes = (rows.at_nodes @ fewer + middles) / reach
        positions = rows.starts[:, None] + chebyshev_nodes(ROW, _NODES)
        parts.append([float(np.vdot(weight, at_nodes)) for weight in _weights(positions, n)])
    return [fsum(column) / n for column in zip(*parts, strict=True)]
