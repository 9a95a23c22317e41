"""A list of pairs of columns that sorts by each of its own columns, and is searched by the names of both."""

from collections.abc import Sequence
from typing import Protocol, TypeVar

from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.lists.sorted_list import ListHead, SortedList

__all__ = ["PairsModel"]


class _Pair(Protocol):
    """What is listed: a pair of columns by name."""

    @property
    def x(self) -> str: ...
    @property
    def y(self) -> str: ...


P = TypeVar("P", bound=_Pair)


class PairsModel(SortedList[P]):
    """``pairs`` are those shown, as they were searched and sorted."""

    def __init__(self, heads: Sequence[ListHead], parent: QWidget) -> None:
        super().__init__(heads, parent)
        self._sought, self._only = "", ""

    @property
    def pairs(self) -> list[P]:
        return self.items

    def seek(self, words: str, only: str = "") -> None:
        """List only pairs in whose names ``words`` occur, and only those with the column ``only``; empty for all."""
        if (words.casefold(), only) != (self._sought, self._only):
            self._sought, self._only = words.casefold(), only
            self.list_anew()

    def fits(self, item: P) -> bool:
        names = (item.x, item.y)
        sought = all(any(word in name.casefold() for name in names) for word in self._sought.split())
        return sought and (not self._only or self._only in names)
