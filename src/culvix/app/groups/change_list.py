"""The columns of two tables, as a list that sorts."""

from math import inf

from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.sorted_list import ListHead, SortedList
from culvix.stats.display import DASH, count, number, p_value, signed
from culvix.study.another_table.column_changes import CHANGES, ColumnChange

__all__ = ["change_list"]


def _signed(value: float | None) -> str:
    return DASH if value is None else signed(value, 2)


def _size(value: float | None) -> float:
    return -inf if value is None else abs(value)


def _tip(change: ColumnChange) -> str:
    return "\n".join([change.pair.here, *(note.sentence for note in change.notes)])


def _what(change: ColumnChange) -> str:
    return ", ".join(dict.fromkeys(CHANGES[note.kind] for note in change.notes)) or "unchanged"


_HEADS = (
    ListHead("column", 118, lambda c: c.pair.here, lambda c: c.pair.here.casefold(), _tip, right=False),
    ListHead("what changed", 160, _what, lambda c: -c.moved if c.notes else 1.0, _tip, right=False),
    ListHead("n here", 54, lambda c: count(c.n[0]), lambda c: c.n[0], _tip),
    ListHead("n there", 58, lambda c: count(c.n[1]), lambda c: c.n[1], _tip),
    ListHead("missing", 58, lambda c: f"{count(c.missing[0])} / {count(c.missing[1])}", lambda c: c.missing[0], _tip),
    ListHead("shift, SD", 68, lambda c: _signed(c.shift), lambda c: _size(c.shift), _tip),
    ListHead("IQR", 60, lambda c: _signed(c.median_shift), lambda c: _size(c.median_shift), _tip),
    ListHead(
        "SD ratio", 58, lambda c: DASH if c.spread is None else number(c.spread, 2), lambda c: c.spread or 0.0, _tip
    ),
    ListHead(
        "distance",
        62,
        lambda c: DASH if c.distance is None else number(c.distance, 3),
        lambda c: _size(c.distance),
        _tip,
    ),
    ListHead(
        "p adj.",
        64,
        lambda c: DASH if c.adjusted is None else p_value(c.adjusted).removeprefix("p ").removeprefix("= "),
        lambda c: 2.0 if c.adjusted is None else c.adjusted,
        _tip,
    ),
)


def change_list(parent: QWidget) -> SortedList[ColumnChange]:
    """An empty list of columns."""
    return SortedList(_HEADS, parent)
