"""The subsets found, as a list that sorts."""

from math import inf

from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.sorted_list import ListHead, SortedList
from culvix.stats.display import DASH, count, p_value, signed
from culvix.study.groups.confirmed_subsets import ConfirmedSubset, Half

__all__ = ["subset_list"]


def _effect(half: Half) -> str:
    return DASH if half.effect is None else signed(half.effect, 2)


def _size(half: Half) -> float:
    return -inf if half.effect is None else half.effect


def _tip(subset: ConfirmedSubset) -> str:
    return f"{subset.sentence}\n{subset.figures}"


_HEADS = (
    ListHead("subset", 330, lambda subset: subset.name, lambda subset: subset.name.casefold(), _tip, right=False),
    ListHead("rows", 50, lambda subset: count(subset.rows.size), lambda subset: subset.rows.size, _tip),
    ListHead("searched", 66, lambda s: _effect(s.searched), lambda s: _size(s.searched), _tip),
    ListHead("other half", 70, lambda s: _effect(s.other), lambda s: _size(s.other), _tip),
    ListHead(
        "p, other half",
        86,
        lambda subset: p_value(subset.adjusted).removeprefix("p ").removeprefix("= "),
        lambda subset: 2.0 if subset.adjusted is None else subset.adjusted,
        _tip,
    ),
    ListHead(
        "",
        80,
        lambda subset: "confirmed" if subset.confirmed else "not confirmed",
        lambda subset: float(not subset.confirmed),
        _tip,
        right=False,
    ),
)


def subset_list(parent: QWidget) -> SortedList[ConfirmedSubset]:
    """An empty list of subsets."""
    return SortedList(_HEADS, parent)
