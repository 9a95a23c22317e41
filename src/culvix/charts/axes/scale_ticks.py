"""Round numbers along an axis of another scale than the measured: powers of ten first, then what fits between.

Ticks are found in pixels, so that no two numbers run into each other.
"""

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise
from math import ceil, floor, isfinite, log10

from culvix.stats.display import number, significant
from culvix.stats.shape.axis_scale import AxisScale

__all__ = ["scale_ticks", "tick_text"]

_SMALLEST, _LARGEST = 1e-300, 1e300
_DIGITS = 6
"""Significant digits of a tick; what a scale gives back is off its round number by less."""
_PLAIN = (1e-5, 1e6)
"""Sizes between these are written in full, others as powers of ten."""
_MOST_STRIDE = 600
_FINEST = 6.0
"""A number between two others is a multiple of at least this part of the gap between them."""
_SAME = 1e-9
_SLACK = 1e-3
"""How far beyond the ends of an axis, in pixels, a number still is at them."""


def tick_text(value: float) -> str:
    """A round number as it stands at an axis."""
    size = abs(value)
    if not size or not isfinite(value):
        return "0"
    if not _PLAIN[0] <= size < _PLAIN[1]:
        return number(value, 0) if size < 1 else significant(value, 3)
    digits = f"{size:.{_DIGITS}g}"
    decimals = len(digits.split(".")[1]) if "." in digits and "e" not in digits else 0
    if "e" in digits:
        decimals = max(0, -floor(log10(size)))
    return number(float(f"{value:.{_DIGITS}g}"), decimals)


@dataclass(frozen=True, eq=False)
class _Tick:
    value: float
    pixel: float


