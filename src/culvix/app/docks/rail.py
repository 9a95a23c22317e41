"""The column rail: every column with its strip, its role, and its open findings or its reviewed tick."""

from dataclasses import replace

from PyQt6.QtCore import QAbstractListModel, QModelIndex, QPoint, QRectF, QSize, QSortFilterProxyModel, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QFontMetrics, QPainter
from PyQt6.QtWidgets import (
    QLineEdit,
    QListView,
    QMenu,
    QStyle,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QVBoxLayout,
    QWidget,
)

from culvix.app.session.configured import configured
from culvix.app.session.hub import BARRED, Hub
from culvix.app.widgets.parts import by_font, plain_tip
from culvix.charts.items.sparkline import draw_sparkline
from culvix.charts.palette import SHADES, colour
from culvix.tables.model.table import Column, Role

__all__ = ["Rail"]

_SHORT, _TALL = 26, 52


def has_picture(column: Column) -> bool:
    """Whether a column has a tiny picture in the rail."""
    return column.is_numeric or column.role in BARRED


class _Columns(QAbstractListModel):
    def __init__(self, hub: Hub, parent: QWidget) -> None:
        super().__init__(parent)
        self.hub = hub
        self.open: dict[str, tuple[int, bool]] = {}
        self._positions = {column.name: position for position, column in enumerate(self.columns)}

    @property
    def columns(self) -> tuple[Column, ...]:
        """The columns as they are read now."""
        return self.hub.study.table.columns

    def rowCount(self, parent: QModelIndex = QModelIndex()) -> int:
        return 0 if parent.isValid() else len(self.columns)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        column = self.columns[index.row()]
        if role == Qt.ItemDataRole.DisplayRole:
            return column.name
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(f"{column.name}: {column.role}\n{column.reason}")
        if role == Qt.ItemDataRole.UserRole:
            return column
        return None

    def reload(self) -> None:
        """Take up columns that were added, or let go of some that are gone."""
        self.beginResetModel()
        self._positions = {column.name: position for position, column in enumerate(self.columns)}
        self.endResetModel()

    def refresh(self, name: str) -> None:
        """Count the open findings of a column anew."""
        study = self.hub.study
        analysis = study.workspace.known_analysis(name)
        if analysis is not None:
            unresolved = [f for f in analysis.findings(study.working) if not f.resolved]
            self.open[name] = len(unresolved), any(f.grave for f in unresolved)

    @property
    def open_questions(self) -> int:
        """Questions that are open, all columns together."""
        return sum(number for name, (number, _) in self.open.items() if name in self._positions)

    def position(self, name: str) -> int:
        """Where a column stands in the list."""
        return self._positions[name]


class _Painter(QStyledItemDelegate):
    def __init__(self, hub: Hub, model: _Columns, parent: QWidget) -> None:
        super().__init__(parent)
        self.hub, self.model = hub, model

    def sizeHint(self, option: QStyleOptionViewItem, index: QModelIndex) -> QSize:
        column: Column = index.data(Qt.ItemDataRole.UserRole)
        return QSize(by_font(120), by_font(_TALL if has_picture(column) else _SHORT))

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        assert painter is not None
        column: Column = index.data(Qt.ItemDataRole.UserRole)
        area = QRectF(option.rect)
        painter.save()
        if option.state & QStyle.StateFlag.State_Selected:
            painter.fillRect(area, colour(SHADES.raised))
            painter.fillRect(QRectF(area.left(), area.top(), 3, area.height()), colour(SHADES.data))
        elif option.state & QStyle.StateFlag.State_MouseOver:
            painter.fillRect(area, colour(SHADES.ground))
        inner = area.adjusted(10, 4, -8, -3)
        self._text(painter, option, inner, column)
        sparkline = self.hub.sparkline(column.name)
        if column.name == self.hub.veiled:
            painter.setFont(option.font)
            painter.setPen(colour(SHADES.muted))
            painter.drawText(inner.adjusted(0, by_font(18), 0, 0), int(Qt.AlignmentFlag.AlignLeft), "in the line-up")
        elif sparkline is not None:
            draw_sparkline(painter, inner.adjusted(0, by_font(18), 0, 0), sparkline)
        painter.restore()

    def _text(self, painter: QPainter, option: QStyleOptionViewItem, area: QRectF, column: Column) -> None:
        metrics = QFontMetrics(option.font)
        status, shade = self._status(column)
        side = metrics.horizontalAdvance(status) + 6
        if status == column.role and metrics.horizontalAdvance(column.name) + side > area.width():
            status, side = "", 0  # a long name is worth more than the role, which the tip still tells
        painter.setFont(option.font)
        painter.setPen(colour(shade))
        painter.drawText(area, int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop), status)
        font = QFont(option.font)
        if option.state & QStyle.StateFlag.State_Selected:
            font.setWeight(600)
        painter.setFont(font)
        painter.setPen(colour(SHADES.ink))
        room = int(area.width() - side)
        name = QFontMetrics(font).elidedText(column.name, Qt.TextElideMode.ElideMiddle, room)
        painter.drawText(area, int(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop), name)

    def _status(self, column: Column) -> tuple[str, str]:
        if column.name in self.hub.study.document.reviewed:
            return "✓", SHADES.resolved
        number, grave = self.model.open.get(column.name, (0, False))
        if number:
            return f"! {number}", SHADES.flagged if grave else SHADES.caution
        return str(column.role), SHADES.muted


