"""A smooth curve through two columns: lines fitted to the neighbours of each point, rows far off counting less."""

from dataclasses import dataclass

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.ordering import stable_order
from culvix.stats.correlation.result import present_pairs

__all__ = ["SmoothCurve", "lowess"]

_MOST_POINTS = 598
"""Places at which the curve is fitted; rows between two of them are taken together."""
_FEWEST = 4
_LEAST_SPREAD = 1e-3
"""Neighbours whose x spread over less than this share of the whole range have a mean, and no slope."""


@dataclass(frozen=True, eq=False)
class SmoothCurve:
    """The curve at ascending ``x``, of the same shape as ``y``; ``span`` is the share of rows in each fit."""

    x: Floats
    y: Floats
    span: float
    n: int

    def at(self, x: Floats) -> Floats:
        """The curve over ``x`` (shape ``(k,)``), straight between its places; NaN beyond its ends."""
        return np.interp(x, self.x, self.y, left=np.nan, right=np.nan)


@dataclass(frozen=True, eq=False)
class _Points:
    """Rows in the order of x, in blocks: where each begins, and to which block each row belongs."""

    x: Floats
    y: Floats
    starts: Ints
    block: Ints

    def sums(self, values: Floats) -> Floats:
        return np.asarray(np.add.reduceat(values, self.starts))


def lowess(x: Floats, y: Floats, *, span: float = 2 / 3, repeats: int = 3) -> SmoothCurve | None:
    """Robust locally weighted regression by straight lines.

    With many rows neighbours along x are taken together in at most 600 blocks of as many rows each, every one of them
    with its own weight: the time grows with the rows, and the curve differs from that of all rows by less than a block
    is wide.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.
    span
        Share of the rows that each line is fitted to, above 0 and up to 1.
    repeats
        How often rows far off the curve are given less weight, and the curve is fitted anew.

    Returns
    -------
    SmoothCurve or None
        The curve; None for fewer than four rows or one value along the axis.

    Raises
    ------
    StatisticsError
        For columns of different lengths, and a span that is none.

    References
    ----------
    Cleveland, W. S. 1979: Robust locally weighted regression and smoothing scatterplots. Journal of the American
    Statistical Association 74, 829-836.
    """
    if not 0 < span <= 1:
        raise StatisticsError(f"The span of a curve is a share of the rows above 0 and up to 1, not {span:g}.")
    both = present_pairs(x, y)
    a, b = x[both], y[both]
    n = int(a.size)
    if n < _FEWEST:
        return None
    low, half = float(a.min()), float(a.max()) / 2 - float(a.min()) / 2
    if not half > 0:
        return None
    middle, height = float(b.min()) / 2 + float(b.max()) / 2, float(b.max()) / 2 - float(b.min()) / 2
    order = stable_order(a)
    # Both on a range of their own, so that no square can overflow.
    points = _in_blocks((a[order] / 2 - low / 2) / half, (b[order] - middle) / (height or 1.0))
    wide = max(round(span * n), 2)
    centres = points.sums(points.x) / np.diff(np.append(points.starts, n))
    kernel = _kernel(centres, points, wide)
    weights = np.ones(n)
    fitted = _fit(kernel, centres, points, weights)
    for _ in range(repeats):
        away = np.abs(points.y - np.interp(points.x, centres, fitted))
        typical = float(np.median(away))
        if not typical > 1e-14:
            break
        weights = np.clip(1 - (away / (6 * typical)) ** 2, 0, None) ** 2
        fitted = _fit(kernel, centres, points, weights)
    return SmoothCurve(low + centres * half + centres * half, middle + fitted * height, span, n)


def _in_blocks(x: Floats, y: Floats) -> _Points:
    """Ascending ``x`` with its ``y`` in blocks of as many rows, equal values of x in one block."""
    changes = np.flatnonzero(np.concatenate(([True], x[1:] != x[:-1])))
    if changes.size > _MOST_POINTS:
        even = np.linspace(0, x.size, _MOST_POINTS, endpoint=False).astype(np.int64)
        # The values at both ends stand alone, so that the curve reaches as far as the rows do.
        ends = changes[[1, -1]]
        changes = np.union1d(changes[np.searchsorted(changes, even, side="right") - 1], ends)
    block = np.repeat(np.arange(changes.size), np.diff(np.append(changes, x.size)))
    return _Points(x, y, changes, block)


def _kernel(centres: Floats, points: _Points, wide: int) -> Floats:
    """The weight of each block in the line at each centre, shape ``(centres, blocks)``: (1 − u³)³ of the distance u.

    The unit of u is the distance to the ``wide``-th nearest row.
    """
    x, n = points.x, points.x.size
    reach = np.empty(centres.size)
    first = 0
    for position, centre in enumerate(centres):
        # The nearest rows are neighbours in the order of x, and the window of them only ever moves on.
        while first + wide < n and x[first + wide] - centre < centre - x[first]:
            first += 1
        reach[position] = max(centre - x[first], x[first + wide - 1] - centre)
    away = np.abs(centres[:, None] - centres[None, :])
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        u = np.where(reach[:, None] > 0, away / reach[:, None], np.where(away > 0, 1.0, 0.0))
    return np.asarray((1 - np.minimum(u, 1.0) ** 3) ** 3, dtype=np.float64)


def _fit(kernel: Floats, centres: Floats, points: _Points, weights: Floats) -> Floats:
    """The lines at their centres, each row with its own of ``weights`` besides."""
    sums = [points.sums(each) for each in (weights, weights * points.x, weights * points.y)]
    squares, products = points.sums(weights * points.x**2), points.sums(weights * points.x * points.y)
    with np.errstate(divide="ignore", invalid="ignore"):
        total = kernel @ sums[0]
        mean_x, mean_y = (kernel @ sums[1]) / total, (kernel @ sums[2]) / total
        spread = (kernel @ squares) / total - mean_x**2
        slope = ((kernel @ products) / total - mean_x * mean_y) / spread
        # What cannot be reckoned where there is no spread is not taken.
        flat = ~(spread > _LEAST_SPREAD**2)
        fitted = np.where(flat, mean_y, mean_y + slope * (centres - mean_x))
    # Where all neighbours were given no weight, the curve runs on from those beside it.
    known = np.isfinite(fitted)
    return fitted if known.all() else np.interp(centres, centres[known], fitted[known])
