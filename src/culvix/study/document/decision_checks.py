"""Whether a decision can be made: on rows and values that are there, with a result that is a number."""

import numpy as np

from culvix.errors import DecisionError
from culvix.stats.core.arrays import Ints
from culvix.study.document.decisions import Decision, DecisionKind
from culvix.tables.model.table import Column, Table

__all__ = ["check_correction", "check_rows"]


def check_rows(table: Table, column: Column | None, kind: DecisionKind, rows: Ints) -> None:
    """Raise DecisionError where a decision of ``kind`` on ``rows`` (ascending) of ``column`` makes no sense."""
    if rows.size and not (rows[0] >= 0 and rows[-1] < table.rows):
        raise DecisionError(f"There are {table.rows} rows; the decision names one beyond them.")
    if kind is DecisionKind.EXCLUDE_ROW or column is None or not rows.size:
        return
    if column.values is None:
        raise DecisionError(f"The column {column.name} has no numbers to decide on; exclude the row instead.")
    if kind is not DecisionKind.CORRECT and np.isnan(column.values[rows]).any():
        raise DecisionError(f"One of these rows has no value in {column.name}; there is nothing to {kind}.")


def check_correction(table: Table, decision: Decision) -> None:
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
