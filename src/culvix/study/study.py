"""The study: a document with its history, what follows from it, what is selected, and who hears of every change."""

import itertools
from collections.abc import Callable, Iterable, Mapping
from dataclasses import replace

import numpy as np

from culvix.errors import CulvixError, DecisionError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Ints
from culvix.stats.shape.transform import Scale
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.analysis.workspace import Workspace
from culvix.study.changes import Change, ReparsedColumns, changes_between
from culvix.study.document.choices.report_layout import ReportLayout
from culvix.study.document.choices.selection import Selection
from culvix.study.document.choices.settings import Settings
from culvix.study.document.deciding import with_decisions, with_next_pass
from culvix.study.document.decisions import Cause, Decision, DecisionKind
from culvix.study.document.discrepancy import Discrepancy
from culvix.study.document.document import VERSION, Document, Origin
from culvix.study.document.history.history import Act, History
from culvix.study.document.history.shared_sequence import SharedSequence
from culvix.study.document.kept_comparison import KeptComparison
from culvix.study.document.marks import Mark, marked_rows
from culvix.study.document.picks import Pick
from culvix.tables.checks.table_checks import TableFinding
from culvix.tables.model.column_builder import reread
from culvix.tables.model.derived.column_rule import Cells, ColumnRule
from culvix.tables.model.derived.derivation import Derivation, RowCounts
from culvix.tables.model.derived.derived_columns import name_of
from culvix.tables.model.dictionary import Bounds, ColumnEntry, Dictionary
from culvix.tables.model.sample_dictionary import dictionary_of_sample
from culvix.tables.model.table import Table

__all__ = ["Study", "new_document"]


def new_document(table: Table, settings: Settings, dictionary: Dictionary, name: str | None = None) -> Document:
    """The document of a new study of ``table``, which was read under ``dictionary``; called as its file by default."""
    title = name or table.source.path.stem.replace("_", " ")
    return Document(VERSION, title, Origin.of(table.source), dictionary=dictionary, settings=settings)


