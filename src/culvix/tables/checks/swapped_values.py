"""Values of one row that stand in each other's columns: far out where they are, ordinary when exchanged."""

from collections.abc import Iterator, Sequence
from itertools import combinations

import numpy as np

from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.display import as_typed
from culvix.tables.model.table import Column

__all__ = ["exchanged_rows", "swapped_text"]

_FAR, _ORDINARY = 4.0, 3.0
"""Robust z beyond which a value is far out, and within which it is ordinary."""

_IQR_TO_SD = 1.3489795
_FEWEST, _MOST_SHARE = 10, 0.015
_MOST_COLUMNS = 60
_SHOWN = 3


def exchanged_rows(columns: Sequence[Column]) -> Iterator[tuple[Column, Column, Ints]]:
    """Pairs of columns, and the rows (ascending, from 0) whose values in them seem to be exchanged."""
    measured = [(column, *_centre(column)) for column in columns[:_MOST_COLUMNS]]
    measured = [(column, centre, scale) for column, centre, scale in measured if scale > 0]
    if len(measured) < 2:
        return
    far = [np.abs(column.sample.values - centre) > _FAR * scale for column, centre, scale in measured]
    # Few rows are far out in two columns at once.
    if int(np.sum(far, axis=0).max()) < 2:
        return
    for (i, first), (j, second) in combinations(enumerate(measured), 2):
        rows = np.flatnonzero(far[i] & far[j])
        if not rows.size or rows.size > max(_MOST_SHARE * columns[0].rows, 3):
            continue
        a, b = first[0].sample.values[rows], second[0].sample.values[rows]
        rows = rows[_ordinary(b, *first[1:]) & _ordinary(a, *second[1:])]
        if rows.size:
            yield first[0], second[0], rows


def _centre(column: Column) -> tuple[float, float]:
    """Median and IQR in units of an SD; no scale where there are too few values."""
    x = column.sample.sorted
    if x.size < _FEWEST:
        return 0.0, 0.0
    low, middle, high = np.quantile(x, (0.25, 0.5, 0.75)).tolist()
    return middle, (high - low) / _IQR_TO_SD


def _ordinary(values: Floats, centre: float, scale: float) -> Bools:
    return np.asarray(np.abs(values - centre) < _ORDINARY * scale)


def swapped_text(first: Column, second: Column, rows: Ints) -> str:
    """What there is to ask about ``rows`` of two columns."""
    a, b = first.sample.values, second.sample.values
    pairs = [f"{as_typed(float(a[row]))} with {as_typed(float(b[row]))}" for row in rows[:_SHOWN].tolist()]
    more = " …" if rows.size > _SHOWN else ""
    return f"{first.name} and {second.name}: {', '.join(pairs)}{more} would be ordinary the other way round. Exchanged?"
