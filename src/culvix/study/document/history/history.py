"""The history: the document after every act, with a label each, and a cursor that undo and redo move."""

from dataclasses import dataclass, replace

from culvix.errors import DecisionError
from culvix.study.document.decisions import Decision
from culvix.study.document.document import OUTSIDE_UNDO, Document, changed_sections
from culvix.study.document.history.act_labels import act_label

__all__ = ["Act", "History"]


@dataclass(frozen=True, eq=False)
class Act:
    """One step of the history: its ``label``, and the document before and after it."""

    label: str
    before: Document
    after: Document

    @property
    def decisions(self) -> tuple[Decision, ...]:
        """The decisions it made; none where it was another kind of act."""
        return self.after.decisions[len(self.before.decisions) :]


@dataclass(frozen=True, eq=False)
class History:
    """``documents`` one more than ``labels``; those beyond ``cursor`` were undone and can be put back.

    ``gesture`` is the movement of the hand that the latest act belongs to; its next step goes on with that act.
    """

    documents: tuple[Document, ...]
    labels: tuple[str, ...] = ()
    cursor: int = 0
    gesture: object = None

    @property
    def current(self) -> Document:
        return self.documents[self.cursor]

    @property
    def acts(self) -> tuple[Act, ...]:
        """All acts that were done, and those after them that were undone and can be done again."""
        return tuple(map(self.act, range(len(self.labels))))

    def act(self, position: int) -> Act:
        """The act at ``position`` (from 0)."""
        return Act(self.labels[position], *self.documents[position : position + 2])

    @property
    def undoable(self) -> Act | None:
        """The latest act, None where there is none."""
        return self.act(self.cursor - 1) if self.cursor else None

    @property
    def redoable(self) -> Act | None:
        """The act undone last, None where there is none."""
        return self.act(self.cursor) if self.cursor < len(self.labels) else None

    def with_act(self, document: Document, gesture: object = None) -> "History":
        """The history with one act more, which led to ``document``; what was undone before is gone.

        An act of the same ``gesture`` as the latest takes its place, and goes where nothing is left of it.
        """
        last = self.cursor == len(self.labels)
        merges = gesture is not None and gesture is self.gesture and last and self.cursor > 0
        at = self.cursor - 1 if merges else self.cursor
        before = self.documents[at]
        if merges and not changed_sections(before, document) - set(OUTSIDE_UNDO):
            return History((*self.documents[:at], document), self.labels[:at], at, gesture)
        label = act_label(before, document)
        return History((*self.documents[: at + 1], document), (*self.labels[:at], label), at + 1, gesture)

    def with_current(self, document: Document) -> "History":
        """The history with ``document`` where the cursor is: for sections outside undo, whose changes are no acts."""
        documents = (*self.documents[: self.cursor], document, *self.documents[self.cursor + 1 :])
        return replace(self, documents=documents)

    def moved_to(self, cursor: int) -> "History":
        """The history with the cursor after so many acts; sections outside undo stay as they are now.

        Raises DecisionError where there are not so many acts.
        """
        if not 0 <= cursor <= len(self.labels):
            raise DecisionError(f"There are {len(self.labels)} acts to go to.")
        staying = {name: getattr(self.current, name) for name in OUTSIDE_UNDO}
        moved = History(self.documents, self.labels, cursor)
        return moved.with_current(replace(moved.current, **staying))
