"""Which of many things a picture shows: what the eye could not tell apart is drawn once."""

import numpy as np

from culvix.stats.core.arrays import Floats, Ints

__all__ = ["bends", "distinct_positions", "few", "representative"]

_STRAIGHT = 1e-4
"""How far a point of a curve may lie off the line between its neighbours and be left out, as a share of the height."""


def few(positions: Ints, most: int) -> Ints:
    """At most ``most`` of ``positions``, spread evenly."""
    if positions.size <= most:
        return positions
    return positions[np.linspace(0, positions.size - 1, most).astype(np.int64)]


def representative(ordered: Floats, most: int) -> Ints:
    """Places of at most ``most`` of ascending values that look as all of them do.

    Half are chosen evenly by rank, so that they are dense where all are; half evenly along their range, so that there
    is no gap but where all have one. The ends are among them.
    """
    if ordered.size <= most:
        return np.arange(ordered.size)
    by_rank = few(np.arange(ordered.size), most // 2)
    along = np.linspace(ordered[0], ordered[-1], most - most // 2)
    return np.union1d(by_rank, np.minimum(np.searchsorted(ordered, along), ordered.size - 1))


def distinct_positions(ordered: Floats, most: int) -> Floats:
    """Of ascending values those that a picture can tell apart: of many, one for each small part of their range."""
    if ordered.size <= most:
        return ordered
    grid = np.linspace(ordered[0], ordered[-1], most)
    positions = np.unique(np.minimum(np.searchsorted(ordered, grid), ordered.size - 1))
    return np.asarray(ordered[positions])


def bends(y: Floats, positions: Ints) -> Ints:
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
