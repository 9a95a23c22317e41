"""Sums that lose nothing worth having.

Long sums are folded in halves while the rounding error of each addition is carried along (the error-free
transformation of Knuth 1969, used as in Ogita, Rump & Oishi 2005), so that the result is as good as if
it had been added up in twice the precision. Short sums use the exact sum of the standard library.
"""

from collections.abc import Callable, Iterator
from math import frexp, fsum

import numpy as np
from numpy.typing import NDArray

__all__ = [
    "BLOCK",
    "SHORT",
    "binary_exponent",
    "blocks",
    "careful_sum",
    "plain_dot",
    "plain_sum",
    "summed",
    "total",
    "total_product",
    "unit_scaled",
    "whole_sum",
]

SHORT = 4096

_EXACT_TO = 2**53

BLOCK = 8192
"""Values worked on at a time in long columns: few enough to stay in the processor's cache from step to step."""


def careful_sum(x: NDArray[np.float64]) -> float:
    """Sum of ``x`` (shape ``(n,)``, finite, no partial sum beyond the range of a double)."""
    if x.size <= SHORT:
        return fsum(x.tolist())
    high = x
    low: NDArray[np.float64] | None = None
    while high.size > SHORT:
        half = high.size // 2
        a, b, rest = high[:half], high[half : 2 * half], high[2 * half :]
        total = a + b
        part = total - a
        error = (a - (total - part)) + (b - part)
        if low is not None:
            error += low[:half] + low[half : 2 * half]
            error = np.concatenate((error, low[2 * half :]))
        elif rest.size:
            error = np.append(error, 0.0)
        high = np.concatenate((total, rest)) if rest.size else total
        low = error
    return fsum(high.tolist() + ([] if low is None else low.tolist()))


def whole_sum(x: NDArray[np.float64] | NDArray[np.int64]) -> int:
    """The exact sum of whole numbers ``x`` (shape ``(n,)``, finite), as doubles or as integers of any size."""
    if not x.size:
        return 0
    reach = max(abs(int(x.max())), abs(int(x.min())))
    if x.dtype == np.float64 and x.size * reach <= _EXACT_TO:
        # Every partial sum is a whole number that a double holds.
        return int(x.sum())
    if x.dtype == np.float64 and reach >= 2**63:
        return sum(map(int, x.tolist()))
    whole: NDArray[np.int64] = x if x.dtype == object else x.astype(np.int64)  # type: ignore[assignment]
    # Halves of 32 bits each cannot overflow for fewer than 2**31 values.
    return (int((whole >> 32).sum()) << 32) + int((whole & 0xFFFFFFFF).sum())


def plain_sum(x: NDArray[np.float64]) -> float:
    """Sum of ``x`` by pairwise addition, exact for short arrays: for sums without much cancellation."""
    return fsum(x.tolist()) if x.size <= SHORT else float(x.sum())


def plain_dot(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    """Σ a·b of two arrays of one shape, at most a block long; the addition is exact for short arrays."""
    return fsum((a * b).tolist()) if a.size <= SHORT else float(a @ b)


def total(x: NDArray[np.float64]) -> float:
    """Sum of ``x``: exact for short arrays, of exactly added blocks for long ones."""
    return plain_sum(x) if x.size <= SHORT else fsum(float(x[block].sum()) for block in blocks(x.size))


def total_product(a: NDArray[np.float64], b: NDArray[np.float64]) -> float:
    """Σ a·b of two arrays of one shape, added up as by `total`."""
    return plain_dot(a, b) if a.size <= SHORT else fsum(float(a[block] @ b[block]) for block in blocks(a.size))


def blocks(size: int) -> Iterator[slice]:
    """Slices that cut ``size`` values into blocks."""
    for start in range(0, size, BLOCK):
        yield slice(start, min(start + BLOCK, size))


def summed(x: NDArray[np.float64], part: Callable[[NDArray[np.float64]], NDArray[np.float64]]) -> float:
    """Σ ``part``(x), the function applied block by block."""
    return plain_sum(part(x)) if x.size <= SHORT else fsum(float(part(x[block]).sum()) for block in blocks(x.size))


def binary_exponent(low: float, high: float) -> int:
    """Exponent e with ``max(|x|) < 2**e`` for all x from ``low`` to ``high``; 0 where both are 0."""
    return frexp(max(abs(low), abs(high)))[1]


def unit_scaled(x: NDArray[np.float64]) -> NDArray[np.float64]:
    """A copy of ``x`` (shape ``(n,)``, finite) over a power of two, no value beyond 1; correlations do not feel it."""
    return np.ldexp(x, -binary_exponent(float(x.min()), float(x.max()))) if x.size else x.copy()
