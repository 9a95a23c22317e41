"""Spearman's rank correlation (Spearman 1904), of two columns and of whole tables, by pairs of present cells.

p is that of all orders for n ≤ 9, of random ones for n ≤ 30, ties or not, and from the t test on the ranks beyond
(see `culvix.stats.rank_orders`). In a matrix each column is ordered once:
the ranks within the rows that two columns share follow from that order without sorting again.
"""

from dataclasses import dataclass, replace
from math import sqrt

import numpy as np

from culvix.stats.arrays import Bools, Floats, Ints
from culvix.stats.correlation import (
    CorrelationMatrix,
    PairCorrelation,
    average_ranks,
    blank,
    no_coefficient,
    p_values,
    place,
    present_pairs,
    product_moment,
    z_interval,
)
from culvix.stats.ordering import stable_order
from culvix.stats.rank_orders import RESAMPLED_N, p_by_orders, products

__all__ = ["spearman", "spearman_interval", "spearman_matrix"]


def spearman(x: Floats, y: Floats) -> PairCorrelation:
    """Rank correlation of ``x`` and ``y`` (both shape ``(rows,)``) over their present pairs."""
    both = present_pairs(x, y)
    n = int(both.sum())
    if n < 2:
        return no_coefficient("spearman", n, f"Needs at least 2 complete pairs; there {'is' if n == 1 else 'are'} {n}.")
    a, b = average_ranks(x[both]), average_ranks(y[both])
    result = product_moment("spearman", a, b)
    if result.r is None or result.p is None:
        return result
    if n > RESAMPLED_N:
        return replace(result, p_by="t test")
    p, by = p_by_orders(n, products(a, b), result.p)
    return replace(result, p=p, p_by=by)


def spearman_interval(r: float, n: int, confidence: float = 0.95) -> tuple[float, float] | None:
    """Interval of ρ by Fisher's z with the variance (1 + ρ²/2)/(n−3) of Bonett & Wright 2000; None below n = 4."""
    return z_interval(r, (1 + r * r / 2) / (n - 3), confidence) if n > 3 else None


@dataclass(frozen=True, eq=False)
class _Ranked:
    """A column in order: its present rows by value, and for each of them the number of its run of equal values.

    ``runs`` is None where no value repeats.
    """

    mask: Bools
    order: Ints
    runs: Ints | None

    @classmethod
    def of(cls, column: Floats) -> "_Ranked":
        mask = np.isfinite(column)
        rows = np.flatnonzero(mask)
        order = rows[stable_order(column[rows])]
        values = column[order]
        steps = values[1:] != values[:-1]
        return cls(mask, order, None if steps.all() else np.concatenate(([0], np.cumsum(steps))))

    def centred(self, other: "_Ranked") -> tuple[Floats, float, int]:
        """Ranks within the rows shared with ``other``, less their mean (0 elsewhere), their sum of squares, and n."""
        shared = other.mask[self.order]
        rows = self.order[shared]
        n = rows.size
        ranks = np.zeros(self.mask.size)
        if n < 2:
            return ranks, 0.0, n
        squares = (float(n) ** 3 - n) / 12
        if self.runs is None:
            ranks[rows] = np.arange(n) - (n - 1) / 2
            return ranks, squares, n
        runs = self.runs[shared]
        starts = np.flatnonzero(np.concatenate(([True], runs[1:] != runs[:-1])))
        lengths = np.diff(np.append(starts, n))
        ranks[rows] = np.repeat(starts + (lengths - n) / 2, lengths)
        size = lengths.astype(np.float64)
        return ranks, squares - float((size**3 - size).sum()) / 12, n


def spearman_matrix(columns: list[Floats]) -> CorrelationMatrix:
    """Spearman correlation of every pair of ``columns`` (each shape ``(rows,)``), pairwise complete."""
    ranked = [_Ranked.of(column) for column in columns]
    matrix = blank("spearman", len(columns))
    for i, first in enumerate(ranked):
        own = first.centred(first)
        for j in range(i, len(columns)):
            second = ranked[j]
            same_rows = bool((first.mask == second.mask).all())
            a, aa, n = own if same_rows else first.centred(second)
            if n <= RESAMPLED_N or not aa:
                place(matrix, i, j, spearman(columns[i], columns[j]))
                continue
            b, bb, _ = second.centred(first)
            if not bb:
                place(matrix, i, j, spearman(columns[i], columns[j]))
                continue
            r = 1.0 if i == j else min(max(float(a @ b) / sqrt(aa) / sqrt(bb), -1.0), 1.0)
            place(matrix, i, j, PairCorrelation("spearman", r, float(p_values(np.array(r), np.array(float(n)))), n))
    return matrix
