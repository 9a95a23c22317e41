"""Whether values were noted in another unit: a factor between well-known units that makes both distributions alike."""

from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.groups.kolmogorov_smirnov import two_sample_distance

__all__ = ["FACTORS", "UnitChange", "unit_change"]

FACTORS = {
    10.0: "mm and cm, or a decimal place",
    100.0: "cm and m, or per cent and share",
    1000.0: "g and kg, mm and m, or thousands",
    1e6: "millions",
    2.54: "cm and inches",
    25.4: "mm and inches",
    0.3048: "feet and metres",
    1.609344: "miles and kilometres",
    0.45359237: "pounds and kilograms",
    28.349523125: "ounces and grams",
    60.0: "minutes and hours, or seconds and minutes",
    24.0: "hours and days",
    3600.0: "seconds and hours",
    18.0: "glucose in mg/dl and mmol/l",
}
"""Between which units a factor lies."""

_FEWEST = 20
_LEAST_DISTANCE, _ALIKE = 0.5, 0.3
"""A unit has changed where distributions are at least so far apart as they are, and at most so far once rescaled."""
_NEAR = 1.2
"""How far the ratio of both medians, and of both spreads, may be from the factor."""


@dataclass(frozen=True)
class UnitChange:
    """Values here are ``factor`` times those there, or with an ``offset``; ``between`` says which units that may be.

    ``distance`` is that of both distributions once rescaled.
    """

    factor: float
    between: str
    distance: float
    offset: float = 0.0

    def rescaled(self, values: Floats) -> Floats:
        """``values`` of the other table in the unit of this one."""
        return values * self.factor + self.offset


def unit_change(here: Sample, there: Sample) -> UnitChange | None:
    """The change of unit that explains how far two samples of one column are apart; None where none does.

    The factor and its units are proposed: who knows the tables has to say whether it is so.
    """
    if min(here.n, there.n) < _FEWEST or two_sample_distance(here.sorted, there.sorted) < _LEAST_DISTANCE:
        return None
    tried = [_factor(here, there, each, between) for known, between in FACTORS.items() for each in (known, 1 / known)]
    tried += [_degrees(here, there, 9 / 5, 32.0), _degrees(here, there, 5 / 9, -160 / 9)]
    fitting = [change for change in tried if change is not None and change.distance <= _ALIKE]
    return min(fitting, key=lambda change: change.distance, default=None)


def _factor(here: Sample, there: Sample, factor: float, between: str) -> UnitChange | None:
    ratios = _ratios(here, there)
    if ratios is None or any(not 1 / _NEAR <= ratio / factor <= _NEAR for ratio in ratios):
        return None
    return _change(here, there, factor, between, 0.0)


def _degrees(here: Sample, there: Sample, factor: float, offset: float) -> UnitChange | None:
    return _change(here, there, factor, "degrees Celsius and Fahrenheit", offset)


def _change(here: Sample, there: Sample, factor: float, between: str, offset: float) -> UnitChange:
    distance = two_sample_distance(here.sorted, there.sorted * factor + offset)
    return UnitChange(factor, between, distance, offset)


def _ratios(here: Sample, there: Sample) -> tuple[float, float] | None:
    """Of both medians, and of both middle halves; None where one of them is zero."""
    quarters = [np.quantile(sample.sorted, (0.25, 0.5, 0.75)) for sample in (here, there)]
    if not quarters[1][1] or quarters[1][2] == quarters[1][0] or quarters[0][2] == quarters[0][0]:
        return None
    widths = [float(each[2] - each[0]) for each in quarters]
    return float(quarters[0][1] / quarters[1][1]), widths[0] / widths[1]
