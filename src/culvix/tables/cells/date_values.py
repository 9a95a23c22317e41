"""Days in place of the texts of a date column, for pictures over time."""

import re

import numpy as np
import polars as pl

from culvix.stats.core.arrays import Floats, Ints
from culvix.tables.cells.dates import MONTH_FIRST, date_form

__all__ = ["days_of"]

_ENGLISH = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")
_OTHERS = {"mär": 3, "mai": 5, "okt": 10, "dez": 12, "fév": 2, "fev": 2, "avr": 4, "jui": 6, "aoû": 8, "déc": 12}
_MONTHS = {name: month for month, name in enumerate(_ENGLISH, 1)} | _OTHERS
_JULY = "juil"
_PARTS: dict[str, str] = {
    "2026-03-18": r"^(?P<y>\d{4})-(?P<m>\d{1,2})-(?P<d>\d{1,2})",
    "2026/03/18": r"^(?P<y>\d{4})[/.](?P<m>\d{1,2})[/.](?P<d>\d{1,2})",
    "18 Mar 2026": r"^(?P<d>\d{1,2})(?:st|nd|rd|th)?[ .\-/]*(?P<name>\p{L}+)\.?[ .,\-/]*(?P<y>\d{4}|\d{2})",
    "Mar 18, 2026": r"^(?P<name>\p{L}+)\.?[ .\-/]*(?P<d>\d{1,2})(?:st|nd|rd|th)?[, ]+(?P<y>\d{4})",
    "Mar 2026": r"^(?P<name>\p{L}+)\.?[ .\-/]*(?P<y>\d{4})",
    "2026-03": r"^(?P<y>\d{4})[-/](?P<m>\d{1,2})$",
    "2026Q1": r"^(?P<y>\d{4})[ -]?[Qq](?P<q>[1-4])$",
    "Q1 2026": r"^[Qq](?P<q>[1-4])[ -/]?(?P<y>\d{4})$",
    "2026-W12": r"^(?P<y>\d{4})-?W(?P<w>\d{1,2})$",
}
_NUMBERS = (
    r"^(?P<d>\d{1,2})[/.\-](?P<m>\d{1,2})[/.\-](?P<y>\d{4}|\d{2})",
    r"^(?P<m>\d{1,2})[/.\-](?P<d>\d{1,2})[/.\-](?P<y>\d{4}|\d{2})",
)
_TURN_OF_CENTURY = 69
"""Two digits up to this one are a year of this century, as in POSIX."""


def days_of(cells: pl.Series, order: str | None = None) -> Floats | None:
    """The days of ``cells`` since the beginning of 1970, shape ``(rows,)``, NaN where a cell is missing or no date.

    ``order``, one of `DAY_FIRST` and `MONTH_FIRST`, is what was said of dates that can be read both ways. None where
    the cells are no dates, or can be read both ways and nothing was said: nothing is guessed.
    """
    form = date_form(cells.drop_nulls())
    if form is None:
        return None
    orders = (order,) if order in form.possible else form.orders
    if len(orders) > 1:
        return None
    pattern = _NUMBERS[orders[0] == MONTH_FIRST] if orders else _PARTS[form.example]
    parts = {name: _group(cells, pattern, name) for name in re.findall(r"\?P<(\w+)>", pattern)}
    return _days({name: _number(part, name) for name, part in parts.items()})


def _group(cells: pl.Series, pattern: str, name: str) -> pl.Series:
    position = re.findall(r"\?P<(\w+)>", pattern).index(name) + 1
    return cells.str.extract(pattern, position)


def _number(part: pl.Series, name: str) -> Floats:
    if name == "name":
        lower = part.str.to_lowercase()
        july = pl.when(lower.str.starts_with(_JULY)).then(pl.lit("jul"))
        short = pl.select(july.otherwise(lower.str.head(3))).to_series()
        part = short.replace_strict(_MONTHS, default=None, return_dtype=pl.Int64)
    return part.cast(pl.Float64, strict=False).to_numpy().astype(np.float64)


def _days(parts: dict[str, Floats]) -> Floats:
    """Days from year, and month, quarter or week, and day, as far as there are any."""
    year = parts["y"]
    year = np.where(year < 100, year + np.where(year < _TURN_OF_CENTURY, 2000, 1900), year)
    month = parts.get("m", parts.get("name", 3 * parts["q"] - 2 if "q" in parts else np.ones(year.size)))
    day = parts.get("d", np.ones(year.size))
    there = np.isfinite(year) & (month >= 1) & (month <= 12) & (day >= 1)
    months: Ints = np.where(there, (year - 1970) * 12 + month - 1, 0).astype(np.int64)
    first, after = (m.astype("datetime64[M]").astype("datetime64[D]").astype(np.int64) for m in (months, months + 1))
    there &= day <= after - first
    days = first + day - 1
    if "w" in parts:
        # The first week of a year is the one with its fourth of January (ISO 8601); a week begins on Monday.
        fourth = first + 3
        days = fourth - (fourth + 3) % 7 + 7 * (parts["w"] - 1)
        there &= (parts["w"] >= 1) & (parts["w"] <= 53)
    return np.where(there, days, np.nan)
