"""What a decision on the selection would do, worked out and put into words before it is made."""

from dataclasses import dataclass, field
from types import MappingProxyType

import numpy as np

from culvix.stats.core.arrays import Ints
from culvix.stats.display import count, plural
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.choices.selection import Cells, Selection, cells_with_values
from culvix.study.document.decisions import DecisionKind
from culvix.tables.model.table import Column

__all__ = ["CONFIRMED_SHARE", "CONFIRMED_VALUES", "DecisionPreview", "preview_decision"]

CONFIRMED_VALUES = 100
CONFIRMED_SHARE = 0.05
"""Beyond so many values, or this share of a column's values, a decision is confirmed first."""

_LONGEST_NAME = 26
_ALL_KINDS = frozenset(DecisionKind)
_NOTHING = "Select one or more values first; then decide about them."


@dataclass(frozen=True, eq=False)
class DecisionPreview:
    """The ``cells`` that a decision would be about, and ``text`` that say so.

    Whole rows stand under the empty column name. ``kinds`` are the decisions that can be made on them; where there is
    none, ``obstacle`` says why. ``large`` decisions ask to be confirmed.
    """

    text: str
    cells: Cells = field(default_factory=lambda: MappingProxyType({}))
    kinds: frozenset[DecisionKind] = frozenset()
    obstacle: str = ""
    large: bool = False

    @property
    def values(self) -> int:
        """Number of cells, or of whole rows."""
        return sum(int(rows.size) for rows in self.cells.values())

    @property
    def single(self) -> tuple[str, int] | None:
        """Column and row of the only value, None where there are more, or whole rows."""
        if self.values != 1 or "" in self.cells:
            return None
        ((column, rows),) = self.cells.items()
        return column, int(rows[0])

    @property
    def about(self) -> str:
        """What the decision is about: "34 values in 3 columns"."""
        if "" in self.cells:
            return plural(self.values, "row")
        columns = list(self.cells)
        where = _short(columns[0]) if len(columns) == 1 else plural(len(columns), "column")
        return f"{plural(self.values, 'value')} in {where}"

    def refusal(self, kind: DecisionKind) -> str:
        """Why a decision of ``kind`` cannot be made, empty where it can."""
        if self.obstacle or kind in self.kinds:
            return self.obstacle
        if "" in self.cells:
            return f"Whole rows are selected; they can be excluded. To {kind}, select values of a column."
        column = next(iter(self.cells))
        return f"The column {column} has no numbers to decide on; exclude the row instead."


def preview_decision(workspace: Workspace, selection: Selection, focus: str | None) -> DecisionPreview:
    """What can be decided on ``selection`` while the column ``focus`` is in view.

    Cells are decided about only while one of their columns is in view, whole rows always.
    """
    table = workspace.table
    if not selection:
        return DecisionPreview("", obstacle=_NOTHING)
    if not selection.cells:
        rows = selection.whole_rows
        before = workspace.working.rows_used
        after = before - int(np.count_nonzero(workspace.working.rows_in_use[rows]))
        text = f"{plural(int(rows.size), 'row')} · rows in use {count(before)} → {count(after)} if excluded"
        large = _large(int(rows.size), int(rows.size), table.rows)
        return DecisionPreview(text, {"": rows}, frozenset({DecisionKind.EXCLUDE_ROW}), large=large)
    if focus not in selection.cells:
        about = DecisionPreview("", selection.cells).about
        there = (
            selection.columns[0] if len(selection.columns) == 1 else f"one of {plural(len(selection.cells), 'column')}"
        )
        obstacle = f"These values are selected in {there}; turn to it to decide about them."
        return DecisionPreview(f"{about}, to be decided on there", selection.cells, obstacle=obstacle)
    cells = cells_with_values(table, selection.cells)
    numeric = all(table[column].is_numeric for column in cells)
    kinds = _ALL_KINDS if numeric else frozenset({DecisionKind.EXCLUDE_ROW})
    total = sum(int(rows.size) for rows in cells.values())
    large = any(_large(total, int(rows.size), _n(table[column])) for column, rows in cells.items())
    found = DecisionPreview("", cells, kinds, large=large)
    empty = sum(int(rows.size) for rows in selection.cells.values()) - total
    parts = [_single_text(workspace, *found.single) if found.single else found.about]
    parts += [f"{plural(empty, 'cell')} without a value left out"] if empty else []
    parts += [text] if (text := _n_text(workspace, cells)) else []
    return DecisionPreview(" · ".join(parts), cells, kinds, large=large)


def _short(name: str) -> str:
    """``name``, or its beginning and end where it is too long for a line of words."""
    return name if len(name) <= _LONGEST_NAME else f"{name[: _LONGEST_NAME - 8]}…{name[-7:]}"


def _n(column: Column) -> int:
    return column.sample.n if column.values is not None else 0


def _large(total: int, in_column: int, n: int) -> bool:
    return total > CONFIRMED_VALUES or (in_column > 1 and in_column > CONFIRMED_SHARE * n)


def _single_text(workspace: Workspace, column: str, row: int) -> str:
    table = workspace.table
    named = table.label_column
    name = "" if named is None else f" ({_short(named.cell(row))})"
    within = workspace.settings.of(column).flag_within
    group = f", {_short(within)} {_short(table[within].cell(row))}" if within is not None and within in table else ""
    return f"{_short(column)} {table[column].cell(row) or 'empty'} in row {count(table.number_of(row))}{name}{group}"


def _n_text(workspace: Workspace, cells: Cells) -> str:
    """How the number of values in use would fall, in the column that would lose most where they differ."""
    moves = {column: _n_before_and_after(workspace, column, rows) for column, rows in cells.items()}
    moves = {column: move for column, move in moves.items() if move[0]}
    if not moves:
        return ""
    most = max(moves, key=lambda column: moves[column][0] - moves[column][1])
    before, after = moves[most]
    where = "" if len(set(moves.values())) == 1 else f" in {_short(most)}"
    return f"n{' at most' if where else ''} {count(before)} → {count(after)}{where} if excluded"


def _n_before_and_after(workspace: Workspace, column: str, rows: Ints) -> tuple[int, int]:
    target = workspace.table[column]
    if not target.is_numeric:
        return 0, 0
    sample = workspace.working.sample(target)
    return sample.n, sample.n - int(np.count_nonzero(np.isfinite(sample.values[rows])))
