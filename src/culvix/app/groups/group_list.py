"""The numbers of each group as a list that sorts."""

from collections.abc import Callable, Sequence
from math import inf

from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.sorted_list import ListHead, SortedList
from culvix.stats.display import NumberStyle, count
from culvix.stats.registry import STATISTICS, Statistic
from culvix.study.groups.value_groups import ValueGroup

__all__ = ["GroupList"]

_WIDTH, _LETTER = 40, 7
"""Of a column with a name of no letters, and of each letter, in pixels."""


class GroupList(SortedList[ValueGroup]):
    """``style`` is that of the column's statistics."""

    def __init__(self, parent: QWidget, statistics: Sequence[str]) -> None:
        """The ``statistics``, by key, stand between the counts of values and those of flags."""
        self.style = NumberStyle(2, 3)
        super().__init__(self.heads_of(statistics), parent)

    def heads_of(self, statistics: Sequence[str]) -> list[ListHead]:
        """The columns of a list with these ``statistics``."""
        flagged = "Rows that outlier methods flag"
        return [
            ListHead("group", 84, lambda group: group.name, lambda group: group.name.casefold(), _name, right=False),
            ListHead("n", 52, lambda group: count(group.sample.n), lambda group: group.sample.n),
            ListHead("missing", 56, lambda group: count(group.missing), lambda group: group.missing),
            *(self._head(STATISTICS[key]) for key in statistics),
            ListHead("flagged", 60, lambda group: count(group.flagged), lambda group: group.flagged, lambda _: flagged),
        ]

    def _head(self, row: Statistic) -> ListHead:
        name = row.survey_name
        width = max(61, min(_WIDTH + _LETTER * len(name), 130))
        return ListHead(
            name, width, lambda group: row.words(row.of(group.description, group.sample), self.style), _key(row)
        )


def _name(group: ValueGroup) -> str:
    return group.name


def _key(row: Statistic) -> Callable[[ValueGroup], float]:
    def value(group: ValueGroup) -> float:
        found = row.of(group.description, group.sample)
        return -inf if found is None else float(found)

    return value
