"""The agreement list: every flagged value, which methods flag it and by how far, walked with the keys."""

import numpy as np
from PyQt6.QtCore import QItemSelectionModel, Qt, pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QPushButton, QTableView, QVBoxLayout

from culvix.app.outliers.agreement_model import (
    AGREE,
    COLUMN,
    FAR,
    GROUP,
    HEADS,
    LABEL,
    NARROWS,
    ROW,
    VALUE,
    FlaggedLines,
    ListView,
    listed,
)
from culvix.app.session.configured import configured
from culvix.app.session.data_keys import mark_as_data
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.session.origins import LIST_ORIGIN
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.lists.models import CellPainter
from culvix.app.widgets.parts import by_font, label
from culvix.progress import Progress
from culvix.stats.core.arrays import Bools, Ints
from culvix.stats.display import count, plural
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.outliers.agreement import FlaggedValues, JointDistances
from culvix.study.analysis.outliers.flags import Flags
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.document.choices.selection import Selection
from culvix.tables.model.table import Role

__all__ = ["AgreementList"]

_ALL = "all lines of the agreement list"
_MEASURED = 20
"""Lines from above whose numbers are measured for the width of their columns, besides the largest and smallest."""
_SCOPES = ("this column", "all columns")
_ONE_LINE = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Rows


