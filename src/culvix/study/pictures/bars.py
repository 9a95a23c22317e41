"""Bars and what they are made of: names, rows, the parts they are split into, and cells without a value."""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from culvix.stats.core.arrays import Floats, Ints
from culvix.study.analysis.grouping import Grouping
from culvix.tables.model.table import Column

__all__ = ["BAR_ORDERS", "Bar", "BarsPicture", "counted_bars", "heights_of", "part_names", "with_missing"]

BAR_ORDERS: dict[str, str] = {
    "frequency": "by frequency",
    "order": "in order",
    "name": "by name",
    "length": "by length",
}
"""How bars are sorted; by length they are those of the lengths of texts."""

_MOST_PARTS = 6


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
    median: int | None = None
    """The bar in which the middle row lies, where bars are ranks."""
    counted: int | None = None
    """How many rows the table has, where ``codes`` are left out."""

    @property
    def rows(self) -> int:
        """How many rows the table has, with and without a value."""
        return int(self.codes.size) if self.counted is None else self.counted

    def without_codes(self) -> "BarsPicture":
        """The picture alone, which is light, and of which no rows can be selected."""
        return replace(self, codes=np.zeros(0, dtype=np.int64), counted=self.rows)

    def rows_of(self, bar: int) -> Ints:
        """The rows (ascending, from 0) of the bar at a place."""
        return np.flatnonzero(self.codes == bar)


def with_missing(column: Column, codes: Ints, first: int) -> tuple[Ints, list[str]]:
    """``codes`` with bars for cells that hold no value, one for each way to write that, from the place ``first`` on."""
    rows = np.flatnonzero(~column.present)
    if not rows.size:
        return codes, []
    written = [text.strip() if text else "" for text in column.raw.texts.at(rows).to_list()]
    spellings = sorted(set(written))
    positions = {text: first + position for position, text in enumerate(spellings)}
    codes = codes.copy()
    codes[rows] = [positions[text] for text in written]
    return codes, [f"missing: “{text}”" if text else "missing: empty" for text in spellings]


def counted_bars(names: Sequence[str], kinds: Sequence[str], codes: Ints, groups: Grouping | None) -> tuple[Bar, ...]:
    """A bar for each of ``names``, of a kind each, with its rows by ``codes`` and its parts by ``groups``."""
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


def part_names(groups: Grouping | None) -> tuple[str, ...]:
    """The names of the parts that ``groups`` make of bars."""
    if groups is None:
        return ()
    more = len(groups.names) > _MOST_PARTS or bool((groups.codes < 0).any())
    return (*groups.names[:_MOST_PARTS], *(["others"] if more else []))


def heights_of(picture: BarsPicture, most: int = 40) -> Floats:
    """Heights (0 to 1) of the first bars, for a picture as small as a word."""
    rows = np.array([bar.rows for bar in picture.bars if bar.kind == "value"], dtype=np.float64)
    if not picture.standing:
        rows = rows[:most]
    elif rows.size > most:
        group = -(-rows.size // most)
        rows = np.pad(rows, (0, -rows.size % group)).reshape(-1, group).sum(axis=1)
    return rows / max(float(rows.max(initial=0.0)), 1.0)
