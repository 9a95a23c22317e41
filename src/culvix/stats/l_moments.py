"""L-moments and their ratios (Hosking 1990): spread, skewness and kurtosis from sums linear in the ordered values.

They exist wherever the mean does, far values enter them unsquared, and the ratios lie within known bounds. The sample
figures are the unbiased ones.
"""

from dataclasses import dataclass

import numpy as np

from culvix.stats.arrays import Floats
from culvix.stats.rank_sums import chebyshev_nodes, spreading
from culvix.stats.sums import BLOCK, plain_sum

__all__ = ["LMoments", "l_moments"]

_ROW = 128
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


def l_moments(x: Floats, mean: float) -> LMoments | None:
    """L-moments of ``x`` (shape ``(n,)``, ascending, finite) with the given ``mean``; None below n = 2.

    None too where deviations from the mean are beyond a double.
    """
    n = int(x.size)
    reach = max(float(x[-1]) - mean, mean - float(x[0])) if n else 0.0
    if n < 2 or not np.isfinite(2 * reach):
        return None
    if not reach:
        return LMoments(0.0, None, None)
    second, third, fourth = (reach * value for value in _sums(x, mean, reach))
    if not second > 0:
        return LMoments(0.0, None, None)
    return LMoments(
        second, _ratio(third, second, -1.0) if n > 2 else None, _ratio(fourth, second, -1.5) if n > 3 else None
    )


def _ratio(value: float, scale: float, least: float) -> float:
    """A ratio, held at its bounds, which rounding might pass."""
    return min(max(value / scale, least), 1.0)


def _weights(place: Floats, n: int) -> tuple[Floats, Floats, Floats]:
    """Weights of the value at ``place`` (from 0) in the second to fourth L-moment, by probability-weighted moments."""
    one = place / (n - 1)
    two = one * (place - 1) / max(n - 2, 1)
    three = two * (place - 2) / max(n - 3, 1)
    return 2 * one - 1, 6 * two - 6 * one + 1, 20 * three - 30 * two + 12 * one - 1


def _sums(x: Floats, mean: float, reach: float) -> list[float]:
    """The second to fourth L-moments of (x − mean) / reach."""
    n = int(x.size)
    whole = n // _ROW * _ROW if n > BLOCK else 0
    left = (x[whole:] - mean) / reach
    totals = [plain_sum(weight * left) for weight in _weights(np.arange(whole, n, dtype=np.float64), n)]
    for first in range(0, whole, 2 * BLOCK):
        part = x[first : min(first + 2 * BLOCK, whole)] - mean
        part /= reach
        at_nodes = part.reshape(-1, _ROW) @ spreading(_ROW, _NODES)
        places = np.arange(first, first + part.size, _ROW)[:, None] + chebyshev_nodes(_ROW, _NODES)
        for degree, weight in enumerate(_weights(places, n)):
            totals[degree] += float((weight * at_nodes).sum())
    return [total / n for total in totals]
