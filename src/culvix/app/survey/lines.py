"""The lines of the survey as a table: a column of the study in each, with its sparkline and its statistics."""

from collections.abc import Sequence

from PyQt6.QtCore import QModelIndex, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QStyleOptionViewItem, QWidget

from culvix.app.session.hub import Hub
from culvix.app.widgets.lists.models import LEFT, MIDDLE, RIGHT, CellPainter, HeadedTable
from culvix.app.widgets.parts import by_font, plain_tip
from culvix.charts.items.sparkline import Sparkline, draw_sparkline
from culvix.charts.palette import SHADES, colour
from culvix.study.analysis.survey.order import BY_NAME, SurveyOrder, ordered
from culvix.study.analysis.survey.survey import SurveyField, SurveyRow, default_fields, survey_fields

__all__ = ["SPARKLINE", "SparklinePainter", "SurveyLines"]

_MANY = 60
"""Lines from which on all are painted anew in one go."""
SPARKLINE = 1
"""The position of the sparklines."""


class SurveyLines(HeadedTable):
    """The lines of the survey; sorting goes by the exact values, those without one last."""

    reordered = pyqtSignal()
    """Another order holds than before."""

    def __init__(self, hub: Hub, parent: QWidget) -> None:
        super().__init__(parent)
        self.hub = hub
        self.fields: tuple[str, ...] = default_fields()
        self.rows: list[SurveyRow] = []
        self.order = SurveyOrder()
        self._texts: dict[tuple[int, int], str] = {}
        self._heads()

    def _heads(self) -> None:
        self._texts.clear()
        known = survey_fields()
        self._shown = [known[key] for key in self.fields]
        self.heads = ["column", "", *(field.name for field in self._shown)]

    def row_count(self) -> int:
        return len(self.rows)

    def headerData(self, position: int, along: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.TextAlignmentRole and along == Qt.Orientation.Horizontal:
            if position <= SPARKLINE:
                return LEFT
            return _side(self._shown[position - 2])
        return super().headerData(position, along, role)

    def choose(self, fields: Sequence[str]) -> None:
        self.beginResetModel()
        self.fields = tuple(fields)
        self._heads()
        self.endResetModel()

    def put(self, rows: list[SurveyRow]) -> None:
        """Show ``rows``; lines that stay where they were keep their selection."""
        before = self.rows
        rows = ordered(rows, self.order)
        if [row.column.name for row in before] == [row.column.name for row in rows]:
            self.rows = rows
            # Only the lines that read otherwise are painted anew, while the work on others goes on.
            changed = [at for at, (old, new) in enumerate(zip(before, rows, strict=True)) if not new.same_as(old)]
            if len(changed) > _MANY:
                self._renew(changed[0], changed[-1])
                return
            for line in changed:
                self._renew(line, line)
            return
        self.beginResetModel()
        self._texts.clear()
        self.rows = rows
        self.endResetModel()

    def _renew(self, first: int, last: int) -> None:
        for line in range(first, last + 1):
            for position in range(len(self.heads)):
                self._texts.pop((line, position), None)
        self.dataChanged.emit(self.index(first, 0), self.index(last, len(self.heads) - 1))

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row, position = self.rows[index.row()], index.column()
        if position <= SPARKLINE:
            if role == Qt.ItemDataRole.DisplayRole:
                return row.column.name if position == 0 else ""
            if role == Qt.ItemDataRole.ToolTipRole:
                return plain_tip(f"{row.column.title}\n{row.column.role}: {row.column.reason}")
            if role == Qt.ItemDataRole.UserRole:
                return self.hub.sparkline(row.column.name)
            return None
        field = self._shown[position - 2]
        if role == Qt.ItemDataRole.DisplayRole:
            return self._text(index.row(), position, row, field)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return _side(field)
        if role == Qt.ItemDataRole.ForegroundRole:
            return self._shade(field, row)
        if role == Qt.ItemDataRole.ToolTipRole and row.analysis is not None:
            if field.key == "verdict":
                return plain_tip(row.analysis.verdict.sentence)
            return plain_tip(row.analysis.description.notes.get(field.key, ""))
        return None

    def _text(self, line: int, position: int, row: SurveyRow, field: SurveyField) -> str:
        """The words of a cell, made once: a view asks for them at every painting."""
        if (line, position) not in self._texts:
            self._texts[line, position] = field.shown(row, field.raw(row))
        return self._texts[line, position]

    def _shade(self, field: SurveyField, row: SurveyRow) -> object:
        if field.key in ("findings", "unread") and field.raw(row):
            return colour(SHADES.flagged)
        return colour(SHADES.muted) if field.key in ("role", "unit") else None

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        if column != SPARKLINE:
            key = "" if column < 0 else BY_NAME if column == 0 else self.fields[column - 2]
            self.order_by(SurveyOrder(key, bool(key) and order == Qt.SortOrder.DescendingOrder))

    def order_by(self, order: SurveyOrder) -> None:
        """Put the lines into another order; that of the table is found by the next `put`."""
        if order == self.order:
            return
        self.order = order
        self.beginResetModel()
        self._texts.clear()
        self.rows = ordered(self.rows, order)
        self.endResetModel()
        self.reordered.emit()

    def position_of(self, order: SurveyOrder) -> int:
        """The column of the table by which ``order`` sorts, −1 for one that no column shows."""
        if order.key == BY_NAME:
            return 0
        return self.fields.index(order.key) + 2 if order.key in self.fields else -1


def _side(field: SurveyField) -> int:
    """Numbers stand at the right, words in the middle, clear of the numbers beside them; roles at the left."""
    return LEFT if field.key in ("role", "unit") else RIGHT if field.numeric else MIDDLE


class SparklinePainter(CellPainter):
    """Draws the sparkline of each column into its cell."""

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        super().paint(painter, option, index)
        sparkline = self.model.data(index, Qt.ItemDataRole.UserRole)
        if painter is not None and isinstance(sparkline, Sparkline):
            draw_sparkline(painter, QRectF(option.rect).adjusted(4, 4, -8, -2), sparkline)

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        return QSize(by_font(110), by_font(32))
