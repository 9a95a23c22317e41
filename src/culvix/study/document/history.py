"""What the analyst did, act by act, with a cursor that undo and redo move."""

from dataclasses import dataclass

from culvix.errors import DecisionError
from culvix.stats.display import plural
from culvix.study.document.decisions import Decision
from culvix.study.document.settings import Settings
from culvix.tables.model.dictionary import Dictionary
from culvix.tables.model.table import Table

__all__ = ["Act", "ColumnEdit", "Decided", "Described", "History", "NewPass", "SettingsChange"]


@dataclass(frozen=True, eq=False)
class Decided:
    """The act of deciding: the same decision for cells of one column or of several, undone as it was made."""

    decisions: tuple[Decision, ...]

    @property
    def sentence(self) -> str:
        """The act in words."""
        first, *others = self.decisions
        if not others:
            return first.sentence
        values = sum(int(decision.rows.size) for decision in self.decisions)
        return f"{first.text}: {plural(values, 'value')} in {plural(len(self.decisions), 'column')}"


Described = tuple[Table, Dictionary, Settings]
"""A table under what is said of it; a valid range said of a column takes the place of one declared in the settings."""


@dataclass(frozen=True, eq=False)
class ColumnEdit:
    """The act of saying something of ``columns``, or of the table where there are none, with what held before."""

    columns: tuple[str, ...]
    before: Described
    after: Described
    text: str = "describe"

    @property
    def sentence(self) -> str:
        """The act in words."""
        names = self.columns
        return f"{self.text} {plural(len(names), 'column') if len(names) > 1 else (*names, 'the table')[0]}"


@dataclass(frozen=True, eq=False)
class SettingsChange:
    """The act of choosing other settings; the steps of one ``gesture`` of the hand are one act."""

    before: Settings
    after: Settings
    gesture: object = None

    @property
    def sentence(self) -> str:
        """The act in words."""
        return f"change {self.after.changed_from(self.before)}"


@dataclass(frozen=True)
class NewPass:
    """The act of beginning pass ``number``: from now on flags refer to what the first ``decisions`` in force left."""

    number: int
    decisions: int

    @property
    def sentence(self) -> str:
        """The act in words."""
        return f"begin pass {self.number}"


Act = Decided | ColumnEdit | SettingsChange | NewPass


class History:
    """All acts in order; those beyond the cursor were undone."""

    def __init__(self) -> None:
        self._acts: list[Act] = []
        self._done = 0

    def add(self, act: Act) -> None:
        """Put ``act`` at the cursor; what was undone before is gone."""
        self._acts = [*self._acts[: self._done], act]
        self._done = len(self._acts)

    def replace_last(self, act: Act) -> None:
        """Put ``act`` in the place of the latest one, which it goes on with."""
        self._acts[self._done - 1] = act

    @property
    def acts(self) -> tuple[Act, ...]:
        """All acts that were done, and those after them that were undone and can be done again."""
        return tuple(self._acts)

    @property
    def done(self) -> int:
        """How many of `acts` are in force."""
        return self._done

    @property
    def undoable(self) -> Act | None:
        """The latest act, None where there is none."""
        return self._acts[self._done - 1] if self._done else None

    @property
    def redoable(self) -> Act | None:
        """The act undone last, None where there is none."""
        return self._acts[self._done] if self._done < len(self._acts) else None

    def back(self) -> Act:
        """Move the cursor before the latest act, which is returned. Raises DecisionError where there is none."""
        act = self.undoable
        if act is None:
            raise DecisionError("There is nothing to undo.")
        self._done -= 1
        return act

    def forth(self) -> Act:
        """Move the cursor past the act undone last, which is returned. Raises DecisionError where there is none."""
        act = self.redoable
        if act is None:
            raise DecisionError("There is nothing to redo.")
        self._done += 1
        return act
