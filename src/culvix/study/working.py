"""The working set: the source with the decisions in force applied. It is always made anew from both."""

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np

from culvix.stats.arrays import Bools, Floats, Ints
from culvix.stats.sample import Sample
from culvix.study.decisions import Decision, DecisionKind
from culvix.tables.derived import derived_sample
from culvix.tables.table import Column, Table

__all__ = ["WorkingSet"]


@dataclass(frozen=True, eq=False)
class WorkingSet:
    """Which decision stands for each row and value, and the columns that result.

    The latest decision on a value counts. Excluding a row takes it out of every column; deciding otherwise later on the
    same column, or keeping a value of it in any column, brings the row back.
    """

    table: Table
    decisions: tuple[Decision, ...]
    by_value: dict[str, dict[int, Decision]] = field(default_factory=dict)
    by_row: dict[int, Decision] = field(default_factory=dict)
    _samples: dict[str, Sample] = field(default_factory=dict)

    @classmethod
    def of(cls, table: Table, decisions: Sequence[Decision]) -> "WorkingSet":
        working = cls(table, tuple(decisions))
        for decision in decisions:
            working._apply(decision)
        return working

    def _apply(self, decision: Decision) -> None:
        values = self.by_value.setdefault(decision.column, {})
        for row in decision.rows:
            values[row] = decision
            excluded = self.by_row.get(row)
            if decision.kind is DecisionKind.EXCLUDE_ROW:
                self.by_row[row] = decision
            elif excluded and (decision.kind is DecisionKind.KEEP or excluded.column == decision.column):
                del self.by_row[row]

    @cached_property
    def rows_in_use(self) -> Bools:
        mask = np.ones(self.table.rows, dtype=bool)
        mask[list(self.by_row)] = False
        return mask

    @property
    def rows_used(self) -> int:
        return self.table.rows - len(self.by_row)

    def decision_on(self, column: str, row: int) -> Decision | None:
        """The decision in force on one value: that on its row, or else the latest on the value itself."""
        return self.by_row.get(row) or self.by_value.get(column, {}).get(row)

    def decided(self, column: str) -> Ints:
        """Rows of ``column`` with any decision in force on them, ascending."""
        return np.array(sorted(set(self.by_value.get(column, {})) | set(self.by_row)), dtype=np.int64)

    def excluded(self, column: str) -> Ints:
        """Rows whose value of ``column`` is out of use, ascending."""
        derivation = self.table[column].derivation
        rows = set(self.by_row if derivation is None else self.excluded(derivation.source).tolist())
        for row, decision in self.by_value.get(column, {}).items():
            if decision.kind is DecisionKind.EXCLUDE_VALUE:
                rows.add(row)
        return np.array(sorted(rows), dtype=np.int64)

    def corrected(self, column: str) -> dict[int, float]:
        """Corrected values of ``column`` in use, by row."""
        imported = self.table[column].values
        if imported is None:
            return {}
        return {
            row: decision.value if decision.value is not None else float(imported[row]) * (decision.factor or 1.0)
            for row, decision in self.by_value.get(column, {}).items()
            if decision.kind is DecisionKind.CORRECT and row not in self.by_row
        }

    def changes(self, column: str) -> bool:
        """Whether any value of ``column`` differs from the source."""
        derivation = self.table[column].derivation
        follows = derivation is not None and self.changes(derivation.source)
        return follows or bool(self.excluded(column).size or self.corrected(column))

    def version(self, column: str) -> Hashable:
        """What the decisions make of ``column``: equal versions of a column have the same values in use."""
        if not self.changes(column):
            return ()
        derivation = self.table[column].derivation
        own = (tuple(self.excluded(column).tolist()), tuple(sorted(self.corrected(column).items())))
        return own if derivation is None else (*own, self.version(derivation.source))

    def sample(self, column: Column) -> Sample:
        """The numbers of ``column`` in use; the imported sample itself where nothing was changed."""
        if column.name not in self._samples:
            self._samples[column.name] = self._sample(column)
        return self._samples[column.name]

    def _sample(self, column: Column) -> Sample:
        if not self.changes(column.name):
            return column.sample
        base = column.sample
        if column.derivation is not None:
            base = derived_sample(self.sample(self.table[column.derivation.source]), column.derivation)
        values: Floats = base.values.copy()
        corrected = self.corrected(column.name)
        for row, value in corrected.items():
            values[row] = value
        values[self.excluded(column.name)] = np.nan
        # A corrected value has no exact whole number beside it.
        return Sample(values, None if corrected else column.integers)
