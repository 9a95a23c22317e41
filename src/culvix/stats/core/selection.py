"""The k-th smallest of very many values that are never all written down.

The values stand in rows, ascending along each row, and can be counted up to any bound; there may be half a million
million of them. A random few of them tell between which bounds the one sought lies; the bound is then moved by
interpolation between two counts until few enough values lie between, and only those are computed and sorted. Chance
decides how soon that is, not what is found. Time O(n log n) a count, memory O(n).
"""

from collections.abc import Callable
from math import sqrt

import numpy as np

from culvix.stats.core.arrays import Floats, Ints

__all__ = ["kth_and_next", "kth_smallest"]

_WRITE_DOWN = 2_000_000
_MOST_COUNTS = 200
_DRAWN = 100_000
_SAFE = 4.0
"""Standard errors between the share sought among those drawn and the bounds taken from them."""

Count = Callable[[float], Ints]
"""How many values of each row are at most a bound; shape ``(rows,)``."""

Value = Callable[[Ints, Ints], Floats]
"""The values at given rows and places along them."""


def kth_smallest(
    k: int, low: float, high: float, sizes: Ints, count: Count, value: Value, rounding: float = 0.0
) -> float:
    """The ``k``-th smallest value, k from 1, of rows of ``sizes`` values that all lie in (``low``, ``high``].

    ``count`` may be off by rounding at its bound as long as it never falls when the bound rises. Very many values no
    farther apart than ``rounding`` count as equal.
    """
    first, last = np.zeros_like(sizes), sizes
    below, within = 0, int(sizes.sum())
    limit = max(_WRITE_DOWN, 2 * sizes.size)
    near = _near(k, sizes, value, rounding) if within > limit else []
    for iteration in range(_MOST_COUNTS):
        if within - below <= limit:
            break
        if high - low <= rounding:
            return _between_neighbours(k, high, first, last, value)
        # Rounded data have many equal values; the next one may be it, which spares the way to its neighbour.
        is_next = not near and iteration % 4 == 3
        if near:
            bound = near.pop()
        else:
            bound = _next_value(first, sizes, value) if is_next else _next_bound(k, low, high, below, within, iteration)
        if is_next and bound >= high:
            # Nothing lies between the bounds.
            return bound
        if not low < bound < high:
            is_next, bound = False, low / 2 + high / 2
        if not low < bound < high:
            return _between_neighbours(k, high, first, last, value)
        positions = np.clip(count(bound), first, last)
        total = int(positions.sum())
        if total >= k:
            if is_next:
                return bound
            high, last, within = bound, positions, total
        else:
            low, first, below = bound, positions, total
    return _sorted_out(k - below, first, last, value)


def kth_and_next(
    k: int, low: float, high: float, sizes: Ints, count: Count, value: Value, rounding: float
) -> tuple[float, float]:
    """The ``k``-th smallest value and the one after it, as by `kth_smallest`; there are more than ``k``.

    ``rounding`` is at least what ``count`` may be off by at its bound.
    """
    found = kth_smallest(k, low, high, sizes, count, value, rounding)
    positions = np.clip(count(found + rounding), 0, sizes)
    return found, found if int(positions.sum()) > k else _next_value(positions, sizes, value)


def _near(k: int, sizes: Ints, value: Value, rounding: float) -> list[float]:
    """Bounds between which the ``k``-th value very probably lies, from a few drawn at random; the upper one last."""
    ends = np.cumsum(sizes)
    total = int(ends[-1])
    draw = np.random.Generator(np.random.PCG64(total))
    at = np.sort(draw.integers(0, total, _DRAWN))
    rows = np.searchsorted(ends, at, side="right")
    drawn = np.sort(value(rows, at - (ends[rows] - sizes[rows])))
    share = k / total
    reach = _SAFE * sqrt(share * (1 - share) / _DRAWN) + 2 / _DRAWN
    low, high = (
        float(drawn[min(max(int(position * _DRAWN), 0), _DRAWN - 1)]) for position in (share - reach, share + reach)
    )
    # Where both are one value but for rounding, it is probably the one sought, and nothing else lies around it.
    if high - low <= rounding / 2:
        low, high = low - rounding / 4, high + rounding / 4
    return [low if low < high else float(np.nextafter(high, -np.inf)), high]


def _next_bound(k: int, low: float, high: float, below: int, within: int, iteration: int) -> float:
    """Where to count next: near the k-th value, a little to the side whose end is farther off; sometimes half-way."""
    if iteration % 6 == 4:
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
    positions = np.arange(rows.size) - np.repeat(starts, lengths) + np.repeat(first, lengths)
    values = value(rows, positions)
    return float(np.partition(values, k - 1)[k - 1])
