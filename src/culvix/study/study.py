"""The study: one table, its settings and decisions, what is selected, and who wants to know when something changes."""

from collections.abc import Callable, Hashable, Iterable, Mapping
from dataclasses import replace
from datetime import UTC, datetime
from math import isfinite

import numpy as np

from culvix.errors import DecisionError, StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Ints
from culvix.stats.core.quantiles import quantile
from culvix.stats.shape.histogram import histogram
from culvix.stats.shape.transform import Scale
from culvix.study.analysis.column_analysis import (
    AnalysisRequest,
    ColumnAnalysis,
    ColumnPreview,
    DeferredPart,
    analyse,
    deferred_part,
)
from culvix.study.analysis.outliers.flags import valid_range
from culvix.study.analysis.result_cache import ALL_PARTS, PartCache
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.document.changes import Change, ReparsedColumns
from culvix.study.document.decision_checks import check_correction, check_rows
from culvix.study.document.decisions import Cause, Decision, DecisionKind, DecisionLog
from culvix.study.document.history import Act, ColumnEdit, Decided, Described, History, NewPass, SettingsChange
from culvix.study.document.review import Reviewed
from culvix.study.document.row_sets import as_rows, together
from culvix.study.document.settings import ColumnSettings, Settings
from culvix.tables.model.column_builder import reread
from culvix.tables.model.derivation import Derivation, derive, followers, name_of
from culvix.tables.model.dictionary import ColumnEntry, Dictionary
from culvix.tables.model.table import Column, Table

__all__ = ["Act", "Change", "ColumnEdit", "Decided", "ReparsedColumns", "SettingsChange", "Study"]

_STATES_KEPT, _ALL_STATES = 8, 64


