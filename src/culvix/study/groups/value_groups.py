"""The values of a column, or of several, in groups, with the numbers of each group."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import inf

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.describe.description import Description, describe
from culvix.study.analysis.grouping import Grouping

__all__ = ["GROUP_ORDERS", "ValueGroup", "groups_of_columns", "groups_of_values", "ordered_groups"]

GROUP_ORDERS = {"name": "by name", "n": "by size", "median": "by median", "mean": "by mean", "sd": "by SD"}
"""In which order groups stand, the largest first where it is by a number."""


@dataclass(frozen=True, eq=False)
class ValueGroup:
    """One group: its ``rows`` that have a value in use (ascending), and how many of its others have none.

    ``flagged`` counts the rows that outlier methods flag.
    """

    name: str
    rows: Ints
    sample: Sample
    description: Description
    missing: int
    flagged: int


def groups_of_values(
    values: Floats,
    groups: Grouping,
    flagged: Ints,
    *,
    quantile_type: int = 7,
    confidence: float = 0.95,
    progress: Progress = silent,
) -> tuple[ValueGroup, ...]:
    """The ``values`` in use (shape ``(rows,)``, NaN for none) in ``groups``; ``flagged`` rows are counted in each.

    Groups without a value are left out.
    """
    marks = np.zeros(values.size, dtype=bool)
    marks[flagged] = True
    # Small codes are sorted by counting.
    codes = groups.codes.astype(np.int16)
    order = np.argsort(codes, kind="stable")
    ends = np.searchsorted(codes[order], np.arange(len(groups.names) + 1))
    found = []
    for index, name in enumerate(groups.names):
        progress(index / len(groups.names), f"describing {name}")
        rows = order[ends[index] : ends[index + 1]]
        group = _group(name, values, rows, marks, quantile_type, confidence)
        if group.sample.n:
            found.append(group)
    return tuple(found)


def groups_of_columns(
    columns: Mapping[str, Floats],
    flagged: Mapping[str, Ints],
    *,
    quantile_type: int = 7,
    confidence: float = 0.95,
) -> tuple[ValueGroup, ...]:
    """Each of several ``columns`` in one unit as a group; those without a value are left out."""
    found = []
    for name, values in columns.items():
        marks = np.zeros(values.size, dtype=bool)
        marks[flagged.get(name, np.zeros(0, dtype=np.int64))] = True
        found.append(_group(name, values, np.arange(values.size), marks, quantile_type, confidence))
    return tuple(group for group in found if group.sample.n)


def _group(name: str, values: Floats, rows: Ints, flagged: Bools, quantile_type: int, confidence: float) -> ValueGroup:
    inside = values[rows]
    there = np.isfinite(inside)
    sample = Sample.of(inside[there])
    description = describe(sample, quantile_type=quantile_type, confidence=confidence)
    missing = int(rows.size - sample.n)
    return ValueGroup(name, rows[there], sample, description, missing, int(np.count_nonzero(flagged[rows])))


def ordered_groups(groups: Sequence[ValueGroup], order: str) -> tuple[ValueGroup, ...]:
    """``groups`` in one of `GROUP_ORDERS`; by name as they are, which is the order declared for their column."""
    if order == "name":
        return tuple(groups)
    numbers = [getattr(group.description, order) for group in groups]
    falling = [-inf if value is None else float(value) for value in numbers]
    return tuple(groups[at] for at in sorted(range(len(groups)), key=lambda at: -falling[at]))
