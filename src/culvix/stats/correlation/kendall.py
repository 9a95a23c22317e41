"""Kendall's τ-b: agreement in order of two columns, pair by pair, ties taken into account.

Discordant pairs are counted in O(n log n) as Knight 1966 proposed, here by passing down the binary digits of the ranks
instead of merging, so that each pass is array arithmetic. p is exact for n ≤ 33 without ties (Kendall 1970, by
counting orders); with ties it is that of all orders for n ≤ 9 and of random ones for n ≤ 30 (see `rank_permutations`);
otherwise it is from the normal approximation with the variance corrected for ties.
"""

from dataclasses import dataclass
from functools import cache
from math import comb, sqrt

import numpy as np
from scipy.special import erfc

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.ordering import stable_order
from culvix.stats.correlation.intervals import z_interval
from culvix.stats.correlation.rank_permutations import RESAMPLED_N, agreement, p_by_orders
from culvix.stats.correlation.result import (
    CorrelationMatrix,
    PairCorrelation,
    matrix_of_pairs,
    no_coefficient,
    present_pairs,
)

__all__ = ["inversions", "kendall", "kendall_coefficient", "kendall_interval", "kendall_matrix"]

_EXACT_N = 33


@dataclass(frozen=True, eq=False)
class _Counted:
    """The agreement of n pairs in the order of their first values: ``balance`` of concordant less discordant ones."""

    first: Floats
    ranks: Ints
    """Ranks from 0 of the second values, equal ones sharing one."""

    ties: tuple[Ints, Ints]
    free: tuple[int, int]
    """Pairs not tied, in either column."""

    discordant: int
    balance: int

    @property
    def tau(self) -> float:
        return min(max(self.balance / sqrt(self.free[0]) / sqrt(self.free[1]), -1.0), 1.0)


def _counted(a: Floats, b: Floats) -> _Counted | None:
    """The agreement of ``a`` and ``b`` (both shape ``(n,)``, finite); None where either is all equal."""
    n = int(a.size)
    by_second = stable_order(b)
    ranks = np.empty(n, dtype=np.int64)
    ranks[by_second] = _dense(b[by_second])
    # In the order of the first column, and where that is tied, of the second.
    order = by_second[stable_order(a[by_second])]
    a, ranks = a[order], ranks[order]
    ties = _run_lengths(a), np.bincount(ranks)
    pairs = n * (n - 1) // 2
    free = pairs - _tied(ties[0]), pairs - _tied(ties[1])
    if not free[0] or not free[1]:
        return None
    discordant = inversions(ranks)
    balance = free[0] + free[1] - pairs + _tied(_run_lengths(a, ranks)) - 2 * discordant
    return _Counted(a, ranks, ties, free, discordant, balance)


def kendall_coefficient(x: Floats, y: Floats) -> float | None:
    """τ-b alone of ``x`` and ``y`` (both shape ``(n,)``, finite, n ≥ 2); None where either is all equal."""
    counted = _counted(x, y)
    return None if counted is None else counted.tau


def kendall(x: Floats, y: Floats) -> PairCorrelation:
    """Kendall's τ-b of two columns, ties taken into account.

    ``p_by`` of the result says how p was found.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.

    Returns
    -------
    PairCorrelation
        Coefficient, two-sided p and n; both None with a note where there is none.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Kendall, M. G. 1970: Rank Correlation Methods. London, Griffin. Knight, W. R. 1966: A computer method for
    calculating Kendall's tau with ungrouped data. Journal of the American Statistical Association 61, 436-439.
    """
    both = present_pairs(x, y)
    n = int(both.sum())
    if n < 2:
        return no_coefficient("kendall", n, f"Needs at least 2 complete pairs; there {'is' if n == 1 else 'are'} {n}.")
    counted = _counted(x[both], y[both])
    if counted is None:
        return no_coefficient("kendall", n, "One of the columns has the same value in all complete pairs.")
    pairs = n * (n - 1) // 2
    if n <= _EXACT_N and counted.free == (pairs, pairs):
        p, by = _exact_p(n, min(counted.discordant, pairs - counted.discordant)), "all orders"
    else:
        p, by = _normal_p(n, counted.balance, *counted.ties), "normal approximation"
        if 3 <= n <= RESAMPLED_N:
            p, by = p_by_orders(n, agreement(counted.first, counted.ranks), p)
    return PairCorrelation("kendall", counted.tau, p, n, p_by=by)


def kendall_interval(r: float, n: int, confidence: float = 0.95) -> tuple[float, float] | None:
    """Interval of Kendall's τ-b by Fisher's z, with the variance 0.437/(n−4).

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
        Both ends; None to n = 4 and for τ = ±1.

    Raises
    ------
    StatisticsError
        For a confidence that does not lie between 0 and 1.

    References
    ----------
    Fieller, E. C., Hartley, H. O. & Pearson, E. S. 1957: Tests for rank correlation coefficients. Biometrika 44,
    470-481.
    """
    return z_interval(r, 0.437 / (n - 4), confidence) if n > 4 else None


