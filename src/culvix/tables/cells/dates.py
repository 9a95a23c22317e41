"""Dates in the written forms in common use, and whether the day or the month comes first.

03/04/2026 is a day in April or one in March. A cell whose first number is above 12 settles it for its column; where
no cell does, both fit and it is asked.
"""

import re
from collections.abc import Sequence
from dataclasses import dataclass

import polars as pl

__all__ = ["DAY_FIRST", "MONTH_FIRST", "DateForm", "are_compact_dates", "date_form"]

DAY_FIRST, MONTH_FIRST = "day first", "month first"
_MONTHS = r"(?i:jan|feb|mar|apr|may|jun|jul|aug|sep|sept|oct|nov|dec|mai|okt|dez|mär|fév|avr|août|juin|juil)[a-zé]*\.?"
_TIME = r"(?:[T ,]+\d{1,2}:\d{2}(?::\d{2}(?:[.,]\d+)?)?(?:\s?[AaPp]\.?[Mm]\.?)?)?(?:\s?(?:Z|UTC|[+-]\d{2}:?\d{2}))?"
_FORMS = (
    ("2026-03-18", rf"^\d{{4}}-\d{{1,2}}-\d{{1,2}}{_TIME}$"),
    ("2026/03/18", rf"^\d{{4}}[/.]\d{{1,2}}[/.]\d{{1,2}}{_TIME}$"),
    ("18 Mar 2026", rf"^\d{{1,2}}(?:st|nd|rd|th)?[ .\-/]*{_MONTHS}[ .,\-/]*(?:\d{{4}}|\d{{2}}){_TIME}$"),
    ("Mar 18, 2026", rf"^{_MONTHS}[ .\-/]*\d{{1,2}}(?:st|nd|rd|th)?[, ]+\d{{4}}{_TIME}$"),
    ("Mar 2026", rf"^{_MONTHS}[ .\-/]*\d{{4}}$"),
    ("2026-03", r"^\d{4}[-/](?:0[1-9]|1[0-2])$"),
    ("2026Q1", r"^\d{4}[ -]?[Qq][1-4]$"),
    ("Q1 2026", r"^[Qq][1-4][ -/]?\d{4}$"),
    ("2026-W12", r"^\d{4}-?W\d{1,2}$"),
)
_NUMBERS = rf"^(\d{{1,2}})[/.\-](\d{{1,2}})[/.\-](\d{{4}}|\d{{2}}){_TIME}$"
_ENOUGH = 0.95
_SOME = 500
_MONTHS_SHOWN = 6


@dataclass(frozen=True)
class DateForm:
    """How the dates of a column are written; ``orders`` are the orders of day and month that fit, where they matter.

    ``possible`` are those that no date contradicts, however unlikely: what an analyst says of them holds.
    """

    example: str
    orders: tuple[str, ...] = ()
    possible: tuple[str, ...] = ()

    @property
    def is_open(self) -> bool:
        """Whether both orders of day and month fit."""
        return len(self.orders) == 2


def date_form(cells: pl.Series) -> DateForm | None:
    """The form in which nearly all ``cells`` (stripped, filled) are dates; None where they are none."""
    if not len(cells):
        return None
    some = cells.head(_SOME)
    for example, pattern in _FORMS:
        if _mostly(some, pattern) and _mostly(cells, pattern):
            return DateForm(example)
    if not (_mostly(some, _NUMBERS) and _mostly(cells, _NUMBERS)):
        return None
    first, second = (cells.str.extract(_NUMBERS, group).cast(pl.Int64, strict=False).drop_nulls() for group in (1, 2))
    if not len(first) or bool((first > 31).any()) or bool((second > 31).any()):
        return None
    day_first, month_first = bool((second <= 12).all()), bool((first <= 12).all())
    possible = _orders(day_first, month_first)
    if day_first and month_first:
        # The first of every month, written over and over, shows which of the two the day is.
        if first.n_unique() == 1 and second.n_unique() >= _MONTHS_SHOWN:
            month_first = False
        elif second.n_unique() == 1 and first.n_unique() >= _MONTHS_SHOWN:
            day_first = False
    orders = _orders(day_first, month_first)
    return DateForm(str(cells[0]), orders, possible) if orders else None


def _orders(day_first: bool, month_first: bool) -> tuple[str, ...]:
    return tuple(order for order, fits in ((DAY_FIRST, day_first), (MONTH_FIRST, month_first)) if fits)


def _mostly(cells: pl.Series, pattern: str) -> bool:
    return int(cells.str.contains(pattern).sum() or 0) >= _ENOUGH * len(cells)


def are_compact_dates(numbers: Sequence[int]) -> bool:
    """Whether all ``numbers`` (ascending) are dates written as year, month and day without marks, such as 20260318."""
    if len(numbers) < 2 or not 19000101 <= numbers[0] <= numbers[-1] <= 21001231:
        return False
    return all(re.fullmatch(r"(?:19|20|21)\d\d(?:0[1-9]|1[0-2])(?:0[1-9]|[12]\d|3[01])", str(n)) for n in numbers)
