"""p values of rank correlations from the orders themselves: of all of them for few pairs, of seeded ones for more.

Under independence every order of the second column beside the first is as likely as any other, ties or not. All orders
of up to 9 pairs are gone through; of up to 30, 9999 seeded ones, where p is (1 + as extreme) / (1 + 9999) (Davison &
Hinkley 1997). Coefficients so far out that hardly one random order reaches them are left to the approximation, but p is
never below that of the two orders at the ends.
"""

from collections.abc import Callable
from functools import cache
from math import factorial

import numpy as np
from numpy.typing import NDArray

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.resampling.simulation import SEED

__all__ = ["EXACT_N", "RESAMPLED_N", "agreement", "p_by_orders", "products"]

EXACT_N = 9
RESAMPLED_N = 30
_REPEATS = 9999
_FEW = 5
"""As many orders at least must be as extreme for their number to say something."""

_Orders = NDArray[np.int8]


@cache
def _orders(n: int) -> _Orders:
    """All orders of ``n`` places, or `_REPEATS` random ones, each in a row."""
    if n > EXACT_N:
        draw = np.random.Generator(np.random.PCG64(SEED))
        return draw.permuted(np.tile(np.arange(n, dtype=np.int8), (_REPEATS, 1)), axis=1)
    orders = np.zeros((1, 1), dtype=np.int8)
    for size in range(2, n + 1):
        # The new place goes before each of those there are, and behind them all.
        orders = np.concatenate([np.insert(orders, position, size - 1, axis=1) for position in range(size)])
    return orders


def p_by_orders(n: int, statistic: Callable[[_Orders], Ints], approximate: float) -> tuple[float, str]:
    """Two-sided p of ``n`` pairs (3 to `RESAMPLED_N`), and by which way it was found.

    ``statistic`` of orders of the second column is a whole number for each, with 0 as the mean of all. ``approximate``
    is the p to fall back on where random orders say nothing.
    """
    observed = abs(int(statistic(np.arange(n, dtype=np.int8)[None])[0]))
    extreme = int(np.count_nonzero(np.abs(statistic(_orders(n))) >= observed))
    if n <= EXACT_N:
        return extreme / factorial(n), "all orders"
    if extreme >= _FEW:
        return (1 + extreme) / (1 + _REPEATS), f"{_REPEATS} random orders"
    return max(approximate, 2 / factorial(n)), "approximation"


def products(a: Floats, b: Floats) -> Callable[[_Orders], Ints]:
    """Of orders of the average ranks ``b``: their sum of products with ``a`` less its mean, times 4n."""
    first, second = np.rint(2 * a).astype(np.int64), np.rint(2 * b).astype(np.int64)
    middle = int(first.sum()) * int(second.sum())

    def statistic(orders: _Orders) -> Ints:
        # Whole numbers this small are exact as doubles, whose products are quicker.
        sums = second.astype(np.float64)[orders] @ first.astype(np.float64)
        return np.asarray(a.size * np.rint(sums).astype(np.int64) - middle)

    return statistic


def agreement(a: Floats | Ints, b: Floats | Ints) -> Callable[[_Orders], Ints]:
    """Of orders of ``b``: concordant less discordant pairs with ``a``."""
    first, second = ((c[:, None] > c).astype(np.int8) - (c[:, None] < c) for c in (a, b))
    early, late = np.triu_indices(a.size, 1)
    signs = first[early, late]

    def statistic(orders: _Orders) -> Ints:
        balance = np.zeros(len(orders))
        for i, j, sign in zip(early, late, signs, strict=True):
            if sign:
                balance += sign * second[orders[:, i], orders[:, j]]
        return balance.astype(np.int64)

    return statistic
