"""What one value means in a sample: its percentile, rank, distances from the centre, and the normal's expectation."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np
from scipy.special import ndtr, ndtri

from culvix.errors import StatisticsError
from culvix.stats.core.quantiles import percentile_of, quantile
from culvix.stats.core.sample import Sample
from culvix.stats.outliers.modified_z import robust_scale

__all__ = ["VALUE_AT", "Between", "ProbeReading", "between", "read_probe", "row_at"]


@dataclass(frozen=True)
class ProbeReading:
    """A value read in all ways at once; percentages from 0 to 100. None where the sample has no spread.

    ``percentile`` is the mean of the shares below and at or below; ``normal_percentile`` is where a normal with the
    sample's mean and SD would put the value.
    """

    value: float
    n: int
    percentile: float
    below: int
    equal: int
    above: int
    z: float | None
    robust_z: float | None
    normal_percentile: float | None


def read_probe(sample: Sample, value: float) -> ProbeReading | None:
    """What a sample says of one value: rank, percentile, z, robust z and what a normal would have there.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    value
        The value, in the sample's unit; it need not occur.

    Returns
    -------
    ProbeReading or None
        None without values, and for a value that is not finite.

    References
    ----------
    Iglewicz, B. & Hoaglin, D. C. 1993: How to Detect and Handle Outliers. Milwaukee, ASQC Quality Press.
    """
    centre = sample.moments
    if centre is None or not np.isfinite(value):
        return None
    below, above = sample.below(value), sample.above(value)
    with np.errstate(over="ignore"):
        scale, _ = robust_scale(sample)
    z, robust = _in_units(value, centre.mean, centre.sd), _in_units(value, sample.median, scale)
    normal = 100 * float(ndtr(z)) if z is not None else None
    percentile = percentile_of(sample, value).mean
    return ProbeReading(value, sample.n, percentile, below, sample.n - below - above, above, z, robust, normal)


def _of_rank(sample: Sample, rank: float, _: int) -> float:
    if rank != int(rank) or not 1 <= abs(rank) <= sample.n:
        raise StatisticsError(
            f"A rank is a whole number from 1 (the smallest) to {sample.n}, or from −1 (the largest) down."
        )
    return float(sample.sorted[int(rank) - 1 if rank > 0 else int(rank)])


def _of_percentile(sample: Sample, share: float, quantile_type: int) -> float:
    if not 0 <= share <= 100 or not sample.n:
        raise StatisticsError("A percentile lies between 0 and 100, in a column that has values.")
    return quantile(sample.sorted, share / 100, quantile_type)


def _of_z(sample: Sample, z: float, _: int) -> float:
    mean, sd = sample.fit
    return mean + z * sd


def _of_robust_z(sample: Sample, z: float, _: int) -> float:
    scale, why = robust_scale(sample)
    if not scale:
        raise StatisticsError(why or "There is no spread to measure distances by.")
    return sample.median + z * scale


def _of_normal(sample: Sample, share: float, _: int) -> float:
    if not 0 < share < 100:
        raise StatisticsError("A normal has a value for every percentage between 0 and 100, but not at its ends.")
    mean, sd = sample.fit
    return mean + float(ndtri(share / 100)) * sd


VALUE_AT: Mapping[str, Callable[[Sample, float, int], float]] = MappingProxyType(
    {
        "value": lambda _, value, __: value,
        "percentile": _of_percentile,
        "rank": _of_rank,
        "z": _of_z,
        "robust z": _of_robust_z,
        "normal expects": _of_normal,
    }
)
"""The value of a sample at a reading, by the reading's name; the last argument is the quantile type.

Each raises StatisticsError for a reading the sample has no value at.
"""


@dataclass(frozen=True)
class Between:
    """Rows from one value to another, both included; ``normal`` is the normal's share between them (None: no spread).

    Shares from 0 to 1.
    """

    low: float
    high: float
    rows: int
    share: float
    normal: float | None


def between(sample: Sample, one: float, other: float) -> Between | None:
    """What lies between two values (the column's unit, in either order); None for an empty sample."""
    if not sample.n:
        return None
    low, high = min(one, other), max(one, other)
    rows = sample.n - sample.below(low) - sample.above(high)
    centre = sample.moments
    normal = None
    if centre is not None and centre.sd:
        ends = (_in_units(low, centre.mean, centre.sd), _in_units(high, centre.mean, centre.sd))
        if None not in ends:
            normal = float(ndtr(ends[1]) - ndtr(ends[0]))
    return Between(low, high, rows, rows / sample.n, normal)


def row_at(sample: Sample, value: float) -> tuple[int, float] | None:
    """The first row (from 0) of the value nearest to ``value``, and that value; None for an empty sample."""
    x = sample.sorted
    if not x.size:
        return None
    position = int(np.searchsorted(x, value))
    near = [at for at in (position - 1, position) if 0 <= at < x.size]
    nearest = min(near, key=lambda at: abs(float(x[at]) - value))
    return int(sample.rows[np.searchsorted(x, x[nearest], side="left")]), float(x[nearest])


def _in_units(value: float, centre: float, scale: float | None) -> float | None:
    """Distance from ``centre`` in units of ``scale``; None without a scale, or beyond what a number can hold."""
    if not scale or not np.isfinite(scale):
        return None
    distance = (value - centre) / scale
    return distance if np.isfinite(distance) else None
