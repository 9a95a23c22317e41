"""The subsets found, as a list that sorts."""

from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.lists.sorted_list import ListHead, SortedList, number_head, p_head
from culvix.stats.display import DASH, signed
from culvix.study.groups.subsets.confirmed_subsets import ConfirmedSubset

__all__ = ["subset_list"]


def _effect(value: float | None) -> str:
    return DASH if value is None else signed(value, 2)


def _tip(subset: ConfirmedSubset) -> str:
    return f"{subset.sentence}\n{subset.figures}"


_HEADS = (
    ListHead("subset", 330, lambda subset: subset.name, lambda subset: subset.name.casefold(), _tip, right=False),
    number_head("rows", 50, lambda subset: subset.rows.size, tip=_tip),
    number_head("searched", 66, lambda subset: subset.searched.effect, _effect, _tip),
    number_head("other half", 70, lambda subset: subset.other.effect, _effect, _tip),
    p_head("p, other half", 86, lambda subset: subset.adjusted, _tip),
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