class AgreementList(LazyPane):
    """Flagged values of the column in focus or of all; the line walked to is the selection everywhere."""

    patience = 0

    counted = pyqtSignal(int, int)
    """How many of the flagged values of the column in focus are decided, and how many there are."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.model = FlaggedLines(hub, self)
        self.model.sort_requested = self.request_refresh
        self._following = False
        self._shown: tuple[WorkingSet, Flags] | None = None
        self.distances: JointDistances | None = None
        """Columns looked at together and the distances of their rows, which join the list of all columns."""
        self._build_tools()
        self._build_view()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 5, 10, 5)
        layout.setSpacing(3)
        tools = (self.scope, self.narrow, label("by at least", "quiet"), self.least, self.all_of_them)
        layout.addLayout(flow_of(self.title, self.about, 0, *tools))
        layout.addWidget(self.view)
        hub.focus_changed.connect(self.request_refresh)
        hub.previewed.connect(self.refresh_now)
        hub.analysed.connect(self._analysed)
        hub.data_changed.connect(self.request_refresh)
        hub.selection_changed.connect(self.follow)
        self.request_refresh()

    def _build_tools(self) -> None:
        self.title, self.about = label("Flagged values", "head"), label("", "quiet")
        self.scope, self.narrow = Choice(), Choice()
        self.scope.addItems(list(_SCOPES))
        self.narrow.addItems(list(NARROWS))
        self.least = Choice()
        self.least.addItems([plural(number, "method") for number in range(1, len(OUTLIER_METHODS) + 1)])
        self.all_of_them = QPushButton("Select all")
        self.all_of_them.setToolTip("Select the values of all lines, to decide about them at once")
        self.all_of_them.clicked.connect(self.select_all)
        for box in (self.scope, self.narrow, self.least):
            box.activated.connect(self.request_refresh)

    def _build_view(self) -> None:
        self.view = configured(
            QTableView(), cornerButtonEnabled=False, showGrid=False, sortingEnabled=True, tabKeyNavigation=False
        )
        mark_as_data(self.view)
        self.view.setModel(self.model)
        self.view.setAccessibleName("Flagged values")
        self.view.setItemDelegate(CellPainter(self.model, self.view))
        self.view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.view.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        rows, heads = self.view.verticalHeader(), self.view.horizontalHeader()
        assert rows is not None and heads is not None
        rows.hide()
        rows.setDefaultSectionSize(by_font(20))
        heads.setHighlightSections(False)
        heads.setSortIndicatorClearable(True)
        heads.setSortIndicator(-1, Qt.SortOrder.DescendingOrder)
        chosen = self.view.selectionModel()
        assert chosen is not None
        chosen.selectionChanged.connect(lambda *_: self._chosen())

    @property
    def everywhere(self) -> bool:
        return self.scope.currentIndex() == 1

    def _analysed(self, name: str) -> None:
        if self.everywhere or name == self.hub.focus:
            self.request_refresh()

    def _looks(self) -> list[ColumnPreview]:
        """What is known of the columns that are listed; those of all columns that are not known yet are asked for."""
        study, focus = self.hub.study, self.hub.preview
        if not self.everywhere:
            return [] if focus is None else [focus]
        looks: list[ColumnPreview] = []
        for column in study.table.numeric:
            if column.role in (Role.MEASURE, Role.COUNT, Role.ORDERED):
                known = study.workspace.known_analysis(column.name)
                if known is None:
                    self.hub.request_analysis(column.name, urgent=False)
                else:
                    looks.append(known)
        return looks

    def refresh(self) -> None:
        """List the flagged values as things stand; they are put in order in the background."""
        looks, working = self._looks(), self.hub.study.working
        by, falling = self.model.sorted_by
        view = ListView(self.everywhere, self.narrow.currentText(), self.least.currentIndex() + 1, by, falling)
        distances = self.distances

        def work(progress: Progress) -> tuple[FlaggedValues, int]:
            progress(0.0, "listing what is flagged")
            return listed(looks, working, view, distances)

        def arrived(found: tuple[FlaggedValues, int]) -> None:
            if self.hub.study.working is working:
                self._show(*found, looks)

        self.hub.start("agreement list", work, arrived, priority=11, quiet=True)

    def _show(self, lines: FlaggedValues, every: int, looks: list[ColumnPreview]) -> None:
        self._following = True
        self._shown = (self.hub.study.working, looks[0].flags) if len(looks) == 1 else None
        self.hub.study.table.remember(lines.rows[:60])
        self.model.put(lines, looks)
        self._fit()
        self._following = False
        shown = count(len(lines)) if len(lines) == every else f"{count(len(lines))} of {count(every)}"
        found = f"{shown} in {count(np.unique(lines.positions).size)} of {plural(len(looks), 'column')}"
        current = self.hub.study.document.pass_number
        basis = f"as of pass {current}" if current > 1 else "as read"
        self.about.setText(f"{found if self.everywhere else shown} · {basis}")
        self.all_of_them.setEnabled(len(lines) > 0)
        self.follow()

    def shows(self, working: WorkingSet, preview: ColumnPreview) -> bool:
        """Whether the flagged values of ``preview`` are listed, with the decisions of ``working``."""
        return self._shown is not None and self._shown[0] is working and self._shown[1] is preview.flags

    def _fit(self) -> None:
        heads, methods = self.view.horizontalHeader(), len(self.model.lines.methods)
        assert heads is not None
        wide = {ROW: 58, LABEL: 82, COLUMN: 112, GROUP: 92, VALUE: 82, FAR: 92, AGREE: 72}
        room, found = self.fontMetrics(), self.model.lines
        for position, figures in ((VALUE, found.values), (FAR, found.deviations)):
            lines = {*range(min(len(found), _MEASURED))}
            if len(found):
                known = np.nan_to_num(figures)
                lines |= {int(np.argmin(known)), int(np.argmax(known))}
            texts = (self.model.index(line, position).data() for line in lines)
            widest = max((room.horizontalAdvance(text) for text in texts), default=0)
            wide[position] = min(max(wide[position], widest + 16), 190)
        for position, name in enumerate(self.model.heads):
            at = position - len(HEADS) - methods
            other = room.horizontalAdvance(name) + 22 if at < 0 else (116, 92, 190, 40)[at]
            heads.resizeSection(position, by_font(wide.get(position, other)))
        self.view.setColumnHidden(COLUMN, not self.everywhere)
        self.view.setColumnHidden(GROUP, not any(self.model.lines.groups))
        self.view.setColumnHidden(LABEL, self.hub.study.table.label_column is None)

    def _chosen(self) -> None:
        """The lines chosen here are the selection everywhere, and decide which column is in focus."""
        chosen = self.view.selectionModel()
        if self._following or chosen is None:
            return
        picked = np.array(sorted(index.row() for index in chosen.selectedRows()), dtype=np.int64)
        if not picked.size:
            return
        self._select(picked, LIST_ORIGIN, self.view.currentIndex().row())

    def _select(self, picked: Ints, origin: str, current: int) -> None:
        """Select the cells of the lines ``picked``, and turn to the column of the ``current`` one, or of the first.

        Lines over several columns are rows: they are selected where no value is.
        """
        lines, table = self.model.lines, self.hub.study.table
        positions, rows = lines.positions[picked], lines.rows[picked]
        cells = {c: rows[positions == position] for position, c in enumerate(lines.columns) if c in table}
        cells = {column: chosen for column, chosen in cells.items() if chosen.size}
        if not cells:
            self.hub.study.select(lines.rows[picked], origin)
            return
        here = lines.column(current) if current in picked else ""
        if self.hub.focus not in cells or here in cells:
            self.hub.set_focus(here if here in cells else next(iter(cells)))
        self.hub.study.select_these(Selection.of_cells(cells, origin))

    def follow(self) -> None:
        """Make the line of a row selected elsewhere the current one."""
        selection, chosen = self.hub.study.selection, self.view.selectionModel()
        if chosen is None or (selection.origin == LIST_ORIGIN and chosen.hasSelection()):
            return
        self._following = True
        lines = self._lines_of(selection)
        chosen.clearSelection()
        if lines.size == 1:
            at = self.model.index(int(lines[0]), 0)
            chosen.setCurrentIndex(at, _ONE_LINE)
            self.view.scrollTo(at)
        self._following = False

    def _lines_of(self, selection: Selection) -> Ints:
        """Lines of what is selected in one column, or of rows in the column in focus; none for many of them."""
        found, rows = self.model.lines, selection.rows
        column = self.hub.focus if not selection.cells else selection.columns[0]
        if not 0 < rows.size <= 3 or len(selection.cells) > 1 or column not in found.columns:
            return np.zeros(0, dtype=np.int64)
        return np.flatnonzero(np.isin(found.rows, rows) & (found.positions == found.columns.index(column)))

    def select_all(self) -> None:
        """Select the values of every line."""
        if len(self.model.lines):
            self._select(np.arange(len(self.model.lines)), _ALL, -1)

    def step(self, by: int) -> None:
        """Walk to the next (or previous) line that is not decided; round the end."""
        open_lines = np.flatnonzero(~self._decided_now())
        if not open_lines.size:
            self.hub.message.emit("Every value listed here is decided.")
            return
        here = self.view.currentIndex().row()
        beyond = open_lines[open_lines > here] if by > 0 else open_lines[open_lines < here][::-1]
        to = int(beyond[0]) if beyond.size else int(open_lines[0 if by > 0 else -1])
        chosen = self.view.selectionModel()
        assert chosen is not None
        # Not by the view: it would extend the selection where Shift is held.
        chosen.setCurrentIndex(self.model.index(to, 0), _ONE_LINE)
        self.view.scrollTo(self.model.index(to, 0))

    def _decided_now(self) -> Bools:
        """Which lines are decided as things stand; the list itself follows a moment later."""
        lines, working = self.model.lines, self.hub.study.working
        decided = lines.decided.copy()
        for position, column in enumerate(lines.columns):
            if column in self.hub.study.table:
                own = lines.positions == position
                decided[own] = np.isin(lines.rows[own], working.decided(column))
        return decided
