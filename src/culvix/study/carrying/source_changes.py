"""What is other in a table than its fingerprint says it was: rows that came and went, cells, columns."""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Bools, Ints
from culvix.stats.display import count, plural
from culvix.study.carrying.fingerprint import BLOCK, Checksums, Fingerprint, blocks_of, checksums_of, key_checksums
from culvix.tables.model.table import Table

__all__ = ["SourceChanges", "changes_of_source"]

_GONE = -1
_NAMED = 5


@dataclass(frozen=True, eq=False)
class SourceChanges:
    """How the table of now follows from that of then.

    ``now`` has shape ``(rows then,)``: the row (from 0) that each one is now, −1 where it is gone. ``key`` are the
    columns by which rows were recognised, empty where it was their number. ``changed`` says for each column that is
    there still in which rows (numbered as then) its cell is another one; in those of ``vague`` it is known for blocks
    of rows only, so that some of the rows named are as they were.
    """

    now: Ints
    key: tuple[str, ...]
    rows_now: int
    new_columns: tuple[str, ...]
    gone_columns: tuple[str, ...]
    changed: Mapping[str, Bools]
    vague: frozenset[str]

    @property
    def gone_rows(self) -> Ints:
        """The rows (numbered as then, from 0) that are gone."""
        return np.flatnonzero(self.now == _GONE)

    @property
    def new_rows(self) -> int:
        return self.rows_now - int(np.count_nonzero(self.now != _GONE))

    @property
    def sentences(self) -> list[str]:
        """The changes in words."""
        then, by = int(self.now.size), f"by {' and '.join(self.key)}" if self.key else "by their number"
        found = []
        gone, new = int(self.gone_rows.size), self.new_rows
        if gone or new:
            parts = [f"{count(new)} new" if new else "", f"{count(gone)} gone" if gone else ""]
            which = " and ".join(part for part in parts if part)
            found.append(f"{plural(self.rows_now, 'row')} where there were {count(then)}: {which}, told apart {by}.")
        for names, word in ((self.new_columns, "new"), (self.gone_columns, "gone")):
            if names:
                found.append(f"{plural(len(names), 'column')} {word}: {_listed(names)}.")
        exact = {name: int(rows.sum()) for name, rows in self.changed.items() if name not in self.vague and rows.any()}
        if exact:
            where = _listed([f"{name} ({count(cells)})" for name, cells in exact.items()])
            found.append(f"{plural(sum(exact.values()), 'cell')} changed: {where}.")
        unsure = [name for name in self.vague if self.changed[name].any()]
        if unsure:
            found.append(f"Some cells changed in {_listed(sorted(unsure))}; which ones is known only within 256 rows.")
        return found or ["No cell is another one; the file only is written in another way."]


def _listed(names: "list[str] | tuple[str, ...]") -> str:
    more = f" and {count(len(names) - _NAMED)} more" if len(names) > _NAMED else ""
    return ", ".join(names[:_NAMED]) + more


def changes_of_source(then: Fingerprint, table: Table) -> SourceChanges:
    """How ``table`` differs from the one that the fingerprint ``then`` was taken of."""
    table = table.as_read
    names = [column.name for column in table]
    now, key = _matched(then, table)
    changed, vague = {}, set()
    for name in (name for name in then.names if name in table):
        checksums = checksums_of(table[name])
        if name in then.cells:
            changed[name] = _changed_cells(then.cells[name], checksums, now)
        else:
            changed[name] = _changed_blocks(then.blocks[name], checksums, now)
            vague.add(name)
    return SourceChanges(
        now=now,
        key=key,
        rows_now=table.rows,
        new_columns=tuple(name for name in names if name not in then.names),
        gone_columns=tuple(name for name in then.names if name not in table),
        changed=changed,
        vague=frozenset(vague),
    )


def _matched(then: Fingerprint, table: Table) -> tuple[Ints, tuple[str, ...]]:
    """Which row each one is now, and the columns that tell: those of the key where they do so in both tables."""
    if then.key_cells is not None and all(name in table for name in then.key):
        found = _by_key(then.key_cells, key_checksums([table[name] for name in then.key]))
        if found is not None:
            return found, then.key
    numbers = np.arange(then.rows, dtype=np.int64)
    numbers[numbers >= table.rows] = _GONE
    return numbers, ()


def _by_key(then: Checksums, now: Checksums) -> Ints | None:
    """The row of each key now, −1 where it is gone; repeated keys pair up in order. None where most keys repeat."""
    order_then, order_now = np.argsort(then, kind="stable"), np.argsort(now, kind="stable")
    first, second = then[order_then], now[order_now]
    if np.count_nonzero(first[1:] == first[:-1]) * 2 > then.size:
        return None
    rank_then, rank_now = _ranks(first), _ranks(second)
    at = np.searchsorted(second, first) + rank_then
    inside = at < second.size
    there = np.zeros(then.size, dtype=bool)
    there[inside] = (second[at[inside]] == first[inside]) & (rank_now[at[inside]] == rank_then[inside])
    found = np.full(then.size, _GONE, dtype=np.int64)
    found[order_then[there]] = order_now[at[there]]
    return found


def _ranks(ordered: Checksums) -> Ints:
    """Of ascending keys, the how manieth of its kind each one is, from 0."""
    positions = np.arange(ordered.size, dtype=np.int64)
    begins = np.concatenate(([True], ordered[1:] != ordered[:-1])) if ordered.size else np.zeros(0, dtype=bool)
    return positions - np.maximum.accumulate(np.where(begins, positions, 0))


def _changed_cells(then: Ints, checksums: Ints, now: Ints) -> Bools:
    changed = np.zeros(now.size, dtype=bool)
    there = now != _GONE
    changed[there] = then[there] != checksums[now[there]]
    return changed


def _changed_blocks(then: Ints, checksums: Ints, now: Ints) -> Bools:
    """The rows of blocks that are other, among those that are there still."""
    there = now != _GONE
    mine = np.zeros(now.size, dtype=np.int64)
    mine[there] = checksums[now[there]]
    same = blocks_of(mine) == then
    return np.asarray(~np.repeat(same, BLOCK)[: now.size] & there)
