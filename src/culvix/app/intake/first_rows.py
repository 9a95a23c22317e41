"""The first rows of a table, cell by cell as the file has them: as it was read, or as it would be read."""

import numpy as np
from PyQt6.QtCore import QModelIndex, QSize, Qt
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QTableView, QWidget

from culvix.app.widgets.models import LEFT, RIGHT, CellPainter, HeadedTable
from culvix.app.widgets.parts import by_font, plain_tip
from culvix.charts.palette import SHADES, colour
from culvix.stats.display import count
from culvix.tables.model.raw_table import RawTable
from culvix.tables.model.table import Table

__all__ = ["FirstRows", "FirstRowsView"]

_ROWS = 200
_COLUMNS = 300
_LOOK = 40
_BESIDE_NUMBERS = 16


class FirstRows(HeadedTable):
    """Cells of a table or of a preview; what is not read as a number in a column of numbers stands out."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.heads: list[str] = []
        self._tips: list[str] = []
        self._cells: list[list[str]] = []
        self._numbers: list[int] = []
        self._numeric: list[bool] = []
        self._unread: list[set[int]] = []
        self._table: Table | None = None
        """The table shown, None for a preview."""

    def show_table(self, table: Table) -> None:
        """Take the rows of ``table`` as it is read and described now."""
        if table is self._table:
            return
        self._table = table
        rows = np.arange(min(table.rows, _ROWS))
        table.remember(rows)
        heads = [column.name for column in table]
        # The same columns again keep their selection.
        same = heads == self.heads and rows.size == len(self._numbers)
        if not same:
            self.beginResetModel()
        self.heads = heads
        self._tips = [f"{column.role}: {column.reason}" for column in table]
        self._cells = [[column.cell(row) for row in range(rows.size)] for column in table.columns[:_COLUMNS]]
        self._numbers = table.numbers_of(rows).tolist()
        self._numeric = [column.is_numeric for column in table]
        self._unread = [set(c.unread_rows[c.unread_rows < _ROWS].tolist()) for c in table]
        if not same:
            self.endResetModel()
        elif rows.size:
            self.dataChanged.emit(self.index(0, 0), self.index(rows.size - 1, len(heads) - 1))

    def show_raw(self, raw: RawTable) -> None:
        """Take the rows of a preview, which is not judged."""
        rows = np.arange(min(raw.rows, _ROWS))
        self._table = None
        self.beginResetModel()
        self.heads = list(raw.names)
        self._tips = list(raw.names)
        frame = raw.records(rows)
        self._cells = [
            [cell or "" for cell in frame[:, position].to_list()] for position in range(min(frame.width, _COLUMNS))
        ]
        self._numbers = (rows + 1).tolist()
        self._numeric, self._unread = [], []
        for column in raw.columns:
            nonnumeric_rows = [
                row
                for row, text in zip(column.nonnumeric_rows.tolist(), column.nonnumeric_texts.to_list(), strict=True)
                if text
            ]
            numeric = 2 * len(nonnumeric_rows) < len(column) and column.nonnumeric_rows.size < len(column)
            self._numeric.append(numeric)
            self._unread.append(set(nonnumeric_rows) if numeric else set())
        self.endResetModel()

    def row_count(self) -> int:
        return len(self._numbers)

    @property
    def last_number(self) -> str:
        """The number of the last row shown, empty where there is none."""
        return count(self._numbers[-1]) if self._numbers else ""

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        position, row = index.column(), index.row()
        if position >= len(self._cells):
            return "…" if role == Qt.ItemDataRole.DisplayRole else None
        if role == Qt.ItemDataRole.DisplayRole:
            return self._cells[position][row]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return RIGHT if self._numeric[position] else LEFT
        if row in self._unread[position]:
            if role == Qt.ItemDataRole.ForegroundRole:
                return colour(SHADES.flagged)
            if role == Qt.ItemDataRole.ToolTipRole:
                return "Not read as a number"
        return None

    def headerData(self, position: int, along: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if along == Qt.Orientation.Vertical:
            return count(self._numbers[position]) if role == Qt.ItemDataRole.DisplayRole else None
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(self._tips[position])
        return super().headerData(position, along, role)


class _RowNumbers(QHeaderView):
    """The numbers of the rows, as wide as the last one; on its own it would measure two hundred of them."""

    def __init__(self, rows: FirstRows, parent: QWidget) -> None:
        super().__init__(Qt.Orientation.Vertical, parent)
        self.rows = rows
        self.setSectionsClickable(True)

    def sizeHint(self) -> QSize:
        return QSize(self.fontMetrics().horizontalAdvance(self.rows.last_number) + _BESIDE_NUMBERS, 0)


class FirstRowsView(QTableView):
    """Shows `FirstRows`; columns are as wide as their first cells ask for."""

    def __init__(self) -> None:
        super().__init__()
        self.rows = FirstRows(self)
        self.setVerticalHeader(_RowNumbers(self.rows, self))
        self.setModel(self.rows)
        self.setAccessibleName("First rows of the table")
        self.setCornerButtonEnabled(False)
        self.setTabKeyNavigation(False)
        self.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectColumns)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.setItemDelegate(CellPainter(self.rows, self))
        names, heads = self.verticalHeader(), self.horizontalHeader()
        assert names is not None and heads is not None
        heads.setTextElideMode(Qt.TextElideMode.ElideRight)
        names.setDefaultSectionSize(by_font(22))

    def fit(self) -> None:
        """Give each column its width."""
        room = self.fontMetrics()
        rows = min(self.rows.row_count(), _LOOK)
        for position, name in enumerate(self.rows.heads[:_COLUMNS]):
            cells = (str(self.rows.index(row, position).data()) for row in range(rows))
            widest = max(room.horizontalAdvance(text[:60]) for text in (name, *cells))
            self.setColumnWidth(position, min(widest + 24, 260))
