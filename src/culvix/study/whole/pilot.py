"""What pilot rows of a table suggest, so that few readings of the whole are enough for exact figures."""

from dataclasses import dataclass, field
from math import frexp, inf, isfinite, ldexp, sqrt

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.quantiles import PERCENTILES, quantile
from culvix.stats.core.sample import Sample
from culvix.stats.shape.histogram import histogram

__all__ = ["Pilot", "pilot_of"]

_FEW = 24
"""A column with no more different values is counted value by value."""
_HEAVY, _MOST_HEAVY = 0.005, 6
"""Values that make up so great a share are counted by themselves, so many at the most."""
_ERRORS = (-2.5, 2.5)
"""Standard errors from a quantile at which it is counted how many values lie below."""
_MOST_BINS = 24
_SAFE_EXPONENT = 200
"""Fourth powers of values below 2**200 and above 2**-200 stay well inside a double."""


@dataclass(frozen=True, eq=False)
class Pilot:
    """A ``centre`` near the mean, ``edges`` (ascending) below which values are counted, and ``bins`` of a histogram.

    ``alone`` are values that are counted by themselves, ``seen`` the different values there were, ascending. All are in
    the column's unit; ``bins`` are among the edges.
    """

    centre: float
    edges: tuple[float, ...]
    bins: tuple[float, ...]
    alone: tuple[float, ...]
    seen: Floats = field(default_factory=lambda: np.zeros(0))
    scale: float = 1.0
    """A power of two as large as the values spread, where their fourth powers would leave the range of doubles."""


def pilot_of(values: Floats, rows: int) -> Pilot:
    """What ``values`` (finite, any order, shape ``(n,)``) suggest of a column of so many ``rows``."""
    if not values.size:
        return Pilot(0.0, (), (), ())
    sample = Sample.of(values)
    moments, (different, counts) = sample.moments, sample.runs
    seen: Floats = np.asarray(different, dtype=np.float64)
    centre = moments.mean if moments is not None and isfinite(moments.mean) else float(sample.sorted[0])
    drawn = histogram(sample, count=_MOST_BINS) if _many_bins(sample) else histogram(sample)
    bins = () if drawn is None else tuple(drawn.edges.tolist())
    if different.size <= _FEW:
        alone, marks = np.asarray(different), list[float]()
    else:
        heavy = np.argsort(-counts, kind="stable")[:_MOST_HEAVY]
        alone = np.asarray(np.sort(different[heavy[counts[heavy] >= max(_HEAVY * values.size, 3)]]))
        marks = _around_quantiles(sample, rows)
    parts = [alone, np.nextafter(alone, inf), np.array(bins), np.array(marks)]
    edges = np.unique(np.concatenate(parts))
    return Pilot(
        centre, tuple(edges[np.isfinite(edges)].tolist()), bins, tuple(alone.tolist()), seen, _scale(sample, centre)
    )


def _scale(sample: Sample, centre: float) -> float:
    low, high = float(sample.sorted[0]), float(sample.sorted[-1])
    exponent = max(frexp(high / 2 - centre / 2)[1], frexp(low / 2 - centre / 2)[1]) + 1
    return ldexp(1.0, min(max(exponent, -1000), 1000)) if abs(exponent) > _SAFE_EXPONENT and low < high else 1.0


def _many_bins(sample: Sample) -> bool:
    drawn = histogram(sample)
    return drawn is not None and drawn.counts.size > _MOST_BINS


def _around_quantiles(sample: Sample, rows: int) -> list[float]:
    """Values near each percentile, so that what lies between two of them is little of the whole."""
    n, marks = sample.n, []
    for percentile in PERCENTILES:
        p = percentile / 100
        error = sqrt(p * (1 - p) / n) if n < rows else 0.0
        marks += [quantile(sample.sorted, min(max(p + by * error, 0.0), 1.0)) for by in _ERRORS]
    return marks
