"""The rows of a table, cell by cell as the file has them: as it was read, or as it would be read."""

from functools import lru_cache

import numpy as np
import polars as pl
from PyQt6.QtCore import QModelIndex, QSize, Qt
from PyQt6.QtWidgets import QAbstractItemView, QHeaderView, QStyleOptionHeader, QTableView, QWidget

from culvix.app.widgets.lists.models import LEFT, RIGHT, CellPainter, HeadedTable
from culvix.app.widgets.parts import by_font, plain_tip
from culvix.charts.palette import SHADES, colour
from culvix.stats.core.arrays import Ints
from culvix.stats.display import count
from culvix.tables.model.raw_table import RawTable
from culvix.tables.model.table import Column, Table

__all__ = ["FirstRows", "FirstRowsView"]

_BLOCK, MOST_WORK_AT_ONCE = 100, 50_000
"""Rows read at once, and cells, where there are many columns."""
_BLOCKS_CACHED, _COLUMNS_IN_VIEW = 12, 40
_ROWS_COMPARED, _MEASURED = 40, 300
"""Rows and columns that are looked at for the widths of columns."""
_LONGEST = 60
_BESIDE_NUMBERS = 16
_BESIDE_NAMES = 12


class _Blocks:
    """Cells of a table or of a preview, read a few rows and one column at a time as they come into view."""

    def __init__(self, source: Table | RawTable) -> None:
        self.source = source
        columns = max(len(source.columns), 1)
        self.size = min(_BLOCK, max(MOST_WORK_AT_ONCE // columns, 1))
        self.numbers = lru_cache(_BLOCKS_CACHED)(self._numbers)
        self.cells = lru_cache(_BLOCKS_CACHED * _COLUMNS_IN_VIEW)(self._cells)
        self._records = lru_cache(1)(self._read)

    def _rows(self, block: int) -> Ints:
        return np.arange(block * self.size, min((block + 1) * self.size, self.source.rows))

    def _numbers(self, block: int) -> list[int]:
        """The numbers under which the rows of a block stand in the file."""
        rows = self._rows(block)
        numbers: list[int] = (self.source.numbers_of(rows) if isinstance(self.source, Table) else rows + 1).tolist()
        return numbers

    def _cells(self, block: int, position: int) -> list[str]:
        """The cells of one column in the rows of a block."""
        records = self._records(block)
        if records is not None:
            return [cell or "" for cell in records[:, position].to_list()]
        column = self.source.columns[position]
        assert isinstance(column, Column)
        return [column.cell(row) for row in self._rows(block).tolist()]

    def _read(self, block: int) -> pl.DataFrame | None:
        """The records of a preview; a table reads those of a block at once when it is told of them."""
        if isinstance(self.source, Table):
            self.source.remember(self._rows(block))
            return None
        return self.source.records(self._rows(block))


class FirstRows(HeadedTable):
    """Cells of a table or of a preview; what is not read as a number in a column of numbers stands out."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.heads: list[str] = []
        self._tips: list[str] = []
        self._rows = 0
        self._blocks: _Blocks | None = None
        self._numeric: list[bool] = []
        self._unread: list[Ints] = []
        self._table: Table | None = None
        """The table shown, None for a preview."""

    def show_table(self, table: Table) -> None:
        """Take the rows of ``table`` as it is read and described now."""
        if table is self._table:
            return
        self._table = table
        heads = [column.name for column in table]
        # The same columns again keep their selection.
        same = heads == self.heads and table.rows == self._rows
        if not same:
            self.beginResetModel()
        self.heads, self._rows, self._blocks = heads, table.rows, _Blocks(table)
        self._tips = [f"{column.role}: {column.reason}" for column in table]
        self._numeric = [column.is_numeric for column in table]
        self._unread = [column.unread_rows for column in table]
        if not same:
            self.endResetModel()
        elif self._rows:
            self.dataChanged.emit(self.index(0, 0), self.index(self._rows - 1, len(heads) - 1))

    def show_raw(self, raw: RawTable) -> None:
        """Take the rows of a preview, which is not judged."""
        self._table = None
        self.beginResetModel()
        self.heads = list(raw.names)
        self._tips = list(raw.names)
        self._rows, self._blocks = raw.rows, _Blocks(raw)
        self._numeric, self._unread = [], []
        for column in raw.columns:
            filled = column.nonnumeric_texts.fill_null("") != ""
            nonnumeric_rows = column.nonnumeric_rows[filled.to_numpy()]
            numeric = 2 * nonnumeric_rows.size < len(column) and column.nonnumeric_rows.size < len(column)
            self._numeric.append(numeric)
            self._unread.append(nonnumeric_rows if numeric else np.zeros(0, dtype=np.int64))
        self.endResetModel()

    def row_count(self) -> int:
        return self._rows

    @property
    def last_number(self) -> str:
        """The number of the last row shown, empty where there is none."""
        return self._number(self._rows - 1) if self._rows else ""

    def first_cells(self, position: int) -> list[str]:
        """The first cells of a column, few enough to be measured."""
        return [] if self._blocks is None or not self._rows else self._blocks.cells(0, position)[:_ROWS_COMPARED]

    def _number(self, row: int) -> str:
        assert self._blocks is not None
        block, at = divmod(row, self._blocks.size)
        return count(self._blocks.numbers(block)[at])

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        position, row = index.column(), index.row()
        if role == Qt.ItemDataRole.DisplayRole and self._blocks is not None:
            block, at = divmod(row, self._blocks.size)
            return self._blocks.cells(block, position)[at]
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return RIGHT if self._numeric[position] else LEFT
        if role in (Qt.ItemDataRole.ForegroundRole, Qt.ItemDataRole.ToolTipRole) and self._is_unread(row, position):
            return colour(SHADES.flagged) if role == Qt.ItemDataRole.ForegroundRole else "Not read as a number"
        return None

    def _is_unread(self, row: int, position: int) -> bool:
        rows = self._unread[position]
        at = int(np.searchsorted(rows, row))
        return at < rows.size and int(rows[at]) == row

    def headerData(self, position: int, along: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if along == Qt.Orientation.Vertical:
            return self._number(position) if role == Qt.ItemDataRole.DisplayRole else None
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(self._tips[position])
        return super().headerData(position, along, role)


class _RowNumbers(QHeaderView):
    """The numbers of the rows, as wide as the last one; on its own it would measure all of them."""

    def __init__(self, rows: FirstRows, parent: QWidget) -> None:
        super().__init__(Qt.Orientation.Vertical, parent)
        self.rows = rows
        self.setSectionsClickable(True)

    def sizeHint(self) -> QSize:
        return QSize(self.fontMetrics().horizontalAdvance(self.rows.last_number) + _BESIDE_NUMBERS, 0)


class _Heads(QHeaderView):
    """The names of the columns, told apart by nothing: to find out which are selected whole, Qt looks at every row."""

    def __init__(self, rows: FirstRows, parent: QWidget) -> None:
        super().__init__(Qt.Orientation.Horizontal, parent)
        self.rows = rows
        self.setSectionsClickable(True)

    def initStyleOptionForIndex(self, option: QStyleOptionHeader | None, logicalIndex: int) -> None:
        if option is None:
            return
        option.section = logicalIndex
        option.textAlignment = self.defaultAlignment()
        option.position = QStyleOptionHeader.SectionPosition.Middle
        room = self.sectionSize(logicalIndex) - _BESIDE_NAMES
        option.text = self.fontMetrics().elidedText(self.rows.heads[logicalIndex], self.textElideMode(), room)


class FirstRowsView(QTableView):
    """Shows `FirstRows`; columns are as wide as their first cells ask for."""

    def __init__(self) -> None:
        super().__init__()
        self.rows = FirstRows(self)
        self.setVerticalHeader(_RowNumbers(self.rows, self))
        self.setHorizontalHeader(_Heads(self.rows, self))
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
        for header in (heads, names):
            header.setHighlightSections(False)
        names.setDefaultSectionSize(by_font(22))

    def fit(self) -> None:
        """Give each column its width: that of its name, or of the longest of its first cells."""
        metrics = self.fontMetrics()
        for position, name in enumerate(self.rows.heads[:_MEASURED]):
            longest = max(self.rows.first_cells(position), key=len, default="")[:_LONGEST]
            widest = max(metrics.horizontalAdvance(name), metrics.horizontalAdvance(longest))
            self.setColumnWidth(position, min(widest + 24, 260))
