"""Columns made from others by a rule in words: conditions, two columns taken together, classes, parts of dates, levels.

Every result is a number: 1 and 0 for yes and no, codes from 1 for classes, parts and joined levels, each with its word.
"""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import pairwise
from types import MappingProxyType
from typing import TYPE_CHECKING

import numpy as np
import polars as pl

from culvix.errors import CulvixError
from culvix.stats.core.arrays import Bools, Floats
from culvix.stats.display import typed_number
from culvix.tables.cells.date_values import days_of

if TYPE_CHECKING:
    from culvix.tables.model.table import Column

__all__ = [
    "CLAUSES",
    "JOINS",
    "KINDS",
    "OPERATIONS",
    "PARTS",
    "STATISTICS",
    "Cells",
    "Clause",
    "ColumnRule",
    "number_typed",
]

KINDS = {
    "condition": "yes or no",
    "two": "from two columns",
    "several": "several columns by row",
    "classes": "classes",
    "date": "part of a date",
    "levels": "levels joined",
}
CLAUSES = {
    "is": "is",
    "is_not": "is not",
    "above": "above",
    "at_least": "at least",
    "below": "below",
    "at_most": "at most",
    "between": "between",
    "contains": "contains",
    "missing": "is missing",
    "present": "is not missing",
}
"""What can be said of the cells of a column; ``between`` takes two values, both counted in."""

JOINS = {"all": "all of", "any": "any of", "none": "none of"}
OPERATIONS = {
    "sum": "plus",
    "difference": "less",
    "product": "times",
    "ratio": "over",
    "percent_change": "in per cent more than",
}
STATISTICS = {"mean": "mean", "median": "median", "sum": "sum", "min": "least", "max": "largest"}
"""What several columns of a row are taken together by."""

PARTS = {
    "year": "year",
    "quarter": "quarter",
    "month": "month",
    "weekday": "day of the week",
    "day": "day of the month",
}
_MONTHS = (
    *("January", "February", "March", "April", "May", "June"),
    *("July", "August", "September", "October", "November", "December"),
)
_DAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"]
_MOST_LEVELS = 1000
_WITHOUT_VALUE = ("missing", "present")
_OF_NUMBERS = ("above", "at_least", "below", "at_most", "between")


@dataclass(frozen=True)
class Clause:
    """One thing said of the cells of ``column``: a key of `CLAUSES` with the ``value`` (and ``upper`` end) as typed."""

    column: str
    says: str
    value: str = ""
    upper: str = ""

    @property
    def sentence(self) -> str:
        if self.says in _WITHOUT_VALUE:
            return f"{self.column} {CLAUSES[self.says]}"
        ends = f"{self.value} and {self.upper}" if self.says == "between" else self.value
        return f"{self.column} {CLAUSES[self.says]} {ends}"


