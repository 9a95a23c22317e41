"""Figures of a column whose values were counted one by one."""

import numpy as np

from culvix.tables.engines.requests import NumberExtent, PowerSums, ValueCounts

__all__ = ["extent_of", "power_sums_of"]


def extent_of(found: ValueCounts) -> NumberExtent:
    """How many numbers there are, of which kinds, and from where to where."""
    values, counts = found.values, found.counts
    low, high = (float(values[0]), float(values[-1])) if values.size else (None, None)
    zeros, negatives = (int(counts[each].sum()) for each in (values == 0, values < 0))
    return NumberExtent(int(counts.sum()), found.missing, zeros, negatives, low, high)


def power_sums_of(found: ValueCounts, scale: float) -> tuple[float, PowerSums]:
    """The mean, and the powers of the distances from it over ``scale``, summed."""
    values, counts = found.values / scale, found.counts.astype(np.float64)
    n = int(found.counts.sum())
    if not n:
        return 0.0, PowerSums(0, (0.0, 0.0, 0.0, 0.0))
    about = float(values[values.size // 2])
    centre = about + float(counts @ (values - about)) / n
    d = values - centre
    one, two, three, four = (float(counts @ d**power) for power in (1, 2, 3, 4))
    return centre * scale, PowerSums(n, (one, two, three, four))
