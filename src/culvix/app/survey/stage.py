"""The Survey stage: every column in one line, sorted and narrowed at will, with the quality of the table above."""

from PyQt6.QtCore import (
    QItemSelection,
    QItemSelectionModel,
    QMimeData,
    QModelIndex,
    QSettings,
    Qt,
    QTimer,
    pyqtSignal,
)
from PyQt6.QtGui import QGuiApplication, QKeySequence, QShortcut, QShowEvent
from PyQt6.QtWidgets import QLineEdit, QPushButton, QSizePolicy, QSplitter, QVBoxLayout, QWidget

from culvix.app.lanes.compare_pane import ComparePane
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import hidden
from culvix.app.survey.lines import SPARKLINE, SparklinePainter, SurveyLines
from culvix.app.survey.order_choice import OrderChoice
from culvix.app.survey.statistics_pane import StatisticsPane
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.lists.frozen_table import FrozenTable
from culvix.app.widgets.lists.models import CellPainter
from culvix.app.widgets.parts import by_font, label, panel
from culvix.stats.display import plural
from culvix.study.analysis.findings.findings import FINDING_NAMES
from culvix.study.analysis.survey.survey import SurveyRow, as_html, as_text, survey_fields, survey_rows
from culvix.tables.model.table import Role
from culvix.visible_text import visible

__all__ = ["SurveyStage"]

_LINES_MEASURED, _ROOM, _MARK = 60, 14, 26
"""Lines measured for the widths of columns, and pixels beside the words of a cell and of a head."""
_LONGEST_NAME = 170
_ENOUGH = 60
_ALL = "all columns"
_OPEN = "with open findings"
_ABOUT = "open: {}"