def _dense(ordered: Floats) -> Ints:
    """Ranks from 0 of values in ascending order, equal ones sharing one."""
    return np.concatenate(([0], np.cumsum(ordered[1:] != ordered[:-1])))


def _run_lengths(a: Floats, b: Ints | None = None) -> Ints:
    """Lengths of the runs of equal values of ``a`` (and ``b``), both in order."""
    changes = a[1:] != a[:-1]
    if b is not None:
        changes = changes | (b[1:] != b[:-1])
    ends = np.concatenate((np.flatnonzero(changes), [a.size - 1]))
    return np.diff(np.concatenate(([-1], ends)))


def _tied(runs: Ints) -> int:
    return int((runs * (runs - 1) // 2).sum())


def inversions(ranks: Ints) -> int:
    """Number of pairs of ``ranks`` (shape ``(n,)``, whole numbers from 0) whose later member is the smaller one.

    Two ranks part at their highest differing digit: at each digit, pairs that agree above it stand in one group, and
    an inversion is a 1 before a 0. The groups are then split, keeping their order, and the next digit is looked at.
    """
    values = ranks.astype(np.int64)
    group = np.zeros(values.size, dtype=np.int64)
    total = 0
    for digit in range(int(values.max(initial=0)).bit_length() - 1, -1, -1):
        ones = (values >> digit) & 1
        before = np.cumsum(ones) - ones
        starts = np.flatnonzero(np.concatenate(([True], group[1:] != group[:-1])))
        lengths = np.diff(np.append(starts, values.size))
        ones_here = before - np.repeat(before[starts], lengths)
        zero = ones == 0
        total += int(ones_here[zero].sum())
        inner = np.arange(values.size) - np.repeat(starts, lengths)
        zeros = lengths - np.add.reduceat(ones, starts)
        first_one = np.repeat(starts + zeros, lengths)
        position = np.where(zero, np.repeat(starts, lengths) + inner - ones_here, first_one + ones_here)
        moved = np.empty_like(values)
        moved[position] = values
        values = moved
        group = values >> digit
    return total


@cache
def _orders(n: int) -> tuple[int, ...]:
    """How many orders of n have at most 0, 1, 2 … inversions."""
    counts = [1]
    for m in range(2, n + 1):
        wider = [0] * (len(counts) + m - 1)
        for position, value in enumerate(counts):
            for step in range(m):
                wider[position + step] += value
        counts = wider
    total, sums = 0, []
    for value in counts:
        total += value
        sums.append(total)
    return tuple(sums)


def _exact_p(n: int, fewest: int) -> float:
    """Two-sided p where the fewer of discordant and concordant pairs number ``fewest``."""
    at_most = _orders(n)
    if 2 * fewest == comb(n, 2):
        return 1.0
    return min(1.0, 2 * (at_most[fewest] / at_most[-1]))


def _normal_p(n: int, balance: int, ties_x: Ints, ties_y: Ints) -> float:
    """Two-sided p of the normal approximation, its variance corrected for ties (Kendall 1970)."""
    t, u = ties_x.astype(np.float64), ties_y.astype(np.float64)
    variance = (n * (n - 1.0) * (2 * n + 5) - _spread(t) - _spread(u)) / 18
    variance += float((t * (t - 1)).sum()) * float((u * (u - 1)).sum()) / (2.0 * n * (n - 1))
    if n > 2:
        both = float((t * (t - 1) * (t - 2)).sum()) * float((u * (u - 1) * (u - 2)).sum())
        variance += both / (9.0 * n * (n - 1) * (n - 2))
    if not variance > 0:
        return 1.0
    return float(erfc(abs(balance) / sqrt(variance) / sqrt(2)))


def _spread(runs: Floats) -> float:
    return float((runs * (runs - 1) * (2 * runs + 5)).sum())


def kendall_matrix(columns: list[Floats], progress: Progress = silent) -> CorrelationMatrix:
    """Kendall's τ-b of every pair of columns.

    Parameters
    ----------
    columns
        The columns, each of shape ``(rows,)``; each pair is correlated over the rows where both are present.
    progress
        Told how far the work is; whatever it raises ends it.

    Returns
    -------
    CorrelationMatrix
        Coefficients, p and n of all pairs, each of shape ``(k, k)``; NaN with a note where a pair has none.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Kendall, M. G. 1970: Rank Correlation Methods. London, Griffin.
    """
    return matrix_of_pairs("kendall", columns, kendall, progress)