@dataclass(frozen=True)
class ColumnRule:
    """What a column is made by: ``kind`` is a key of `KINDS`, and says which of the other fields count.

    ``clauses`` are joined by a key of `JOINS`. Of two columns the second is ``other``, taken together by an
    ``operation``. Classes meet at ``cuts`` (ascending; a value at one is in the upper class), and are called ``names``.
    ``part`` is one of a date. Several ``columns`` are taken together, row by row, by a ``statistic``: where it is
    ``complete``, of rows only that have a value in all of them. ``levels`` are pairs of an old level and the new one;
    one that is not named stays as it is.
    """

    kind: str
    clauses: tuple[Clause, ...] = ()
    join: str = "all"
    operation: str = "ratio"
    other: str = ""
    cuts: tuple[float, ...] = ()
    names: tuple[str, ...] = ()
    part: str = "month"
    columns: tuple[str, ...] = ()
    statistic: str = "mean"
    complete: bool = True
    levels: tuple[tuple[str, str], ...] = ()

    @property
    def reads_texts(self) -> bool:
        """Whether it is made of cells as they are written, not of numbers."""
        return self.kind in ("date", "levels")

    def sources(self, first: str) -> tuple[str, ...]:
        """The columns it needs, ``first`` the one it is made from in the first place."""
        others = [clause.column for clause in self.clauses] if self.kind == "condition" else []
        others += [self.other] if self.kind == "two" else []
        others += self.columns if self.kind == "several" else ()
        return tuple(dict.fromkeys((first, *others)))

    def sentence(self, first: str) -> str:
        """The rule in words."""
        if self.kind == "condition":
            sentence = "; ".join(clause.sentence for clause in self.clauses)
            return sentence if len(self.clauses) == 1 and self.join != "none" else f"{JOINS[self.join]}: {sentence}"
        if self.kind == "two":
            return f"{first} {OPERATIONS[self.operation]} {self.other}"
        if self.kind == "several":
            rows = "" if self.complete else ", of those that have a value"
            return f"{STATISTICS[self.statistic]} of {', '.join(self.columns)} by row{rows}"
        if self.kind == "classes":
            return f"{first} in classes that meet at {', '.join(f'{cut:g}' for cut in self.cuts)}"
        if self.kind == "date":
            return f"{PARTS[self.part]} of {first}"
        joined: dict[str, list[str]] = {}
        for old, new in self.levels:
            joined.setdefault(new, []).append(old)
        return f"{first} with " + "; ".join(f"{new} for {', '.join(old)}" for new, old in joined.items())

    def check(self, columns: Mapping[str, "Column"], first: str) -> None:
        """Raise CulvixError, in a sentence, where it cannot be applied to ``columns``."""
        missing = [name for name in self.sources(first) if name not in columns]
        if missing:
            raise CulvixError(f"There is no column called {missing[0]}.")
        numeric = {"two": (first, self.other), "classes": (first,), "several": self.columns}.get(self.kind, ())
        for name in numeric:
            if columns[name].values is None:
                raise CulvixError(f"{name} has no numbers, which this needs.")
        if self.kind == "condition":
            if not self.clauses:
                raise CulvixError("Say at least one thing of a column.")
            for clause in self.clauses:
                _check_clause(clause, columns[clause.column])
        if self.kind == "several" and len(self.columns) < 2:
            raise CulvixError("Choose at least two columns to be taken together.")
        if self.kind == "classes" and (not self.cuts or list(self.cuts) != sorted(set(self.cuts))):
            raise CulvixError("Classes need values at which they meet, each once and in order.")
        if self.kind == "classes" and self.names and len(self.names) != len(self.cuts) + 1:
            raise CulvixError(
                f"{len(self.cuts)} values make {len(self.cuts) + 1} classes; {len(self.names)} are named."
            )
        if self.kind == "levels" and not self.levels:
            raise CulvixError("Name at least one level that is to be another.")
        if self.kind == "levels" and columns[first].distinct > _MOST_LEVELS:
            raise CulvixError(f"{first} has more than {_MOST_LEVELS} levels; these are too many to be joined.")

    def words(self, columns: Mapping[str, "Column"], first: str) -> dict[str, str]:
        """What the codes of the result stand for; nothing for plain numbers."""
        if self.kind == "condition":
            return {"0": "no", "1": "yes"}
        if self.kind == "classes":
            ends = [f"{cut:g}" for cut in self.cuts]
            usual = (f"below {ends[0]}", *(f"{a} to below {b}" for a, b in pairwise(ends)), f"{ends[-1]} and more")
            return {str(code): name for code, name in enumerate(self.names or usual, start=1)}
        if self.kind == "date" and self.part in ("month", "weekday"):
            return {str(code): name for code, name in enumerate(_MONTHS if self.part == "month" else _DAYS, start=1)}
        if self.kind == "levels":
            return {str(code): name for code, name in enumerate(self._new_levels(columns[first]), start=1)}
        return {}

    def _new_levels(self, column: "Column") -> list[str]:
        old = column.order or tuple(sorted(dict(column.most_frequent(_MOST_LEVELS))))
        renamed = dict(self.levels)
        return list(dict.fromkeys(renamed.get(level, level) for level in old))

    def values(self, first: str, cells: "Cells") -> Floats:
        """The numbers it makes of ``cells``, shape ``(rows,)``, NaN where a cell that it needs is missing."""
        if self.kind == "condition":
            return self._condition(cells)
        if self.kind == "two":
            return _taken_together(self.operation, cells.numbers(first), cells.numbers(self.other))
        if self.kind == "several":
            return _by_row(self.statistic, [cells.numbers(name) for name in self.columns], complete=self.complete)
        if self.kind == "classes":
            x = cells.numbers(first)
            codes = np.searchsorted(np.array(self.cuts), x, side="right") + 1.0
            return np.where(np.isfinite(x), codes, np.nan)
        if self.kind == "date":
            return _date_part(cells.texts(first), self.part, cells.date_order(first))
        indices = {name: code for code, name in enumerate(self._new_levels(cells.columns[first]), start=1)}
        renamed, levels = dict(self.levels), dict(cells.columns[first].most_frequent(_MOST_LEVELS))
        named = {level: indices[renamed.get(level, level)] for level in levels}
        found = cells.texts(first).replace_strict(named, default=None, return_dtype=pl.Float64)
        return found.fill_null(np.nan).to_numpy().astype(np.float64)

    def _condition(self, cells: "Cells") -> Floats:
        met, known = zip(*(_holds(clause, cells) for clause in self.clauses), strict=True)
        yes, no = np.stack(met) & np.stack(known), ~np.stack(met) & np.stack(known)
        # What is not known does not matter where the others settle it.
        if self.join == "all":
            true, false = yes.all(axis=0), no.any(axis=0)
        else:
            true, false = yes.any(axis=0), no.all(axis=0)
        if self.join == "none":
            true, false = false, true
        return np.where(true, 1.0, np.where(false, 0.0, np.nan))