class Study(Reviewed):
    """The document of one piece of work. It is changed only through its methods, each of which tells the listeners."""

    def __init__(
        self,
        table: Table,
        settings: Settings | None = None,
        name: str | None = None,
        dictionary: Dictionary | None = None,
    ) -> None:
        super().__init__(table)
        self.name = name or table.source.path.stem.replace("_", " ")
        self.settings = settings or Settings()
        self.dictionary = dictionary or Dictionary()
        self.log = DecisionLog()
        self.initials = ""
        """Whose decisions are being made."""
        self._passes: tuple[int, ...] = ()
        self.pass_begins: WorkingSet | None = None
        """The working set that flags refer to; None in the first pass, which judges the table as read."""
        self._history = History()
        self._working = WorkingSet.of(table, ())
        self._part_caches: dict[Column, PartCache] = {}
        self._analyses: dict[str, dict[Hashable, ColumnAnalysis]] = {}

    def change_settings(self, settings: Settings, gesture: object = None) -> None:
        """Put other ``settings`` in force, which can be undone; all steps of one ``gesture`` at once."""
        if settings == self.settings:
            return
        last = self._history.undoable
        if (
            gesture is not None
            and isinstance(last, SettingsChange)
            and last.gesture is gesture
            and not self._history.redoable
        ):
            self._history.replace_last(SettingsChange(last.before, settings, gesture))
        else:
            self._history.add(SettingsChange(self.settings, settings, gesture))
        self.settings = settings
        self._tell(Change.SETTINGS)

    # Dictionary

    @property
    def described(self) -> Dictionary:
        """All that is said of the columns, valid ranges declared in the settings included."""
        ranges = {name: chosen.valid_range for name, chosen in self.settings.columns.items()}
        said = {
            name: replace(self.dictionary.of(name), valid_range=bounds)
            for name, bounds in ranges.items()
            if bounds is not None and name in self.table
        }
        return self.dictionary.with_each(said) if said else self.dictionary

    def edit_column(self, column: str, entry: ColumnEntry) -> None:
        """Say of ``column`` what ``entry`` says, and read its cells anew under it. Raises as `apply_reparsed`."""
        self.apply_reparsed(self.rereading({column: entry})(silent))

    def rereading(self, entries: Mapping[str, ColumnEntry]) -> Callable[[Progress], ReparsedColumns]:
        """The work of reading the columns of ``entries`` anew, which may be done on any thread.

        Raises CulvixError for a column there is none of.
        """
        table = self.table
        changed = {name: (table[name], entry) for name, entry in entries.items() if entry != self.described.of(name)}

        def work(progress: Progress) -> ReparsedColumns:
            columns = []
            for done, (name, (column, entry)) in enumerate(changed.items()):
                progress(done / len(changed), f"reading {name} anew")
                columns.append(reread(column, entry))
            return ReparsedColumns(table, {name: entry for name, (_, entry) in changed.items()}, tuple(columns))

        return work

    def apply_reparsed(self, reparsed: ReparsedColumns) -> None:
        """Take over columns read anew, and what is said of them.

        Raises DecisionError where decisions on a column stand in the way, or the table is another one by now.
        """
        if reparsed.table is not self.table:
            raise DecisionError("The table was read another way meanwhile; say it again.")
        for column in reparsed.columns:
            if column.values is None and self.working.decides_on(column.name):
                name = column.name
                raise DecisionError(
                    f"There are decisions on values of {name}; undo them before it stops being numbers."
                )
        if reparsed.columns:
            before = (self.table, self.dictionary, self.settings)
            said = self.dictionary.with_each(reparsed.entries)
            columns = followers(self.table, {c.name: c for c in reparsed.columns}, dict(said.entries))
            table = self.table.with_columns(columns.values(), said.key, said.provenance)
            after = (table, said, self.settings.without_ranges(reparsed.entries))
            self._history.add(ColumnEdit(tuple(reparsed.entries), before, after))
            self._tell(self._put(after))

    def derive(self, column: str, scale: Scale) -> str:
        """Add ``column`` on ``scale`` as a column of its own, which follows it; its name is returned.

        Raises StatisticsError naming rows outside the domain of the scale.
        """
        return self._derive(column, Derivation(self.table[column].name, scale))

    def keep_flags(self, preview: ColumnPreview) -> str:
        """Add a column that counts the methods flagging each value of a column now; its name is returned."""
        counts = np.where(np.isfinite(preview.flag_basis.values), 0.0, np.nan)
        counts[preview.flags.rows] = preview.flags.agreement
        return self._derive(preview.column.name, Derivation(preview.column.name, None, counts))

    def _derive(self, column: str, derivation: Derivation) -> str:
        name = name_of(self.table, derivation)
        made = derive(name, self.table[column], derivation, ColumnEntry())
        before = (self.table, self.dictionary, self.settings)
        after = (self.table.with_derived(made), self.dictionary, self.settings)
        self._history.add(ColumnEdit((name,), before, after, "add the column"))
        self._tell(self._put(after))
        return name

    def set_table_metadata(self, dictionary: Dictionary) -> None:
        """Take over what ``dictionary`` says of the table as a whole: its provenance, and which column names a row."""
        if dictionary.entries != self.dictionary.entries:
            raise DecisionError("Columns are described one by one.")
        if dictionary != self.dictionary:
            before = (self.table, self.dictionary, self.settings)
            after = (self.table.with_columns((), dictionary.key, dictionary.provenance), dictionary, self.settings)
            self._history.add(ColumnEdit((), before, after))
            self._tell(self._put(after))

    def _put(self, state: Described) -> Change:
        self.table, self.dictionary, self.settings = state
        self.selection = self.selection.within(self.table)
        # A column read anew, or another one of the same name, must not find what was worked out for the one before.
        self._part_caches = {column: self._part_caches[column] for column in self.table if column in self._part_caches}
        self._analyses = {name: states for name, states in self._analyses.items() if name in self.table}
        self._work_anew()
        return Change.DATA

    def resolve_cells(self, column: str, kind: str, rule: str) -> None:
        """Settle all cells of ``kind`` in ``column`` by ``rule``. Raises as `edit_column`."""
        self.edit_column(column, self.described.of(column).with_rule(kind, rule))

    # Decisions

    @property
    def working(self) -> WorkingSet:
        return self._working

    def decide(
        self,
        kind: DecisionKind,
        column: str,
        rows: Iterable[int] | Ints,
        *,
        cause: Cause = Cause.UNKNOWN,
        reason: str = "",
        **how: object,
    ) -> Decision:
        """Record a decision on ``rows`` (from 0) of ``column`` and apply it. Raises as `decide_on`."""
        return self.decide_on(kind, {column: rows}, cause=cause, reason=reason, **how)[0]

    def decide_on(
        self,
        kind: DecisionKind,
        cells: Mapping[str, Iterable[int] | Ints],
        *,
        cause: Cause = Cause.UNKNOWN,
        reason: str = "",
        **how: object,
    ) -> tuple[Decision, ...]:
        """Record the same decision on ``cells`` of one column or several, as one act, and apply it.

        A row is excluded once, for the first of its cells. Whole rows have the empty name for their column. ``how`` is
        what a `Decision` has besides: ``value``, ``factor`` or ``swapped`` of a correction, and ``rule``. Raises
        DecisionError for an unknown row, a value that is not there, or a correction that is no finite number; then none
        of it is recorded.
        """
        how = {"by": self.initials, "pass_number": self.pass_number, **how}
        now, decisions, taken = datetime.now(UTC), [], together()
        for name, given in cells.items():
            target, rows = self.table[name] if name else None, as_rows(given)
            if kind is DecisionKind.EXCLUDE_ROW:
                rows = np.setdiff1d(rows, taken, assume_unique=True)
                taken = together(taken, rows)
                if not rows.size and taken.size:
                    continue
            check_rows(self.table, target, kind, rows)
            column = "" if target is None else target.name
            decision = Decision(kind, column, rows, cause, reason.strip(), now, **how)  # type: ignore[arg-type]
            check_correction(self.table, decision)
            decisions.append(decision)
        if not decisions:
            raise DecisionError("Nothing is selected; select a value first.")
        for decision in decisions:
            self.log.add(decision)
        act = Decided(tuple(decisions))
        self._history.add(act)
        self._work_anew()
        self._tell(Change.DECISIONS)
        return act.decisions

    def review(self, preview: ColumnPreview) -> tuple[int, int]:
        """How many of the flagged values of a column are decided, and how many there are."""
        decided = np.isin(preview.flags.rows, self._working.decided(preview.column.name), assume_unique=True)
        return int(np.count_nonzero(decided)), int(preview.flags.rows.size)

    @property
    def undoable(self) -> Act | None:
        """The latest decision, description or choice of settings, None where there is none."""
        return self._history.undoable

    @property
    def redoable(self) -> Act | None:
        """The act undone last, None where there is none."""
        return self._history.redoable

    def undo(self) -> Act:
        """Take back the latest act. Raises DecisionError where there is none."""
        act = self._history.back()
        self._tell(self._take_back(act))
        return act

    def redo(self) -> Act:
        """Put back what was undone last. Raises DecisionError where there is none."""
        act = self._history.forth()
        self._tell(self._put_forth(act))
        return act

    @property
    def acts(self) -> tuple[tuple[Act, ...], int]:
        """Everything that was done, in order, and how much of it is in force; the rest was undone."""
        return self._history.acts, self._history.done

    def go_to(self, done: int) -> None:
        """Undo or redo until ``done`` acts are in force. Raises DecisionError where there are not so many."""
        if not 0 <= done <= len(self._history.acts):
            raise DecisionError(f"There are {len(self._history.acts)} acts to go to.")
        changed = set()
        while self._history.done > done:
            changed.add(self._take_back(self._history.back(), refresh=False))
        while self._history.done < done:
            changed.add(self._put_forth(self._history.forth(), refresh=False))
        self._work_anew()
        for change in (Change.DATA, Change.SETTINGS, Change.DECISIONS):
            if change in changed:
                self._tell(change)

    def _take_back(self, act: Act, *, refresh: bool = True) -> Change:
        if isinstance(act, ColumnEdit):
            return self._put(act.before)
        if isinstance(act, SettingsChange):
            self.settings = act.before
            return Change.SETTINGS
        if isinstance(act, NewPass):
            self._passes = self._passes[:-1]
        else:
            for _ in act.decisions:
                self.log.undo()
        if refresh:
            self._work_anew()
        return Change.DECISIONS

    def _put_forth(self, act: Act, *, refresh: bool = True) -> Change:
        if isinstance(act, ColumnEdit):
            return self._put(act.after)
        if isinstance(act, SettingsChange):
            self.settings = act.after
            return Change.SETTINGS
        if isinstance(act, NewPass):
            self._passes = (*self._passes, act.decisions)
        else:
            for _ in act.decisions:
                self.log.redo()
        if refresh:
            self._work_anew()
        return Change.DECISIONS

    @property
    def pass_number(self) -> int:
        """The pass over the data, from 1: flags refer to the values at its beginning."""
        return len(self._passes) + 1

    def begin_pass(self) -> NewPass:
        """Let flags refer to the values as they are now. Raises DecisionError where this pass decided nothing."""
        decided = len(self.log.active)
        if decided == (self._passes or (0,))[-1]:
            raise DecisionError("Nothing was decided in this pass; another one would flag the same values.")
        act = NewPass(self.pass_number + 1, decided)
        self._history.add(act)
        self._tell(self._put_forth(act))
        return act

    def _work_anew(self) -> None:
        """Make the working set from the source and the decisions in force."""
        decisions = self.log.active
        self._working = WorkingSet.of(self.table, decisions, self._working)
        begun = decisions[: self._passes[-1]] if self._passes else None
        self.pass_begins = (
            None if begun is None else WorkingSet.of(self.table, begun, self.pass_begins or self._working)
        )

    def snapshot(self) -> "Study":
        """A copy that later changes to this study do not reach, for work on another thread."""
        copy = Study(self.table, self.settings, self.name, self.dictionary)
        copy.log = self.log.copy()
        copy._working, copy.pass_begins, copy._passes = self._working, self.pass_begins, self._passes
        copy.initials = self.initials
        copy.take_review(self)
        copy._analyses = {name: dict(states) for name, states in self._analyses.items()}
        return copy

    # Analyses

    def request(self, column: str) -> AnalysisRequest:
        """What is needed to analyse ``column`` as things stand; may be worked out on any thread."""
        target = self.table[column]
        flag_basis = self.pass_begins
        state = () if flag_basis is None else flag_basis.version(column)
        if flag_basis is not None and state == self._working.version(column):
            # Where nothing was decided since, they are the values in use, whose order need not be made twice.
            flag_basis = self._working
        within = self.settings.of(column).flag_within
        by = self.table[within] if within is not None and within in self.table else None
        now = self._working, self.settings, self._working.version(column)
        return AnalysisRequest(target, *now, flag_basis, state, by)

    def bounds(self, column: str) -> tuple[float | None, float | None]:
        """The range declared for ``column``, None at an end that is open."""
        return valid_range(self.table[column], self.settings)

    def quartiles(self, column: str) -> tuple[float, float]:
        """Q1 and Q3 of ``column`` as imported, by the study's convention. Raises StatisticsError without values."""
        x, kind = self.table[column].sample.sorted, self.settings.quantile_type
        return quantile(x, 0.25, kind), quantile(x, 0.75, kind)

    def analysis_possible(self, column: str, chosen: ColumnSettings) -> None:
        """Raise StatisticsError where ``chosen`` could not be applied to ``column``."""
        sample = self._working.sample(self.table[column])
        histogram(sample, chosen.bin_rule, closed=self.settings.closed, **chosen.bins)  # type: ignore[arg-type]
        if chosen.bandwidth is not None and not (isfinite(chosen.bandwidth) and chosen.bandwidth > 0):
            raise StatisticsError("A bandwidth must be a positive number.")

    def part_cache(self, column: str) -> PartCache:
        """Parts of analyses of ``column`` worked out so far."""
        return self._part_caches.setdefault(self.table[column], PartCache(ALL_PARTS // len(self.table.columns)))

    def known_analysis(self, column: str) -> ColumnAnalysis | None:
        """The analysis of ``column`` as things stand, where it has been worked out already."""
        return self._analyses.get(column, {}).get(self.request(column).key)

    def keep(self, analysis: ColumnAnalysis) -> None:
        """Remember an analysis; of each column the latest few states are kept, so that undo and redo come at once."""
        states = self._analyses.setdefault(analysis.column.name, {})
        states[analysis.request.key] = analysis
        room = max(_ALL_STATES, 3 * len(self.table.columns))
        while len(states) > _STATES_KEPT or sum(map(len, self._analyses.values())) > room:
            most = max(self._analyses.values(), key=len)
            del most[next(iter(most))]

    def forget(self, column: str) -> None:
        """Let go of everything worked out for ``column``, its order included."""
        self.table[column].__dict__.pop("sample", None)
        self._working, self.pass_begins = WorkingSet(self.table, ()), None
        self._work_anew()
        self._part_caches.pop(self.table[column], None)
        self._analyses.pop(column, None)

    def deferred(self, column: str) -> DeferredPart:
        """The slow figures and every outlier method of ``column`` as things stand, worked out now if need be."""
        return deferred_part(self.request(column), self.part_cache(column))

    def analysis(self, column: str) -> ColumnAnalysis:
        """The analysis of ``column`` as things stand, worked out now if need be."""
        known = self.known_analysis(column)
        if known is None:
            known = analyse(self.request(column), self.part_cache(column))
            self.keep(known)
        return known
