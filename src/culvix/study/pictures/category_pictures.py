"""What the picture of a column without numbers is drawn from: bars of categories, of periods, or of lengths of text."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import polars as pl

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.display import count, number, p_value, per_cent, plural
from culvix.stats.groups.balance import balance
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.tables.cells.date_values import days_of
from culvix.tables.model.table import Column, Role

__all__ = ["BAR_ORDERS", "Bar", "BarsPicture", "bars_picture", "heights_of"]

BAR_ORDERS: dict[str, str] = {
    "frequency": "by frequency",
    "order": "in order",
    "name": "by name",
    "length": "by length",
}
"""How bars are sorted; by length they are those of the lengths of texts."""

_MOST_BARS, _MOST_TEXTS = 200, 30
_MOST_LENGTHS = 80
_MOST_PARTS = 6
_MOST_PERIODS = 60
_WEEK = 7
_LATE_MONDAY = 3
"""The first of January 1970 was a Thursday."""


@dataclass(frozen=True)
class Bar:
    """One bar: what it stands for, its rows, and how many of these are in each part where bars are split.

    ``kind`` is ``"value"``, or ``"missing"`` for cells that hold none, or ``"rest"`` for all further values together.
    """

    name: str
    rows: int
    kind: str = "value"
    parts: tuple[int, ...] = ()


@dataclass(frozen=True, eq=False)
class BarsPicture:
    """Bars of one column. ``codes`` (shape ``(rows,)``) say which bar each row is in, −1 for none.

    ``standing`` bars, of periods or lengths, are side by side in order, empty ones among them; others lie below each
    other.
    ``about`` says in words how the rows are spread; ``n`` is how many hold a value.
    """

    title: str
    n: int
    bars: tuple[Bar, ...]
    codes: Ints
    about: str
    parts: tuple[str, ...] = ()
    standing: bool = False

    def rows_of(self, bar: int) -> Ints:
        """The rows (ascending, from 0) of the bar at a place."""
        return np.flatnonzero(self.codes == bar)


def bars_picture(
    column: Column,
    order: str = "frequency",
    split: Column | None = None,
    date_order: str | None = None,
    progress: Progress = silent,
) -> BarsPicture:
    """The bars of ``column`` in one of `BAR_ORDERS`, those of a date over time; split by the groups of ``split``.

    Raises CulvixError where ``split`` has too many groups.
    """
    texts = column.text.str.strip_chars().set(~pl.Series(column.present), None)
    progress(0.2, f"counting {column.name}")
    groups = None if split is None else grouping(split)
    days = days_of(texts, date_order) if column.role is Role.DATE else None
    if days is not None and np.isfinite(days).any():
        return _over_time(column, days, groups)
    return _of_lengths(column, texts, groups) if order == "length" else _of_values(column, texts, order, groups)


# Values


def _of_values(column: Column, texts: pl.Series, order: str, groups: Grouping | None) -> BarsPicture:
    counted = texts.drop_nulls().rename("text").value_counts(name="n").sort(["n", "text"], descending=[True, False])
    every = [str(text) for text in counted["text"].to_list()]
    most = _MOST_TEXTS if column.role in (Role.TEXT, Role.IDENTIFIER) else _MOST_BARS
    names = _ordered(every[:most], order, column)
    kinds, shown = ["value"] * len(names), list(names)
    rest = len(every) - len(names)
    positions = {name: position for position, name in enumerate(names)}
    # What no bar has a name for shares one; a missing cell is in none of them.
    found = texts.replace_strict(positions, default=len(names), return_dtype=pl.Int64).fill_null(-1).to_numpy()
    codes: Ints = np.where(column.present, found, -1)
    if rest:
        shown.append(f"{plural(rest, 'more value')}")
        kinds.append("rest")
    codes, missing = _with_missing(column, codes, len(shown))
    shown += missing
    kinds += ["missing"] * len(missing)
    return BarsPicture(
        column.title,
        int(column.present.sum()),
        _bars(shown, kinds, codes, groups),
        codes,
        _about_values(counted["n"].to_numpy().astype(np.int64), column),
        _part_names(groups),
    )


def _ordered(names: list[str], order: str, column: Column) -> list[str]:
    if order == "frequency":
        return names
    if order == "order" and column.order:
        known = {name: position for position, name in enumerate(column.order)}
        return sorted(names, key=lambda name: (known.get(name, len(known)), name.casefold()))
    return sorted(names, key=str.casefold)


def _with_missing(column: Column, codes: Ints, first: int) -> tuple[Ints, list[str]]:
    """Bars for cells that hold no value, one for each way to write that, from the place ``first`` on."""
    rows = np.flatnonzero(~column.present)
    if not rows.size:
        return codes, []
    written = [text.strip() if text else "" for text in column.raw.texts.at(rows).to_list()]
    spellings = sorted(set(written))
    positions = {text: first + position for position, text in enumerate(spellings)}
    codes = codes.copy()
    codes[rows] = [positions[text] for text in written]
    return codes, [f"missing: “{text}”" if text else "missing: empty" for text in spellings]


def _bars(names: Sequence[str], kinds: Sequence[str], codes: Ints, groups: Grouping | None) -> tuple[Bar, ...]:
    counts = np.bincount(codes[codes >= 0], minlength=len(names))
    if groups is None:
        return tuple(Bar(name, int(n), kind) for name, n, kind in zip(names, counts, kinds, strict=True))
    parts = min(len(groups.names), _MOST_PARTS)
    # Rows in no group, and in those beyond the first few, are the last part.
    part = np.where((groups.codes >= 0) & (groups.codes < parts), groups.codes, parts)
    inside = codes >= 0
    table = np.bincount(codes[inside] * (parts + 1) + part[inside], minlength=len(names) * (parts + 1))
    rows = table.reshape(-1, parts + 1)
    return tuple(
        Bar(name, int(n), kind, tuple(own.tolist()))
        for name, n, kind, own in zip(names, counts, kinds, rows, strict=True)
    )


def _part_names(groups: Grouping | None) -> tuple[str, ...]:
    if groups is None:
        return ()
    more = len(groups.names) > _MOST_PARTS or bool((groups.codes < 0).any())
    return (*groups.names[:_MOST_PARTS], *(["others"] if more else []))


def _about_values(counts: Ints, column: Column) -> str:
    """How many values there are, and how the rows are spread over them, or how long texts are."""
    if column.role in (Role.TEXT, Role.IDENTIFIER):
        lengths = column.text.filter(pl.Series(column.present)).str.strip_chars().str.len_chars().to_numpy()
        if not lengths.size:
            return "no texts"
        ends = f"{count(int(lengths.min()))} to {count(int(lengths.max()))}"
        once = int(np.count_nonzero(counts == 1))
        message = f"{plural(counts.size, 'different text')}, {count(once)} of them once"
        return f"{message} · length {ends} letters, median {number(float(np.median(lengths)), 0)}"
    found = balance(counts)
    if found is None:
        return "no values"
    message = plural(found.categories, "category", "categories")
    if found.chi_square is None or found.evenness is None:
        return message
    message += f" · largest {per_cent(found.largest)}, smallest {per_cent(found.smallest)}"
    test = f"χ² {number(found.chi_square, 1)} on {found.categories - 1} df, {p_value(found.p)}"
    return f"{message} · against equal shares {test} · entropy {per_cent(found.evenness)} of the most"


def _of_lengths(column: Column, texts: pl.Series, groups: Grouping | None) -> BarsPicture:
    """Rows by the length of their texts, in letters."""
    lengths = texts.str.len_chars().cast(pl.Int64).fill_null(-1).to_numpy()
    there = lengths >= 0
    low, high = (int(lengths[there].min()), int(lengths[there].max())) if there.any() else (0, 0)
    step = max(-(-(high - low + 1) // _MOST_LENGTHS), 1)
    codes = np.where(there, (lengths - low) // step, -1)
    names = [str(low + step * at) for at in range((high - low) // step + 1)]
    kinds = ["value"] * len(names)
    codes, missing = _with_missing(column, codes, len(names))
    bars = _bars([*names, *missing], [*kinds, *["missing"] * len(missing)], codes, groups)
    counted = texts.drop_nulls().value_counts(name="n")["n"].to_numpy().astype(np.int64)
    about = _about_values(counted, column) + (f" · {step} lengths together" if step > 1 else "")
    return BarsPicture(column.title, int(there.sum()), bars, codes, about, _part_names(groups), standing=True)


# Time

_UNITS = ("day", "week", "month", "quarter", "year")


def _over_time(column: Column, days: Floats, groups: Grouping | None) -> BarsPicture:
    """Rows by day, week, month, quarter or year: the finest that leaves no more bars than can be told apart."""
    there = np.isfinite(days)
    whole = days[there].astype(np.int64)
    for unit in _UNITS:
        periods = _periods(whole, unit)
        if int(periods.max() - periods.min()) < _MOST_PERIODS:
            break
    first, last = int(periods.min()), int(periods.max())
    step = max((last - first) // (4 * _MOST_PERIODS), 1)
    codes = np.full(days.size, -1, dtype=np.int64)
    codes[there] = (periods - first) // step
    names = [_name_of(period, unit) for period in range(first, last + 1, step)]
    kinds = ["value"] * len(names)
    gaps = int(np.count_nonzero(np.bincount(codes[there], minlength=len(names)) == 0))
    unread = int(np.count_nonzero(column.present & ~there))
    if unread:
        codes[column.present & ~there] = len(names)
        names, kinds = [*names, "no date"], [*kinds, "rest"]
    codes, missing = _with_missing(column, codes, len(names))
    names, kinds = [*names, *missing], [*kinds, *["missing"] * len(missing)]
    ends = [str(np.datetime64(int(end), "D")) for end in (whole.min(), whole.max())]
    span = f"{ends[0]} to {ends[1]}, {plural(int(whole.max() - whole.min()) + 1, 'day')}"
    about = f"{span} · by {unit}{f', {step} together' if step > 1 else ''} · {plural(gaps, unit)} without a row"
    about += f" · {plural(unread, 'cell')} not read as a date" if unread else ""
    bars = _bars(names, kinds, codes, groups)
    return BarsPicture(column.title, int(column.present.sum()), bars, codes, about, _part_names(groups), standing=True)


def _periods(days: Ints, unit: str) -> Ints:
    """The number of the day, week, month, quarter or year of each day."""
    if unit == "day":
        return days
    if unit == "week":
        return (days + _LATE_MONDAY) // _WEEK
    months = days.astype("datetime64[D]").astype("datetime64[M]").astype(np.int64)
    return months // {"month": 1, "quarter": 3, "year": 12}[unit]


def _name_of(period: int, unit: str) -> str:
    if unit == "day":
        return str(np.datetime64(period, "D"))
    if unit == "week":
        return str(np.datetime64(period * _WEEK - _LATE_MONDAY, "D"))
    month = period * {"month": 1, "quarter": 3, "year": 12}[unit]
    text = str(np.datetime64(month, "M"))
    if unit == "year":
        return text[:4]
    return f"{text[:4]} Q{month % 12 // 3 + 1}" if unit == "quarter" else text


def heights_of(picture: BarsPicture, most: int = 40) -> Floats:
    """Heights (0 to 1) of the first bars, for a picture as small as a word."""
    rows = np.array([bar.rows for bar in picture.bars if bar.kind == "value"], dtype=np.float64)
    if not picture.standing:
        rows = rows[:most]
    elif rows.size > most:
        group = -(-rows.size // most)
        rows = np.pad(rows, (0, -rows.size % group)).reshape(-1, group).sum(axis=1)
    return rows / max(float(rows.max(initial=0.0)), 1.0)
