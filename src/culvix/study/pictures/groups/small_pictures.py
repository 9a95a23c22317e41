"""Small pictures of columns, and of pairs of them, as many as stand in a square: all on an axis from 0 to 1."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

import numpy as np
from numpy.typing import NDArray

from culvix.stats.core.arrays import Floats
from culvix.stats.shape.axis_scale import AxisScale
from culvix.study.analysis.grouping import Grouping
from culvix.study.pictures.thinning import few

__all__ = ["MOST_LEVELS", "Small", "SmallPictures", "small", "small_boxes", "small_counts", "small_of_groups"]

MOST_LEVELS = 12
"""So many categories are drawn, the first ones."""

_DOTS = 260
_BARS = 24
_MOST_IN_BOX = 200_000
"""Of more values than this a box is drawn from some, spread evenly: in a cell nobody could tell."""
_QUARTERS = np.array([0.25, 0.5, 0.75])


@dataclass(frozen=True, eq=False)
class Small:
    """A column in small pictures: places 0 to 1 of some rows (shape ``(dots,)``, NaN where missing), and its bars.

    A category has no ``dots``.
    """

    dots: Floats
    bars: Floats


@dataclass(frozen=True, eq=False)
class SmallPictures:
    """The ``columns`` in small, by name; and the pairs with a category.

    ``boxes`` are of a category and a column of numbers, shape ``(levels, 5)``: lower whisker, quartiles with the median
    between them, upper whisker, NaN for an empty group. ``counts`` are of two categories, shape ``(levels, levels)``.
    """

    columns: Mapping[str, Small]
    boxes: Mapping[tuple[str, str], Floats] = field(default_factory=lambda: MappingProxyType({}))
    counts: Mapping[tuple[str, str], Floats] = field(default_factory=lambda: MappingProxyType({}))


def small(values: Floats, scale: AxisScale) -> Small:
    """The small pictures of a column's ``values`` in use (shape ``(rows,)``) on the ``scale`` of its axis."""
    rows = few(np.arange(values.size), _DOTS)
    at, known = _placed(values, scale)
    if not known.any() or not at[known].max() > 0:
        return Small(np.where(known[rows], 0.5, np.nan), np.zeros(_BARS))
    counts = np.bincount(np.minimum((at[known] * _BARS).astype(np.int64), _BARS - 1), minlength=_BARS)
    return Small(at[rows], counts / counts.max())


def _placed(values: Floats, scale: AxisScale) -> tuple[Floats, NDArray[np.bool_]]:
    """Places of ``values`` from 0, the least, to 1; and which of them have one."""
    at = np.asarray(scale.positions(values), dtype=np.float64)
    known = np.isfinite(at)
    if not known.any():
        return at, known
    low = float(at[known].min())
    reach = float(at[known].max()) - low
    return (at - low) / reach if reach > 0 else at - low, known


def small_of_groups(groups: Grouping) -> Small:
    """The first groups of a category as bars."""
    counts = np.bincount(groups.codes[groups.codes >= 0], minlength=len(groups.names))[:MOST_LEVELS]
    return Small(np.zeros(0), counts / max(int(counts.max(initial=0)), 1))


def small_boxes(groups: Grouping, values: Floats, scale: AxisScale) -> Floats:
    """A box of ``values`` (shape ``(rows,)``) for each of the first groups, shape ``(levels, 5)``, on 0 to 1.

    Whiskers end at the farthest values within one and a half times the height of the box.
    """
    at, known = _placed(values, scale)
    boxes = np.full((min(len(groups.names), MOST_LEVELS), 5), np.nan)
    for level in range(boxes.shape[0]):
        rows = few(np.flatnonzero(known & (groups.codes == level)), _MOST_IN_BOX)
        if not rows.size:
            continue
        inside = at[rows]
        quarters = np.quantile(inside, _QUARTERS)
        reach = 1.5 * (quarters[2] - quarters[0])
        near = inside[(inside >= quarters[0] - reach) & (inside <= quarters[2] + reach)]
        boxes[level] = min(near.min(), quarters[0]), *quarters, max(near.max(), quarters[2])
    return boxes


def small_counts(one: Grouping, other: Grouping) -> Floats:
    """How many rows each two of the first groups share, as parts of the most, shape ``(levels, levels)``."""
    there = (one.codes >= 0) & (other.codes >= 0) & (one.codes < MOST_LEVELS) & (other.codes < MOST_LEVELS)
    shape = min(len(one.names), MOST_LEVELS), min(len(other.names), MOST_LEVELS)
    cells = one.codes[there] * shape[1] + other.codes[there]
    counts = np.bincount(cells, minlength=shape[0] * shape[1]).reshape(shape)
    return np.asarray(counts / max(int(counts.max(initial=0)), 1))
