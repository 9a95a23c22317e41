"""The order of many values, rows included, at the price of sorting plain whole numbers.

A double's bits, read as a whole number, stand in the order of the doubles (negative ones turned over). Its leading bits
with the row behind them make one key a value; sorting those keys is several times as quick as ordering rows by their
values. Values that differ only in the bits left out, which are few, are put in order afterwards.
"""

import numpy as np

from culvix.stats.core.arrays import Floats, Ints

__all__ = ["stable_order"]

_SHORT = 4096
_SIGN = -1 << 63


def stable_order(values: Floats, ascending: Floats | None = None) -> Ints:
    """Places of ``values`` (shape ``(n,)``, none of them NaN) in ascending order; equal values stay as they stand.

    Where the values are at hand in ``ascending`` order too, whether anything is left to be mended is seen from them.
    """
    n = values.size
    if n < _SHORT:
        return np.argsort(values, kind="stable")
    bits = np.uint64(n - 1).item().bit_length()
    # Adding zero makes one of the two zeros, which are equal.
    keys = (values + 0.0).view(np.uint64)
    # All bits of a negative number are turned over, of others the sign alone. A new array would cost as much as a step.
    flipped = keys.view(np.int64) >> 63
    flipped |= _SIGN
    keys ^= flipped.view(np.uint64)
    keys &= ~np.uint64((1 << bits) - 1)
    keys |= np.arange(n, dtype=np.uint64)
    keys.sort()
    order = np.bitwise_and(keys, np.uint64((1 << bits) - 1), out=flipped.view(np.uint64)).view(np.int64)
    if ascending is not None and not _too_near(ascending, bits):
        return order
    ranked = values[order]
    wrong = np.flatnonzero(ranked[1:] < ranked[:-1])
    if wrong.size > n // 64:
        return np.argsort(values, kind="stable")
    if wrong.size:
        _mend(order, ranked, keys >> np.uint64(bits), wrong)
    return order


def _too_near(ascending: Floats, bits: int) -> bool:
    """Whether any two neighbours that differ do so only in their last ``bits`` bits."""
    raw = ascending.view(np.uint64)
    differ = raw[1:] ^ raw[:-1]
    # Equal neighbours, 0, become the largest of all numbers.
    differ -= np.uint64(1)
    return bool((differ < np.uint64((1 << bits) - 1)).any())


def _mend(order: Ints, ranked: Floats, leading: "np.ndarray[tuple[int], np.dtype[np.uint64]]", wrong: Ints) -> None:
    """Put every run of equal ``leading`` bits that holds a ``wrong`` step in order."""
    first = np.searchsorted(leading, leading[wrong], side="left")
    last = np.searchsorted(leading, leading[wrong], side="right")
    once = np.concatenate(([True], first[1:] != first[:-1]))
    first, last = first[once], last[once]
    sizes = last - first
    # Every place in such a run, one run after the other.
    ends = np.cumsum(sizes)
    positions = np.arange(int(ends[-1])) + np.repeat(first - (ends - sizes), sizes)
    run = np.repeat(np.arange(sizes.size), sizes)
    order[positions] = order[positions][np.lexsort((order[positions], ranked[positions], run))]
