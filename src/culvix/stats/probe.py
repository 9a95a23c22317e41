"""What one value means in a sample: its percentile, rank, distances from the centre, and the normal's expectation."""

from dataclasses import dataclass

import numpy as np
from scipy.special import ndtr

from culvix.stats.outliers.modified_z import robust_scale
from culvix.stats.quantiles import percentile_of
from culvix.stats.sample import Sample

__all__ = ["ProbeReading", "read_probe"]


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
    """Read ``value`` (the column's unit) in ``sample``; None for an empty sample or a value that is not finite."""
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


def _in_units(value: float, centre: float, scale: float | None) -> float | None:
    """Distance from ``centre`` in units of ``scale``; None without a scale, or beyond what a number can hold."""
    if not scale or not np.isfinite(scale):
        return None
    distance = (value - centre) / scale
    return distance if np.isfinite(distance) else None
