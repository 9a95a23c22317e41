"""Where a function crosses zero."""

from collections.abc import Callable
from dataclasses import dataclass
from math import sqrt

__all__ = ["root_between"]

_MOST = 200


@dataclass(frozen=True)
class _Point:
    x: float
    y: float


def root_between(f: Callable[[float], float], low: float, high: float, tolerance: float) -> float:
    """A root of ``f``, whose values at ``low`` and ``high`` do not have the same sign, to the relative ``tolerance``.

    Inverse quadratic interpolation where that is safe, else halving (Chandrupatla 1997).
    """
    newest, across = _Point(low, f(low)), _Point(high, f(high))
    share = 0.5
    for _ in range(_MOST):
        best = newest if abs(newest.y) < abs(across.y) else across
        width = abs(across.x - newest.x)
        if not best.y or width <= 2 * tolerance * abs(best.x):
            return best.x
        x = newest.x + share * (across.x - newest.x)
        here = _Point(x, f(x))
        # The root stays between the newest point and the one across.
        if (here.y > 0) == (newest.y > 0):
            before = newest
        else:
            before, across = across, newest
        newest = here
        least = min(tolerance * abs(newest.x) / abs(across.x - newest.x), 0.5) if across.x != newest.x else 0.5
        share = min(max(_share(newest, across, before), least), 1 - least)
    return newest.x


def _share(newest: _Point, across: _Point, before: _Point) -> float:
    """Which part of the way from the newest point to the one across to go."""
    along = (newest.x - across.x) / (before.x - across.x)
    up = (newest.y - across.y) / (before.y - across.y) if before.y != across.y else 0.0
    if not (0 <= along <= 1 and 1 - sqrt(1 - along) < up < sqrt(along)):
        return 0.5
    a, b, c = newest.y, across.y, before.y
    beyond = (before.x - newest.x) / (across.x - newest.x)
    return a / (a - b) * c / (c - b) - beyond * a / (c - a) * b / (b - c)
