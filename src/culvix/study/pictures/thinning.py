"""Which of many things a picture shows: what the eye could not tell apart is drawn once."""

import numpy as np

from culvix.stats.core.arrays import Floats, Ints

__all__ = ["distinct_positions", "few", "representative"]


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
