"""Normal scores: the standard normal's quantiles at the plotting positions (i−a)/(n+1−2a) of n ordered values.

The sums that tests and Q-Q plots need of them are worked out without all n scores. Away from the ends the score is so
smooth a function of the rank that, over a block of ranks, it is a polynomial through a few Chebyshev nodes to within
rounding (the nearest singularity lies 64 half-blocks away, so eight nodes leave an error of about 1e-16).
"""

from dataclasses import dataclass
from functools import lru_cache
from math import fsum, ldexp

import numpy as np
from scipy.special import ndtri

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.rank_sums import chebyshev_nodes, polynomial_at, spreading
from culvix.stats.core.row_sums import NODES, ROW, RowSums
from culvix.stats.core.sums import binary_exponent, blocks, plain_dot

__all__ = ["BLOM", "ScoreSums", "normal_scores", "score_sums", "upper_scores"]

BLOM = 0.375
"""The constant of the plotting position by Blom 1958."""

_NODES = 8
_RANKS = 256
_DIRECT = 64 * _RANKS // 2
_TOGETHER, _FEW = 8, 12
"""Rows that share a polynomial, and its nodes: from the first place on these leave an error of 1e-17."""

_SAFE_EXPONENT = 900


def upper_scores(ranks: Floats, n: int, a: float = BLOM) -> Floats:
    """Scores of the values of the given ``ranks`` counted from the largest (1); fractional ranks are allowed."""
    return np.asarray(-ndtri((ranks - a) / (n + 1 - 2 * a)))


def normal_scores(n: int, a: float = BLOM) -> Floats:
    """The standard normal's quantiles at the plotting positions of ordered values.

    Parameters
    ----------
    n
        How many values there are.
    a
        The constant of the position (i−a)/(n+1−2a), from 0 to below 1.

    Returns
    -------
    array
        Shape ``(n,)``, ascending, antisymmetric to the last digit.

    Raises
    ------
    StatisticsError
        For fewer than one value, and a constant outside its range.

    References
    ----------
    Blom, G. 1958: Statistical Estimates and Transformed Beta-Variables. New York, Wiley.
    """
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


def score_sums(x: Floats, sd: float, a: float = BLOM, rows: RowSums | None = None) -> ScoreSums:
    """Sums of the scores with ``x`` (shape ``(n,)``, ascending) in units of ``sd`` > 0, whatever its mean.

    ``rows`` are the sums over its rows, where they are known.
    """
    n = int(x.size)
    exponent = binary_exponent(float(x[0]), float(x[-1]))
    if abs(exponent) > _SAFE_EXPONENT:
        # On this scale no sum of distances leaves the range of a double.
        x, sd = np.ldexp(x, -exponent), ldexp(sd, -exponent)
    product = _product_of_ends(x, n, a) if rows is None else _product_by_rows(x, rows, a)
    return ScoreSums(_squares(n, a), product / sd)


def _product_of_ends(x: Floats, n: int, a: float) -> float:
    """Σ z·x, the values taken from both ends at once."""
    half = n // 2
    gaps = x[n - half :][::-1] - x[:half]
    ranks = np.arange(1.0, half + 1.0)
    return fsum(plain_dot(upper_scores(ranks[part], n, a), gaps[part]) for part in blocks(half))


def _product_by_rows(x: Floats, rows: RowSums, a: float) -> float:
    """Σ z·x, by rows but near the ends, where the score is no polynomial."""
    n = rows.n
    scores = _scores_of_rows(n, a)
    position = rows.starts // ROW - _DIRECT // ROW
    inner = (position >= 0) & (position < scores.shape[0])
    outer = (rows.starts[~inner, None] + np.arange(ROW)).ravel()
    positions = np.concatenate((rows.left, outer))
    # Scores add up to nothing, so that any middle may be taken off.
    middle = float(x[n // 2])
    parts = [
        plain_dot(_scores_at(positions[part], n, a), x[positions[part]] - middle) for part in blocks(positions.size)
    ]
    middles = (rows.middles[inner] - middle)[:, None] * spreading(ROW, NODES).sum(axis=0)
    return fsum((*parts, float(np.vdot(scores[position[inner]], rows.at_nodes[inner] + middles))))


def _scores_of_rows(n: int, a: float) -> Floats:
    """Scores at the nodes of each row but those near the ends, shape ``(rows, 7)``; from a few nodes for eight rows."""
    many = max(n - 2 * _DIRECT, 0) // (_TOGETHER * ROW)
    starts = _DIRECT + _TOGETHER * ROW * np.arange(many)
    few = _scores_at(starts[:, None] + chebyshev_nodes(_TOGETHER * ROW, _FEW), n, a)
    return np.asarray(few @ _to_rows()).reshape(many * _TOGETHER, NODES)


@lru_cache(maxsize=1)
def _to_rows() -> Floats:
    """The matrix that takes a polynomial's values at the few nodes of rows taken together to those at all their own."""
    positions = ROW * np.arange(_TOGETHER)[:, None] + chebyshev_nodes(ROW, NODES)
    return np.ascontiguousarray(polynomial_at(_TOGETHER * ROW, _FEW, positions.ravel()).T)


def _scores_at(positions: Floats | Ints, n: int, a: float) -> Floats:
    """Scores of the values at ``positions`` (from 0, any shape), each from the nearer end."""
    from_end = np.minimum(positions, n - 1 - positions)
    return np.copysign(upper_scores(from_end + 1.0, n, a), positions - (n - 1) / 2)


@lru_cache(maxsize=64)
def _squares(n: int, a: float) -> float:
    """Σ z² of the scores of n values."""
    half = n // 2
    # From the ends inwards: ranks one by one, then whole blocks, then what is left in the middle.
    many = max(half - _DIRECT, 0) // _RANKS
    inner = half - many * _RANKS if not many else _DIRECT
    last = inner + many * _RANKS
    squares = 0.0
    for first, end in ((0, inner), (last, half)):
        scores = upper_scores(np.arange(first + 1.0, end + 1.0), n, a)
        squares += plain_dot(scores, scores)
    spread = spreading(_RANKS, _NODES)
    gram, nodes = spread.T @ spread, chebyshev_nodes(_RANKS, _NODES)
    scores = upper_scores(np.arange(inner + 1.0, last + 1.0, _RANKS)[:, None] + nodes, n, a)
    return 2 * (squares + float(((scores @ gram) * scores).sum()))
