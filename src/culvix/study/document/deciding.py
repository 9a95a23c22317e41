"""Making decisions: the same one for cells of one column or of several, checked against the table."""

from collections.abc import Iterable, Mapping
from dataclasses import replace
from datetime import UTC, datetime

import numpy as np

from culvix.errors import DecisionError
from culvix.stats.core.arrays import Ints
from culvix.study.document.decisions import Cause, Decision, DecisionKind
from culvix.study.document.document import Document
from culvix.study.document.row_sets import as_rows, union
from culvix.tables.model.table import Column, Table

__all__ = ["with_decisions", "with_next_pass"]


def with_decisions(
    document: Document,
    table: Table,
    kind: DecisionKind,
    cells: Mapping[str, Iterable[int] | Ints],
    *,
    cause: Cause = Cause.UNKNOWN,
    reason: str = "",
    **details: object,
) -> Document:
    """``document`` with the same decision on ``cells`` (rows from 0 by column) of ``table``.

    A row is excluded once, for the first of its cells. Whole rows have the empty name for their column. ``details`` is
    what a `Decision` has besides: ``value``, ``factor`` or ``swapped`` of a correction, and ``rule``. Raises
    DecisionError for an unknown row, a value that is not there, or a correction that is no finite number.
    """
    details = {"by": document.initials, "pass_number": document.pass_number, **details}
    now, made, taken = datetime.now(UTC), [], union()
    for name, given in cells.items():
        target, rows = table[name] if name else None, as_rows(given)
        if kind is DecisionKind.EXCLUDE_ROW:
            rows = np.setdiff1d(rows, taken, assume_unique=True)
            taken = union(taken, rows)
            if not rows.size and taken.size:
                continue
        _check_rows(table, target, kind, rows)
        column = "" if target is None else target.name
        decision = Decision(kind, column, rows, cause, reason.strip(), now, **details)  # type: ignore[arg-type]
        _check_correction(table, decision)
        made.append(decision)
    if not made:
        raise DecisionError("Nothing is selected; select a value first.")
    return replace(document, decisions=document.decisions.with_more(made))


def with_next_pass(document: Document) -> Document:
    """``document`` with another pass begun. Raises DecisionError where this pass decided nothing."""
    decided = len(document.decisions)
    if decided == (document.passes or (0,))[-1]:
        raise DecisionError("Nothing was decided in this pass; another one would flag the same values.")
    return replace(document, passes=(*document.passes, decided))


def _check_rows(table: Table, column: Column | None, kind: DecisionKind, rows: Ints) -> None:
    """Raise DecisionError where a decision of ``kind`` on ``rows`` (ascending) of ``column`` makes no sense."""
    if rows.size and not (rows[0] >= 0 and rows[-1] < table.rows):
        raise DecisionError(f"There are {table.rows} rows; the decision names one beyond them.")
    if kind is DecisionKind.EXCLUDE_ROW or column is None or not rows.size:
        return
    if column.values is None:
        raise DecisionError(f"The column {column.name} has no numbers to decide on; exclude the row instead.")
    if kind is not DecisionKind.CORRECT and np.isnan(column.values[rows]).any():
        raise DecisionError(f"One of these rows has no value in {column.name}; there is nothing to {kind}.")


def _check_correction(table: Table, decision: Decision) -> None:
    """Raise DecisionError where ``decision`` would make something that is no number of a value."""
    if decision.swapped is not None:
        other = table[decision.swapped]
        if other.values is None:
            raise DecisionError(f"{other.name} has no numbers to swap with.")
        both = table[decision.column].values, other.values
        if any(values is None or not np.isfinite(values[decision.rows]).all() for values in both):
            raise DecisionError(
                f"One of these rows lacks a value in {decision.column} or {other.name}; none is swapped."
            )
    elif decision.factor is not None:
        values = table[decision.column].values
        assert values is not None
        if np.isnan(values[decision.rows]).any():
            raise DecisionError(f"One of these rows has no value in {decision.column}; there is nothing to multiply.")
        if np.isinf(decision.corrected(decision.column, {decision.column: values})).any():
            raise DecisionError("The corrected value would be too large for a number.")
