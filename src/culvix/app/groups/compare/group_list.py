"""The numbers of each group as a list that sorts."""

from collections.abc import Sequence

from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.lists.sorted_list import ListHead, SortedList, number_head
from culvix.stats.display import NumberStyle
from culvix.stats.registry import STATISTICS, Statistic
from culvix.study.groups.value_groups import ValueGroup

__all__ = ["GroupList"]

_WIDTH, _LETTER, _WIDEST = 21, 7, 130
"""Of a column with a name of no letters, of each letter, and at the most, in pixels."""


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
            number_head("n", 52, lambda group: group.sample.n),
            number_head("missing", 56, lambda group: group.missing),
            *(self._head(STATISTICS[key]) for key in statistics),
            number_head("flagged", 60, lambda group: group.flagged, tip=lambda _: flagged),
        ]

    def _head(self, row: Statistic) -> ListHead:
        name = row.survey_name
        width = max(61, min(_WIDTH + _LETTER * len(name), _WIDEST))
        return number_head(
            name,
            width,
            lambda group: row.of(group.description, group.sample),
            lambda value: row.words(value, self.style),
        )


def _name(group: ValueGroup) -> str:
    return group.name
