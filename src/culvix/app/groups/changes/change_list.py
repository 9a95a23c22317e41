"""The columns of two tables, as a list that sorts."""

from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.lists.sorted_list import ListHead, SortedList, number_head, p_head
from culvix.stats.display import DASH, count, number, signed
from culvix.study.another_table.column_changes import CHANGES, ColumnChange

__all__ = ["change_list"]


def _signed(value: float | None) -> str:
    return DASH if value is None else signed(value, 2)


def _tip(change: ColumnChange) -> str:
    return "\n".join([change.pair.here, *(note.sentence for note in change.notes)])


def _what(change: ColumnChange) -> str:
    return ", ".join(dict.fromkeys(CHANGES[note.kind] for note in change.notes)) or "unchanged"


_HEADS = (
    ListHead("column", 118, lambda c: c.pair.here, lambda c: c.pair.here.casefold(), _tip, right=False),
    ListHead("what changed", 160, _what, lambda c: -c.moved if c.notes else 1.0, _tip, right=False),
    number_head("n here", 54, lambda c: c.n[0], tip=_tip),
    number_head("n there", 58, lambda c: c.n[1], tip=_tip),
    ListHead("missing", 58, lambda c: f"{count(c.missing[0])} / {count(c.missing[1])}", lambda c: c.missing[0], _tip),
    number_head("shift, SD", 68, lambda c: c.shift, _signed, _tip, by_size=True),
    number_head("IQR", 60, lambda c: c.median_shift, _signed, _tip, by_size=True),
    number_head("SD ratio", 58, lambda c: c.spread, number, _tip),
    number_head("distance", 62, lambda c: c.distance, lambda found: number(found, 3), _tip),
    p_head("p adj.", 64, lambda c: c.adjusted, _tip),
)


def change_list(parent: QWidget) -> SortedList[ColumnChange]:
    """An empty list of columns."""
    return SortedList(_HEADS, parent)