class Study:
    """One piece of work. It is changed only through its methods, each of which tells the listeners what changed.

    An act makes another document, from which all else follows anew; undo and redo go to one that was there before.
    """

    def __init__(self, workspace: Workspace) -> None:
        """The study whose document and table stand in ``workspace``, with no act made yet."""
        self.workspace = workspace
        self.history = History((workspace.document,))
        self.selection = Selection()
        self._listeners: list[Callable[[Change], None]] = []

    @classmethod
    def of_table(
        cls,
        table: Table,
        settings: Settings | None = None,
        name: str | None = None,
        dictionary: Dictionary | None = None,
    ) -> "Study":
        """A new study of ``table``, which was read under ``dictionary``."""
        described = dictionary_of_sample(table.source.sample) if dictionary is None else dictionary
        document = new_document(table, settings or Settings(), described, name)
        return cls(Workspace.of(document, table))

    def resume(self, history: History) -> None:
        """Go on with ``history``, whose current document is that of the study; for one that was read from a file."""
        self.history = history

    # What stands

    @property
    def document(self) -> Document:
        return self.workspace.document

    @property
    def name(self) -> str:
        return self.document.name

    @property
    def table(self) -> Table:
        """The table as it is described, with the columns that were worked out."""
        return self.workspace.table

    @property
    def settings(self) -> Settings:
        return self.document.settings

    @property
    def dictionary(self) -> Dictionary:
        return self.document.dictionary

    @property
    def working(self) -> WorkingSet:
        return self.workspace.working

    @property
    def decisions(self) -> SharedSequence[Decision]:
        """The decisions in force, oldest first."""
        return self.document.decisions

    # Changes

    def listen(self, listener: Callable[[Change], None]) -> None:
        """Have ``listener`` called after every change."""
        self._listeners.append(listener)

    def _notify(self, change: Change) -> None:
        for listener in list(self._listeners):
            listener(change)

    def _act(self, document: Document, gesture: object = None) -> None:
        """Make an act of what led to ``document``. Where it cannot be, nothing is changed."""
        workspace = self.workspace.with_document(document)
        self._move_to(self.history.with_act(document, gesture), workspace)

    def _put(self, document: Document) -> None:
        """Put ``document`` in force where only sections outside undo are others."""
        if document != self.document:
            self._move_to(self.history.with_current(document), self.workspace.with_document(document))

    def _move_to(self, history: History, workspace: Workspace) -> None:
        before, self.workspace, self.history = self.workspace, workspace, history
        self.selection = self.selection.within(self.table)
        for change in changes_between(before, workspace):
            self._notify(change)

    def undo(self) -> Act:
        """Take back the latest act. Raises DecisionError where there is none."""
        act = self.history.undoable
        if act is None:
            raise DecisionError("There is nothing to undo.")
        self.go_to(self.history.cursor - 1)
        return act

    def redo(self) -> Act:
        """Put back what was undone last. Raises DecisionError where there is none."""
        act = self.history.redoable
        if act is None:
            raise DecisionError("There is nothing to redo.")
        self.go_to(self.history.cursor + 1)
        return act

    def go_to(self, done: int) -> None:
        """Undo or redo until ``done`` acts are in force. Raises DecisionError where there are not so many."""
        history = self.history.moved_to(done)
        self._move_to(history, self.workspace.with_document(history.current))

    # Settings and descriptions

    def change_settings(self, settings: Settings, gesture: object = None) -> None:
        """Put other ``settings`` in force; all steps of one ``gesture`` are one act."""
        if settings != self.settings:
            self._act(replace(self.document, settings=settings), gesture)

    def change_report(self, layout: ReportLayout, gesture: object = None) -> None:
        """Report the study by ``layout``; all steps of one ``gesture`` are one act."""
        if layout != self.document.report:
            self._act(replace(self.document, report=layout), gesture)

    def set_valid_range(self, column: str, bounds: Bounds, gesture: object = None) -> None:
        """Declare what values of ``column`` are possible. Raises ReadError for ends the wrong way round."""
        if bounds != self.workspace.bounds(column):
            self._act(self.document.with_valid_range(column, bounds), gesture)

    def edit_column(self, column: str, entry: ColumnEntry) -> None:
        """Describe ``column`` by ``entry``, and read its cells anew under it. Raises as `apply_reparsed`."""
        self.apply_reparsed(self.rereading({column: entry})(silent))

    def rereading(self, entries: Mapping[str, ColumnEntry]) -> Callable[[Progress], ReparsedColumns]:
        """The work of reading the columns of ``entries`` anew, which may be done on any thread.

        Raises CulvixError for a column there is none of.
        """
        workspace, dictionary = self.workspace, self.dictionary
        changed = {name: entry for name, entry in entries.items() if entry != dictionary.of(self.table[name].name)}
        read = {name: e for name, e in changed.items() if e.without_range != dictionary.of(name).without_range}

        def work(progress: Progress) -> ReparsedColumns:
            columns = []
            for done, (name, entry) in enumerate(read.items()):
                progress(done / len(read), f"reading {name} anew")
                columns.append(reread(workspace.table[name], entry))
            return ReparsedColumns(workspace, changed, tuple(columns))

        return work

    def apply_reparsed(self, reparsed: ReparsedColumns) -> None:
        """Take over columns read anew, and what is said of them.

        Raises DecisionError where decisions on a column stand in the way, or the table is another one by now.
        """
        if reparsed.workspace.table is not self.table:
            raise DecisionError("The table was read another way meanwhile; say it again.")
        for column in reparsed.columns:
            if column.values is None and self.working.decides_on(column.name):
                name = column.name
                raise DecisionError(
                    f"There are decisions on values of {name}; undo them before it stops being numbers."
                )
        for column in reparsed.columns:
            if column.derivation is None:
                self.workspace.versions.add(column.name, reparsed.entries[column.name], column)
        if reparsed.entries:
            self._act(replace(self.document, dictionary=self.dictionary.with_each(reparsed.entries)))

    def set_table_metadata(self, dictionary: Dictionary) -> None:
        """Take over what ``dictionary`` says of the table as a whole: its provenance, and which column names a row."""
        if dictionary.entries != self.dictionary.entries:
            raise DecisionError("Columns are described one by one.")
        if dictionary != self.dictionary:
            self._act(replace(self.document, dictionary=dictionary))

    def derive(self, column: str, scale: Scale) -> str:
        """Add ``column`` on ``scale`` as a column of its own, which follows it; its name is returned.

        Raises StatisticsError naming rows outside the domain of the scale.
        """
        source = self.table[column]
        derivation = Derivation(source.name, scale)
        if source.values is not None:
            derivation.of(source.sample)
        return self._derive(derivation)

    def add_flag_counts(self, preview: ColumnPreview) -> str:
        """Add a column that counts the methods flagging each value of a column now; its name is returned."""
        missing = np.flatnonzero(~np.isfinite(preview.flag_basis.values))
        counts = RowCounts(preview.flags.rows, preview.flags.agreement, missing)
        return self._derive(Derivation(preview.column.name, None, counts))

    def add_column(self, name: str, source: str, rule: ColumnRule) -> str:
        """Add the column ``name`` that ``rule`` makes of ``source`` and others, which it follows; its name is returned.

        Raises CulvixError for a name that is taken, or a rule that cannot be applied.
        """
        name = name.strip()
        if not name:
            raise CulvixError("Say what the new column is to be called.")
        if name in self.table:
            raise CulvixError(f"There is a column called {name} already.")
        self._check_rule(name, source, rule)
        return self._derive(Derivation(source, None, None, rule), name)

    def add_subset(self, source: str, rule: ColumnRule) -> str:
        """Add a column that says in which rows the conditions of ``rule`` hold; its name, or that of one that does.

        Raises CulvixError as `add_column`.
        """
        for name, known in self.document.derivations.items():
            if known.rule == rule:
                return name
        names = f"subset_{'_'.join(dict.fromkeys(clause.column for clause in rule.clauses))}"
        free = itertools.chain([names], (f"{names}_{number}" for number in itertools.count(2)))
        return self.add_column(next(each for each in free if each not in self.table), source, rule)

    def change_column(self, name: str, source: str, rule: ColumnRule) -> None:
        """Let the column ``name``, made by a rule, follow another ``rule`` from now on.

        Raises CulvixError where it is no such column, follows itself, or the rule cannot be applied.
        """
        known = self.document.derivations.get(name)
        if known is None or known.rule is None:
            raise CulvixError(f"{name} is not made by a rule.")
        self._check_rule(name, source, rule)
        changed = {**self.document.derivations, name: Derivation(source, None, None, rule)}
        self._act(replace(self.document, derivations=changed))

    def drop_column(self, name: str) -> None:
        """Take away the column ``name``, which was worked out.

        Raises CulvixError where others follow it or decisions were made on its values.
        """
        followers = [other for other, each in self.document.derivations.items() if name in each.sources]
        if name not in self.document.derivations:
            raise CulvixError(f"{name} was read from the file; it can be left out when that is read.")
        if followers:
            raise CulvixError(f"{followers[0]} follows {name}; take that away first.")
        if self.working.decides_on(name):
            raise CulvixError(f"There are decisions on values of {name}; undo them before it is taken away.")
        left = {other: each for other, each in self.document.derivations.items() if other != name}
        self._act(replace(self.document, derivations=left))

    def _check_rule(self, name: str, source: str, rule: ColumnRule) -> None:
        order = list(self.document.derivations)
        later = order[order.index(name) :] if name in order else []
        for each in rule.sources(source):
            if each in later:
                raise CulvixError(f"{name} cannot follow {each}, which comes after it.")
        columns = {column.name: column for column in self.table}
        rule.check(columns, source)
        orders = {each: self.dictionary.of(each).date_order for each in rule.sources(source)}
        # What cannot be worked out is refused now.
        rule.values(source, Cells(columns, lambda each: self.working.sample(self.table[each]).values, orders))

    def _derive(self, derivation: Derivation, name: str | None = None) -> str:
        name = name or name_of(self.table, derivation)
        self._act(replace(self.document, derivations={**self.document.derivations, name: derivation}))
        return name

    # Decisions

    def decide(
        self,
        kind: DecisionKind,
        column: str,
        rows: Iterable[int] | Ints,
        *,
        cause: Cause = Cause.UNKNOWN,
        reason: str = "",
        **details: object,
    ) -> Decision:
        """Record a decision on ``rows`` (from 0) of ``column`` and apply it. Raises as `with_decisions`."""
        return self.decide_on(kind, {column: rows}, cause=cause, reason=reason, **details)[0]

    def decide_on(
        self,
        kind: DecisionKind,
        cells: Mapping[str, Iterable[int] | Ints],
        *,
        cause: Cause = Cause.UNKNOWN,
        reason: str = "",
        **details: object,
    ) -> tuple[Decision, ...]:
        """Record the same decision on ``cells`` of one column or several, as one act, and apply it.

        ``details`` and what is raised are those of `with_decisions`; where it raises, nothing is recorded.
        """
        before = len(self.decisions)
        self._act(with_decisions(self.document, self.table, kind, cells, cause=cause, reason=reason, **details))
        return self.decisions[before:]

    def begin_pass(self) -> None:
        """Let flags refer to the values as they are now. Raises DecisionError where this pass decided nothing."""
        self._act(with_next_pass(self.document))

    def sign(self, initials: str) -> None:
        """Say whose decisions are being made from now on."""
        self._put(replace(self.document, initials=initials))

    # Selection, review and marks

    def select(self, rows: Iterable[int] | Ints, origin: str = "", *, column: str | None = None) -> None:
        """Select ``rows`` (from 0) of ``column``, or whole ones, for every view; an empty selection clears it."""
        found = Selection.of_rows(rows, origin) if column is None else Selection.of_cells({column: rows}, origin)
        self.select_these(found)

    def select_these(self, selection: Selection) -> None:
        """Select cells or rows for every view. Raises DecisionError for rows and columns that there are none of."""
        selection.check(self.table)
        self.selection = selection
        self._notify(Change.SELECTION)

    def mark_viewed(self, column: str) -> None:
        """Note that the analyst has opened ``column``."""
        if column not in self.document.viewed:
            self._put(self.document.with_tick("viewed", self.table[column].name, True))

    def set_reviewed(self, column: str, done: bool) -> None:
        """Tick ``column`` as reviewed, or take the tick away."""
        self._put(self.document.with_tick("reviewed", self.table[column].name, done))

    def note(self, finding: TableFinding, done: bool) -> None:
        """Set a finding about the whole table down as noted, or take that back."""
        self._put(self.document.with_tick("noted", finding.key, done))

    def add_pick(self, pick: Pick) -> None:
        """Record what was picked in a line-up."""
        self._put(replace(self.document, picks=(*self.document.picks, pick)))

    def keep_comparison(self, comparison: KeptComparison, kept: bool) -> None:
        """Keep a comparison of groups for the report, or no more."""
        others = tuple(each for each in self.document.comparisons if each != comparison)
        self._put(replace(self.document, comparisons=(*others, comparison) if kept else others))

    def add_mark(self, mark: Mark) -> None:
        """Mark rows by one rule more. Raises CulvixError where it cannot be applied."""
        marked_rows(mark, self.table)
        self._put(replace(self.document, marks=(*self.document.marks, mark)))

    def remove_mark(self, name: str | None = None) -> None:
        """Take the mark called ``name`` away, or all of them."""
        left = tuple(mark for mark in self.document.marks if name is not None and mark.name != name)
        self._put(replace(self.document, marks=left))

    def set_discrepancies(self, discrepancies: tuple[Discrepancy, ...]) -> None:
        """Record what is not as in the table that the study's conventions and decisions come from."""
        self._put(replace(self.document, discrepancies=discrepancies))

    def change_view(self, **choices: object) -> None:
        """Record what the analyst chose to look at, by the fields of `View`."""
        self._put(replace(self.document, view=replace(self.document.view, **choices)))  # type: ignore[arg-type]
