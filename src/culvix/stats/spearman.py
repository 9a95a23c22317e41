"""Spearman's rank correlation (Spearman 1904), of two columns over their pairs of present cells.

p is that of all orders for n ≤ 9, of random ones for n ≤ 30, ties or not, and from the t test on the ranks beyond
(see `culvix.stats.rank_orders`).
"""

from dataclasses import replace

from culvix.stats.arrays import Floats
from culvix.stats.correlation import (
    PairCorrelation,
    average_ranks,
    no_coefficient,
    present_pairs,
    product_moment,
    z_interval,
)
from culvix.stats.rank_orders import RESAMPLED_N, p_by_orders, products

__all__ = ["spearman", "spearman_interval"]


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