class SurveyStage(QWidget):
    """Columns as lines of statistics; Enter or a double click opens one in Shape."""

    problem = pyqtSignal(str)
    opened = pyqtSignal(str)
    """A column is to be opened in the Shape stage."""
    export_requested = pyqtSignal()

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.lines = SurveyLines(hub, self)
        self._build_view()
        self._build_tools()
        self._lay_out()
        self._unfitted = True
        self._refresh_due = False
        self._chosen_before: list[str] = []
        self._delay = configured(QTimer(self), interval=120, singleShot=True)
        self._delay.timeout.connect(self._gather)
        self._connect()
        self.refresh()
        self._widths()

    def _build_view(self) -> None:
        self.view = configured(
            FrozenTable(SPARKLINE + 1),
            cornerButtonEnabled=False,
            showGrid=False,
            sortingEnabled=True,
            tabKeyNavigation=False,
        )
        self.view.setModel(self.lines)
        self.view.setAccessibleName("Columns and their statistics")
        self.view.setItemDelegate(CellPainter(self.lines, self.view))
        self.view.freeze_delegate(None, CellPainter(self.lines, self.view.over, Qt.TextElideMode.ElideMiddle))
        self.view.freeze_delegate(SPARKLINE, SparklinePainter(self.lines, self.view.over))
        self.view.heads.setSortIndicatorClearable(True)
        self.view.heads.setSortIndicator(-1, Qt.SortOrder.DescendingOrder)
        self.view.set_row_height(by_font(30))

    def _lay_out(self) -> None:
        frame, inside = panel()
        tools = (self.search, self.narrow, self.order, self.statistics, self.compare, self.copy, self.export)
        inside.addLayout(flow_of(label("Columns", "title"), self.shown, 0, *tools))  # type: ignore[attr-defined]
        beside = QSplitter(Qt.Orientation.Horizontal)
        beside.setChildrenCollapsible(False)
        beside.addWidget(self.view)
        beside.addWidget(self.chooser)
        beside.setStretchFactor(0, 1)
        beside.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        inside.addWidget(beside)
        self.comparison = ComparePane(self.hub)
        self.comparison.hide()
        split = QSplitter(Qt.Orientation.Vertical)
        split.setHandleWidth(6)
        split.addWidget(frame)
        split.addWidget(self.comparison)
        split.setSizes([300, 280])
        split.setCollapsible(0, False)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)

    def _connect(self) -> None:
        QShortcut(QKeySequence("Ctrl+Shift+C"), self, self.copy_lines)
        # By a double click or Enter.
        self.view.activated.connect(lambda _: self._open())
        chosen, bar = self.view.selectionModel(), self.view.verticalScrollBar()
        assert chosen is not None and bar is not None
        chosen.currentRowChanged.connect(lambda now, _: self._open_column(now))
        # What is scrolled past is not worked out.
        bar.valueChanged.connect(lambda _: self._delay.start())
        self.lines.dataChanged.connect(lambda first, last: self._widen(self._in_view(first.row(), last.row()), 2))
        self.lines.reordered.connect(self._reordered)
        self.lines.modelAboutToBeReset.connect(self._note_chosen)
        self.lines.modelReset.connect(self._choose_again)
        self.order.ordered.connect(self.lines.order_by)
        self.chooser.chosen.connect(self._choose)
        self.chooser.closed.connect(lambda: self.statistics.setChecked(False))
        self.statistics.toggled.connect(self.chooser.setVisible)
        self.hub.analysed.connect(lambda _: self._schedule_gathering())
        for signal in (self.hub.data_changed, self.hub.review_changed, self.hub.settings_changed):
            signal.connect(self.refresh)

    def _schedule_gathering(self) -> None:
        if not self._delay.isActive():
            self._delay.start()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._follow()
        if self._refresh_due:
            self._schedule_gathering()

    def _build_tools(self) -> None:
        self.search = configured(QLineEdit(), placeholderText="Find a column")
        self.search.setMaximumWidth(by_font(170))
        self.search.textChanged.connect(self.refresh)
        self.narrow = Choice()
        self.narrow.addItems([_ALL, *(f"{role} columns" for role in Role)])
        self.narrow.addItems([_OPEN, *map(_ABOUT.format, FINDING_NAMES.values())])
        self.narrow.setMaximumWidth(by_font(170))
        self.narrow.currentTextChanged.connect(self.refresh)
        self.shown = label("", "quiet")
        self.order = OrderChoice()
        self.order.setMaximumWidth(by_font(170))
        self.order.offer(self.lines.fields, self.lines.order)
        self.statistics = configured(QPushButton("Statistics"), checkable=True)
        self.statistics.setToolTip("Choose the statistics of each line, beside the lines")
        self.chooser = StatisticsPane(self.hub, self.lines.fields)
        self.chooser.hide()
        self.compare = QPushButton("Compare")
        self.compare.setToolTip("Put the columns selected, or all measures, on one axis")
        self.compare.clicked.connect(lambda: self.comparison.compare(self.chosen))
        self.copy = QPushButton("Copy")
        self.copy.setToolTip("Copy the lines shown in full precision, for any spreadsheet (Ctrl+Shift+C)")
        self.copy.clicked.connect(self.copy_lines)
        self.export = QPushButton("Save as table")
        self.export.setToolTip("Write the lines shown as CSV or spreadsheet")
        self.export.clicked.connect(self.export_requested)

    def _choose(self, fields: list[str]) -> None:
        self.lines.choose(fields)
        self._widths()
        self._show_order()

    def _show_order(self) -> None:
        """Mark the head by which the lines are sorted, and name the order where it is chosen."""
        order = self.lines.order
        self.order.offer(self.lines.fields, order)
        falling = order.descending or order.by_size
        self.view.heads.blockSignals(True)
        for heads in (self.view.heads, self.view.frozen_heads):
            heads.setSortIndicator(
                self.lines.position_of(order),
                Qt.SortOrder.DescendingOrder if falling else Qt.SortOrder.AscendingOrder,
            )
        self.view.heads.blockSignals(False)

    def _reordered(self) -> None:
        self._show_order()
        self.refresh()

    def _widths(self) -> None:
        """As wide as the widest of what stands in it, and as its head with the mark of the order."""
        bold = self.view.heads.fontMetrics()
        for position, head in enumerate(self.lines.heads):
            self.view.setColumnWidth(position, bold.horizontalAdvance(head) + _MARK)
        self._widen(range(min(self.lines.row_count(), _LINES_MEASURED)))
        self.view.setColumnWidth(0, min(self.view.columnWidth(0), by_font(_LONGEST_NAME)))
        self.view.setColumnWidth(SPARKLINE, by_font(110))

    def _widen(self, rows: range, first: int = 0) -> None:
        """Give the columns from ``first`` on room for what stands in ``rows``: a number is never shortened."""
        plain = self.view.fontMetrics()
        for position in range(first, len(self.lines.heads)):
            texts = {str(self.lines.index(row, position).data() or "") for row in rows}
            widest = max(map(plain.horizontalAdvance, texts), default=0) + _ROOM
            if widest > self.view.columnWidth(position):
                self.view.setColumnWidth(position, widest)

    @property
    def chosen(self) -> list[str]:
        """Names of the columns whose lines are selected."""
        model = self.view.selectionModel()
        assert model is not None
        return [self.lines.rows[index.row()].column.name for index in model.selectedRows()]

    @property
    def fields(self) -> list[str]:
        """The statistics in the order in which they are shown."""
        return list(self.lines.fields)

    def _requested(self, row: SurveyRow) -> bool:
        chosen, text = self.narrow.currentText(), self.search.text().lower()
        if text not in f"{row.column.name} {row.column.label or ''}".lower():
            return False
        if chosen == _OPEN:
            return row.open_findings > 0
        requested = (_ALL, f"{row.column.role} columns", *map(_ABOUT.format, row.findings))
        return chosen in requested

    def refresh(self) -> None:
        """Fill the lines anew from what is known, once they can be seen."""
        self._refresh_due = hidden(self)
        if self._refresh_due:
            return
        rows = [row for row in survey_rows(self.hub.study.workspace) if self._requested(row)]
        self.lines.put(rows)
        every = len(self.hub.study.table.columns)
        self.shown.setText(
            plural(every, "column") if len(rows) == every else f"{len(rows)} of {plural(every, 'column')}"
        )

    def _gather(self) -> None:
        """Show what has arrived meanwhile; many columns arriving at once are shown together."""
        self.refresh()
        if self._refresh_due:
            return
        self._request_visible()
        self._widen(self._in_view(), 2)
        known = sum(row.analysis is not None for row in self.lines.rows)
        numeric = sum(row.column.is_numeric for row in self.lines.rows)
        if self._unfitted and known >= min(numeric, _ENOUGH):
            self._unfitted = False
            self._widths()

    def _in_view(self, first: int = 0, last: int | None = None) -> range:
        """The lines from ``first`` to ``last`` that can be seen."""
        top, bottom = self.view.rowAt(0), self.view.rowAt(self.view.height())
        last = self.lines.row_count() - 1 if last is None else last
        return range(max(first, top, 0), min(last, bottom if bottom >= 0 else last) + 1)

    def _request_visible(self) -> None:
        """Of very many columns only those in view are worked out."""
        for row in [self.lines.rows[line] for line in self._in_view()][:_ENOUGH]:
            if row.column.is_numeric and row.analysis is None:
                self.hub.request_analysis(row.column.name, urgent=False)

    def finish(self) -> None:
        """Fill in no more lines."""
        self._delay.stop()

    @property
    def waiting(self) -> bool:
        """Whether lines are still to be filled in."""
        return self._delay.isActive()

    def _open(self) -> None:
        index = self.view.currentIndex()
        if index.isValid():
            self.opened.emit(self.lines.rows[index.row()].column.name)

    def _follow(self) -> None:
        """Make the line of the column in focus current: given the keyboard, the table would take its first line."""
        chosen = self.view.selectionModel()
        names = [row.column.name for row in self.lines.rows]
        if chosen is not None and self.hub.focus in names:
            chosen.blockSignals(True)
            self.view.setCurrentIndex(self.lines.index(names.index(self.hub.focus), 0))
            chosen.blockSignals(False)

    def _note_chosen(self) -> None:
        self._chosen_before = self.chosen

    def _choose_again(self) -> None:
        """Select the lines of the columns that were selected, wherever they stand now."""
        names = self._chosen_before
        if not names:
            return
        chosen = self.view.selectionModel()
        assert chosen is not None
        lines = QItemSelection()
        for position, row in enumerate(self.lines.rows):
            if row.column.name in names:
                lines.select(self.lines.index(position, 0), self.lines.index(position, 0))
        chosen.blockSignals(True)
        self._follow()
        chosen.select(lines, QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows)
        chosen.blockSignals(False)
        self.view.repaint_rows()

    def _open_column(self, index: QModelIndex) -> None:
        """The margin shows the ends of the column whose line is current."""
        if index.isValid():
            self.hub.set_focus(self.lines.rows[index.row()].column.name)

    def copy_lines(self) -> None:
        """Put the lines shown on the clipboard as text between tabs and as an HTML table at once."""
        both = QMimeData()
        both.setText(visible(as_text(self.lines.rows, self.fields)))
        both.setHtml(visible(as_html(self.lines.rows, self.fields)))
        clipboard = QGuiApplication.clipboard()
        if clipboard is not None:
            clipboard.setMimeData(both)
        self.hub.message.emit(f"{plural(len(self.lines.rows), 'line')} copied in full precision.")

    def remember(self, settings: QSettings) -> None:
        """Write the chosen statistics and their order down."""
        settings.setValue("survey/statistics", self.fields)
        self.chooser.remember(settings)

    def recall(self, settings: QSettings) -> None:
        """Take up the statistics written down last."""
        known = [key for key in settings.value("survey/statistics", [], list) or [] if key in survey_fields()]
        if known:
            self._choose(known)
        self.chooser.recall(settings)
        self.chooser.show_fields(self.fields)
