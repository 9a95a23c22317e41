"""All pairs of columns as a list that sorts."""

from typing import Any

from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtWidgets import QAbstractItemView, QTableView, QWidget

from culvix.app.widgets.models import RIGHT, CellPainter, HeadedTable
from culvix.app.widgets.parts import by_font, plain_tip
from culvix.stats.display import coefficient, count, p_value
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.analysis.relations import RANKING, RankedPair

__all__ = ["PairTable", "pair_table_view"]


class PairTable(HeadedTable):
    """Ranked pairs; sorting by a coefficient sorts by its size."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.pairs: list[RankedPair] = []
        self.heads = [
            "column",
            "with",
            *(f"{CORRELATION_KINDS[key].name} {CORRELATION_KINDS[key].symbol}" for key in RANKING),
            "n",
        ]

    def put(self, pairs: tuple[RankedPair, ...]) -> None:
        self.beginResetModel()
        self.pairs = list(pairs)
        self.endResetModel()

    def row_count(self) -> int:
        return len(self.pairs)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() >= 2:
            return RIGHT
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return None
        pair = self.pairs[index.row()]
        found = list(pair.coefficients.values())
        position = index.column()
        if 2 <= position < 2 + len(found):
            result = found[position - 2]
            if role == Qt.ItemDataRole.ToolTipRole:
                by = f" by {result.p_by}" if result.p_by else ""
                return plain_tip(result.note or f"{p_value(result.p)}{by}, n {count(result.n)}")
            return coefficient(result.r)
        if position < 2:
            name = (pair.x, pair.y)[position]
            return plain_tip(name) if role == Qt.ItemDataRole.ToolTipRole else name
        return count(pair.n)

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        kinds = RANKING

        def key(pair: RankedPair) -> Any:
            if column < 2:
                return (pair.x, pair.y)[column]
            if column < 2 + len(kinds):
                r = pair.coefficients[kinds[column - 2]].r
                return -1.0 if r is None else abs(r)
            return pair.n

        self.beginResetModel()
        self.pairs.sort(key=key, reverse=order == Qt.SortOrder.DescendingOrder)
        self.endResetModel()


def pair_table_view(model: PairTable) -> QTableView:
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
    for position, width in enumerate((106, 106, 68, 84, 50)):
        head.resizeSection(position, by_font(width))
    return table
