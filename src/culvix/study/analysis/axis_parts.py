"""What the pictures of a column show on the scale of its axis: bars, density and Q-Q points in places on it."""

from dataclasses import dataclass
from math import isfinite

from culvix.caching import cached_property
from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.display import NumberStyle
from culvix.stats.shape.axis_scale import AxisScale, axis_scale, on_axis
from culvix.stats.shape.density import Bounds, Density
from culvix.stats.shape.density_outline import density_outline
from culvix.stats.shape.histogram import Histogram
from culvix.stats.shape.qq import QQ
from culvix.stats.shape.spread_ties import spread_ties

__all__ = ["Axis", "AxisParts", "axis_of", "bounds_on"]


@dataclass(frozen=True, eq=False)
class Axis:
    """An axis of another scale than the measured one; ``sample`` and ``bounds`` are places on it.

    So is ``spread``, of values that were rounded: steps that are equal where they are measured are not so here, and
    would be taken for the shape.
    """

    scale: AxisScale
    sample: Sample
    bounds: Bounds
    spread: Sample


@dataclass(frozen=True, eq=False)
class AxisParts:
    """What is pictured, all in places on ``scale``; ``style`` writes such a place as the value that stands there."""

    scale: AxisScale
    sample: Sample
    histogram: Histogram | None
    density: Density | None
    qq: QQ | None
    style: NumberStyle

    @cached_property
    def outline(self) -> Density | None:
        """The density with no more points than can be seen."""
        return density_outline(self.density, self.sample) if self.density else None


def axis_of(sample: Sample, key: str, bounds: Bounds) -> Axis | None:
    """The axis of the scale ``key`` for the values in use; None where it is measured or does not take them all.

    A scale is refused when it is chosen; later decisions may bring back values that have no place on it.
    """
    try:
        scale = axis_scale(sample, key)
    except StatisticsError:
        return None
    if scale.is_measured:
        return None
    positions, spread = on_axis(sample, scale), spread_ties(sample)
    there = positions if spread is sample else on_axis(spread, scale)
    return Axis(scale, positions, bounds_on(scale, bounds), there)


def bounds_on(scale: AxisScale, bounds: Bounds) -> Bounds:
    """Where declared ``bounds`` (the column's unit) stand on ``scale``; None for none, and for one without a place."""
    low, high = (None if bound is None else scale.position(bound) for bound in bounds)
    return (low if low is not None and isfinite(low) else None, high if high is not None and isfinite(high) else None)
