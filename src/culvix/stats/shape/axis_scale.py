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

__all__ = ["AXIS_SCALES", "LOG_AXIS", "MEASURED_AXIS", "AxisKind", "AxisScale", "axis_scale", "on_axis"]

_KNOTS = 2000
"""Values at which the normal quantile scale is fixed; between them it is straight."""
_SMALL_SHARE = 0.05
"""The signed log is straight around zero up to about this quantile of the sizes."""


@dataclass(frozen=True, eq=False)
class AxisScale:
    """One scale as it was made for a column.

    ``forward`` takes values (the column's unit) to places on the axis, in increasing order, and ``inverse`` back; both
    take and give arrays of one shape. Values without a place are not finite there.
    """

    key: str
    name: str
    forward: Callable[[Floats], Floats]
    inverse: Callable[[Floats], Floats]

    @property
    def is_measured(self) -> bool:
        """Whether places on the axis are the values themselves."""
        return self.key == "measured"

    def position(self, value: float) -> float:
        """Where ``value`` stands: −∞ or +∞ beyond either end of what the scale takes."""
        if self.is_measured:
            return value
        with np.errstate(all="ignore"):
            place = float(self.forward(np.array([value], dtype=np.float64))[0])
        return place if place == place else float("-inf")

    def value(self, position: float) -> float:
        """The value that stands at ``position``."""
        if self.is_measured:
            return position
        with np.errstate(all="ignore"):
            return float(self.inverse(np.array([position], dtype=np.float64))[0])

    def positions(self, values: Floats) -> Floats:
        """Where ``values`` stand, same shape; NaN or infinite where the scale has no place for one."""
        if self.is_measured:
            return values
        with np.errstate(all="ignore"):
            return np.asarray(self.forward(np.asarray(values, dtype=np.float64)))


@dataclass(frozen=True)
class AxisKind:
    """A row of `AXIS_SCALES`: its name, the values it takes, what a step of one means, and how it is made."""

    key: str
    name: str
    domain: str
    accepts: Callable[[float], bool]
    """Whether the smallest value of a column has a place."""
    make: Callable[[Sample], tuple[Callable[[Floats], Floats], Callable[[Floats], Floats]]]
    unit: str
    """What distances on the axis are measured in; empty for the column's own unit."""


def _ten_to(y: Floats) -> Floats:
    return np.power(10.0, y)


def _signed_log(sample: Sample) -> tuple[Callable[[Floats], Floats], Callable[[Floats], Floats]]:
    """sign(x) · log10(1 + \\|x\\|/c): c is the power of ten at or below what few of the values are smaller than."""
    sizes = np.sort(np.abs(sample.sorted[sample.sorted != 0]))
    small = float(sizes[int(_SMALL_SHARE * (sizes.size - 1))]) if sizes.size else 1.0
    c = 10.0 ** floor(log10(small))

    def forward(x: Floats) -> Floats:
        return np.asarray(np.sign(x) * np.log1p(np.abs(x) / c) / np.log(10))

    def inverse(y: Floats) -> Floats:
        return np.asarray(np.sign(y) * c * np.expm1(np.abs(y) * np.log(10)))

    return forward, inverse


def _normal_quantile(sample: Sample) -> tuple[Callable[[Floats], Floats], Callable[[Floats], Floats]]:
    """Straight between the normal quantiles of the values, and beyond the last ones on as between these."""
    values, times = (np.asarray(part, dtype=np.float64) for part in sample.runs)
    if values.size < 2:
        return (lambda x: x), (lambda y: y)
    ranks = np.cumsum(times) - (times - 1) / 2
    z = ndtri((ranks - 0.375) / (sample.n + 0.25))
    if values.size > _KNOTS:
        # Even along the quantiles: the tails keep theirs.
        kept = np.unique(np.searchsorted(z, np.linspace(z[0], z[-1], _KNOTS)))
        values, z = values[kept], z[kept]
    slopes = (z[1] - z[0]) / (values[1] - values[0]), (z[-1] - z[-2]) / (values[-1] - values[-2])

    def forward(x: Floats) -> Floats:
        inner = np.interp(x, values, z)
        below = np.where(x < values[0], z[0] + (x - values[0]) * slopes[0], inner)
        return np.asarray(np.where(x > values[-1], z[-1] + (x - values[-1]) * slopes[1], below))

    def inverse(y: Floats) -> Floats:
        inner = np.interp(y, z, values)
        below = np.where(y < z[0], values[0] + (y - z[0]) / slopes[0], inner)
        return np.asarray(np.where(y > z[-1], values[-1] + (y - z[-1]) / slopes[1], below))

    return forward, inverse


def _table(*rows: AxisKind) -> Mapping[str, AxisKind]:
    return MappingProxyType({row.key: row for row in rows})


AXIS_SCALES = _table(
    AxisKind("measured", "measured", "any", lambda _: True, lambda _: (lambda x: x, lambda y: y), ""),
    AxisKind("log", "log", "above 0", lambda low: low > 0, lambda _: (np.log10, _ten_to), "powers of ten"),
    AxisKind("ln1p", "ln(1 + x)", "above −1", lambda low: low > -1, lambda _: (np.log1p, np.expm1), "of ln(1 + x)"),
    AxisKind("sqrt", "square root", "not below 0", lambda low: low >= 0, lambda _: (np.sqrt, np.square), "of √x"),
    AxisKind("signed_log", "signed log", "any", lambda _: True, _signed_log, "powers of ten"),
    AxisKind("normal_quantile", "normal quantile", "any", lambda _: True, _normal_quantile, "of the normal quantile"),
)
"""The scales that an axis can have, by key."""

MEASURED_AXIS = AxisScale("measured", "measured", lambda x: x, lambda y: y)
LOG_AXIS = AxisScale("log", "log", np.log10, _ten_to)


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
    forward, inverse = kind.make(sample)
    return AxisScale(kind.key, kind.name, forward, inverse)


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
