"""What of a study can change, by kind, found by comparing documents; and columns that wait to change it."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum, auto

from culvix.study.analysis.workspace import Workspace
from culvix.study.document.document import changed_sections
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Column

__all__ = ["Change", "ReparsedColumns", "changes_between"]


class Change(Enum):
    """What changed, by finest kind."""

    DATA = auto()
    """Columns were described otherwise, or added: the numbers are others now."""
    SETTINGS = auto()
    """Conventions, pictures, limits or valid ranges."""
    DECISIONS = auto()
    SELECTION = auto()
    REVIEW = auto()
    MARKS = auto()
    REPORT = auto()
    """How the study is reported."""
    VIEW = auto()


_OF_SECTION = {
    "settings": Change.SETTINGS,
    "decisions": Change.DECISIONS,
    "passes": Change.DECISIONS,
    "viewed": Change.REVIEW,
    "reviewed": Change.REVIEW,
    "noted": Change.REVIEW,
    "picks": Change.REVIEW,
    "discrepancies": Change.REVIEW,
    "marks": Change.MARKS,
    "comparisons": Change.REPORT,
    "report": Change.REPORT,
    "view": Change.VIEW,
}


def changes_between(before: Workspace, after: Workspace) -> list[Change]:
    """The kinds of what differs, in the order in which views should hear of them."""
    sections = changed_sections(before.document, after.document)
    found = {_OF_SECTION[name] for name in sections if name in _OF_SECTION}
    if after.table is not before.table:
        found.add(Change.DATA)
    elif "dictionary" in sections:
        # Only a valid range is no part of a column as it is read.
        found.add(Change.SETTINGS)
    return [change for change in Change if change in found]


@dataclass(frozen=True, eq=False)
class ReparsedColumns:
    """Columns of a study read anew under other ``entries``, not yet taken over; ``workspace`` is what they were of."""

    workspace: Workspace
    entries: Mapping[str, ColumnEntry]
    columns: tuple[Column, ...]
