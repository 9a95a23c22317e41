"""The numbers of each group as a list that sorts."""

from collections.abc import Callable
from math import inf

from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.sorted_list import ListHead, SortedList
from culvix.stats.display import NumberStyle, count
from culvix.study.groups.value_groups import ValueGroup

__all__ = ["GroupList"]

_NUMBERS = {
    "mean": "mean",
    "SD": "sd",
    "median": "median",
    "Q1": "q1",
    "Q3": "q3",
    "min": "min",
    "max": "max",
    "skewness": "skewness",
}
"""Numbers in the unit of the column, by what they are called, but for the last one."""
_WIDTHS = {"skewness": 70}


class GroupList(SortedList[ValueGroup]):
    """``style`` is that of the column's statistics."""

    def __init__(self, parent: QWidget) -> None:
        self.style = NumberStyle(2, 3)
        flagged = "Rows that outlier methods flag"
        heads = [
            ListHead("group", 84, lambda group: group.name, lambda group: group.name.casefold(), _name, right=False),
            ListHead("n", 52, lambda group: count(group.sample.n), lambda group: group.sample.n),
            ListHead("missing", 56, lambda group: count(group.missing), lambda group: group.missing),
            *(
                ListHead(name, 70 if key == "skewness" else 61, self._words(key), _key(key))
                for name, key in _NUMBERS.items()
            ),
            ListHead("flagged", 60, lambda group: count(group.flagged), lambda group: group.flagged, lambda _: flagged),
        ]
        super().__init__(heads, parent)

    def _words(self, key: str) -> Callable[[ValueGroup], str]:
        own = NumberStyle(2, 3)
        return lambda group: (own if key == "skewness" else self.style).statistic(getattr(group.description, key))


def _name(group: ValueGroup) -> str:
    return group.name


def _key(key: str) -> Callable[[ValueGroup], float]:
    def value(group: ValueGroup) -> float:
        found = getattr(group.description, key)
        return -inf if found is None else float(found)

    return value
