"""Numbers of a transformed column, and places on an axis, written in the unit the column was measured in."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.display import NumberStyle, significant
from culvix.stats.shape.axis_scale import AxisScale
from culvix.stats.shape.transform import TRANSFORMS, Scale

__all__ = ["AxisStyle", "MeasuredStyle", "inverse_of"]


def inverse_of(scale: Scale) -> Callable[[Floats], Floats] | None:
    """What takes values on ``scale`` back to the measured ones; None where the ranks or the sample decide."""
    if scale.key in TRANSFORMS:
        return TRANSFORMS[scale.key].inverse
    power = 1.0 if scale.power is None else scale.power
    if scale.key != "box_cox":
        return None
    return lambda y: np.exp(y) if power == 0 else np.maximum(power * y + 1, 0.0) ** (1 / power)


@dataclass(frozen=True)
class MeasuredStyle(NumberStyle):
    """Writes what a transformed value was measured as, with enough digits to tell neighbours apart."""

    inverse: Callable[[Floats], Floats] = field(kw_only=True)

    def _back(self, x: float | int | None) -> str:
        with np.errstate(all="ignore"):
            return significant(None if x is None else float(self.inverse(np.array(float(x)))))

    def value(self, x: float | int | None) -> str:
        return self._back(x)

    def statistic(self, x: float | int | None) -> str:
        return self._back(x)

    def interval(self, low: float, high: float) -> str:
        return f"{self._back(low)} – {self._back(high)}"

    @property
    def mean_name(self) -> str:
        return "mean, taken back"


@dataclass(frozen=True)
class AxisStyle(NumberStyle):
    """Writes places on an axis as the values that stand there, with the decimals of the column."""

    axis: AxisScale = field(kw_only=True)

    @classmethod
    def over(cls, style: NumberStyle, axis: AxisScale) -> "AxisStyle":
        """``style`` for places on ``axis``."""
        return cls(style.value_decimals, style.statistic_decimals, style.least_decimals, axis=axis)

    def value(self, x: float | int | None) -> str:
        return super().value(self._back(x))

    def statistic(self, x: float | int | None) -> str:
        return super().statistic(self._back(x))

    def interval(self, low: float, high: float) -> str:
        return f"{significant(self._back(low))} – {significant(self._back(high))}"

    def _back(self, x: float | int | None) -> float | None:
        return None if x is None else self.axis.value(float(x))
