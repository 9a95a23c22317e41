"""What follows from a table and a document: the table as described, the working set, and analyses of columns.

A workspace never changes. Work on another thread takes the one of the moment; later acts make another, which shares all
that is the same.
"""

from math import isfinite

import numpy as np

from culvix.errors import CulvixError, StatisticsError
from culvix.stats.core.arrays import Ints
from culvix.stats.core.quantiles import quantile
from culvix.stats.shape.axis_scale import axis_scale, on_axis
from culvix.stats.shape.histogram import histogram
from culvix.study.analysis.analysis_cache import AnalysisCache
from culvix.study.analysis.column_analysis import (
    AnalysisRequest,
    ColumnAnalysis,
    ColumnPreview,
    DeferredPart,
    analyse,
    deferred_part,
)
from culvix.study.analysis.column_versions import ColumnVersions
from culvix.study.analysis.result_cache import PartCache
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.document.choices.settings import ColumnSettings, Settings
from culvix.study.document.document import Document
from culvix.study.document.marks import Mark, marked_rows
from culvix.study.document.picks import Pick
from culvix.tables.model.dictionary import Bounds, Dictionary
from culvix.tables.model.table import Column, Table

__all__ = ["Workspace"]


class Workspace:
    """The state of a study that ``document`` describes, on a table as it was read."""

    def __init__(self, document: Document, versions: ColumnVersions, before: "Workspace | None" = None) -> None:
        """``before`` is the state that this one came from, whose results are shared where they are the same.

        Raises CulvixError where a column that was worked out cannot be any more.
        """
        self.document = document
        self.versions = versions
        self.cache: AnalysisCache = AnalysisCache() if before is None else before.cache
        self.table = self._described(before)
        self.working, self.pass_begins = self._worked(before)
        """The values in use, and those that flags refer to: None in the first pass, which takes the table as read."""
        self._requests: dict[str, AnalysisRequest] = {}
        self._marked: dict[Mark, tuple[Column | None, Ints]] = {} if before is None else before._marked
        if before is None or self.table is not before.table:
            self.cache.follow(self.table)

    @classmethod
    def of(cls, document: Document, table: Table) -> "Workspace":
        """The workspace of ``document`` on ``table``, as it was read under the document's dictionary."""
        return cls(document, ColumnVersions(table, document.dictionary))

    def with_document(self, document: Document) -> "Workspace":
        """The workspace after an act that led to ``document``. Raises as the workspace."""
        return Workspace(document, self.versions, self)

    def _described(self, before: "Workspace | None") -> Table:
        document = self.document
        if before is not None and (
            document.dictionary is before.document.dictionary and document.derivations is before.document.derivations
        ):
            return before.table
        table = self.versions.table(document.dictionary, document.derivations)
        return table if before is None else before.table.with_columns(table.columns, table.key, table.source.provenance)

    def _worked(self, before: "Workspace | None") -> tuple[WorkingSet, WorkingSet | None]:
        decisions, passes = self.document.decisions, self.document.passes
        if before is not None and self.table is before.table:
            old = before.document
            if decisions == old.decisions and passes == old.passes:
                return before.working, before.pass_begins
        working = WorkingSet.of(self.table, decisions, None if before is None else before.working)
        if not passes:
            return working, None
        earlier = working if before is None else before.pass_begins or before.working
        return working, WorkingSet.of(self.table, decisions[: passes[-1]], earlier)

    @property
    def settings(self) -> Settings:
        return self.document.settings

    @property
    def dictionary(self) -> Dictionary:
        return self.document.dictionary

    @property
    def name(self) -> str:
        return self.document.name

    def bounds(self, column: str) -> Bounds:
        """The valid range declared for ``column``, None at an end that is open."""
        return self.dictionary.of(self.table[column].name).valid_range

    def quartiles(self, column: str) -> tuple[float, float]:
        """Q1 and Q3 of ``column`` as imported, by the study's convention. Raises StatisticsError without values."""
        x, kind = self.table[column].sample.sorted, self.settings.quantile_type
        return quantile(x, 0.25, kind), quantile(x, 0.75, kind)

    def check_picture(self, column: str, chosen: ColumnSettings) -> None:
        """Raise StatisticsError where ``chosen`` could not be applied to ``column``."""
        sample = self.working.sample(self.table[column])
        sample = on_axis(sample, axis_scale(sample, chosen.scale_of_axis))
        histogram(sample, chosen.bin_rule, closed=self.settings.closed, **chosen.bins)  # type: ignore[arg-type]
        if chosen.bandwidth is not None and not (isfinite(chosen.bandwidth) and chosen.bandwidth > 0):
            raise StatisticsError("A bandwidth must be a positive number.")

    def picks_of(self, column: str) -> list[Pick]:
        """What was picked in line-ups of ``column``, in order."""
        return [pick for pick in self.document.picks if pick.column == column]

    def marked(self, mark: Mark) -> Ints:
        """The rows (ascending, from 0) that ``mark`` marks; none where its column was described otherwise since."""
        column = next((column for column in self.table if column.name == mark.column), None)
        known = self._marked.get(mark)
        if known is None or known[0] is not column:
            try:
                rows = marked_rows(mark, self.table)
            except CulvixError:
                rows = np.zeros(0, dtype=np.int64)
            known = self._marked[mark] = (column, rows)
        return known[1]

    # Analyses

    def request(self, column: str) -> AnalysisRequest:
        """What is needed to analyse ``column``; may be worked out on any thread."""
        known = self._requests.get(column)
        if known is None:
            known = self._requests[column] = self._request(column)
        return known

    def _request(self, column: str) -> AnalysisRequest:
        target = self.table[column]
        flag_basis = self.pass_begins
        version = () if flag_basis is None else flag_basis.version(column)
        if flag_basis is not None and version == self.working.version(column):
            # Where nothing was decided since, they are the values in use, whose order need not be made twice.
            flag_basis = self.working
        within = self.settings.of(column).flag_within
        by = self.table[within] if within is not None and within in self.table else None
        now = self.working, self.settings, self.working.version(column)
        return AnalysisRequest(target, *now, flag_basis, version, by, self.bounds(column))

    def part_cache(self, column: str) -> PartCache:
        """Parts of analyses of ``column`` worked out so far."""
        return self.cache.parts(self.table[column])

    def known_analysis(self, column: str) -> ColumnAnalysis | None:
        """The analysis of ``column``, where it has been worked out already."""
        return self.cache.known(column, self.request(column).key)

    def analysis(self, column: str) -> ColumnAnalysis:
        """The analysis of ``column``, worked out now if need be."""
        known = self.known_analysis(column)
        if known is None:
            known = analyse(self.request(column), self.part_cache(column))
            self.cache.keep(known)
        return known

    def deferred(self, column: str) -> DeferredPart:
        """The slow figures and every outlier method of ``column``, worked out now if need be."""
        return deferred_part(self.request(column), self.part_cache(column))

    def flags_decided(self, preview: ColumnPreview) -> tuple[int, int]:
        """How many of the flagged values of a column are decided, and how many there are."""
        decided = np.isin(preview.flags.rows, self.working.decided(preview.column.name), assume_unique=True)
        return int(np.count_nonzero(decided)), int(preview.flags.rows.size)
