"""Periods of dates: days, weeks, months, quarters and years in order, and the days of a week."""

import numpy as np

from culvix.stats.core.arrays import Ints

__all__ = ["PERIODS", "WEEKDAY", "period_name", "period_numbers"]

PERIODS = ("day", "week", "month", "quarter", "year")
"""From the finest to the coarsest."""

WEEKDAY = "weekday"
"""A period that comes again."""

_WEEK = 7
_LATE_MONDAY = 3
"""The first of January 1970 was a Thursday."""
_MONTHS = {"month": 1, "quarter": 3, "year": 12}
_WEEKDAYS = ("Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday")


def period_numbers(days: Ints, unit: str) -> Ints:
    """The number of the period, one of `PERIODS` or `WEEKDAY`, of each day since the beginning of 1970."""
    if unit == "day":
        return days
    if unit == "week":
        return (days + _LATE_MONDAY) // _WEEK
    if unit == WEEKDAY:
        return np.asarray((days + _LATE_MONDAY) % _WEEK)
    months = days.astype("datetime64[D]").astype("datetime64[M]").astype(np.int64)
    return months // _MONTHS[unit]


def period_name(period: int, unit: str) -> str:
    """What the period of that number is called; a week by its Monday."""
    if unit == "day":
        return str(np.datetime64(period, "D"))
    if unit == "week":
        return str(np.datetime64(period * _WEEK - _LATE_MONDAY, "D"))
    if unit == WEEKDAY:
        return _WEEKDAYS[period]
    month = period * _MONTHS[unit]
    text = str(np.datetime64(month, "M"))
    if unit == "year":
        return text[:4]
    return f"{text[:4]} Q{month % 12 // 3 + 1}" if unit == "quarter" else text
