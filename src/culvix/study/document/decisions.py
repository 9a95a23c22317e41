"""Decisions on values and rows: what is done with them, where they came from, why, and by whom."""

from collections.abc import Mapping
from dataclasses import dataclass
from datetime import datetime
from enum import StrEnum
from math import isfinite

import numpy as np

from culvix.errors import DecisionError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.display import number, plural, rounded
from culvix.study.document.rules import Rule

__all__ = ["Cause", "Decision", "DecisionKind", "factor_text"]


class DecisionKind(StrEnum):
    """What is done with a value."""

    KEEP = "keep"
    EXCLUDE_VALUE = "exclude value"
    EXCLUDE_ROW = "exclude row"
    CORRECT = "correct"
    MISSING = "treat as missing"


class Cause(StrEnum):
    """Where a doubtful value came from, as far as is known."""

    UNKNOWN = "not known"
    ENTRY = "entry"
    MEASUREMENT = "measurement"
    EXPERIMENT = "experiment"
    PROCESSING = "processing"
    SAMPLING = "sampling"
    DELIBERATE = "deliberate"
    GENUINE = "genuine"


def factor_text(factor: float, shift: float = 0.0) -> str:
    """A correction factor as it is written: ×10 or ÷10, with what is added behind it."""
    if shift:
        return f"×{rounded(factor)} {'+' if shift > 0 else '−'} {rounded(abs(shift))}"
    inverse = 1 / factor
    if factor < 1 and abs(inverse - round(inverse, 6)) < 1e-9:
        return f"÷{round(inverse, 6):g}"
    return f"×{rounded(factor, 6)}"


@dataclass(frozen=True, eq=False)
class Decision:
    """The same decision for one or many ``rows`` (from 0, ascending) of one column, with cause and reason.

    Rows that are excluded for no value in particular have no column: ``column`` is empty.

    A correction has a ``value`` (the column's unit), a ``factor`` by which the imported value is multiplied before
    ``shift`` is added, or the name of the column it was ``swapped`` with, which then gets this one's value. ``rule``
    says how the rows were found, ``by`` whose decision it is (initials), ``pass_number`` in which pass over the data it
    was made.
    """

    kind: DecisionKind
    column: str
    rows: Ints
    cause: Cause
    reason: str
    at: datetime
    value: float | None = None
    factor: float | None = None
    shift: float = 0.0
    swapped: str | None = None
    rule: Rule | None = None
    by: str = ""
    pass_number: int = 1

    def __post_init__(self) -> None:
        if not self.rows.size:
            raise DecisionError("A decision needs at least one row; select a value first.")
        if not self.column and self.kind is not DecisionKind.EXCLUDE_ROW:
            raise DecisionError(f"Whole rows can be excluded; to {self.kind}, select values of a column.")
        given = [x for x in (self.value, self.factor) if x is not None]
        if self.kind is not DecisionKind.CORRECT:
            if given or self.swapped:
                raise DecisionError(f"Only a correction has a value or a factor, not {self.kind}.")
        elif len(given) + (self.swapped is not None) != 1 or not all(map(isfinite, given)) or self.factor == 0:
            raise DecisionError("A correction needs one finite value, or one factor other than 0.")
        elif self.swapped == self.column:
            raise DecisionError(f"{self.column} cannot be swapped with itself.")

    @property
    def columns(self) -> tuple[str, ...]:
        """The columns whose values it decides on."""
        return tuple(column for column in (self.column, self.swapped) if column)

    def corrected(self, column: str, values: Mapping[str, Floats]) -> Floats:
        """What it makes of the values of ``column`` in its rows (same shape), given those of all columns it is about.

        ``values`` are as imported, each of shape ``(rows,)`` of the table.
        """
        if self.swapped is not None:
            return values[self.swapped if column == self.column else self.column][self.rows]
        if self.value is not None:
            return np.full(self.rows.size, self.value)
        with np.errstate(over="ignore"):
            return np.asarray(values[column][self.rows] * (self.factor or 1.0) + self.shift)

    @property
    def text(self) -> str:
        """The act without its rows: "correct ×10"."""
        if self.swapped is not None:
            return f"{self.kind} by swapping with {self.swapped}"
        if self.factor is not None:
            return f"{self.kind} {factor_text(self.factor)}"
        if self.value is not None:
            return f"{self.kind} to {number(self.value, 12).rstrip('0').rstrip('.')}"
        return str(self.kind)

    @property
    def sentence(self) -> str:
        """The whole act in words."""
        rule = f", {self.rule.text}" if self.rule is not None else ""
        column = f"{self.column}, " if self.column else ""
        return f"{self.text}: {column}{plural(int(self.rows.size), 'row')}{rule}"
