"""Normal scores: the standard normal's quantiles at the plotting positions (i−a)/(n+1−2a) of n ordered values.

The sums that tests and Q-Q plots need of them are worked out without all n scores. Away from the ends the score is so
smooth a function of the rank that, over a block of ranks, it is a polynomial through a few Chebyshev nodes to within
rounding (the nearest singularity lies 64 half-blocks away, so eight nodes leave an error of about 1e-16).
"""

from dataclasses import dataclass
from math import ldexp

import numpy as np
from scipy.special import ndtri

from culvix.errors import StatisticsError
from culvix.stats.arrays import Floats
from culvix.stats.rank_sums import chebyshev_nodes, spreading
from culvix.stats.sums import binary_exponent, plain_dot

__all__ = ["BLOM", "ScoreSums", "normal_scores", "score_sums", "upper_scores"]

BLOM = 0.375
"""The constant of the plotting position by Blom 1958."""

_NODES = 8
_RANKS = 256
_DIRECT = 64 * _RANKS // 2
_STRIDE = 64 * _RANKS
_SAFE_EXPONENT = 900


def upper_scores(ranks: Floats, n: int, a: float = BLOM) -> Floats:
    """Scores of the values of the given ``ranks`` counted from the largest (1); fractional ranks are allowed."""
    return np.asarray(-ndtri((ranks - a) / (n + 1 - 2 * a)))


def normal_scores(n: int, a: float = BLOM) -> Floats:
    """Scores of n ordered values, ascending; shape ``(n,)``, antisymmetric. Raises StatisticsError outside n ≥ 1."""
    if n < 1:
        raise StatisticsError("There are no plotting positions without values.")
    if not 0 <= a < 1:
        raise StatisticsError(f"The constant of the plotting position lies between 0 and 1, not at {a}.")
    upper = upper_scores(np.arange(1.0, n // 2 + 1), n, a)
    return np.concatenate((-upper, np.zeros(n % 2), upper[::-1]))


@dataclass(frozen=True)
class ScoreSums:
    """Σ z² and Σ z·y over all ordered values y with scores z."""

    squares: float
    product: float


def score_sums(x: Floats, sd: float, a: float = BLOM) -> ScoreSums:
    """Sums of the scores with ``x`` (shape ``(n,)``, ascending) in units of ``sd`` > 0, whatever its mean."""
    n, half = int(x.size), int(x.size) // 2
    exponent = binary_exponent(float(x[0]), float(x[-1]))
    if abs(exponent) > _SAFE_EXPONENT:
        # On this scale no sum of gaps leaves the range of a double.
        x, sd = np.ldexp(x, -exponent), ldexp(sd, -exponent)
    low, high = x[:half], x[::-1][:half]
    squares = product = 0.0
    # From the ends inwards: ranks one by one, then whole blocks, then what is left in the middle.
    blocks = max(half - _DIRECT, 0) // _RANKS
    inner = half - blocks * _RANKS if not blocks else _DIRECT
    last = inner + blocks * _RANKS
    for first, end in ((0, inner), (last, half)):
        scores = upper_scores(np.arange(first + 1.0, end + 1.0), n, a)
        squares += plain_dot(scores, scores)
        product += plain_dot(scores, high[first:end] - low[first:end])
    spread, nodes = spreading(_RANKS, _NODES), chebyshev_nodes(_RANKS, _NODES)
    gram = spread.T @ spread
    for first in range(inner, last, _STRIDE):
        end = min(first + _STRIDE, last)
        starts = np.arange(first + 1.0, end + 1.0, _RANKS)[:, None]
        scores = upper_scores(starts + nodes, n, a)
        gaps = (high[first:end] - low[first:end]).reshape(-1, _RANKS)
        squares += float(((scores @ gram) * scores).sum())
        product += float(((gaps @ spread) * scores).sum())
    return ScoreSums(2 * squares, product / sd)
