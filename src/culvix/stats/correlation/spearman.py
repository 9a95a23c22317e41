"""Spearman's rank correlation (Spearman 1904), of two columns over their pairs of present cells.

p is that of all orders for n ≤ 9, of random ones for n ≤ 30, ties or not, and from the t test on the ranks beyond
(see `culvix.stats.correlation.rank_permutations`).
"""

from dataclasses import replace

from culvix.stats.core.arrays import Floats
from culvix.stats.correlation.intervals import z_interval
from culvix.stats.correlation.pair_sums import average_ranks, product_moment
from culvix.stats.correlation.rank_permutations import RESAMPLED_N, p_by_orders, products
from culvix.stats.correlation.result import PairCorrelation, no_coefficient, present_pairs

__all__ = ["spearman", "spearman_interval"]


def spearman(x: Floats, y: Floats) -> PairCorrelation:
    """Spearman's rank correlation of two columns, ties sharing their mean rank.

    ``p_by`` of the result says how p was found: by all orders to n = 9, by random ones to n = 30, by the t test beyond.

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
    Spearman, C. 1904: The proof and measurement of association between two things. American Journal of Psychology 15,
    72-101.
    """
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
    """Interval of Spearman's ρ by Fisher's z, with the variance (1 + ρ²/2)/(n−3).

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
        Both ends; None below n = 4 and for r = ±1.

    Raises
    ------
    StatisticsError
        For a confidence that does not lie between 0 and 1.

    References
    ----------
    Bonett, D. G. & Wright, T. A. 2000: Sample size requirements for estimating Pearson, Kendall and Spearman
    correlations. Psychometrika 65, 23-28.
    """
    return z_interval(r, (1 + r * r / 2) / (n - 3), confidence) if n > 3 else None
