"""The role of a column, inferred from its cells and its name, always with a reason that is true of it."""

import re
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.display import count, plural
from culvix.tables.cells.cell_parsing import ParsedCells
from culvix.tables.cells.dates import are_compact_dates, date_form
from culvix.tables.model.cell_texts import CellTexts
from culvix.tables.model.table import Role

__all__ = ["CODES_OR_AMOUNTS", "DAY_OR_MONTH", "YES_NO_WORDS", "InferredRole", "infer_role"]

YES_NO_WORDS: dict[str, float] = {
    **dict.fromkeys(("yes", "y", "true", "t"), 1.0),
    **dict.fromkeys(("no", "n", "false", "f"), 0.0),
}
CODES_OR_AMOUNTS, DAY_OR_MONTH = "codes_or_amounts", "day_or_month"
"""What is asked about a column whose role rests on a guess."""

Numbers = Floats | Ints

_ID_NAME = re.compile(
    r"(?i:(?:^|[_\s.-])(?:id|ids|tag|key|code|nr|no|number|serial|uuid|barcode|zip|postcode)$)|^[a-z]+I[dD]$"
)
_RANK_NAME = re.compile(r"score|grade|rank|stage|level|rating|class|likert|severity|index_\d", re.I)
_COUNT_NAME = re.compile(
    r"(^|[_\s.-])(count|counts|n|num|number|no|visits|events|eggs|items|size|persons?|people|children|kids|members|"
    r"siblings|sibsp|parch|rooms|bedrooms|cylinders|cyl|gears?|doors|units|qty|quantity|pieces|times|days|weeks|"
    r"months|years|hours|age|freq|frequency|total|cases|deaths|births)([_\s.-]|$)|^n[A-Z_]|^num[A-Z_]",
    re.I,
)
_CALENDAR_NAME = re.compile(r"(?:^|[_\s.-])(?:quarter|qtr|month|weekday|dow|day_of_week)$", re.I)
_UNNAMED = re.compile(r"^(?:column 1|unnamed: ?0|index|row|rownames?|row ?(?:no|nr|number|id)|\.\.\.1)$", re.I)
_FEW = 12
_MOST_CODES = 10
_CODED_ROWS = 20
_MISSING_LIKE = (-9.0, -8.0, -7.0, -1.0, 7.0, 8.0, 9.0, 77.0, 88.0, 97.0, 98.0, 99.0, 999.0, -99.0, -999.0)
_MANY = 4096


@dataclass(frozen=True)
class InferredRole:
    """A role and why it was chosen; ``asks`` names what is to be asked about it, empty where nothing is."""

    role: Role
    reason: str
    asks: str = ""


def infer_role(
    name: str, text: CellTexts, cells: ParsedCells, *, has_unit: bool = False, is_first: bool = False
) -> InferredRole:
    """Role of a column called ``name`` with the cells ``text``, already parsed; ``is_first``: it stands first."""
    present = len(text) - int(cells.missing.sum())
    if not present:
        written = int(cells.coded.size)
        return InferredRole(Role.TEXT, "every cell is missing" if written else "every cell is empty")
    if 2 * cells.numbers >= present:
        return _numeric(name, text, cells, has_unit, is_first)
    texts = text.all.filter(pl.Series(~cells.missing)) if cells.missing.any() else text.all
    return _textual(texts.str.strip_chars(), present)


def _numeric(name: str, text: CellTexts, cells: ParsedCells, has_unit: bool, is_first: bool) -> InferredRole:
    if not cells.whole:
        return InferredRole(Role.MEASURE, "numbers with decimals")
    finite = cells.values[np.isfinite(cells.values)]
    if not finite.size:
        infinite = bool(np.isinf(cells.values).any())
        return InferredRole(
            Role.MEASURE, "every number is infinite" if infinite else "cells with numbers, none of them plain"
        )
    exact = None if cells.integers is None else cells.integers[np.isfinite(cells.values)]
    distinct: Numbers = np.unique(finite) if exact is None else np.unique(exact)
    if _leading_zeros(text, cells):
        return InferredRole(Role.IDENTIFIER, "whole numbers written with leading zeros")
    identifier = _identifier(name, finite if exact is None else exact, distinct, is_first)
    if identifier is not None:
        return identifier
    if distinct.size == 2 and distinct.tolist() == [0, 1]:
        return InferredRole(Role.YES_NO, "only the values 0 and 1")
    if re.search(r"(^|[_\s.-])(year|yr|jahr)s?$", name, re.I) and distinct[0] >= 1500 and distinct[-1] <= 2200:
        return InferredRole(Role.DATE, f"years from {distinct[0]:g} to {distinct[-1]:g}")
    if distinct[0] >= 19000101 and are_compact_dates([int(number) for number in distinct.tolist()]):
        return InferredRole(Role.DATE, "dates written as year, month and day without marks, such as 20260318")
    return _whole(name, finite, distinct, has_unit)


