"""The parts that all tables of the window share: their model, and what paints its cells."""

from abc import abstractmethod
from collections.abc import Callable
from functools import cached_property, lru_cache

from PyQt6.QtCore import QAbstractTableModel, QItemSelectionModel, QModelIndex, Qt
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter
from PyQt6.QtWidgets import QAbstractItemView, QStyledItemDelegate, QStyleOptionViewItem

from culvix.charts.palette import SHADES, colour
from culvix.visible_text import visible

__all__ = ["LEFT", "MIDDLE", "RIGHT", "CellPainter", "HeadedTable"]

_MARGIN = 6
_WIDTHS_CACHED = 4096
LEFT, RIGHT, MIDDLE = (
    int(side | Qt.AlignmentFlag.AlignVCenter)
    for side in (Qt.AlignmentFlag.AlignLeft, Qt.AlignmentFlag.AlignRight, Qt.AlignmentFlag.AlignHCenter)
)
"""Where the words of a cell stand."""
_ONE_LINE = Qt.TextFlag.TextSingleLine.value
_SIDE, _SHADE = Qt.ItemDataRole.TextAlignmentRole, Qt.ItemDataRole.ForegroundRole


class HeadedTable(QAbstractTableModel):
    """A model with named columns; subclasses tell how many rows there are and what stands in a cell."""

    heads: list[str]

    @abstractmethod
    def row_count(self) -> int:
        """Number of rows shown."""

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else self.row_count()

    def columnCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.heads)

    def headerData(self, position: int, along: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if along == Qt.Orientation.Horizontal and role == Qt.ItemDataRole.DisplayRole:
            return self.heads[position]
        return None


class CellPainter(QStyledItemDelegate):
    """Paints the words of a `HeadedTable` on their side and in their shade, selected ones too.

    The style would ask the model eight times for each cell, and wait each time for whatever computes in the background.
    """

    def __init__(
        self,
        model: HeadedTable,
        view: QAbstractItemView,
        shortened: Qt.TextElideMode = Qt.TextElideMode.ElideRight,
    ) -> None:
        super().__init__(view)
        self.model, self.view, self.shortened = model, view, shortened
        self._ground, self._ink = colour(SHADES.raised), colour(SHADES.ink)

    @cached_property
    def _selection(self) -> QItemSelectionModel:
        found = self.view.selectionModel()
        assert found is not None
        return found

    @cached_property
    def _metrics(self) -> QFontMetricsF:
        return QFontMetricsF(self.view.font())

    @cached_property
    def _width(self) -> Callable[[str], float]:
        """How wide a text is; the same ones are painted time and again."""
        return lru_cache(_WIDTHS_CACHED)(self._metrics.horizontalAdvance)

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        area = option.rect
        # What state a cell is in is asked of the selection: the option's flags take longer to make than the cell.
        if self._selection.isSelected(index):
            painter.fillRect(area, self._ground)
        message = self.model.data(index)
        if not message:
            return
        side = self.model.data(index, _SIDE)
        shade = self.model.data(index, _SHADE)
        painter.setPen(shade if isinstance(shade, QColor) else self._ink)
        room, shown = area.width() - 2 * _MARGIN, visible(str(message))
        if self._width(shown) > room:
            shown = self._metrics.elidedText(shown, self.shortened, room)
        flags = (side if isinstance(side, int) else LEFT) | _ONE_LINE
        painter.drawText(area.adjusted(_MARGIN, 0, -_MARGIN, 0), flags, shown)