@dataclass(frozen=True, eq=False)
class Cells:
    """The cells a rule reads: ``columns`` by name, with the numbers that ``sample`` has for them now.

    ``orders`` is what was said of dates that can be read both ways.
    """

    columns: Mapping[str, "Column"]
    numbers_of: Callable[[str], Floats]
    orders: Mapping[str, str | None] = field(default_factory=lambda: MappingProxyType({}))

    def numbers(self, name: str) -> Floats:
        """The numbers of a column, NaN where it has none."""
        values = self.columns[name].values
        return np.full(self.columns[name].rows, np.nan) if values is None else self.numbers_of(name)

    def texts(self, name: str) -> pl.Series:
        """The cells of a column as read, null where they are missing."""
        column = self.columns[name]
        return column.text.str.strip_chars().set(~pl.Series(column.present), None)

    def date_order(self, name: str) -> str | None:
        return self.orders.get(name)


def number_typed(text: str) -> float:
    """The number that was typed. Raises CulvixError where it is none."""
    try:
        return typed_number(text)
    except ValueError:
        raise CulvixError(f"{text.strip() or 'Nothing'} is no number.") from None


def _check_clause(clause: Clause, column: "Column") -> None:
    if clause.says in _OF_NUMBERS and column.values is None:
        raise CulvixError(f"{column.name} has no numbers, so that none is {CLAUSES[clause.says]} another.")
    if clause.says in _OF_NUMBERS:
        ends = [number_typed(clause.value), *([number_typed(clause.upper)] if clause.says == "between" else [])]
        if ends != sorted(ends):
            raise CulvixError(f"{clause.sentence} holds no value: its ends are the wrong way round.")
    elif clause.says not in _WITHOUT_VALUE and not clause.value.strip():
        raise CulvixError(f"Say what {column.name} {CLAUSES[clause.says]}.")


def _names_a_word(clause: Clause) -> bool:
    """Whether cells of a column of numbers are compared as they are written: “no”, or the word for a code."""
    if clause.says not in ("is", "is_not"):
        return False
    try:
        typed_number(clause.value)
    except ValueError:
        return True
    return False


def _holds(clause: Clause, cells: Cells) -> tuple[Bools, Bools]:
    """Where ``clause`` holds, and where that is known, both of shape ``(rows,)``."""
    column = cells.columns[clause.column]
    if column.values is None or clause.says == "contains" or _names_a_word(clause):
        texts = cells.texts(clause.column)
        there = texts.is_not_null().to_numpy()
        if clause.says in _WITHOUT_VALUE:
            return (~there if clause.says == "missing" else there), np.ones(there.size, dtype=bool)
        if column.values is not None:
            # A value that is out of use is not known, whatever its cell says.
            there = there & np.isfinite(cells.numbers(clause.column))
        pattern = next((code for code, word in column.words.items() if word == clause.value), clause.value).strip()
        found = texts.str.contains(pattern, literal=True) if clause.says == "contains" else texts == pattern
        holds = found.fill_null(False).to_numpy()
        return (~holds if clause.says == "is_not" else holds), there
    x = cells.numbers(clause.column)
    there = np.isfinite(x)
    if clause.says in _WITHOUT_VALUE:
        return (~there if clause.says == "missing" else there), np.ones(there.size, dtype=bool)
    value = number_typed(clause.value)
    if clause.says == "between":
        return (x >= value) & (x <= number_typed(clause.upper)), there
    compare = {
        "is": np.equal,
        "is_not": np.not_equal,
        "above": np.greater,
        "at_least": np.greater_equal,
        "below": np.less,
        "at_most": np.less_equal,
    }
    return np.asarray(compare[clause.says](x, value)), there


def _taken_together(operation: str, x: Floats, y: Floats) -> Floats:
    with np.errstate(divide="ignore", invalid="ignore", over="ignore"):
        made = {
            "sum": lambda: x + y,
            "difference": lambda: x - y,
            "product": lambda: x * y,
            "ratio": lambda: x / y,
            "percent_change": lambda: 100 * (x - y) / y,
        }[operation]()
    return np.where(np.isfinite(made), made, np.nan)


def _by_row(statistic: str, columns: Sequence[Floats], *, complete: bool) -> Floats:
    """A statistic of the finite values of each row, NaN where there is none, or where one lacks and all are needed."""
    values = np.stack([np.where(np.isfinite(column), column, np.nan) for column in columns])
    there = np.isfinite(values)
    used = there.all(axis=0) if complete else there.any(axis=0)
    made = np.full(used.shape, np.nan)
    if used.any():
        made[used] = getattr(np, f"nan{statistic}")(values[:, used], axis=0)
    return np.where(np.isfinite(made), made, np.nan)


def _date_part(texts: pl.Series, part: str, order: str | None) -> Floats:
    days = days_of(texts, order)
    if days is None:
        raise CulvixError("These cells cannot be read as dates; Intake says why.")
    there = np.isfinite(days)
    dates = np.where(there, days, 0).astype("datetime64[D]")
    months = dates.astype("datetime64[M]").astype(np.int64)
    found = {
        "year": months // 12 + 1970,
        "quarter": months % 12 // 3 + 1,
        "month": months % 12 + 1,
        # The first of January 1970 was a Thursday.
        "weekday": (dates.astype(np.int64) + 3) % 7 + 1,
        "day": (dates - dates.astype("datetime64[M]")).astype(np.int64) + 1,
    }[part]
    return np.where(there, found.astype(np.float64), np.nan)
