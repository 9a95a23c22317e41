"""Sums that lose nothing worth having.

Long sums are folded in halves while the rounding error of each addition is carried along (the error-free
transformation of Knuth 1969, used as in Ogita, Rump & Oishi 2005), so that the result is as good as if
it had been added up in twice the precision. Short sums use the exact sum of the standard library.
"""

from math import fsum

import numpy as np
from numpy.typing import NDArray

__all__ = ["SHORT", "binary_exponent", "careful_sum", "plain_sum"]

SHORT = 4096


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


def plain_sum(x: NDArray[np.float64]) -> float:
    """Sum of ``x`` by pairwise addition, exact for short arrays: for sums without much cancellation."""
    return fsum(x.tolist()) if x.size <= SHORT else float(x.sum())


def binary_exponent(x: NDArray[np.float64]) -> int:
    """Exponent e with ``max(|x|) < 2**e``, by which ``x`` can be scaled; 0 for an empty or all-zero array."""
    if not x.size:
        return 0
    largest = max(abs(float(x.min())), abs(float(x.max())))
    return int(np.frexp(largest)[1]) if largest else 0
