"""The groups that a column makes of the rows of a table."""

import re
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.errors import CulvixError
from culvix.stats.core.arrays import Floats, Ints
from culvix.tables.model.table import Column, Role, Table

__all__ = ["MOST_GROUPS", "Grouping", "can_group", "grouping"]

MOST_GROUPS = 200
_LIKELY_GROUPS = 80
_ROWS_COUNTED_AT_ONCE = 20_000


@dataclass(frozen=True, eq=False)
class Grouping:
    """Which group each row is in: ``codes`` (shape ``(rows,)``) index ``names``, −1 where the cell is missing."""

    by: str
    names: tuple[str, ...]
    codes: Ints


def can_group(table: Table) -> list[str]:
    """Names of the columns that are likely to make groups, those that are meant to first."""
    meant = [c.name for c in table if c.role in (Role.CATEGORY, Role.YES_NO, Role.ORDERED)]
    others = [c for c in table if c.role in (Role.COUNT, Role.TEXT)]
    return meant + [c.name for c in others if 2 <= _few_different(c) <= _LIKELY_GROUPS]


def _few_different(column: Column) -> int:
    """How many different values a column has, where that is known or soon counted; else more than make groups."""
    if column.known_distinct is None and column.rows > _ROWS_COUNTED_AT_ONCE:
        return MOST_GROUPS + 1
    return column.distinct


def grouping(column: Column) -> Grouping:
    """The groups of ``column``, in its declared order, or else by number or name.

    Raises CulvixError where it has more than `MOST_GROUPS` different values.
    """
    if column.values is not None:
        return _by_number(column, column.values)
    text = column.text.str.strip_chars()
    shown = text.set(~pl.Series(column.present), None)
    found = [str(value) for value in shown.unique().drop_nulls().to_list()]
    _check(column.name, len(found))
    positions = {value: position for position, value in enumerate(column.order)}
    names = sorted(found, key=lambda value: (positions.get(value, len(positions)), _natural(value)))
    codes = shown.cast(pl.Enum(names)).to_physical().cast(pl.Int64).fill_null(-1).to_numpy()
    return Grouping(column.name, tuple(map(column.named, names)), codes)


def _by_number(column: Column, values: Floats) -> Grouping:
    there = np.isfinite(values)
    _check(column.name, column.distinct)
    found, first, codes = np.unique(values[there], return_index=True, return_inverse=True)
    every = np.full(values.shape, -1, dtype=np.int64)
    every[there] = codes
    rows = np.flatnonzero(there)[first]
    names = tuple(column.cell(int(row)).strip() or f"{value:g}" for row, value in zip(rows, found, strict=True))
    if len(set(names)) < len(names):
        # Two spellings of a number could have one name.
        names = tuple(f"{value:g}" for value in found)
    return Grouping(column.name, tuple(map(column.named, names)), every)


def _check(name: str, distinct: int) -> None:
    if distinct > MOST_GROUPS:
        raise CulvixError(f"{name} has {distinct} different values; at most {MOST_GROUPS} groups can be shown.")


def _natural(text: str) -> list[tuple[int, int, str]]:
    """Numbers within a text in order of size."""
    parts = re.findall(r"\d{1,18}|\D+", text)
    return [(0, int(part), "") if part.isdigit() and part.isascii() else (1, 0, part.casefold()) for part in parts]
