"""Bins by hand: the width and start that a dragged edge asks for, on round numbers as fine as the pointer."""

from math import ceil, floor, isfinite, log10

from culvix.stats.core.arrays import Floats

__all__ = ["dragged_start", "dragged_width", "next_width", "round_step", "rounded"]

_NICE = (1.0, 2.0, 2.5, 5.0, 10.0)


def round_step(least: float) -> float:
    """The smallest 1, 2, 2.5 or 5 × 10^k that is not below ``least``. Raises ValueError unless that is positive."""
    if not (isfinite(least) and least > 0):
        raise ValueError("A step is a positive number.")
    power = 10.0 ** floor(log10(least))
    return next(nice * power for nice in _NICE if nice * power >= least * (1 - 1e-9))


def rounded(value: float, grain: float) -> float:
    """``value`` on the multiples of a round step not finer than ``grain``."""
    step = round_step(grain)
    return round(round(value / step) * step, 12 - floor(log10(step)))


def dragged_width(edges: Floats, position: int, value: float, grain: float, *, free: bool = False) -> float | None:
    """The width that puts edge ``position`` (from 1) at ``value`` while the first edge stays where it is.

    ``grain`` is what the pointer can tell apart, in the column's unit; the width is rounded to as much, unless
    ``free``. None where the edge was dragged to the first one or beyond.
    """
    raw = (value - float(edges[0])) / position
    if not raw > 0:
        return None
    if free:
        return raw
    step = round_step(grain / position)
    return max(rounded(raw, grain / position), step)


def dragged_start(edges: Floats, value: float, smallest: float, grain: float, *, free: bool = False) -> float:
    """The first edge that puts an edge at ``value`` and leaves nothing below; rounded as in `dragged_width`."""
    width = float(edges[1] - edges[0])
    if not free:
        value = rounded(value, grain)
    return value - ceil((value - smallest) / width) * width


def next_width(width: float, by: int) -> float:
    """The round width next above ``width`` (``by`` 1) or below it (−1)."""
    if by > 0:
        return round_step(width * (1 + 1e-6))
    power = 10.0 ** floor(log10(width))
    below = [nice * scale for scale in (power / 10, power) for nice in _NICE if nice * scale < width * (1 - 1e-6)]
    return max(below)
