"""The k-th smallest of very many values that are never all written down.

The values stand in rows, ascending along each row, and can be counted up to any bound; there may be half a million
million of them. The bound is moved by interpolation between two counts until few enough values lie between, and only
those are computed and sorted. Time O(n log n) a count, memory O(n).
"""

from collections.abc import Callable

import numpy as np

from culvix.stats.arrays import Floats, Ints

__all__ = ["kth_smallest"]

_WRITE_DOWN = 2_000_000
_MOST_COUNTS = 200

Count = Callable[[float], Ints]
"""How many values of each row are at most a bound; shape ``(rows,)``."""

Value = Callable[[Ints, Ints], Floats]
"""The values at given rows and places along them."""


def kth_smallest(k: int, low: float, high: float, sizes: Ints, count: Count, value: Value) -> float:
    """The ``k``-th smallest value, k from 1, of rows of ``sizes`` values that all lie in (``low``, ``high``].

    ``count`` may be off by rounding at its bound as long as it never falls when the bound rises.
    """
    first, last = np.zeros_like(sizes), sizes
    below, within = 0, int(sizes.sum())
    limit = max(_WRITE_DOWN, 2 * sizes.size)
    for turn in range(_MOST_COUNTS):
        if within - below <= limit:
            break
        # Rounded data have many equal values; the next one may be it, which spares the way to its neighbour.
        is_next = turn % 4 == 3
        bound = _next_value(first, sizes, value) if is_next else _next_bound(k, low, high, below, within, turn)
        if not low < bound < high:
            is_next, bound = False, low / 2 + high / 2
        if not low < bound < high:
            return _between_neighbours(k, high, first, last, value)
        places = np.clip(count(bound), first, last)
        total = int(places.sum())
        if total >= k:
            if is_next:
                return bound
            high, last, within = bound, places, total
        else:
            low, first, below = bound, places, total
    return _sorted_out(k - below, first, last, value)


def _next_bound(k: int, low: float, high: float, below: int, within: int, turn: int) -> float:
    """Where to count next: near the k-th value, a little to the side whose end is farther off; sometimes half-way."""
    if turn % 6 == 4:
        return low / 2 + high / 2
    to_low, to_high = k - below, within - k
    if to_low > 4 * to_high:
        aim = k - 2 * to_high - 1
    elif to_high > 4 * to_low:
        aim = k + 2 * to_low + 1
    else:
        aim = k
    share = min(max((aim - below) / (within - below), 0.001), 0.999)
    return low + share * (high - low)


def _next_value(first: Ints, sizes: Ints, value: Value) -> float:
    """The smallest value beyond those already counted out."""
    rows = np.flatnonzero(first < sizes)
    return float(value(rows, first[rows]).min())


def _between_neighbours(k: int, high: float, first: Ints, last: Ints, value: Value) -> float:
    """All values still in question are equal but for rounding: take one of them."""
    row = int(np.argmax(last > first))
    return float(value(np.array([row]), np.array([first[row]]))[0])


def _sorted_out(k: int, first: Ints, last: Ints, value: Value) -> float:
    lengths = last - first
    rows = np.repeat(np.arange(first.size), lengths)
    starts = np.cumsum(lengths) - lengths
    places = np.arange(rows.size) - np.repeat(starts, lengths) + np.repeat(first, lengths)
    values = value(rows, places)
    return float(np.partition(values, k - 1)[k - 1])
