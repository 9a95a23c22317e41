"""Rows of two tables matched by a key: which were added, which are gone, and which cells changed."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.errors import CulvixError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Bools, Ints
from culvix.study.another_table.matching import MatchedColumns, Matching
from culvix.tables.model.table import Column, Role, Table

__all__ = ["MOST_LISTED", "ChangedCell", "RowChanges", "compare_rows", "likely_key"]

MOST_LISTED = 10_000
"""So many changed cells are listed; all are counted."""
_LEAST_DISTINCT = 0.9
"""Cells of a key are at least so often others in other rows."""
_COMMON = 0.1
"""At least this share of the keys of the smaller table must be in both for rows to be matched unasked."""
_MARK = "\x1f"


@dataclass(frozen=True)
class ChangedCell:
    """A cell of ``column`` (its name here) in the rows (from 0) that have the same ``key``, as read in both tables."""

    column: str
    key: str
    row: int
    row_there: int
    here: str
    there: str


@dataclass(frozen=True, eq=False)
class RowChanges:
    """Rows matched by ``key`` columns: ``both`` tables have so many, ``added`` are here only, ``gone`` there only.

    Rows are counted from 0. ``repeated`` keys are in more than one row of a table, which cannot be matched.
    ``cells`` are listed up to `MOST_LISTED`; ``changed`` counts all, by column.
    """

    key: tuple[str, ...]
    both: int
    added: Ints
    gone: Ints
    repeated: int
    cells: tuple[ChangedCell, ...]
    changed: dict[str, int]


def likely_key(here: Table, there: Table, matching: Matching) -> tuple[str, ...]:
    """The column whose cells tell rows apart in both tables and are the same ones; nothing where there is none."""
    for pair in matching.pairs:
        a, b = here[pair.here], there[pair.there]
        named = a.role is Role.IDENTIFIER or b.role is Role.IDENTIFIER
        if not named or a.distinct < _LEAST_DISTINCT * a.rows or b.distinct < _LEAST_DISTINCT * b.rows:
            continue
        keys = [column.text.str.strip_chars() for column in (a, b)]
        common = keys[0].is_in(keys[1].implode()).sum()
        if common >= _COMMON * min(a.rows, b.rows):
            return (pair.here,)
    return ()


def compare_rows(
    here: Table, there: Table, matching: Matching, key: Sequence[str], progress: Progress = silent
) -> RowChanges:
    """The rows of ``here`` with those of ``there`` that have the same cells in the columns ``key`` (names here).

    Raises CulvixError for a key that is not in both tables.
    """
    pairs = {pair.here: pair for pair in matching.pairs}
    missing = [name for name in key if name not in pairs]
    if missing or not key:
        raise CulvixError(f"Rows cannot be matched by {', '.join(missing) or 'nothing'}: it is not in both tables.")
    progress(0.0, "matching rows by their key")
    keys = _keys([here[name] for name in key]), _keys([there[pairs[name].there] for name in key])
    frames = [
        pl.DataFrame({"key": each, f"row{at}": np.arange(len(each))}).drop_nulls("key") for at, each in enumerate(keys)
    ]
    repeated = sum(int(frame["key"].is_duplicated().sum()) for frame in frames)
    single = [frame.filter(~frame["key"].is_duplicated()) for frame in frames]
    joined = single[0].join(single[1], on="key", how="inner").sort("row0")
    rows = joined["row0"].to_numpy(), joined["row1"].to_numpy()
    # A key that is repeated in one table only is neither added nor gone.
    added = frames[0].join(frames[1], on="key", how="anti")["row0"].sort().to_numpy()
    gone = frames[1].join(frames[0], on="key", how="anti")["row1"].sort().to_numpy()
    cells: list[ChangedCell] = []
    changed: dict[str, int] = {}
    others = [pair for pair in matching.pairs if pair.here not in key]
    for position, pair in enumerate(others):
        progress(position / max(len(others), 1), f"comparing {pair.here}")
        different = _different(here[pair.here], there[pair.there], rows)
        found = np.flatnonzero(different)
        if found.size:
            changed[pair.here] = int(found.size)
            room = MOST_LISTED - len(cells)
            cells += _cells(here[pair.here], there[pair.there], pair, joined["key"], rows, found[:room])
    return RowChanges(tuple(key), joined.height, added, gone, repeated, tuple(cells), changed)


def _keys(columns: Sequence[Column]) -> pl.Series:
    """One text for the key of each row, null where a part of it is missing."""
    parts = [column.text.str.strip_chars().set(~pl.Series(column.present), None) for column in columns]
    frame = pl.DataFrame({str(at): part for at, part in enumerate(parts)})
    return frame.select(pl.concat_str(pl.all(), separator=_MARK).alias("key"))["key"]


def _different(here: Column, there: Column, rows: tuple[Ints, Ints]) -> Bools:
    """Where cells of matched rows differ: numbers by what they are, all else by how it is written."""
    if here.values is not None and there.values is not None:
        a, b = here.values[rows[0]], there.values[rows[1]]
        return np.asarray(~((a == b) | (np.isnan(a) & np.isnan(b))))
    texts = [
        column.text.str.strip_chars().set(~pl.Series(column.present), None).gather(at)
        for column, at in zip((here, there), rows, strict=True)
    ]
    return texts[0].ne_missing(texts[1]).to_numpy()


def _cells(
    here: Column, there: Column, pair: MatchedColumns, keys: pl.Series, rows: tuple[Ints, Ints], found: Ints
) -> list[ChangedCell]:
    made = []
    for at in found.tolist():
        row, row_there = int(rows[0][at]), int(rows[1][at])
        key = str(keys[at]).replace(_MARK, " ")
        made.append(ChangedCell(pair.here, key, row, row_there, here.cell(row), there.cell(row_there)))
    return made
