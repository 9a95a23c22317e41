"""The whole behind a sample as its lanes draw it: an outline of the bars, a box, and the limits with their counts."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.study.pictures.spans import Span
from culvix.study.whole.column_figures import ColumnOfWhole, NumbersOfWhole

__all__ = ["WholeBox", "WholeOutline", "whole_outline"]

_LIMITS = {"iqr": "whole, IQR", "z": "whole, z"}


@dataclass(frozen=True)
class WholeBox:
    """The quartiles of the whole, and how far values reach within the fences at 1.5 IQR: at the most to these."""

    low: float
    q1: float
    median: float
    q3: float
    high: float


@dataclass(frozen=True, eq=False)
class WholeOutline:
    """``n`` values of the whole, in places on an axis: the share of them in each bin of ``edges``, over its width.

    ``edges`` has one more place than ``shares`` and ``density``. ``box`` is None where quartiles are not known.
    """

    n: int
    edges: Floats
    shares: Floats
    density: Floats
    box: WholeBox | None
    spans: tuple[Span, ...]

    def share_at(self, position: float) -> float | None:
        """The share of the bin at a ``position``, None beyond the bins."""
        position = int(np.searchsorted(self.edges, position, side="right")) - 1
        return float(self.shares[position]) if 0 <= position < self.shares.size else None


def whole_outline(column: ColumnOfWhole | None, axis: AxisScale = MEASURED_AXIS) -> WholeOutline | None:
    """The outline of ``column`` on ``axis``; None where nothing is known of its numbers."""
    numbers = None if column is None else column.numbers
    if column is None or numbers is None or numbers.bins is None or not column.n:
        return None
    edges = axis.positions(np.array(numbers.bins.edges))
    there = np.isfinite(edges[:-1]) & np.isfinite(edges[1:])
    first, last = (int(each) for each in (there.argmax(), there.size - there[::-1].argmax()))
    edges, shares = edges[first : last + 1], np.array(numbers.bins.counts[first:last]) / column.n
    spans = tuple(_spans(numbers, axis))
    return WholeOutline(column.n, edges, shares, shares / np.diff(edges), _box(numbers, axis), spans)


def _box(numbers: NumbersOfWhole, axis: AxisScale) -> WholeBox | None:
    quartiles = [numbers.quantiles.get(each) for each in (25, 50, 75)]
    fences = next((each for each in numbers.beyond if each.method == "iqr"), None)
    if fences is None or numbers.low is None or numbers.high is None or None in quartiles:
        return None
    ends = max(numbers.low, fences.low), min(numbers.high, fences.high)
    low, q1, median, q3, high = (axis.position(each) for each in (ends[0], *quartiles, ends[1]) if each is not None)
    return WholeBox(low, q1, median, q3, high)


def _spans(numbers: NumbersOfWhole, axis: AxisScale) -> Iterator[Span]:
    for each in numbers.beyond:
        ends = axis.position(each.low), axis.position(each.high)
        yield Span(f"whole {each.method}", _LIMITS[each.method], *ends, np.zeros(0), None, (each.below, each.above))