class Rail(QWidget):
    """Pick a column here; typing in the field above narrows the list."""

    chosen = pyqtSignal(str)
    counted = pyqtSignal(int)
    """How many questions are open, all columns together."""
    left = pyqtSignal()
    """A column was clicked, or taken with Enter: the keyboard goes on to its data."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.model = _Columns(hub, self)
        self._narrowed = QSortFilterProxyModel(self)
        self._narrowed.setSourceModel(self.model)
        self._narrowed.setFilterCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        self._pictured = tuple(has_picture(column) for column in self.model.columns)
        self.search = configured(QLineEdit(), placeholderText="Find a column")
        self.search.textChanged.connect(self._narrowed.setFilterFixedString)
        self.view = configured(QListView(), mouseTracking=True)
        self.view.setModel(self._narrowed)
        self.view.setAccessibleName("Columns")
        self.view.setItemDelegate(_Painter(hub, self.model, self.view))
        self.view.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.view.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        selection = self.view.selectionModel()
        assert selection is not None
        selection.currentChanged.connect(self._current)
        self.view.clicked.connect(lambda _: self.left.emit())
        self.view.activated.connect(lambda _: self.left.emit())
        self.search.returnPressed.connect(self._take_first)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 6, 2, 6)
        layout.addWidget(self.search)
        layout.addWidget(self.view)
        self.view.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.view.customContextMenuRequested.connect(self._ask_role)
        hub.analysed.connect(self._analysed)
        hub.barred.connect(self._repaint)
        hub.review_changed.connect(lambda: self.view.viewport().update())  # type: ignore[union-attr]
        hub.focus_changed.connect(self._follow)
        hub.veiled_changed.connect(self.view.viewport().update)  # type: ignore[union-attr]
        hub.columns_changed.connect(self._renew)
        hub.data_changed.connect(self._lay_out_again)

    def _renew(self) -> None:
        # The list forgets its current line when it is made anew, which is no choice of a column.
        selection = self.view.selectionModel()
        assert selection is not None
        selection.blockSignals(True)
        self.model.reload()
        self.counted.emit(self.model.open_questions)
        if self.hub.focus is not None and self.hub.focus in self.hub.study.table:
            self._follow(self.hub.focus)
        selection.blockSignals(False)

    def _lay_out_again(self) -> None:
        """A column that got numbers, or lost them, needs another height."""
        pictured = tuple(has_picture(column) for column in self.model.columns)
        if pictured != self._pictured:
            self._pictured = pictured
            self.view.scheduleDelayedItemsLayout()

    def _analysed(self, name: str) -> None:
        self.model.refresh(name)
        self._repaint(name)
        self.counted.emit(self.model.open_questions)

    def _repaint(self, name: str) -> None:
        # Told to the view as a change of data, this would lay out all columns anew.
        self.view.update(self._narrowed.mapFromSource(self.model.index(self.model.position(name))))

    def _current(self, index: QModelIndex) -> None:
        if index.isValid():
            self.chosen.emit(index.data())

    def _take_first(self) -> None:
        """Take the column in focus if it is listed, else the first that the search has left."""
        if not self.view.currentIndex().isValid():
            self.step(1)
        self.left.emit()

    def _follow(self, name: str) -> None:
        index = self._narrowed.mapFromSource(self.model.index(self.model.position(name)))
        if index.isValid() and index != self.view.currentIndex():
            self.view.setCurrentIndex(index)

    def _ask_role(self, position: QPoint) -> None:
        """Offer the roles for the column under the pointer."""
        index = self.view.indexAt(position)
        if index.isValid():
            self.role_menu(index.data()).exec(self.view.mapToGlobal(position))

    def role_menu(self, name: str) -> QMenu:
        """The roles that ``name`` can be given."""
        menu = QMenu(self)
        declared = self.hub.study.dictionary.of(name).role
        for role in (None, *Role):
            action = menu.addAction("as judged" if role is None else str(role))
            assert action is not None
            action.setCheckable(True)
            action.setChecked(role == declared)
            action.triggered.connect(
                lambda _, role=role: self.hub.edit_columns([name], lambda entry: replace(entry, role=role))
            )
        return menu

    def step(self, by: int) -> None:
        """Go to the next (or previous) column shown."""
        row = self.view.currentIndex().row() + by
        if 0 <= row < self._narrowed.rowCount():
            self.view.setCurrentIndex(self._narrowed.index(row, 0))
