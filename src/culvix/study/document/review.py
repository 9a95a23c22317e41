"""What the analyst looked at, ticked, marked and picked: the part of a study that changes no number."""

from collections.abc import Callable, Iterable

import numpy as np

from culvix.errors import CulvixError, DecisionError
from culvix.stats.core.arrays import Ints
from culvix.study.document.changes import Change
from culvix.study.document.marks import Mark, marked_rows
from culvix.study.document.picks import Pick
from culvix.study.document.selection import Selection
from culvix.tables.checks.table_checks import TableFinding
from culvix.tables.model.table import Column, Table

__all__ = ["Reviewed"]


class Reviewed:
    """Selection, ticks, marks and picks on ``table``, and who wants to know when something changes."""

    def __init__(self, table: Table) -> None:
        self.table = table
        self.selection = Selection()
        self.viewed: set[str] = set()
        self.reviewed: set[str] = set()
        self.marks: tuple[Mark, ...] = ()
        self.noted: set[tuple[str, ...]] = set()
        self.picks: tuple[Pick, ...] = ()
        self._marked: dict[Mark, tuple[Column, Ints]] = {}
        self._listeners: list[Callable[[Change], None]] = []

    def take_review(self, other: "Reviewed") -> None:
        """Take over what was looked at, ticked, marked and picked in ``other``."""
        self.reviewed, self.viewed = set(other.reviewed), set(other.viewed)
        self.marks, self.noted, self.picks = other.marks, set(other.noted), other.picks

    def listen(self, listener: Callable[[Change], None]) -> None:
        """Have ``listener`` called after every change."""
        self._listeners.append(listener)

    def _tell(self, change: Change) -> None:
        for listener in list(self._listeners):
            listener(change)

    def select(self, rows: Iterable[int] | Ints, origin: str = "", *, column: str | None = None) -> None:
        """Select ``rows`` (from 0) of ``column``, or whole ones, for every view; an empty selection clears it."""
        found = Selection.of_rows(rows, origin) if column is None else Selection.of_cells({column: rows}, origin)
        self.select_these(found)

    def select_these(self, selection: Selection) -> None:
        """Select cells or rows for every view. Raises DecisionError for rows and columns that there are none of."""
        for chosen in (*selection.cells.values(), selection.whole_rows):
            if chosen.size and not (chosen[0] >= 0 and chosen[-1] < self.table.rows):
                raise DecisionError(f"There are {self.table.rows} rows; one beyond them cannot be selected.")
        unknown = [column for column in selection.columns if column not in self.table]
        if unknown:
            raise DecisionError(f"There is no column {unknown[0]}; nothing in it can be selected.")
        self.selection = selection
        self._tell(Change.SELECTION)

    def mark_viewed(self, column: str) -> None:
        """Note that the analyst has opened ``column``."""
        if column not in self.viewed:
            self.viewed.add(self.table[column].name)
            self._tell(Change.REVIEW)

    def set_reviewed(self, column: str, done: bool) -> None:
        """Tick ``column`` as reviewed, or take the tick away."""
        name = self.table[column].name
        (self.reviewed.add if done else self.reviewed.discard)(name)
        self._tell(Change.REVIEW)

    def note(self, finding: TableFinding, done: bool) -> None:
        """Set a finding about the whole table down as noted, or take that back."""
        (self.noted.add if done else self.noted.discard)(finding.key)
        self._tell(Change.REVIEW)

    def keep_pick(self, pick: Pick) -> None:
        """Keep what was picked in a line-up."""
        self.picks = (*self.picks, pick)
        self._tell(Change.REVIEW)

    def picks_of(self, column: str) -> list[Pick]:
        """What was picked in line-ups of ``column``, in order."""
        return [pick for pick in self.picks if pick.column == column]

    def add_mark(self, mark: Mark) -> None:
        """Mark rows by one rule more. Raises CulvixError where it cannot be applied."""
        marked_rows(mark, self.table)
        self.marks = (*self.marks, mark)
        self._tell(Change.MARKS)

    def marked(self, mark: Mark) -> Ints:
        """The rows (ascending, from 0) that ``mark`` marks now; none where its column was described otherwise since.

        They are worked out once for each reading of the column.
        """
        column = self.table[mark.column]
        known = self._marked.get(mark)
        if known is None or known[0] is not column:
            try:
                rows = marked_rows(mark, self.table)
            except CulvixError:
                rows = np.zeros(0, dtype=np.int64)
            known = self._marked[mark] = (column, rows)
        return known[1]

    def take_mark(self, name: str | None = None) -> None:
        """Take the mark called ``name`` away, or all of them."""
        self.marks = tuple(mark for mark in self.marks if name is not None and mark.name != name)
        self._tell(Change.MARKS)
