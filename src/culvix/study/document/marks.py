"""Marks: an analyst's own highlight rules on the rows of a table, each with a name, a shape and a colour.

A rule is a condition on the cells of one column, as they were read; it may ask for runs of so many rows in succession.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from types import MappingProxyType

import numpy as np

from culvix.errors import CulvixError
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.stats.display import plural, typed_number
from culvix.tables.model.table import Column, Table

__all__ = ["CONDITIONS", "MOST_MARKS", "SHAPES", "Condition", "Mark", "marked_rows", "new_mark"]

SHAPES = ("■", "◆", "▲", "▼", "★", "✚")
MOST_MARKS = len(SHAPES)


def _above(column: Column, value: str) -> Bools:
    return np.asarray(_numbers(column) > _number(value))


def _below(column: Column, value: str) -> Bools:
    return np.asarray(_numbers(column) < _number(value))


def _outside(column: Column, value: str) -> Bools:
    low, high = _ends(value)
    numbers = _numbers(column)
    return np.asarray((numbers < low) | (numbers > high))


def _between(column: Column, value: str) -> Bools:
    low, high = _ends(value)
    numbers = _numbers(column)
    return np.asarray((numbers >= low) & (numbers <= high))


def _equals(column: Column, value: str) -> Bools:
    if column.is_numeric:
        return np.asarray(_numbers(column) == _number(value))
    return _text_mask(column, lambda texts: texts == value.strip())


def _contains(column: Column, value: str) -> Bools:
    if not value.strip():
        raise CulvixError("Say what the cell should contain.")
    return _text_mask(column, lambda texts: texts.str.contains(value.strip(), literal=True))


def _repeats(column: Column, value: str) -> Bools:
    """The same cell as in the row above."""
    if column.values is not None:
        same = column.values[1:] == column.values[:-1]
    else:
        texts = column.text.str.strip_chars()
        same = ((texts.slice(1) == texts.slice(0, len(texts) - 1)).fill_null(False)).to_numpy()
    return np.concatenate([[False], same])


def _missing(column: Column, value: str) -> Bools:
    unread = np.zeros(column.rows, dtype=bool)
    unread[column.unread_rows] = True
    return ~column.present & ~unread


def _unread(column: Column, value: str) -> Bools:
    unread = np.zeros(column.rows, dtype=bool)
    unread[column.unread_rows] = True
    return unread


@dataclass(frozen=True)
class Condition:
    """What is asked of a cell: its words, the number of values it takes (0 to 2), and whether it asks for numbers."""

    text: str
    takes: int
    numeric: bool
    holds: Callable[[Column, str], Bools]


CONDITIONS: Mapping[str, Condition] = MappingProxyType(
    {
        "above": Condition("is above", 1, True, _above),
        "below": Condition("is below", 1, True, _below),
        "between": Condition("is between", 2, True, _between),
        "outside": Condition("is outside", 2, True, _outside),
        "equals": Condition("is", 1, False, _equals),
        "contains": Condition("contains", 1, False, _contains),
        "repeats": Condition("repeats the row above", 0, False, _repeats),
        "missing": Condition("is missing", 0, False, _missing),
        "unread": Condition("is unread", 0, False, _unread),
    }
)


@dataclass(frozen=True)
class Mark:
    """A rule: ``condition`` of CONDITIONS with ``value`` as typed, on ``column``, in runs of at least ``run`` rows."""

    name: str
    column: str
    condition: str
    value: str = ""
    run: int = 1
    shape: str = SHAPES[0]

    @property
    def sentence(self) -> str:
        """The rule in words."""
        asked = CONDITIONS[self.condition]
        value = f" {self.value.strip()}" if asked.takes else ""
        runs = f", in runs of {self.run} rows or more" if self.run > 1 else ""
        return f"{self.column} {asked.text}{value}{runs}"


def marked_rows(mark: Mark, table: Table) -> Ints:
    """The rows (ascending, from 0) that ``mark`` marks. Raises CulvixError where the rule cannot be applied."""
    column = table[mark.column]
    asked = CONDITIONS[mark.condition]
    if asked.numeric and not column.is_numeric:
        raise CulvixError(f"{column.name} is read as {column.role}; it has no numbers to compare.")
    if mark.run < 1:
        raise CulvixError("A run has at least one row.")
    with np.errstate(invalid="ignore"):
        holds = np.asarray(asked.holds(column, mark.value), dtype=bool)
    return np.flatnonzero(_in_runs(holds, mark.run))


def _in_runs(holds: Bools, run: int) -> Bools:
    """Where ``holds`` is true at least ``run`` times in succession."""
    if run == 1 or not holds.any():
        return holds
    edges = np.diff(np.concatenate([[0], holds.view(np.int8), [0]]))
    starts, ends = np.flatnonzero(edges == 1), np.flatnonzero(edges == -1)
    long = ends - starts >= run
    marks = np.zeros(holds.size + 1, dtype=np.int64)
    marks[starts[long]] += 1
    marks[ends[long]] -= 1
    return np.asarray(np.cumsum(marks[:-1]) > 0)


def new_mark(
    table: Table, marks: tuple[Mark, ...], column: str, condition: str, value: str, run: int = 1, name: str = ""
) -> Mark:
    """A mark beside ``marks``, in the first free shape. Raises CulvixError as `marked_rows`, and for one too many."""
    free = [shape for shape in SHAPES if shape not in {mark.shape for mark in marks}]
    if not free:
        raise CulvixError(f"There are {plural(MOST_MARKS, 'mark')} already; take one away first.")
    mark = Mark("", column, condition, value, run, free[0])
    marked_rows(mark, table)
    named = Mark(name.strip() or mark.sentence, column, condition, value.strip(), run, free[0])
    if any(each.name == named.name for each in marks):
        raise CulvixError(f"There is a mark called “{named.name}” already.")
    return named


def _numbers(column: Column) -> Floats:
    assert column.values is not None  # asked before
    return column.values


def _number(text: str) -> float:
    try:
        return typed_number(text)
    except ValueError:
        raise CulvixError(f"A number is wanted, not “{text.strip()}”.") from None


def _ends(text: str) -> tuple[float, float]:
    parts = text.replace(" and ", " ").replace(";", " ").split()
    if len(parts) != 2:
        raise CulvixError(f"Two numbers are wanted, as in “10 and 20”, not “{text.strip()}”.")
    low, high = sorted((_number(parts[0]), _number(parts[1])))
    return low, high


def _text_mask(column: Column, test: Callable[..., object]) -> Bools:
    texts = column.text.str.strip_chars()
    return np.asarray(test(texts).fill_null(False).to_numpy())  # type: ignore[attr-defined]
