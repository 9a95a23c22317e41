"""What the picture of two categories against each other is drawn from."""

from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.display import DASH, NumberStyle, count, number, per_cent
from culvix.study.groups.crossed import CrossedCategories

__all__ = ["CELLS", "CrossedPicture", "crossed_picture"]

CELLS = {
    "counts": "counts",
    "rows": "% of the row",
    "columns": "% of the column",
    "all": "% of all",
    "expected": "expected",
    "residuals": "residuals",
}
"""What stands in the cells, by key."""


@dataclass(frozen=True, eq=False)
class CrossedPicture:
    """Names of rows and columns with their sums, ``words`` in the cells, and a mark in each.

    ``residuals`` are standardised, shape ``(r, c)``; or ``quartiles`` of a measure are drawn, shape ``(r, c, 3)``, in
    shares of the range from the lowest to the highest of them.
    """

    down: str
    across: str
    row_names: tuple[str, ...]
    column_names: tuple[str, ...]
    row_sums: tuple[str, ...]
    column_sums: tuple[str, ...]
    words: tuple[tuple[str, ...], ...]
    tips: tuple[tuple[str, ...], ...]
    residuals: Floats
    quartiles: Floats | None
    sentence: str


def crossed_picture(
    found: CrossedCategories, cells: str = "counts", style: NumberStyle | None = None
) -> CrossedPicture:
    """The picture of ``found`` with one of `CELLS` in the cells, or medians of its measure in their ``style``."""
    counts, expected, residuals = found.counts, found.chi_square.expected, found.chi_square.residuals
    r, c = counts.shape
    nothing = np.zeros((r, c))
    expected = nothing if expected is None else expected
    residuals = nothing if residuals is None else residuals
    words = _medians(found, style or NumberStyle(2, 3)) if found.quartiles is not None else _words(found, cells)
    tips = tuple(
        tuple(
            f"{found.down.names[i]} and {found.across.names[j]}\n{count(int(counts[i, j]))} rows, "
            f"{number(float(expected[i, j]), 1)} expected, residual {number(float(residuals[i, j]), 2)}"
            for j in range(c)
        )
        for i in range(r)
    )
    i, j = np.unravel_index(int(np.argmax(np.abs(residuals))), (r, c)) if residuals.size else (0, 0)
    sentence = f"{found.down.by} by {found.across.by}, {count(found.n)} rows"
    if residuals.any():
        more = "more" if residuals[i, j] > 0 else "fewer"
        farthest = f"{found.down.names[int(i)]} and {found.across.names[int(j)]}"
        sentence += f"; farthest from chance is {farthest} with {more} than expected"
    return CrossedPicture(
        found.down.by,
        found.across.by,
        found.down.names,
        found.across.names,
        tuple(count(int(each)) for each in counts.sum(axis=1)),
        tuple(count(int(each)) for each in counts.sum(axis=0)),
        words,
        tips,
        residuals,
        _placed(found.quartiles),
        sentence,
    )


def _words(found: CrossedCategories, cells: str) -> tuple[tuple[str, ...], ...]:
    counts = found.counts
    if cells == "counts":
        return tuple(tuple(count(int(each)) for each in row) for row in counts)
    if cells in ("expected", "residuals"):
        values = getattr(found.chi_square, cells)
        if values is None:
            return tuple(tuple(DASH for _ in row) for row in counts)
        return tuple(tuple(number(float(each), 1) for each in row) for row in values)
    of = {"rows": counts.sum(axis=1, keepdims=True), "columns": counts.sum(axis=0, keepdims=True)}
    whole = np.broadcast_to(of.get(cells, counts.sum()), counts.shape)
    return tuple(
        tuple(per_cent(float(a) / float(b)) if b else DASH for a, b in zip(row, sums, strict=True))
        for row, sums in zip(counts, whole, strict=True)
    )


def _medians(found: CrossedCategories, style: NumberStyle) -> tuple[tuple[str, ...], ...]:
    assert found.quartiles is not None and found.sizes is not None
    return tuple(
        tuple(
            f"{style.statistic(float(median))}  n {count(int(n))}" if n else ""
            for median, n in zip(row[:, 1], sizes, strict=True)
        )
        for row, sizes in zip(found.quartiles, found.sizes, strict=True)
    )


def _placed(quartiles: Floats | None) -> Floats | None:
    """Quartiles as shares of their range."""
    if quartiles is None or not np.isfinite(quartiles).any():
        return quartiles
    low, high = float(np.nanmin(quartiles)), float(np.nanmax(quartiles))
    return np.asarray((quartiles - low) / ((high - low) or 1.0))
