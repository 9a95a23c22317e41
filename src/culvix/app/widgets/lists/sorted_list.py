"""A list that sorts by each of its columns, and is copied with all its digits."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from math import inf
from typing import Any, Generic, TypeVar

from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtGui import QFontMetricsF, QGuiApplication, QKeyEvent, QKeySequence
from PyQt6.QtWidgets import QAbstractItemView, QTableView, QWidget

from culvix.app.widgets.lists.models import RIGHT, CellPainter, HeadedTable
from culvix.app.widgets.parts import by_font, plain_tip
from culvix.stats.display import count, p_value

__all__ = ["ListHead", "SortedList", "SortedView", "number_head", "p_head"]

T = TypeVar("T")
_MARGIN = 7
"""On either side of a number, in pixels."""


def _no_tip(_: Any) -> str:
    return ""


@dataclass(frozen=True)
class ListHead:
    """A column of the list: its name and width, what stands in it, what it sorts by, and what is said of a cell."""

    name: str
    width: int
    text: Callable[[Any], str]
    key: Callable[[Any], float | str]
    tip: Callable[[Any], str] = _no_tip
    right: bool = True
    exact: Callable[[Any], float | int | None] | None = None
    """The number that is copied with all its digits, None for one that there is not; without it the text is copied."""


def number_head(
    name: str,
    width: int,
    value: Callable[[Any], float | int | None],
    shown: Callable[[Any], str] = count,
    tip: Callable[[Any], str] = _no_tip,
    *,
    by_size: bool = False,
    without: float = -inf,
) -> ListHead:
    """A column of numbers: the ``value`` of an item, as it is ``shown``; counts unless said otherwise.

    ``by_size``: signs do not count where it sorts. ``without`` is where an item without a number stands.
    """

    def key(item: Any) -> float:
        found = value(item)
        if found is None:
            return without
        return abs(found) if by_size else found

    return ListHead(name, width, lambda item: shown(value(item)), key, tip, exact=value)


def p_head(name: str, width: int, p: Callable[[Any], float | None], tip: Callable[[Any], str] = _no_tip) -> ListHead:
    """A column of p values, an item without one last."""

    def shown(found: float | None) -> str:
        return p_value(found).removeprefix("p ").removeprefix("= ")

    return number_head(name, width, p, shown, tip, without=2.0)


class SortedList(HeadedTable, Generic[T]):
    """``items`` are those shown, in the order they were put or as they were sorted."""

    def __init__(self, heads: Sequence[ListHead], parent: QWidget) -> None:
        super().__init__(parent)
        self.columns = heads
        self.heads = [head.name for head in heads]
        self.items: list[T] = []
        self._all: Sequence[T] = ()
        self._last: Sequence[T] = ()
        self._sorted: tuple[int, bool] | None = None

    def show_heads(self, heads: Sequence[ListHead]) -> None:
        """List other columns; items stand as they were put until they are sorted anew."""
        self.beginResetModel()
        self.columns, self.heads, self._sorted = heads, [head.name for head in heads], None
        self.endResetModel()
        self.list_anew()

    @property
    def widths(self) -> list[int]:
        """How wide the columns are at the usual size of letters, in pixels."""
        return [head.width for head in self.columns]

    def put(self, items: Sequence[T], last: Sequence[T] = ()) -> None:
        """List ``items``, sorted as they were before, above those that stand ``last`` in every order."""
        self._all, self._last = items, last
        self.list_anew()

    def fits(self, item: T) -> bool:
        """Whether ``item`` is listed."""
        return True

    def list_anew(self) -> None:
        """List what there is once more: what is said of it may have changed."""
        self.beginResetModel()
        self.items = [item for item in self._all if self.fits(item)]
        if self._sorted is not None:
            column, falling = self._sorted
            self.items.sort(key=self.columns[column].key, reverse=falling)
        self.items += [item for item in self._last if self.fits(item)]
        self.endResetModel()

    def row_count(self) -> int:
        return len(self.items)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        head = self.columns[index.column()]
        if role == Qt.ItemDataRole.TextAlignmentRole and head.right:
            return RIGHT
        if role == Qt.ItemDataRole.DisplayRole:
            return head.text(self.items[index.row()])
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(head.tip(self.items[index.row()]))
        return None

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        # Without a column items stand as they were put.
        self._sorted = (column, order == Qt.SortOrder.DescendingOrder) if column >= 0 else None
        self.list_anew()

    @property
    def lines(self) -> list[list[str]]:
        """All that is listed, numbers with all their digits, below the names of the columns."""
        return [self.heads, *([_full(head, item) for head in self.columns] for item in self.items)]


def _full(head: ListHead, item: object) -> str:
    found = None if head.exact is None else head.exact(item)
    return head.text(item) if found is None else repr(found)


class SortedView(QTableView):
    """A view of a `SortedList`, one line chosen at a time; copying takes all of them."""

    def __init__(self, model: SortedList[Any], name: str) -> None:
        """``name`` says what is listed, to those who cannot see it."""
        super().__init__()
        self.listed = model
        self.setModel(model)
        self.setAccessibleName(name)
        self.setTabKeyNavigation(False)
        self.setItemDelegate(CellPainter(model, self))
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.setShowGrid(False)
        self.setSortingEnabled(True)
        self.verticalHeader().hide()  # type: ignore[union-attr]
        self.verticalHeader().setDefaultSectionSize(by_font(22))  # type: ignore[union-attr]
        head = self.horizontalHeader()
        assert head is not None
        head.setHighlightSections(False)
        head.setSortIndicator(-1, Qt.SortOrder.DescendingOrder)
        self.fit_heads()

    def show_heads(self, heads: Sequence[ListHead]) -> None:
        """Show other columns of what is listed."""
        self.horizontalHeader().setSortIndicator(-1, Qt.SortOrder.DescendingOrder)  # type: ignore[union-attr]
        self.listed.show_heads(heads)
        self.fit_heads()

    def fit_heads(self) -> None:
        """Make columns as wide as is usual."""
        for position, width in enumerate(self.listed.widths):
            self.setColumnWidth(position, by_font(width))

    def fit_numbers(self) -> None:
        """Let columns of numbers be as wide as these are, where they are wider than usual."""
        metrics = QFontMetricsF(self.font())
        for position, head in enumerate(self.listed.columns):
            if head.right:
                widest = max((metrics.horizontalAdvance(head.text(item)) for item in self.listed.items), default=0.0)
                self.setColumnWidth(position, max(by_font(head.width), round(widest) + 2 * _MARGIN))

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        clipboard = QGuiApplication.clipboard()
        if event is None or clipboard is None or not event.matches(QKeySequence.StandardKey.Copy):
            super().keyPressEvent(event)
            return
        clipboard.setText("\n".join("\t".join(line) for line in self.listed.lines))
