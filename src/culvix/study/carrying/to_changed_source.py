"""A study taken over to its source as it is by now: history and all, but for what is about cells that are others."""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace

import numpy as np

from culvix.stats.core.arrays import Bools, Ints
from culvix.stats.display import plural
from culvix.study.analysis.workspace import Workspace
from culvix.study.carrying.carry_over import derivations_that_fit
from culvix.study.carrying.source_changes import SourceChanges
from culvix.study.document.decisions import Decision
from culvix.study.document.discrepancy import Discrepancy
from culvix.study.document.document import Document, Origin
from culvix.study.document.history.history import History
from culvix.study.document.history.shared_sequence import SharedSequence
from culvix.study.study import Study
from culvix.tables.model.derived.derivation import Derivation, RowCounts
from culvix.tables.model.table import Table

__all__ = ["to_changed_source"]

MOST_LISTED = 1000


def to_changed_source(history: History, table: Table, changes: SourceChanges) -> Study:
    """The study of ``history`` on ``table``, which differs by ``changes`` from the one it was made with.

    What does not fit is listed one by one in the study's discrepancies. May be done on any thread.
    """
    carrier = _Carrier(table, changes, history.current.derivations)
    documents = tuple(carrier.carried(document) for document in history.documents)
    carried = History(documents, history.labels, history.cursor)
    current, untold = carried.current, [Discrepancy("source", sentence) for sentence in changes.sentences]
    again = [name for name in current.reviewed if name in changes.changed and changes.changed[name].any()]
    found = (*untold, *carrier.misfits(history.current), *(_to_review(name, changes) for name in again))
    current = replace(
        current,
        reviewed=tuple(name for name in current.reviewed if name not in again),
        discrepancies=found,
    )
    study = Study(Workspace.of(current, table))
    study.resume(carried.with_current(current))
    return study


def _to_review(name: str, changes: SourceChanges) -> Discrepancy:
    many = "some" if name in changes.vague else str(int(changes.changed[name].sum()))
    return Discrepancy("reviewed", f"{name} is to be reviewed again: {many} of its cells changed.", name)


@dataclass(frozen=True, eq=False)
class _Carried:
    """What is left of a decision, None where that is nothing; and which of its rows are lost, with the reason."""

    decision: Decision | None
    lost: tuple[tuple[int, str], ...]


class _Carrier:
    """Takes documents over one after the other; each decision once, however many documents have it."""

    def __init__(self, table: Table, changes: SourceChanges, derivations: Mapping[str, Derivation]) -> None:
        self.table, self.changes, self.derivations = table, changes, derivations
        self.origin = Origin.of(table.source)
        self._carried: dict[int, _Carried] = {}
        self._last: tuple[SharedSequence[Decision], SharedSequence[Decision]] = (SharedSequence(), SharedSequence())
        self._moved: dict[int, Derivation] = {}

    def carried(self, document: Document) -> Document:
        """``document`` as it is about the table of now."""
        passes = [
            sum(self._carry(each).decision is not None for each in document.decisions[:at]) for at in document.passes
        ]
        return replace(
            document,
            origin=self.origin,
            derivations=self._derivations(document)[0],
            decisions=self._decisions(document.decisions),
            passes=tuple(passes),
        )

    def _decisions(self, before: SharedSequence[Decision]) -> SharedSequence[Decision]:
        """The decisions that are left of ``before``; what begins like the last ones shares their items."""
        old, new = self._last if before.starts_with(self._last[0]) else (SharedSequence(), SharedSequence())
        more = before[len(old) :]
        carried = [decision for each in more if (decision := self._carry(each).decision) is not None]
        found = new.with_more(carried)
        self._last = before, found
        return found

    def _carry(self, decision: Decision) -> _Carried:
        if id(decision) not in self._carried:
            self._carried[id(decision)] = self._taken_over(decision)
        return self._carried[id(decision)]

    def _taken_over(self, decision: Decision) -> _Carried:
        now = self.changes.now[decision.rows]
        reasons: dict[int, str] = {}
        self._note(reasons, decision, now < 0, "its row is gone")
        for name in decision.columns:
            base = self._base(name)
            if base not in self.table or (name not in self.derivations and self.table[base].values is None):
                why = "has no numbers any more" if base in self.table else "is gone"
                self._note(reasons, decision, np.ones(now.size, dtype=bool), f"{base} {why}")
            elif base in self.changes.changed:
                what = "may be another one now" if base in self.changes.vague else "is another one now"
                self._note(reasons, decision, self.changes.changed[base][decision.rows], f"its cell {what}")
        stays = np.array([row not in reasons for row in decision.rows.tolist()], dtype=bool)
        rows = np.sort(now[stays])
        return _Carried(replace(decision, rows=rows) if rows.size else None, tuple(sorted(reasons.items())))

    def _note(self, reasons: dict[int, str], decision: Decision, where: Bools, why: str) -> None:
        for row in decision.rows[where].tolist():
            reasons.setdefault(row, why)

    def _base(self, name: str) -> str:
        """The column of the file that ``name`` follows, at last."""
        while name in self.derivations:
            name = self.derivations[name].source
        return name

    def _derivations(self, document: Document) -> tuple[dict[str, Derivation], list[str]]:
        """The columns worked out that fit the table of now, and a sentence for each that does not."""
        moved = {name: self._derivation(each) for name, each in document.derivations.items()}
        return derivations_that_fit(moved, self.table, counted=True)

    def _derivation(self, derivation: Derivation) -> Derivation:
        if derivation.counts is None:
            return derivation
        if id(derivation) not in self._moved:
            self._moved[id(derivation)] = replace(derivation, counts=self._counts(derivation.counts))
        return self._moved[id(derivation)]

    def _counts(self, counts: RowCounts) -> RowCounts:
        """Counts where their rows are now; a row that is new has none."""
        now = self.changes.now
        rows = now[counts.rows]
        order = np.argsort(rows[rows >= 0], kind="stable")
        missing = now[counts.missing]
        new = np.setdiff1d(np.arange(self.table.rows), now[now >= 0], assume_unique=True)
        return RowCounts(
            rows[rows >= 0][order],
            counts.counts[rows >= 0][order],
            np.union1d(missing[missing >= 0], new),
        )

    def misfits(self, document: Document) -> Iterator[Discrepancy]:
        """Everything in the decisions of ``document`` that could not be taken over, one by one."""
        listed = 0
        for decision in document.decisions:
            lost = self._carry(decision).lost
            for row, why in lost[: max(MOST_LISTED - listed, 0)]:
                what = f"{decision.column}: {decision.text}" if decision.column else decision.text
                at = int(self.changes.now[row])
                where = f"row {row + 1}" + (f", now {at + 1}" if at >= 0 and at != row else "")
                rows: Ints = np.array([at] if at >= 0 else [], dtype=np.int64)
                column = decision.column if decision.column in self.table else ""
                sentence = f"{what} ({where}) was not taken over: {why}."
                yield Discrepancy("decision", sentence, column, tuple(rows.tolist()))
            left = len(lost) - max(MOST_LISTED - listed, 0)
            if left > 0:
                sentence = f"{plural(left, 'more value')} of “{decision.sentence}” were not taken over."
                yield Discrepancy("decision", sentence, decision.column)
            listed += len(lost)
        yield from (Discrepancy("derived_column", reason) for reason in self._derivations(document)[1])