def _identifier(name: str, values: Numbers, distinct: Numbers, is_first: bool) -> InferredRole | None:
    """Whether whole numbers, all different, name the rows; ranks 1 to n out of order do not."""
    if distinct.size != values.size or values.size < 3:
        return None
    reason = f"{plural(values.size, 'whole number')}, all different"
    if _ID_NAME.search(name):
        return InferredRole(Role.IDENTIFIER, f"{reason} and named like an identifier")
    rising = bool((values[1:] > values[:-1]).all())
    if is_first and rising and _UNNAMED.match(name):
        return InferredRole(Role.IDENTIFIER, f"{reason} and rising, in a first column without a name of its own")
    run = distinct.size >= 10 and distinct[0] in (0, 1) and int(distinct[-1]) - int(distinct[0]) == distinct.size - 1
    if run and (rising or is_first):
        return InferredRole(
            Role.IDENTIFIER, f"{reason} and consecutive" + (", in the first column" if is_first else "")
        )
    if run:
        return InferredRole(
            Role.ORDERED, f"each whole number from {distinct[0]:g} to {distinct[-1]:g} once, out of order"
        )
    return None


def _whole(name: str, finite: Floats, distinct: Numbers, has_unit: bool) -> InferredRole:
    few = f"{count(distinct.size)} different whole numbers from {distinct[0]:g} to {distinct[-1]:g}"
    if _RANK_NAME.search(name) and distinct.size <= _FEW:
        return InferredRole(Role.ORDERED, f"{few}, and named like a rank")
    if _CALENDAR_NAME.search(name) and distinct.size <= _FEW and distinct[0] >= 0 and distinct[-1] <= _FEW:
        return InferredRole(Role.ORDERED, f"{few}, and named like a part of the year or the week")
    if distinct[0] < 0 and not _codes(finite, distinct):
        return InferredRole(Role.MEASURE, f"{few}, some negative")
    if has_unit:
        return InferredRole(Role.MEASURE, f"{few}, with a unit")
    if _COUNT_NAME.search(name):
        return InferredRole(Role.COUNT, f"{few}, and named like a count")
    if _codes(finite, distinct):
        return InferredRole(Role.ORDERED, f"{few}, like codes", CODES_OR_AMOUNTS)
    if distinct[0] < 0:
        return InferredRole(Role.MEASURE, f"{few}, some negative")
    if distinct[0] == 0:
        return InferredRole(Role.COUNT, f"{few}, zero among them")
    if float(np.median(finite)) < 20:
        return InferredRole(Role.COUNT, f"{few}, small ones")
    return InferredRole(Role.MEASURE, f"{few}, large ones")


def _codes(finite: Floats, distinct: Numbers) -> bool:
    """Whether few whole numbers from 1 up, each of them often, look like codes of categories.

    Numbers that often stand for a missing answer may lie outside the row of codes.
    """
    core = distinct[(distinct >= 1) & (distinct <= _MOST_CODES)].astype(np.float64)
    outside = [value for value in distinct.tolist() if not 1 <= value <= _MOST_CODES]
    if core.size > 2 and core[-1] in _MISSING_LIKE and core[-1] - core[-2] >= 2:
        core = core[:-1]
    if core.size < 2 or core[0] != 1 or any(value not in _MISSING_LIKE for value in outside):
        return False
    dense = core.size >= 0.7 * core[-1]
    often = finite.size >= max(_CODED_ROWS, 4 * core.size)
    return bool(dense and often and not _tapers_off(finite, core))


def _tapers_off(finite: Floats, core: Floats) -> bool:
    """Whether the numbers grow rarer and rarer from 1 up to a long tail, as counts do and codes hardly."""
    times = np.array([np.count_nonzero(finite == value) for value in core.tolist()])
    return bool(core.size >= 7 and (np.diff(times) <= 0).all() and times[-1] * 20 < times[0])


def _leading_zeros(text: CellTexts, cells: ParsedCells) -> bool:
    """Whether a tenth of the numbers begin with a zero, judged by evenly taken cells of a long column."""
    rows = np.flatnonzero(np.isfinite(cells.values))
    some = text.at(rows[:: max(rows.size // _MANY, 1)])
    padded = int(some.str.contains(r"^\s*0\d+\s*$").sum() or 0)
    return padded > 0 and 10 * padded >= len(some)


def _textual(cells: pl.Series, present: int) -> InferredRole:
    distinct = int(cells.hash().n_unique())
    lowered = set(cells.str.to_lowercase().unique().head(3).to_list()) if distinct <= 4 else set()
    if lowered and lowered <= set(YES_NO_WORDS) and len({YES_NO_WORDS[word] for word in lowered}) == 2:
        return InferredRole(
            Role.YES_NO, f"only the words {' and '.join(sorted(lowered))}, counted as 0 for no and 1 for yes"
        )
    form = date_form(cells)
    if form is not None:
        if form.is_open:
            return InferredRole(Role.DATE, f"dates such as {form.example}, day or month first", DAY_OR_MONTH)
        order = f", {form.orders[0]}" if form.orders else ""
        return InferredRole(Role.DATE, f"dates in the form {form.example}{order}")
    if distinct >= 0.95 * present and present > 2 and not bool(cells.str.contains(r"\s").any()):
        share = "all" if distinct == present else f"{count(distinct)} of them"
        return InferredRole(Role.IDENTIFIER, f"{plural(present, 'cell')}, {share} different, and without spaces")
    words = f"{plural(distinct, 'different text')} in {plural(present, 'cell')}"
    if distinct <= max(_FEW, present // 20):
        return InferredRole(Role.CATEGORY, words)
    return InferredRole(Role.TEXT, words)
