"""What pilot rows of a table suggest, so that few readings of the whole are enough for exact figures."""

from dataclasses import dataclass, field
from math import frexp, inf, isfinite, ldexp, sqrt

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.quantiles import PERCENTILES, quantile
from culvix.stats.core.sample import Sample
from culvix.stats.shape.histogram import histogram

__all__ = ["Pilot", "pilot_of", "scale_of"]

_MOST_VALUES = 100_000
"""A column that seems to have no more different values is counted value by value."""
_BLOCKS = 100
_HEAVY, _MOST_HEAVY = 0.005, 6
"""Values that make up so great a share are counted by themselves, so many at the most."""
_ERRORS = (-3.3, 3.3)
"""Standard errors from a quantile at which it is counted how many values lie below."""
_MOST_BINS, _MOST_BINS_COUNTED = 200, 24
"""Of a column whose values are counted each, and of one whose bins are."""
_SAFE_EXPONENT = 200
"""Fourth powers of values below 2**200 and above 2**-200 stay well inside a double."""


@dataclass(frozen=True, eq=False)
class Pilot:
    """A ``centre`` near the mean, ``edges`` (ascending) below which values are counted, and ``bins`` of a histogram.

    ``alone`` are values that are counted by themselves, ``seen`` the different values there were, ascending. All are in
    the column's unit; ``bins`` are among the edges. ``spread`` is the SD of what there was. The column seems to have so
    many ``different`` values, and to be ``complete`` where no row was without a finite number.
    """

    centre: float
    edges: tuple[float, ...]
    bins: tuple[float, ...]
    alone: tuple[float, ...]
    seen: Floats = field(default_factory=lambda: np.zeros(0))
    scale: float = 1.0
    """A power of two as large as the values spread, where their fourth powers would leave the range of doubles."""
    spread: float = 0.0
    different: float = inf
    complete: bool = False

    @property
    def few_values(self) -> bool:
        """Whether the column seems to have so few values that each can be counted."""
        return self.different <= _MOST_VALUES


def pilot_of(values: Floats, rows: int, fence: float = 1.5, z: float = 3.0, pilot_rows: int = 0) -> Pilot:
    """What ``values`` (finite, in the order of the table, shape ``(n,)``) suggest of a column of so many ``rows``.

    ``fence`` is how many IQR widths the fences lie beyond the quartiles, ``z`` how many SDs the z-limits lie from the
    mean; ``pilot_rows`` so many rows had the values.
    """
    if not values.size:
        return Pilot(0.0, (), (), ())
    sample = Sample.of(values)
    moments, (different, counts) = sample.moments, sample.runs
    seen: Floats = np.asarray(different, dtype=np.float64)
    centre = moments.mean if moments is not None and isfinite(moments.mean) else float(sample.sorted[0])
    about = _about_different(values, seen)
    bins = _edges(sample, _MOST_BINS if about <= _MOST_VALUES else _MOST_BINS_COUNTED)
    heavy = np.argsort(-counts, kind="stable")[:_MOST_HEAVY]
    alone = np.asarray(np.sort(different[heavy[counts[heavy] >= max(_HEAVY * values.size, 3)]]))
    marks = _around_quantiles(sample, rows, fence) + _around_z_limits(sample, rows, z)
    parts = [alone, np.nextafter(alone, inf), np.array(bins), np.array(marks)]
    edges = np.unique(np.concatenate(parts))
    below = tuple(edges[np.isfinite(edges)].tolist())
    spread = moments.sd if moments is not None and moments.sd is not None else 0.0
    return Pilot(
        centre,
        below,
        bins,
        tuple(alone.tolist()),
        seen,
        scale_of(float(sample.sorted[0]), float(sample.sorted[-1]), centre),
        spread,
        about,
        complete=values.size == pilot_rows,
    )


def _about_different(values: Floats, different: Floats) -> float:
    """How many values a table has in whose rows ``values`` the ``different`` ones are: Chao's estimator, from blocks.

    Blocks, as equal values often lie beside each other; those seen in one block alone, and in two, tell how many were
    not seen. Chao, A. (1984), Scandinavian Journal of Statistics 11, 265–270, in its form without bias.
    """
    indices = np.searchsorted(different, values)
    blocks = np.arange(values.size) * _BLOCKS // values.size
    seen_in = np.bincount(np.unique(indices * _BLOCKS + blocks) // _BLOCKS)
    once, twice = int((seen_in == 1).sum()), int((seen_in == 2).sum())
    return different.size + once * (once - 1) / (2 * (twice + 1))


def scale_of(low: float, high: float, centre: float) -> float:
    """A power of two about as large as the distances from ``centre`` of numbers from ``low`` to ``high``, 1 mostly."""
    exponent = max(frexp(high / 2 - centre / 2)[1], frexp(low / 2 - centre / 2)[1]) + 1
    return ldexp(1.0, min(max(exponent, -1000), 1000)) if abs(exponent) > _SAFE_EXPONENT and low < high else 1.0


def _edges(sample: Sample, most: int) -> tuple[float, ...]:
    """Round edges of at most so many bins."""
    drawn = histogram(sample)
    if drawn is not None and drawn.counts.size > most:
        drawn = histogram(sample, count=most)
    return () if drawn is None else tuple(drawn.edges.tolist())


def _around_quantiles(sample: Sample, rows: int, fence: float) -> list[float]:
    """Values near each percentile and each fence, so that what lies between two of them is little of the whole."""
    n, around = sample.n, {}
    for percentile in PERCENTILES:
        p = percentile / 100
        error = sqrt(p * (1 - p) / n) if n < rows else 0.0
        around[percentile] = [quantile(sample.sorted, min(max(p + by * error, 0.0), 1.0)) for by in _ERRORS]
    (a, b), (c, d) = around[25], around[75]
    least, most = fence * max(c - b, 0.0), fence * (d - a)
    # The upper fence itself is no value beyond: it is counted up to the next number.
    about_fences = [a - most, b - least, c + least, float(np.nextafter(d + most, inf))]
    return [*(each for pair in around.values() for each in pair), *about_fences]


def _around_z_limits(sample: Sample, rows: int, z: float) -> list[float]:
    """Values near the mean ± ``z`` SDs, whose error follows from the third and the fourth moment.

    Of a mean and an SD of one sample: Stuart, A. & Ord, J. K. (1994), Kendall's Advanced Theory of Statistics, vol. 1,
    §10.15.
    """
    moments, n = sample.moments, sample.n
    if moments is None or not moments.sd or moments.g1 is None or moments.g2 is None or n >= rows:
        return []
    found = []
    for side in (-z, z):
        variance = 1 + side * moments.g1 + side * side * (moments.g2 + 2) / 4
        error = moments.sd * sqrt(max(variance, 0.0) / n)
        found += [moments.mean + side * moments.sd + by * error for by in _ERRORS]
    return found
