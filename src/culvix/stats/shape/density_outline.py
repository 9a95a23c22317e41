"""A density with no more points than can be seen."""

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.shape.density import Density

__all__ = ["density_outline"]

_POINTS = 2000
_BEYOND = 0.02
"""How far the curve is followed beyond the data, as a share of their range."""

_STRAIGHT = 1e-4
"""How far a point of a curve may lie off the line between its neighbours and be left out, as a share of the height."""


def density_outline(curve: Density, sample: Sample) -> Density:
    """``curve`` over the range of ``sample``, with its peaks and without the points where it runs straight."""
    low, high = float(sample.sorted[0]), float(sample.sorted[-1])
    reach = _BEYOND * (high - low)
    inside = np.flatnonzero((curve.x >= low - reach) & (curve.x <= high + reach))
    inside = _bends(curve.y, inside[:: max(1, -(-inside.size // _POINTS))])
    # Peaks are named by their places, which are those of the whole curve.
    inside = np.union1d(inside, np.searchsorted(curve.x, curve.peaks))
    return Density(curve.x[inside], curve.y[inside], curve.bandwidth, curve.rule, curve.n)


def _bends(y: Floats, positions: Ints) -> Ints:
    """``positions`` on the curve ``y`` without those where it runs straight, which only cost time to draw."""
    slack = _STRAIGHT * float(y[positions].max(initial=0.0))
    for _ in range(4):
        if positions.size < 5:
            break
        # Every other point stays, so that what is left out never lies far from what is kept.
        before, at, after = positions[0:-2:2], positions[1:-1:2], positions[2::2]
        share = (at - before) / (after - before)
        straight = np.abs(y[at] - (y[before] + share * (y[after] - y[before]))) <= slack
        positions = np.delete(positions, 1 + 2 * np.flatnonzero(straight))
    return positions
