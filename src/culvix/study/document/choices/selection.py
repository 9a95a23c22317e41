"""What is selected: values of one or more columns, or whole rows."""

from collections.abc import Iterable, Mapping
from dataclasses import dataclass, field
from types import MappingProxyType

import numpy as np

from culvix.caching import cached_property
from culvix.errors import DecisionError
from culvix.stats.core.arrays import Ints
from culvix.study.document.choices.view import View
from culvix.study.document.row_sets import as_rows, union
from culvix.tables.model.table import Column, Table

__all__ = ["Cells", "Selection", "cells_with_values", "selection_of_view", "view_of_selection"]

Cells = Mapping[str, Ints]
"""Rows (from 0, ascending, each once) by the name of the column whose cells are meant."""

_MOST_WRITTEN = 10_000
_NO_ROWS: Ints = np.zeros(0, dtype=np.int64)


@dataclass(frozen=True, eq=False)
class Selection:
    """Selected cells, or rows of the table that belong to no column, and how they came to be selected.

    A decision on cells is about these columns only; of whole rows nothing can be decided but to exclude them.
    """

    cells: Cells = field(default_factory=lambda: MappingProxyType({}))
    whole_rows: Ints = field(default_factory=lambda: _NO_ROWS)
    origin: str = ""

    @classmethod
    def of_cells(cls, cells: Mapping[str, Iterable[int] | Ints], origin: str = "") -> "Selection":
        """The ``cells`` given by column, in the order of the columns; a column without rows is no part of it."""
        ordered = {column: as_rows(rows) for column, rows in cells.items()}
        return cls(MappingProxyType({column: rows for column, rows in ordered.items() if rows.size}), origin=origin)

    @classmethod
    def of_rows(cls, rows: Iterable[int] | Ints, origin: str = "") -> "Selection":
        """Whole ``rows``."""
        return cls(whole_rows=as_rows(rows), origin=origin)

    def __bool__(self) -> bool:
        return bool(self.rows.size)

    @cached_property
    def rows(self) -> Ints:
        """Every row with something selected in it, ascending."""
        return union(*self.cells.values(), self.whole_rows)

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns whose cells are selected; none where whole rows are."""
        return tuple(self.cells)

    def in_column(self, column: str) -> Ints:
        """The rows that light up beside ``column``: those of its own cells, else every one."""
        return self.cells.get(column, self.rows)

    def check(self, table: Table) -> None:
        """Raise DecisionError where it names rows or columns that ``table`` has not."""
        for chosen in (*self.cells.values(), self.whole_rows):
            if chosen.size and not (chosen[0] >= 0 and chosen[-1] < table.rows):
                raise DecisionError(f"There are {table.rows} rows; one beyond them cannot be selected.")
        unknown = [column for column in self.columns if column not in table]
        if unknown:
            raise DecisionError(f"There is no column {unknown[0]}; nothing in it can be selected.")

    def within(self, table: Table) -> "Selection":
        """What is left of it in ``table``: cells of columns that are gone are selected no more."""
        if all(column in table for column in self.cells):
            return self
        return Selection.of_cells({c: rows for c, rows in self.cells.items() if c in table}, self.origin)

    def with_rows(self, column: str, rows: Ints) -> "Selection":
        """The same cells, but ``rows`` in ``column``; whole rows give way to them."""
        return Selection.of_cells({**self.cells, column: rows}, self.origin)


def view_of_selection(selection: Selection) -> dict[str, object]:
    """The fields of a `View` for what is selected; nothing where it is too much to be written down with it."""
    if selection.rows.size > _MOST_WRITTEN:
        selection = Selection()
    return {
        "selected_cells": tuple((column, tuple(rows.tolist())) for column, rows in selection.cells.items()),
        "selected_rows": tuple(selection.whole_rows.tolist()),
        "selected_from": selection.origin if selection else "",
    }


def selection_of_view(view: View, table: Table) -> Selection:
    """What was selected when a study was left, as far as ``table`` has it."""
    if view.selected_cells:
        found = Selection.of_cells(dict(view.selected_cells), view.selected_from)
    else:
        found = Selection.of_rows(view.selected_rows, view.selected_from)
    try:
        found.check(table)
    except DecisionError:
        return Selection()
    return found


def cells_with_values(table: Table, cells: Cells) -> dict[str, Ints]:
    """The cells that a decision is about: those with a number, or all of them where none has one."""
    found = {column: _with_value(table[column], rows) for column, rows in cells.items()}
    found = {column: rows for column, rows in found.items() if rows.size}
    return found or dict(cells)


def _with_value(column: Column, rows: Ints) -> Ints:
    return _NO_ROWS if column.values is None else rows[~np.isnan(column.values[rows])]
