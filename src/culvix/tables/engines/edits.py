"""Changes to a whole table: which of its rows are meant, and what is done with a cell there. The table itself stays."""

from dataclasses import dataclass
from enum import StrEnum

from culvix.stats.display import as_typed, plural

__all__ = ["Act", "Edit", "KeysWhere", "NumbersWhere", "RowCount", "Where", "columns_decided"]


@dataclass(frozen=True)
class NumbersWhere:
    """Rows with a number of ``column`` from ``low`` to ``high``, or outside of that; None leaves an end open.

    Numbers that are one of ``codes`` stand for something else, and are not meant.
    """

    column: str
    low: float | None
    high: float | None
    inside: bool = True
    codes: tuple[float, ...] = ()

    @property
    def columns(self) -> tuple[str, ...]:
        return (self.column,)

    @property
    def words(self) -> str:
        """The condition in words."""
        low, high = (None if end is None else as_typed(end) for end in (self.low, self.high))
        if self.inside:
            parts = (f"from {low}" if low else "", f"up to {high}" if high else "")
            return f"{self.column} {' '.join(part for part in parts if part)}"
        parts = (f"below {low}" if low else "", f"above {high}" if high else "")
        return f"{self.column} {' or '.join(part for part in parts if part)}"


@dataclass(frozen=True)
class KeysWhere:
    """Rows whose cells in ``columns``, written as texts, are one of ``cells``."""

    columns: tuple[str, ...]
    cells: tuple[tuple[str, ...], ...]

    @property
    def words(self) -> str:
        """The condition in words."""
        if len(self.cells) == 1:
            return ", ".join(f"{name} {cell}" for name, cell in zip(self.columns, self.cells[0], strict=True))
        return f"{', '.join(self.columns)} is one of {plural(len(self.cells), 'key')}"


Where = NumbersWhere | KeysWhere


@dataclass(frozen=True)
class RowCount:
    """How many rows are meant by ``where``."""

    where: Where


class Act(StrEnum):
    """What is done with a cell."""

    KEEP = "keep"
    EMPTY = "empty"
    LEAVE_OUT = "leave out the row"
    SET = "set"


@dataclass(frozen=True)
class Edit:
    """What is done with the cells of ``column`` in the rows meant by ``where``; without a column, with the rows.

    A cell is set to a ``value``, to ``factor`` times what stands there plus ``shift``, or to what stands in the column
    ``other``. Of several edits of one cell the last one holds; all are of the table as it stands.
    """

    where: Where
    column: str
    act: Act
    value: float | None = None
    factor: float | None = None
    shift: float = 0.0
    other: str = ""

    @property
    def columns(self) -> tuple[str, ...]:
        """All columns that it takes something from."""
        return tuple(dict.fromkeys(each for each in (*self.where.columns, self.column, self.other) if each))


def columns_decided(edits: tuple[Edit, ...]) -> dict[str, list[tuple[int, Edit]]]:
    """The edits of each column, "" for those of whole rows, with their places, the last first."""
    found: dict[str, list[tuple[int, Edit]]] = {}
    for index, each in reversed(list(enumerate(edits))):
        found.setdefault(each.column, []).append((index, each))
    return found
