"""Which of many things a picture shows: what the eye could not tell apart is drawn once."""

import numpy as np

from culvix.stats.core.arrays import Floats, Ints

__all__ = ["bends", "distinct_positions", "few", "outermost"]

_STRAIGHT = 1e-4
"""How far a point of a curve may lie off the line between its neighbours and be left out, as a share of the height."""


def few(positions: Ints, most: int) -> Ints:
    """At most ``most`` of ``positions``, spread evenly."""
    if positions.size <= most:
        return positions
    return positions[np.linspace(0, positions.size - 1, most).astype(np.int64)]


def outermost(ordered: Ints, most: int) -> Ints:
    """At most ``most`` of what stands in order: a quarter from either end, and an even choice between."""
    if ordered.size <= most:
        return ordered
    outer = most // 4
    return np.concatenate([ordered[:outer], few(ordered[outer:-outer], most - 2 * outer), ordered[-outer:]])


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
