"""A list of pairs of columns that sorts by each of its own columns, and is searched by the names of both."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any, Generic, Protocol, TypeVar

from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtWidgets import QAbstractItemView, QTableView, QWidget

from culvix.app.widgets.models import RIGHT, CellPainter, HeadedTable
from culvix.app.widgets.parts import by_font, plain_tip

__all__ = ["PairHead", "PairsModel", "pair_table_view"]


class _Pair(Protocol):
    """What is listed: a pair of columns by name."""

    @property
    def x(self) -> str: ...
    @property
    def y(self) -> str: ...


P = TypeVar("P", bound=_Pair)


@dataclass(frozen=True)
class PairHead:
    """A column of the list: its name and width, what stands in it, what it sorts by, and what is said of a cell."""

    name: str
    width: int
    text: Callable[[Any], str]
    key: Callable[[Any], float | str]
    tip: Callable[[Any], str]
    right: bool = True


class PairsModel(HeadedTable, Generic[P]):
    """``pairs`` are those shown, in the order they were put or as they were sorted."""

    def __init__(self, heads: Sequence[PairHead], parent: QWidget) -> None:
        super().__init__(parent)
        self.columns = heads
        self.heads = [head.name for head in heads]
        self.pairs: list[P] = []
        self._all: Sequence[P] = ()
        self._sought, self._only = "", ""
        self._sorted: tuple[int, bool] | None = None

    @property
    def widths(self) -> list[int]:
        """How wide the columns are at the usual size of letters, in pixels."""
        return [head.width for head in self.columns]

    def put(self, pairs: Sequence[P]) -> None:
        """List ``pairs``, as they were searched and sorted before."""
        self._all = pairs
        self.list_anew()

    def seek(self, words: str, only: str = "") -> None:
        """List only pairs in whose names ``words`` occur, and only those with the column ``only``; empty for all."""
        if (words.casefold(), only) != (self._sought, self._only):
            self._sought, self._only = words.casefold(), only
            self.list_anew()

    def list_anew(self) -> None:
        """List what there is once more: what is said of it may have changed."""

        def fits(pair: P) -> bool:
            names = (pair.x, pair.y)
            sought = all(any(word in name.casefold() for name in names) for word in self._sought.split())
            return sought and (not self._only or self._only in names)

        self.beginResetModel()
        self.pairs = [pair for pair in self._all if fits(pair)]
        if self._sorted is not None:
            column, falling = self._sorted
            self.pairs.sort(key=self.columns[column].key, reverse=falling)
        self.endResetModel()

    def row_count(self) -> int:
        return len(self.pairs)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        head = self.columns[index.column()]
        if role == Qt.ItemDataRole.TextAlignmentRole and head.right:
            return RIGHT
        if role == Qt.ItemDataRole.DisplayRole:
            return head.text(self.pairs[index.row()])
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(head.tip(self.pairs[index.row()]))
        return None

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        # Without a column pairs stand as they were put: by strength.
        self._sorted = (column, order == Qt.SortOrder.DescendingOrder) if column >= 0 else None
        self.list_anew()


def pair_table_view(model: PairsModel[Any]) -> QTableView:
    """A view of ``model``, one pair chosen at a time."""
    table = QTableView()
    table.setModel(model)
    table.setAccessibleName("Pairs by strength")
    table.setTabKeyNavigation(False)
    table.setItemDelegate(CellPainter(model, table))
    table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
    table.setShowGrid(False)
    table.setSortingEnabled(True)
    table.verticalHeader().hide()  # type: ignore[union-attr]
    table.verticalHeader().setDefaultSectionSize(by_font(22))  # type: ignore[union-attr]
    head = table.horizontalHeader()
    assert head is not None
    head.setHighlightSections(False)
    head.setSortIndicator(-1, Qt.SortOrder.DescendingOrder)
    for position, width in enumerate(model.widths):
        head.resizeSection(position, by_font(width))
    return table
