"""All pairs of columns as a list that sorts and is searched."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtWidgets import QAbstractItemView, QTableView, QWidget

from culvix.app.relations.category_list import CategoryTable
from culvix.app.widgets.models import RIGHT, CellPainter, HeadedTable
from culvix.app.widgets.parts import by_font, plain_tip
from culvix.stats.display import coefficient, count, p_value
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.relations.finding import KINDS, RelationFinding
from culvix.study.relations.ranking import RANKING, RankedPair

__all__ = ["PairTable", "pair_table_view"]


@dataclass(frozen=True)
class _Head:
    """A column of the list: its name and width, what stands in it, what it sorts by, and what is said of a cell."""

    name: str
    width: int
    text: Callable[[RankedPair], str]
    key: Callable[[RankedPair], float | str]
    tip: Callable[[RankedPair], str]
    right: bool = True


def _strength(key: str) -> _Head:
    kind = CORRELATION_KINDS[key]

    def tip(pair: RankedPair) -> str:
        found = pair.coefficients.get(key)
        if found is None or found.r is None:
            return "" if found is None else found.note or ""
        by = f" by {found.p_by}" if found.p_by else ""
        adjusted = p_value(pair.adjusted.get(key)).removeprefix("p ")
        return f"{p_value(found.p)}{by}, adjusted for all pairs {adjusted}, n {count(found.n)}"

    def r(pair: RankedPair) -> float | None:
        found = pair.coefficients.get(key)
        return None if found is None else found.r

    return _Head(
        f"{kind.name} {kind.symbol}",
        84 if key == "spearman" else 68,
        lambda pair: coefficient(r(pair)),
        lambda pair: -1.0 if r(pair) is None else abs(r(pair) or 0.0),
        tip,
    )


def _heads() -> list[_Head]:
    first, last = RANKING[0], RANKING[-1]
    symbols = [CORRELATION_KINDS[key].symbol for key in (first, last)]
    return [
        _Head("column", 96, lambda pair: pair.x, lambda pair: pair.x.casefold(), lambda pair: pair.x, right=False),
        _Head("with", 96, lambda pair: pair.y, lambda pair: pair.y.casefold(), lambda pair: pair.y, right=False),
        *(_strength(key) for key in RANKING),
        _Head("n", 50, lambda pair: count(pair.n), lambda pair: pair.n, lambda _: "Rows with both values"),
        _Head(
            f"|{symbols[1]}| − |{symbols[0]}|",
            68,
            lambda pair: coefficient(pair.gap),
            lambda pair: -1.0 if pair.gap is None else abs(pair.gap),
            lambda _: "Far from 0 where a relation bends, or where few rows make it",
        ),
        _Head(
            f"p adj. ({symbols[1]})",
            78,
            lambda pair: p_value(pair.adjusted.get(last)).removeprefix("p ").removeprefix("= "),
            lambda pair: 2.0 if pair.adjusted.get(last) is None else pair.adjusted[last] or 0.0,
            lambda _: "p adjusted for all pairs that were tried (Benjamini & Hochberg 1995)",
        ),
        _Head("lost", 50, lambda pair: count(pair.lost), lambda pair: pair.lost, lambda _: "Rows with one value only"),
    ]


class PairTable(HeadedTable):
    """Ranked pairs; sorting by a coefficient sorts by its size. ``pairs`` are those shown."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.pairs: list[RankedPair] = []
        self._all: Sequence[RankedPair] = ()
        self._columns = [*_heads(), self._noted()]
        self.heads = [head.name for head in self._columns]
        self._sought, self._only = "", ""
        self._findings: Mapping[frozenset[str], Sequence[RelationFinding]] = {}
        self._sorted: tuple[int, bool] | None = None

    def _noted(self) -> _Head:
        return _Head(
            "to note",
            150,
            lambda pair: ", ".join(KINDS[each.kind] for each in self._found(pair)),
            lambda pair: -len(self._found(pair)),
            lambda pair: "\n".join(each.sentence for each in self._found(pair)),
            right=False,
        )

    @property
    def widths(self) -> list[int]:
        """How wide the columns are at the usual size of letters, in pixels."""
        return [head.width for head in self._columns]

    def put(self, pairs: Sequence[RankedPair]) -> None:
        """List ``pairs``, as they were searched and sorted before."""
        self._all = pairs
        self._list()

    def note(self, findings: Mapping[frozenset[str], Sequence[RelationFinding]]) -> None:
        """Say beside each pair what was found of it, by the names of both columns."""
        self._findings = findings
        self._list()

    def _found(self, pair: RankedPair) -> Sequence[RelationFinding]:
        return self._findings.get(frozenset((pair.x, pair.y)), ())

    def seek(self, words: str, only: str = "") -> None:
        """List only pairs in whose names ``words`` occur, and only those with the column ``only``; empty for all."""
        if (words.casefold(), only) != (self._sought, self._only):
            self._sought, self._only = words.casefold(), only
            self._list()

    def _list(self) -> None:
        def fits(pair: RankedPair) -> bool:
            names = (pair.x, pair.y)
            sought = all(any(word in name.casefold() for name in names) for word in self._sought.split())
            return sought and (not self._only or self._only in names)

        self.beginResetModel()
        self.pairs = [pair for pair in self._all if fits(pair)]
        if self._sorted is not None:
            column, falling = self._sorted
            self.pairs.sort(key=self._columns[column].key, reverse=falling)
        self.endResetModel()

    def row_count(self) -> int:
        return len(self.pairs)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        head = self._columns[index.column()]
        if role == Qt.ItemDataRole.TextAlignmentRole and head.right:
            return RIGHT
        if role == Qt.ItemDataRole.DisplayRole:
            return head.text(self.pairs[index.row()])
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(head.tip(self.pairs[index.row()]))
        return None

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        # Without a column pairs stand by strength.
        self._sorted = (column, order == Qt.SortOrder.DescendingOrder) if column >= 0 else None
        self._list()


def pair_table_view(model: PairTable | CategoryTable) -> QTableView:
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
