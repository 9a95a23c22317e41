"""What of a study can change, and columns that wait to change it."""

from collections.abc import Mapping
from dataclasses import dataclass
from enum import Enum, auto

from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Column, Table

__all__ = ["Change", "ReparsedColumns"]


class Change(Enum):
    """What changed, by finest kind."""

    SELECTION = auto()
    SETTINGS = auto()
    DECISIONS = auto()
    REVIEW = auto()
    MARKS = auto()
    DATA = auto()
    """Cells of a column were settled: its numbers are others now."""


@dataclass(frozen=True, eq=False)
class ReparsedColumns:
    """Columns of ``table`` read anew under other ``entries``, not yet taken over."""

    table: Table
    entries: Mapping[str, ColumnEntry]
    columns: tuple[Column, ...]