class _Finder:
    """Looks for round numbers between the places ``low`` and ``high`` of ``scale``, on an axis of ``size`` pixels.

    ``room`` says how far, in pixels, a number's middle must be from that of another one, given both as text.
    """

    def __init__(
        self, scale: AxisScale, low: float, high: float, size: float, room: Callable[[str, str], float]
    ) -> None:
        self.scale, self.low, self.room = scale, low, room
        self.pixels_per_unit = size / (high - low)
        ends = scale.value(low), scale.value(high)
        self.first, self.last = (min(max(end, -_LARGEST), _LARGEST) for end in ends)
        self.borders = _Tick(self.first, 0.0), _Tick(self.last, size)

    def tick(self, value: float) -> _Tick:
        return _Tick(value, (self.scale.position(value) - self.low) * self.pixels_per_unit)

    def is_inside(self, tick: _Tick) -> bool:
        """Whether a number is in view: between nearly equal values a scale may be too steep for a double to tell."""
        return tick.pixel + _SLACK >= 0.0 and tick.pixel - _SLACK <= self.borders[1].pixel

    def fits(self, one: _Tick, other: _Tick) -> bool:
        if not (self.is_inside(one) and self.is_inside(other)):
            return False
        distance = abs(one.pixel - other.pixel)
        if one in self.borders or other in self.borders:
            inner = one if other in self.borders else other
            return distance >= 0.5 * self.room(tick_text(inner.value), "")
        return distance >= self.room(tick_text(one.value), tick_text(other.value))

    def powers(self) -> tuple[list[_Tick], bool]:
        """Zero and the powers of ten of both signs as far as they have room, and whether none had to be left out."""
        zero = [self.tick(0.0)] if self.first <= 0 <= self.last and isfinite(self.scale.position(0.0)) else []
        zero = [tick for tick in zero if self.is_inside(tick)]
        for stride in range(1, _MOST_STRIDE):
            sides = [self._outwards_in(sign, stride, zero) for sign in (-1, 1)]
            if all(even for _, even in sides):
                found = sorted((*sides[0][0], *zero, *sides[1][0]), key=lambda tick: tick.pixel)
                return found, stride == 1
        return zero, False

    def _outwards_in(self, sign: int, stride: int, zero: list[_Tick]) -> tuple[list[_Tick], bool]:
        """Powers of one sign from the largest in, and whether all but those too near to zero have room."""
        chosen: list[_Tick] = []
        dropped = False
        for tick in filter(self.is_inside, self._powers_of(sign, stride)):
            if any(not self.fits(tick, other) for other in (*zero, *chosen[-1:])):
                dropped = True
            elif dropped:
                return chosen, False
            else:
                chosen.append(tick)
        return chosen, True

    def _powers_of(self, sign: int, stride: int) -> Iterator[_Tick]:
        largest = self.last if sign > 0 else -self.first
        smallest = self.first if sign > 0 else -self.last
        if largest <= 0:
            return
        # What lies within a pixel of zero cannot be told from it.
        near = abs(self.scale.value(self.scale.position(0.0) + sign / self.pixels_per_unit)) if smallest <= 0 else 0.0
        smallest = max(smallest, near, _SMALLEST)
        first, last = floor(log10(largest) + 1e-9), ceil(log10(smallest) - 1e-9)
        for power in range(first // stride * stride, last - 1, -stride):
            yield self.tick(sign * 10.0**power)

    def between(self, one: _Tick, other: _Tick) -> list[_Tick]:
        """The round numbers that have room between two, in order."""
        found = self._in_decade(one, other) or self._roundest(one, other)
        if not found:
            return []
        ends = [one, *found, other]
        return [tick for low, high in pairwise(ends) for tick in (*self.between(low, high), high)][:-1]

    def _in_decade(self, one: _Tick, other: _Tick) -> list[_Tick]:
        """Between two powers of ten: 2 and 5, or 3, so that all decades look alike."""
        small, large = sorted((one, other), key=lambda tick: abs(tick.value))
        if small in self.borders or large in self.borders or abs(large.value - 10 * small.value) > _SAME * large.value:
            return []
        for steps in ((2, 5), (3,)):
            ticks = sorted((self.tick(step * small.value) for step in steps), key=lambda tick: tick.pixel)
            if all(self.fits(low, high) for low, high in pairwise((one, *ticks, other))):
                return ticks
        return []

    def _roundest(self, one: _Tick, other: _Tick) -> list[_Tick]:
        """The roundest number that has room, if it is not much finer than the gap between the two."""
        reach = other.value - one.value
        if not _SMALLEST < reach < _LARGEST:
            return []
        middle = (one.pixel + other.pixel) / 2
        rung = 3 * ceil(log10(reach))
        while (step := (1, 2, 5)[rung % 3] * 10.0 ** (rung // 3)) >= reach / _FINEST:
            multiples = range(floor(one.value / step) + 1, ceil(other.value / step))
            ticks = [self.tick(multiple * step) for multiple in multiples]
            # Rounding may put a multiple on an end, and a steep scale an end elsewhere than its value.
            inside = [
                tick for tick in ticks if one.value < tick.value < other.value and one.pixel < tick.pixel < other.pixel
            ]
            fitting = [tick for tick in inside if self.fits(one, tick) and self.fits(tick, other)]
            if fitting:
                return [min(fitting, key=lambda tick: abs(tick.pixel - middle))]
            rung -= 1
        return []


@lru_cache(64)
def scale_ticks(
    scale: AxisScale, low: float, high: float, size: float, room: Callable[[str, str], float]
) -> dict[float, float]:
    """Places on ``scale`` between ``low`` and ``high`` with the round numbers there, on an axis of ``size`` pixels.

    ``room`` says how far apart, in pixels, the middles of two texts must be.
    """
    if not (isfinite(low) and isfinite(high) and high > low and size > 0):
        return {}
    finder = _Finder(scale, low, high, size, room)
    if not finder.first < finder.last:
        return {}
    ticks, all_powers = finder.powers()
    if all_powers:
        ends = [finder.borders[0], *ticks, finder.borders[1]]
        ticks = [tick for one, other in pairwise(ends) for tick in (*finder.between(one, other), other)]
        ticks = ticks[:-1]
    return {low + tick.pixel / finder.pixels_per_unit: tick.value for tick in ticks}
