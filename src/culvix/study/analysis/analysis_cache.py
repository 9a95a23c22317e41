"""Analyses worked out so far, shared by all states of one study; those used last are kept."""

from collections.abc import Hashable, Iterable
from threading import Lock

from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.result_cache import ALL_PARTS, PartCache
from culvix.tables.model.table import Column

__all__ = ["AnalysisCache"]

_STATES_CACHED, _ALL_STATES = 8, 64


class AnalysisCache:
    """Whole analyses by what they depend on, and the parts they are made of by column; several threads may use it."""

    def __init__(self) -> None:
        self._parts: dict[Column, PartCache] = {}
        self._analyses: dict[str, dict[Hashable, ColumnAnalysis]] = {}
        self._columns = 1
        self._lock = Lock()

    def follow(self, columns: Iterable[Column]) -> None:
        """Let go of what was worked out for other columns than these.

        A column read anew, or another one of the same name, must not find what was worked out for the one before.
        """
        current = {column.name: column for column in columns}
        with self._lock:
            self._columns = max(len(current), 1)
            self._parts = {column: parts for column, parts in self._parts.items() if current.get(column.name) is column}
            self._analyses = {name: states for name, states in self._analyses.items() if name in current}

    def parts(self, column: Column) -> PartCache:
        """Parts of analyses of ``column`` worked out so far."""
        with self._lock:
            return self._parts.setdefault(column, PartCache(ALL_PARTS // self._columns))

    def known(self, column: str, key: Hashable) -> ColumnAnalysis | None:
        """The analysis of ``column`` under ``key``, None where it has not been worked out, or no longer is kept."""
        with self._lock:
            return self._analyses.get(column, {}).get(key)

    def keep(self, analysis: ColumnAnalysis) -> None:
        """Remember an analysis; of each column the latest few states are kept, so that undo and redo come at once."""
        with self._lock:
            states = self._analyses.setdefault(analysis.column.name, {})
            states[analysis.request.key] = analysis
            room = max(_ALL_STATES, 3 * self._columns)
            while len(states) > _STATES_CACHED or sum(map(len, self._analyses.values())) > room:
                most = max(self._analyses.values(), key=len)
                del most[next(iter(most))]
