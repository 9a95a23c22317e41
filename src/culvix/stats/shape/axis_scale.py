"""Scales for an axis of values: where a value stands on it, and which value stands at a place.

Every scale keeps the order of the values, so that ranks, quartiles and limits stay what they are; only distances on the
axis are other ones. Signed log: Webber, J. B. W. 2013: A bi-symmetric log transformation for wide-range data.
Measurement Science and Technology 24, 027001. Normal quantile: Blom 1958 positions, ties sharing their mean rank.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import floor, log10
from types import MappingProxyType

import numpy as np
from scipy.special import ndtri

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.display import count, plural, significant

__all__ = ["AXIS_SCALES", "LN_AXIS", "LOG_AXIS", "MEASURED_AXIS", "AxisKind", "AxisScale", "axis_scale", "on_axis"]

_KNOTS = 2000
"""Values at which the normal quantile scale is fixed; between them it is straight."""
_SMALLEST_POWER = -300
_SMALL_SHARE = 0.05
"""The signed log is straight around zero up to about this quantile of the sizes."""


@dataclass(frozen=True, eq=False)
class AxisScale:
    """One scale as it was made for a column: plain data, so that a picture can be drawn elsewhere.

    ``linear`` is the size around zero (the column's unit) up to which a signed log is about straight; ``values`` and
    ``quantiles`` (both ascending, one shape) are the knots of a normal quantile scale.
    """

    key: str
    name: str
    linear: float = 1.0
    values: Floats | None = None
    quantiles: Floats | None = None

    @property
    def is_measured(self) -> bool:
        """Whether places on the axis are the values themselves."""
        return self.key == "measured"

    def positions(self, values: Floats) -> Floats:
        """Where ``values`` stand, same shape; NaN or infinite where the scale has no place for one."""
        if self.is_measured:
            return values
        with np.errstate(all="ignore"):
            return np.asarray(_FORWARD[self.key](self, np.asarray(values, dtype=np.float64)))

    def values_at(self, positions: Floats) -> Floats:
        """The values that stand at ``positions``, same shape."""
        if self.is_measured:
            return positions
        with np.errstate(all="ignore"):
            return np.asarray(_INVERSE[self.key](self, np.asarray(positions, dtype=np.float64)))

    def position(self, value: float) -> float:
        """Where ``value`` stands: −∞ or +∞ beyond either end of what the scale takes."""
        position = float(self.positions(np.array([value], dtype=np.float64))[0])
        return position if position == position else float("-inf")

    def value(self, position: float) -> float:
        """The value that stands at ``position``."""
        return float(self.values_at(np.array([position], dtype=np.float64))[0])


def _bent(x: Floats, knots: Floats, heights: Floats) -> Floats:
    """Straight from knot to knot, and beyond the outer ones as between the last two."""
    first, last = ((heights[i + 1] - heights[i]) / (knots[i + 1] - knots[i]) for i in (0, knots.size - 2))
    below = np.where(x < knots[0], heights[0] + (x - knots[0]) * first, np.interp(x, knots, heights))
    return np.asarray(np.where(x > knots[-1], heights[-1] + (x - knots[-1]) * last, below))


def _to_quantiles(scale: AxisScale, x: Floats) -> Floats:
    assert scale.values is not None and scale.quantiles is not None
    return _bent(x, scale.values, scale.quantiles)


def _from_quantiles(scale: AxisScale, y: Floats) -> Floats:
    assert scale.values is not None and scale.quantiles is not None
    return _bent(y, scale.quantiles, scale.values)


_FORWARD: dict[str, Callable[[AxisScale, Floats], Floats]] = {
    "log": lambda _, x: np.log10(x),
    "ln": lambda _, x: np.log(x),
    "ln1p": lambda _, x: np.log1p(x),
    "sqrt": lambda _, x: np.sqrt(x),
    "signed_log": lambda scale, x: np.sign(x) * np.log1p(np.abs(x) / scale.linear) / np.log(10),
    "normal_quantile": _to_quantiles,
}
_INVERSE: dict[str, Callable[[AxisScale, Floats], Floats]] = {
    "log": lambda _, y: np.power(10.0, y),
    "ln": lambda _, y: np.exp(y),
    "ln1p": lambda _, y: np.expm1(y),
    "sqrt": lambda _, y: np.square(y),
    "signed_log": lambda scale, y: np.sign(y) * scale.linear * np.expm1(np.abs(y) * np.log(10)),
    "normal_quantile": _from_quantiles,
}


@dataclass(frozen=True)
class AxisKind:
    """A row of `AXIS_SCALES`: its name, the values it takes in words and as a test of the smallest one.

    ``unit`` is what distances on the axis are measured in, empty for the column's own unit.
    """

    key: str
    name: str
    domain: str
    accepts: Callable[[float], bool]
    unit: str


def _table(*rows: AxisKind) -> Mapping[str, AxisKind]:
    return MappingProxyType({row.key: row for row in rows})


AXIS_SCALES = _table(
    AxisKind("measured", "measured", "any", lambda _: True, ""),
    AxisKind("log", "log", "above 0", lambda low: low > 0, "decades"),
    AxisKind("ln1p", "ln(1 + x)", "above −1", lambda low: low > -1, "of ln(1 + x)"),
    AxisKind("sqrt", "square root", "not below 0", lambda low: low >= 0, "of √x"),
    AxisKind("signed_log", "signed log", "any", lambda _: True, "decades"),
    AxisKind("normal_quantile", "normal quantile", "any", lambda _: True, "of the normal quantile"),
)
"""The scales that an axis can have, by key."""

MEASURED_AXIS = AxisScale("measured", "measured")
LOG_AXIS = AxisScale("log", "log")
LN_AXIS = AxisScale("ln", "ln")


def _linear_part(sample: Sample) -> float:
    """The power of ten at or below the size that few of the values are smaller than."""
    sizes = np.sort(np.abs(sample.sorted[sample.sorted != 0]))
    small = float(sizes[int(_SMALL_SHARE * (sizes.size - 1))]) if sizes.size else 1.0
    return 10.0 ** max(floor(log10(small)), _SMALLEST_POWER)


def _knots(sample: Sample) -> tuple[Floats, Floats] | None:
    """Values and their normal quantiles, even along these, so that the tails keep theirs; None for one value."""
    values, times = (np.asarray(part, dtype=np.float64) for part in sample.runs)
    if values.size < 2:
        return None
    ranks = np.cumsum(times) - (times - 1) / 2
    z = np.asarray(ndtri((ranks - 0.375) / (sample.n + 0.25)))
    if values.size > _KNOTS:
        chosen = np.unique(np.searchsorted(z, np.linspace(z[0], z[-1], _KNOTS)))
        values, z = values[chosen], z[chosen]
    return values, z


def axis_scale(sample: Sample, key: str) -> AxisScale:
    """The scale called ``key``, made for the values of ``sample``.

    Parameters
    ----------
    sample
        The values in use, in any unit; missing and infinite ones are left out.
    key
        The scale, by its key in `AXIS_SCALES`.

    Raises
    ------
    StatisticsError
        For an unknown scale, and for one that has no place for some of the values, with how many these are.

    References
    ----------
    Webber, J. B. W. 2013: A bi-symmetric log transformation for wide-range data. Measurement Science and Technology 24,
    027001.
    """
    if key not in AXIS_SCALES:
        raise StatisticsError(f"There is no scale of an axis called {key!r}; there are {', '.join(AXIS_SCALES)}.")
    kind = AXIS_SCALES[key]
    if kind.key == "measured" or not sample.n:
        return MEASURED_AXIS
    if not kind.accepts(float(sample.sorted[0])):
        refused = _refused(kind, sample)
        stands = "stands" if refused == 1 else "stand"
        smallest = significant(float(sample.sorted[0]))
        raise StatisticsError(
            f"A {kind.name} axis takes values {kind.domain}: {plural(refused, 'value')} of {count(sample.n)}, "
            f"from {smallest}, {stands} nowhere on it. A signed log axis takes all."
        )
    if key == "signed_log":
        return AxisScale(key, kind.name, linear=_linear_part(sample))
    if key == "normal_quantile":
        knots = _knots(sample)
        return MEASURED_AXIS if knots is None else AxisScale(key, kind.name, values=knots[0], quantiles=knots[1])
    return AxisScale(key, kind.name)


def _refused(kind: AxisKind, sample: Sample) -> int:
    """How many of the smallest values have no place."""
    low, high = 0, sample.n
    while low < high:
        middle = (low + high) // 2
        low, high = (low, middle) if kind.accepts(float(sample.sorted[middle])) else (middle + 1, high)
    return low


def on_axis(sample: Sample, scale: AxisScale) -> Sample:
    """``sample`` in places on ``scale`` instead of values; what has no place there is missing.

    The order is the same, so that it is not sorted again.
    """
    if scale.is_measured:
        return sample
    values, ordered = scale.positions(sample.values), scale.positions(sample.sorted)
    values = np.where(np.isfinite(values), values, np.nan)
    return sample.in_same_order(values, ordered) if bool(np.isfinite(ordered).all()) else Sample(values)
