"""The picture of ordered codes: a bar for each, its share and the share up to it, and the middle of all."""

import numpy as np

from culvix.stats.core.arrays import Ints
from culvix.stats.core.sample import Sample
from culvix.stats.display import per_cent, plural
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.pictures.bars import BarsPicture, counted_bars, part_names, with_missing
from culvix.tables.model.table import Column

__all__ = ["codes_picture"]

_MOST_CODES = 200
_LEFT_OUT = "left out by a decision"


def codes_picture(column: Column, sample: Sample, order: str = "order", split: Column | None = None) -> BarsPicture:
    """The bars of the ordered codes of ``column``, of which ``sample`` holds those in use.

    ``order`` is ``"order"``, from the lowest code up, or ``"frequency"``; ``split`` is a column whose groups split the
    bars. Raises CulvixError where it has too many groups.
    """
    groups: Grouping | None = None if split is None else grouping(split)
    values = sample.runs[0][:_MOST_CODES]
    counts: Ints = np.bincount(np.searchsorted(values, sample.sorted).clip(max=values.size - 1), minlength=values.size)
    place = np.arange(values.size)
    if order == "frequency":
        place = np.argsort(np.argsort(-counts, kind="stable"), kind="stable")
    codes: Ints = np.full(column.rows, -1, dtype=np.int64)
    codes[sample.rows] = place[np.searchsorted(values, sample.sorted).clip(max=values.size - 1)]
    names = [""] * values.size
    for value, at in zip(values.tolist(), place.tolist(), strict=True):
        names[at] = column.named(f"{value:g}")
    kinds = ["value"] * len(names)
    out = column.present.copy()
    out[sample.rows] = False
    if out.any():
        codes[out] = len(names)
        names, kinds = [*names, _LEFT_OUT], [*kinds, "missing"]
    codes, missing = with_missing(column, codes, len(names))
    names, kinds = [*names, *missing], [*kinds, *["missing"] * len(missing)]
    return BarsPicture(
        column.title,
        sample.n,
        counted_bars(names, kinds, codes, groups),
        codes,
        _about(column, sample, counts),
        part_names(groups),
        median=int(codes[sample.rows[(sample.n - 1) // 2]]) if sample.n else None,
    )


def _about(column: Column, sample: Sample, counts: Ints) -> str:
    """The middle, the middle half and the ends, in words."""
    if not sample.n:
        return "no values"

    def at(position: int) -> str:
        return column.named(f"{float(sample.sorted[position]):g}")

    n = sample.n
    low, high = at((n - 1) // 2), at(n // 2)
    median = f"median {low}" if low == high else f"median between {low} and {high}"
    ends = f"lowest {per_cent(int(counts[0]) / n)}, highest {per_cent(int(counts[-1]) / n)}"
    middle = f"middle half from {at((n - 1) // 4)} to {at(n - 1 - (n - 1) // 4)}"
    return f"{plural(counts.size, 'code')} · {median} · {middle} · {ends}"
