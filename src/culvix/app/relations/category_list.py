"""Pairs that have a category, as a list that sorts."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtWidgets import QWidget

from culvix.app.widgets.models import RIGHT, HeadedTable
from culvix.app.widgets.parts import plain_tip
from culvix.stats.display import DASH, count, number, p_value
from culvix.study.relations.category_pairs import CategoryPair

__all__ = ["CategoryTable"]

_TELLS = {
    "η²": "share of the variation of the values that lies between the groups",
    "V": "Cramér's V with its bias taken out (Bergsma 2013): 0 for no relation, 1 for the closest",
}

_SMALLEST = 0.0005


def _share(value: float | None) -> str:
    if value is None:
        return DASH
    return "< 0.001" if 0 < value < _SMALLEST else number(value, 3)


@dataclass(frozen=True)
class _Head:
    name: str
    width: int
    text: Callable[[CategoryPair], str]
    key: Callable[[CategoryPair], float | str]
    right: bool = True


_HEADS = (
    _Head("column", 88, lambda pair: pair.y, lambda pair: pair.y.casefold(), right=False),
    _Head("by", 70, lambda pair: pair.x, lambda pair: pair.x.casefold(), right=False),
    _Head(
        "η² or V",
        68,
        lambda pair: f"{pair.symbol} {_share(pair.found.value)}",
        lambda pair: pair.strength,
    ),
    _Head(
        "ε² ranks",
        60,
        lambda pair: _share(pair.of_ranks.value) if pair.of_ranks else "",
        lambda pair: (pair.of_ranks.value or 0.0) if pair.of_ranks else -1.0,
    ),
    _Head("n", 46, lambda pair: count(pair.found.n), lambda pair: pair.found.n),
    _Head(
        "p adj.",
        66,
        lambda pair: p_value(pair.adjusted).removeprefix("p ").removeprefix("= "),
        lambda pair: 2.0 if pair.adjusted is None else pair.adjusted,
    ),
    _Head("lost", 38, lambda pair: count(pair.lost), lambda pair: pair.lost),
)


class CategoryTable(HeadedTable):
    """``pairs`` in the order shown: by strength, or as they were sorted."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.heads = [head.name for head in _HEADS]
        self.pairs: list[CategoryPair] = []
        self._all: Sequence[CategoryPair] = ()
        self._sorted: tuple[int, bool] | None = None
        self._sought = ""

    @property
    def widths(self) -> list[int]:
        """How wide the columns are at the usual size of letters, in pixels."""
        return [head.width for head in _HEADS]

    def put(self, pairs: Sequence[CategoryPair]) -> None:
        """List ``pairs``, as they were searched and sorted before."""
        self._all = pairs
        self._list()

    def seek(self, words: str) -> None:
        """List only pairs in whose names all ``words`` occur."""
        self._sought = words.casefold()
        self._list()

    def _list(self) -> None:
        self.beginResetModel()
        self.pairs = [
            pair
            for pair in self._all
            if all(any(word in name.casefold() for name in (pair.x, pair.y)) for word in self._sought.split())
        ]
        if self._sorted is not None:
            column, falling = self._sorted
            self.pairs.sort(key=_HEADS[column].key, reverse=falling)
        self.endResetModel()

    def row_count(self) -> int:
        return len(self.pairs)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        head, pair = _HEADS[index.column()], self.pairs[index.row()]
        if role == Qt.ItemDataRole.TextAlignmentRole and head.right:
            return RIGHT
        if role == Qt.ItemDataRole.DisplayRole:
            return head.text(pair)
        if role == Qt.ItemDataRole.ToolTipRole:
            said = pair.found.note or f"{_TELLS[pair.symbol]}; {p_value(pair.found.p)}, n {count(pair.found.n)}"
            return plain_tip(f"{pair.y} by {pair.x}\n{said}")
        return None

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        # Without a column pairs stand by strength.
        self._sorted = (column, order == Qt.SortOrder.DescendingOrder) if column >= 0 else None
        self._list()
