"""The row tray: the full records behind the selection, and the decisions that can be made about them."""

import numpy as np
from PyQt6.QtCore import QItemSelection, QItemSelectionModel, QModelIndex, Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QAbstractItemView, QTableView, QVBoxLayout, QWidget

from culvix.app.docks.decision_bar import DecisionBar
from culvix.app.session.configured import configured
from culvix.app.session.data_keys import mark_as_data
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.session.origins import LIST_ORIGIN, TRAY_ORIGIN
from culvix.app.widgets.lists.models import LEFT, RIGHT, CellPainter, HeadedTable
from culvix.app.widgets.parts import by_font, plain_tip, shortened
from culvix.charts.palette import SHADES
from culvix.stats.core.arrays import Ints
from culvix.stats.display import count, number
from culvix.study.study import Study

__all__ = ["Tray"]

_NONE: Ints = np.zeros(0, dtype=np.int64)
_WIDTHS = {"row": 58, "flagged by": 84, "decision": 110, "cause": 98, "reason": 176}
_UNDECIDED = {**_WIDTHS, "decision": 72, "cause": 58, "reason": 66}
"""Widths of the columns about decisions, in pixels, and what is enough of them where there are none."""
_ROWS_PREFETCHED = 60


class _Records(HeadedTable):
    """Records of some rows; the column in focus first, then what is flagged and decided about it, then the rest."""

    def __init__(self, hub: Hub, parent: QWidget) -> None:
        super().__init__(parent)
        self.hub = hub
        self.rows = _NONE
        self.heads: list[str] = []
        self._order()

    def _order(self) -> None:
        table, focus = self.hub.study.table, self.hub.focus
        names = [focus] if focus and focus in table else []
        if table.label_column is not None and table.label_column.name not in names:
            names.insert(0, table.label_column.name)
        self.leading = names
        self.others = [column.name for column in table if column.name not in names]
        self._marked = self._marks()
        marks = ["marks"] if self._marked else []
        self.heads = ["row", *marks, *names, "flagged by", "decision", "cause", "reason", *self.others]

    def _marks(self) -> list[tuple[str, set[int]]]:
        """The shape of each mark and the rows shown that it marks."""
        study = self.hub.study
        return [
            (mark.shape, set(np.intersect1d(study.workspace.marked(mark), self.rows).tolist()))
            for mark in study.document.marks
        ]

    def put(self, rows: Ints) -> None:
        self.beginResetModel()
        self.rows = rows
        self.hub.study.table.remember(rows[:_ROWS_PREFETCHED])
        self._order()
        self.endResetModel()

    def touch(self) -> None:
        """Draw all cells anew."""
        if self.rows.size:
            self.dataChanged.emit(self.index(0, 0), self.index(self.rows.size - 1, len(self.heads) - 1))

    def row_count(self) -> int:
        return int(self.rows.size)

    def is_number(self, position: int) -> bool:
        """Whether a column of the list has numbers: they stand at the right, and its head over them."""
        head, table = self.heads[position], self.hub.study.table
        return position == 0 or (head in table and table[head].is_numeric)

    def _side(self, position: int) -> int:
        return RIGHT if self.is_number(position) else LEFT

    def headerData(self, position: int, along: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.TextAlignmentRole and along == Qt.Orientation.Horizontal:
            return self._side(position)
        return super().headerData(position, along, role)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row, head = int(self.rows[index.row()]), self.heads[index.column()]
        if role == Qt.ItemDataRole.DisplayRole:
            return self._text(row, head)
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(self._text(row, head))
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return self._side(index.column())
        if role == Qt.ItemDataRole.ForegroundRole and head == self.hub.focus:
            return QColor(SHADES.ink)
        return None

    def _text(self, row: int, head: str) -> str:
        study = self.hub.study
        if head == "row":
            return count(study.table.number_of(row))
        if head == "marks" and self._marked:
            return "".join(shape for shape, rows in self._marked if row in rows)
        if head in ("flagged by", "decision", "cause", "reason") and head not in study.table:
            return self._judgement(row, head)
        return _cell(study, head, row)

    def _judgement(self, row: int, head: str) -> str:
        study, focus = self.hub.study, self.hub.focus
        if focus is None:
            return ""
        if head == "flagged by":
            analysis = self.hub.analysis
            if analysis is None:
                return ""
            agree = int(analysis.flags.agreement_on(np.array([row]))[0])
            return f"{agree} of {analysis.flags.able}" if agree else "none"
        decision = study.working.decision_on(focus, row)
        if decision is None:
            return ""
        return {"decision": decision.text, "cause": str(decision.cause), "reason": decision.reason}[head]


def _cell(study: Study, name: str, row: int) -> str:
    """A cell as read, with what a decision made of it."""
    text = study.table[name].cell(row)
    corrected = study.working.corrected(name).value(row) if study.working.decides_on(name) else None
    return text if corrected is None else f"{text} → {number(corrected, 3).rstrip('0').rstrip('.')}"


class Tray(LazyPane):
    """Lists the selected rows (or, with none selected, the flagged ones) under the bar that decides on them."""

    patience = 15

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.model = _Records(hub, self)
        self.bar = DecisionBar(hub)
        self.bar.problem.connect(self.problem)
        self.table = configured(QTableView(), tabKeyNavigation=False, showGrid=False)
        self.table.setModel(self.model)
        self.table.setAccessibleName("Rows of the selection")
        self.table.setItemDelegate(CellPainter(self.model, self.table))
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        mark_as_data(self.table)
        rows, heads = self.table.verticalHeader(), self.table.horizontalHeader()
        assert rows is not None and heads is not None
        rows.hide()
        rows.setDefaultSectionSize(by_font(20))
        heads.setHighlightSections(False)
        heads.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.table.selectionModel().selectionChanged.connect(self._chosen)  # type: ignore[union-attr]
        self._following = False
        self._at: str | None = None
        self._fitted: tuple[bool, list[str]] | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 5, 10, 5)
        layout.setSpacing(3)
        layout.addWidget(self.bar)
        layout.addWidget(self.table)
        hub.selection_changed.connect(self.follow)
        hub.marks_changed.connect(lambda: self.model.put(self.model.rows))
        hub.columns_changed.connect(self._columns_changed)
        hub.focus_changed.connect(self._focus_changed)
        hub.analysed.connect(lambda name: self.request_refresh() if name == hub.focus else None)
        hub.data_changed.connect(self._decided)
        self.follow()

    def follow(self) -> None:
        """List what is selected; a selection made in the tray itself leaves its list as it is."""
        selection = self.hub.study.selection
        if selection.origin == TRAY_ORIGIN and np.isin(selection.rows, self.model.rows).all():
            self._say(selection.rows)
            return
        self._at = self.hub.focus
        rows = selection.rows if selection else self._flagged()
        self.model.put(rows)
        self._fit_columns()
        self._mark(selection.rows)
        self._say(selection.rows)

    def _flagged(self) -> Ints:
        analysis = self.hub.analysis
        if analysis is None:
            return _NONE
        order = np.argsort(-analysis.flags.agreement, kind="stable")
        return np.asarray(analysis.flags.rows[order])

    def _say(self, selected: Ints) -> None:
        listed, focus = self.model.rows.size, self.hub.focus
        if selected.size:
            origin = self.hub.study.selection.origin
            message = "" if origin in ("", TRAY_ORIGIN, LIST_ORIGIN) else f": {shortened(origin, 40)}"
            self.bar.say(f"Selected{message}", "")
        elif listed:
            self.bar.say("Flagged rows", f"{count(int(listed))} on {shortened(focus or '', 24)}; select some to decide")
        else:
            self.bar.say("Rows", "nothing selected")

    def _mark(self, rows: Ints) -> None:
        self._following = True
        chosen = QItemSelection()
        if rows.size and rows.size <= 2000 and self.model.rows.size:
            last, positions = self.model.columnCount() - 1, np.flatnonzero(np.isin(self.model.rows, rows))
            # Lines below each other are one stretch: thousands of single ones would take long to select and to paint.
            for stretch in np.split(positions, np.flatnonzero(np.diff(positions) > 1) + 1):
                if stretch.size:
                    chosen.select(self.model.index(int(stretch[0]), 0), self.model.index(int(stretch[-1]), last))
        marking = self.table.selectionModel()
        assert marking is not None
        marking.select(chosen, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        self._following = False

    def _chosen(self) -> None:
        """Rows chosen here are values of the column in focus, which stands first; without one, whole rows."""
        if self._following:
            return
        marking = self.table.selectionModel()
        assert marking is not None
        rows = self.model.rows[[index.row() for index in marking.selectedRows()]]
        self.hub.study.select(rows, TRAY_ORIGIN, column=self.hub.focus)

    def _focus_changed(self) -> None:
        """Another column stands first in the list, selection or not."""
        self._at = None
        self.request_refresh()

    def refresh(self) -> None:
        if self.hub.study.selection and self._at == self.hub.focus:
            self.model.touch()
        else:
            self.follow()

    def _columns_changed(self) -> None:
        self.follow()
        self.model.put(self.model.rows)

    def _decided(self) -> None:
        self.model.touch()
        self._fit_columns()

    def _fit_columns(self) -> None:
        head, focus = self.table.horizontalHeader(), self.hub.focus
        assert head is not None
        working = self.hub.study.working
        rows = self.model.rows[:_ROWS_PREFETCHED].tolist()
        decided = focus is not None and any(working.decision_on(focus, row) is not None for row in rows)
        if self._fitted == (decided, self.model.heads):
            return
        self._fitted = decided, self.model.heads
        for position, name in enumerate(self.model.heads[:60]):
            wide = (_WIDTHS if decided else _UNDECIDED).get(name)
            least = 64 if self.model.is_number(position) else 82
            head.resizeSection(position, by_font(wide or min(max(least, 8 * len(name) + 18), 150)))
