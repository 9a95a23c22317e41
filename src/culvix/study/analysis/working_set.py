"""The working set: the source with the decisions in force applied. It is always made anew from both."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field
from hashlib import blake2b

import numpy as np

from culvix.caching import cached_property
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.study.document.decisions import Decision, DecisionKind
from culvix.tables.model.derived.column_rule import Cells
from culvix.tables.model.derived.derivation import derived_sample
from culvix.tables.model.table import Column, Table

__all__ = ["Corrections", "WorkingSet"]

_NONE = -1
_OUT = (DecisionKind.EXCLUDE_VALUE, DecisionKind.MISSING)


@dataclass(frozen=True, eq=False)
class Corrections:
    """The ``rows`` (from 0, ascending) of a column that were corrected, and the ``values`` they have now."""

    rows: Ints
    values: Floats

    def value(self, row: int) -> float | None:
        """The value of one row, None where it was not corrected."""
        position = int(np.searchsorted(self.rows, row))
        there = position < self.rows.size and self.rows[position] == row
        return float(self.values[position]) if there else None


_UNCORRECTED = Corrections(np.zeros(0, dtype=np.int64), np.zeros(0))


def _digest(excluded: Ints, corrected: Corrections) -> bytes:
    """The same for the same changes."""
    digest = blake2b(digest_size=16)
    for part in (excluded, corrected.rows, corrected.values):
        digest.update(np.int64(part.size).tobytes())
        digest.update(np.ascontiguousarray(part).data)
    return digest.digest()


def _in_common(before: "WorkingSet", table: Table, decisions: Sequence[Decision]) -> int:
    """How many decisions of ``before`` can be gone on from: all where it has no others, on as many rows, else none."""
    known = before.decisions
    if len(known) > len(decisions) or before.table.rows != table.rows:
        return 0
    return len(known) if all(mine is its for mine, its in zip(decisions, known, strict=False)) else 0


@dataclass(frozen=True, eq=False)
class WorkingSet:
    """Which decision stands for each row and value, and the columns that result.

    The latest decision on a value counts. Excluding a row takes it out of every column; deciding otherwise later on the
    same column, or keeping a value of it in any column, brings the row back. ``_on_values`` (by column) and
    ``_on_rows`` have shape ``(rows,)``: the place in ``decisions`` of the one that stands, −1 where there is none.
    """

    table: Table
    decisions: tuple[Decision, ...]
    _on_values: dict[str, Ints] = field(default_factory=dict)
    _samples: dict[str, Sample] = field(default_factory=dict)
    _versions: dict[str, Hashable] = field(default_factory=dict)
    _corrections: dict[str, Corrections] = field(default_factory=dict)
    _decided: dict[str, Ints] = field(default_factory=dict)
    _excluded: dict[str, Ints] = field(default_factory=dict)

    @classmethod
    def of(cls, table: Table, decisions: Sequence[Decision], before: "WorkingSet | None" = None) -> "WorkingSet":
        """The working set of ``table`` under ``decisions``; columns that are as ``before`` share its samples."""
        known = 0 if before is None else _in_common(before, table, decisions)
        working = cls(table, tuple(decisions))
        if before is not None and known:
            # One act more is one decision more, however many there are.
            working._on_values.update({name: on.copy() for name, on in before._on_values.items()})
            working.__dict__["_on_rows"] = before._on_rows.copy()
        for position in range(known, len(working.decisions)):
            working._apply(position, working.decisions[position])
        if before is not None:
            working._share(before)
        return working

    def _share(self, before: "WorkingSet") -> None:
        """Take over the samples of ``before`` that are the same here, with all that was worked out of them."""
        for name, sample in list(before._samples.items()):
            same = name in self.table and self.table[name] is before.table[name]
            if same and self.version(name) == before.version(name):
                self._samples[name] = sample

    @cached_property
    def _on_rows(self) -> Ints:
        return np.full(self.table.rows, _NONE, dtype=np.int32)

    def _apply(self, position: int, decision: Decision) -> None:
        rows = decision.rows
        for column in decision.columns:
            if column not in self._on_values:
                self._on_values[column] = np.full(self.table.rows, _NONE, dtype=np.int32)
            self._on_values[column][rows] = position
        out = self._on_rows
        if decision.kind is DecisionKind.EXCLUDE_ROW:
            out[rows] = position
            return
        there = rows[out[rows] != _NONE]
        if there.size and decision.kind is not DecisionKind.KEEP:
            own = np.array([earlier.column == decision.column for earlier in self.decisions[:position]], dtype=bool)
            there = there[own[out[there]]]
        out[there] = _NONE

    def _stands(self, column: str, *kinds: DecisionKind) -> Bools:
        """Shape ``(rows,)``: where a decision of one of ``kinds``, or of any, stands on a value of ``column``."""
        if column not in self._on_values:
            return np.zeros(self.table.rows, dtype=bool)
        on = self._on_values[column]
        if not kinds:
            return np.asarray(on != _NONE)
        # The last entry stands for −1, no decision.
        requested = np.array([decision.kind in kinds for decision in self.decisions] + [False], dtype=bool)
        return np.asarray(requested[on])

    @cached_property
    def rows_in_use(self) -> Bools:
        """Shape ``(rows,)``: which rows are not excluded."""
        return np.asarray(self._on_rows == _NONE)

    @cached_property
    def rows_out(self) -> Ints:
        """The rows that are excluded, ascending."""
        return np.flatnonzero(~self.rows_in_use)

    @property
    def rows_used(self) -> int:
        return self.table.rows - int(self.rows_out.size)

    def decides_on(self, column: str) -> bool:
        """Whether any decision was made on values of ``column``."""
        return column in self._on_values

    def decision_on(self, column: str, row: int) -> Decision | None:
        """The decision in force on one value: that on its row, or else the latest on the value itself."""
        position = int(self._on_rows[row])
        if position == _NONE and column in self._on_values:
            position = int(self._on_values[column][row])
        return None if position == _NONE else self.decisions[position]

    def decided(self, column: str) -> Ints:
        """Rows of ``column`` with any decision in force on them, ascending."""
        if not self.decisions:
            return np.zeros(0, dtype=np.int64)
        if column not in self._on_values:
            return self.rows_out
        if column not in self._decided:
            self._decided[column] = np.flatnonzero(self._stands(column) | ~self.rows_in_use)
        return self._decided[column]

    def excluded(self, column: str) -> Ints:
        """Rows whose value of ``column`` is out of use, excluded or treated as missing, ascending."""
        if not self.decisions:
            return np.zeros(0, dtype=np.int64)
        if self._follows_rows(column):
            return self.rows_out
        if column not in self._excluded:
            self._excluded[column] = np.flatnonzero(self._out(column))
        return self._excluded[column]

    def _follows_rows(self, column: str) -> bool:
        """Whether nothing but the exclusion of whole rows can change ``column``."""
        return column not in self._on_values and self.table[column].derivation is None

    def _out(self, column: str) -> Bools:
        derivation = self.table[column].derivation
        if derivation is not None and derivation.rule is not None:
            out = ~self.rows_in_use | self._lost_by_rule(column)
        else:
            out = ~self.rows_in_use if derivation is None else self._out(derivation.source)
        return out | self._stands(column, *_OUT) if column in self._on_values else out

    def _lost_by_rule(self, column: str) -> Bools:
        """Rows in which a column made by a rule has no value any more, for what it follows has none."""
        values = self.table[column].values
        assert values is not None
        return np.isfinite(values) & ~np.isfinite(self._by_rule(column))

    def _by_rule(self, column: str) -> Floats:
        """What the rule of a column makes of the values in use."""
        derivation, read = self.table[column].derivation, self.table[column].values
        assert derivation is not None and derivation.rule is not None and read is not None
        if derivation.rule.reads_texts:
            # No decision changes a text.
            return read
        columns = {name: self.table[name] for name in derivation.sources}
        cells = Cells(columns, lambda name: self.sample(self.table[name]).values)
        return derivation.rule.values(derivation.source, cells)

    def corrected(self, column: str) -> Corrections:
        """The values of ``column`` in use that were corrected."""
        if column not in self._corrections:
            self._corrections[column] = self._corrected(column)
        return self._corrections[column]

    def _corrected(self, column: str) -> Corrections:
        if column not in self._on_values:
            return _UNCORRECTED
        rows = np.flatnonzero(self._stands(column, DecisionKind.CORRECT) & self.rows_in_use)
        new = np.zeros(rows.size)
        on = self._on_values[column][rows]
        for position in np.unique(on).tolist():
            decision = self.decisions[position]
            values = {name: self._imported(name) for name in decision.columns}
            mine = np.flatnonzero(on == position)
            all_of_it = decision.corrected(column, values)
            new[mine] = all_of_it[np.searchsorted(decision.rows, rows[mine])]
        return Corrections(rows, new)

    def _imported(self, column: str) -> Floats:
        values = self.table[column].values
        return np.full(self.table.rows, np.nan) if values is None else values

    def changes(self, column: str) -> bool:
        """Whether any value of ``column`` differs from the source."""
        if not self.decisions:
            return False
        derivation = self.table[column].derivation
        follows = derivation is not None and any(map(self.changes, derivation.sources))
        return follows or bool(self.excluded(column).size or self.corrected(column).rows.size)

    def version(self, column: str) -> Hashable:
        """What the decisions make of ``column``: equal versions of a column have the same values in use."""
        if column not in self._versions:
            self._versions[column] = self._version(column)
        return self._versions[column]

    def _version(self, column: str) -> Hashable:
        if not self.changes(column):
            return ()
        if self._follows_rows(column):
            return self._version_of_rows
        derivation, own = self.table[column].derivation, _digest(self.excluded(column), self.corrected(column))
        return own if derivation is None else (own, *map(self.version, derivation.sources))

    @cached_property
    def _version_of_rows(self) -> bytes:
        return _digest(self.rows_out, _UNCORRECTED)

    def sample(self, column: Column) -> Sample:
        """The numbers of ``column`` in use; the imported sample itself where nothing was changed."""
        if column.name not in self._samples:
            self._samples[column.name] = self._sample(column)
        return self._samples[column.name]

    def _sample(self, column: Column) -> Sample:
        if not self.changes(column.name):
            return column.sample
        base = column.sample
        if column.derivation is not None and column.derivation.rule is not None:
            base = Sample(self._by_rule(column.name))
        elif column.derivation is not None:
            base = derived_sample(self.sample(self.table[column.derivation.source]), column.derivation)
        values: Floats = base.values.copy()
        corrected = self.corrected(column.name)
        values[corrected.rows] = corrected.values
        values[self.excluded(column.name)] = np.nan
        # A corrected value has no exact whole number beside it.
        return Sample(values, None if corrected.rows.size else column.integers)
