"""What the picture of a column without numbers is drawn from: bars of categories, of periods, or of lengths of text."""

import numpy as np
import polars as pl

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.display import count, number, p_value, per_cent, plural
from culvix.stats.groups.balance import balance
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.groups.date_periods import PERIODS, period_name, period_numbers
from culvix.study.pictures.bars import BarsPicture, counted_bars, part_names, with_missing
from culvix.tables.cells.date_values import days_of
from culvix.tables.model.table import Column, Role

__all__ = ["bars_picture"]

_MOST_BARS, _MOST_TEXTS = 200, 30
_MOST_LENGTHS = 80
_MOST_PERIODS = 60


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
    kinds, shown = ["value"] * len(names), list(map(column.named, names))
    rest = len(every) - len(names)
    positions = {name: position for position, name in enumerate(names)}
    # What no bar has a name for shares one; a missing cell is in none of them.
    found = texts.replace_strict(positions, default=len(names), return_dtype=pl.Int64).fill_null(-1).to_numpy()
    codes: Ints = np.where(column.present, found, -1)
    if rest:
        shown.append(f"{plural(rest, 'more value')}")
        kinds.append("rest")
    codes, missing = with_missing(column, codes, len(shown))
    shown += missing
    kinds += ["missing"] * len(missing)
    return BarsPicture(
        column.title,
        int(column.present.sum()),
        counted_bars(shown, kinds, codes, groups),
        codes,
        _about_values(counted["n"].to_numpy().astype(np.int64), column),
        part_names(groups),
    )


def _ordered(names: list[str], order: str, column: Column) -> list[str]:
    if order == "frequency":
        return names
    if order == "order" and column.order:
        known = {name: position for position, name in enumerate(column.order)}
        return sorted(names, key=lambda name: (known.get(name, len(known)), name.casefold()))
    return sorted(names, key=str.casefold)


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
    codes, missing = with_missing(column, codes, len(names))
    bars = counted_bars([*names, *missing], [*kinds, *["missing"] * len(missing)], codes, groups)
    counted = texts.drop_nulls().value_counts(name="n")["n"].to_numpy().astype(np.int64)
    about = _about_values(counted, column) + (f" · {step} lengths together" if step > 1 else "")
    return BarsPicture(column.title, int(there.sum()), bars, codes, about, part_names(groups), standing=True)


# Time


def _over_time(column: Column, days: Floats, groups: Grouping | None) -> BarsPicture:
    """Rows by day, week, month, quarter or year: the finest that leaves no more bars than can be told apart."""
    there = np.isfinite(days)
    whole = days[there].astype(np.int64)
    for unit in PERIODS:
        periods = period_numbers(whole, unit)
        if int(periods.max() - periods.min()) < _MOST_PERIODS:
            break
    first, last = int(periods.min()), int(periods.max())
    step = max((last - first) // (4 * _MOST_PERIODS), 1)
    codes = np.full(days.size, -1, dtype=np.int64)
    codes[there] = (periods - first) // step
    names = [period_name(period, unit) for period in range(first, last + 1, step)]
    kinds = ["value"] * len(names)
    gaps = int(np.count_nonzero(np.bincount(codes[there], minlength=len(names)) == 0))
    unread = int(np.count_nonzero(column.present & ~there))
    if unread:
        codes[column.present & ~there] = len(names)
        names, kinds = [*names, "no date"], [*kinds, "rest"]
    codes, missing = with_missing(column, codes, len(names))
    names, kinds = [*names, *missing], [*kinds, *["missing"] * len(missing)]
    ends = [str(np.datetime64(int(end), "D")) for end in (whole.min(), whole.max())]
    span = f"{ends[0]} to {ends[1]}, {plural(int(whole.max() - whole.min()) + 1, 'day')}"
    about = f"{span} · by {unit}{f', {step} together' if step > 1 else ''} · {plural(gaps, unit)} without a row"
    about += f" · {plural(unread, 'cell')} not read as a date" if unread else ""
    bars = counted_bars(names, kinds, codes, groups)
    return BarsPicture(column.title, int(column.present.sum()), bars, codes, about, part_names(groups), standing=True)
