"""Changes of cells as expressions of SQL."""

from typing import Any

import sqlalchemy as sa

from culvix.tables.engines.edits import Act, Edit, columns_decided
from culvix.tables.engines.engine import Kind
from culvix.tables.engines.postgres.expressions import Element, Expressions, carried, double

__all__ = ["edited"]


def edited(source: sa.FromClause, expressions: Expressions, edits: tuple[Edit, ...]) -> sa.Select[*tuple[Any, ...]]:
    """The rows of ``source`` with all ``edits`` made, each cell of a type that is carried over."""
    met = [expressions.is_met(each.where) for each in edits]
    decided = columns_decided(edits)
    cells = []
    for name, column in expressions.columns.items():
        if column.kind is not Kind.OTHER:
            cell = _cell(expressions, name, [(met[index], each) for index, each in decided.get(name, [])])
            cells.append(cell.label(name))
    out = [
        sa.case(*((met[index], sa.literal(each.act is Act.LEAVE_OUT)) for index, each in of_column), else_=sa.false())
        for of_column in decided.values()
        if any(each.act is Act.LEAVE_OUT for _, each in of_column)
    ]
    return sa.select(*cells).select_from(source).where(*(sa.not_(each) for each in out))


def _cell(expressions: Expressions, name: str, edits: list[tuple[Element, Edit]]) -> Element:
    column, raw = expressions.columns[name], expressions.table.c[name]
    as_it_is = carried(column, raw)
    if not any(each.act in (Act.EMPTY, Act.SET) for _, each in edits):
        return as_it_is
    is_set = any(each.act is Act.SET for _, each in edits)
    cell = expressions.as_double(name, raw) if is_set else as_it_is
    return sa.case(*((met, _answer(expressions, cell, each)) for met, each in edits), else_=cell)


def _answer(expressions: Expressions, cell: Element, edit: Edit) -> Element:
    if edit.act is Act.EMPTY:
        return sa.null()
    if edit.act is not Act.SET:
        return cell
    if edit.other:
        return expressions.as_double(edit.other, expressions.table.c[edit.other])
    if edit.value is not None:
        return double(edit.value)
    return cell * double(edit.factor or 1.0) + double(edit.shift)
