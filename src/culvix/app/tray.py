"""The row tray: the full records behind the selection, and the decisions that can be made about them."""

import numpy as np
from PyQt6.QtCore import QItemSelection, QItemSelectionModel, QModelIndex, QStringListModel, Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QCompleter,
    QLineEdit,
    QPushButton,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from culvix.app.hub import Hub
from culvix.app.models import LEFT, RIGHT, CellPainter, HeadedTable
from culvix.app.parts import label, plain_tip, row_of, shortened
from culvix.app.renewal import RenewedPane
from culvix.charts.palette import LIGHT
from culvix.errors import CulvixError
from culvix.stats.arrays import Ints
from culvix.stats.display import count, number, plural
from culvix.study.decisions import Cause, DecisionKind, factor_words
from culvix.study.study import Study

__all__ = ["Tray"]

_NONE: Ints = np.zeros(0, dtype=np.int64)
_WIDTHS = {"row": 58, "flagged by": 84, "decision": 110, "cause": 98, "reason": 176}
_UNDECIDED = {**_WIDTHS, "decision": 72, "cause": 58, "reason": 66}
"""Widths of the columns about decisions, in pixels, and what is enough of them where there are none."""
_TRAY = "tray"
_SOON_SHOWN = 60
_SWAP = "swap "
_FACTORS = ("×10", "÷10", "×100", "÷100", "×1000", "÷1000", "×25.4", "×2.54")


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
        return [(mark.shape, set(np.intersect1d(study.marked(mark), self.rows).tolist())) for mark in study.marks]

    def put(self, rows: Ints) -> None:
        self.beginResetModel()
        self.rows = rows
        self.hub.study.table.remember(rows[:_SOON_SHOWN])
        self._order()
        self.endResetModel()

    def touch(self) -> None:
        """Draw all cells anew."""
        if self.rows.size:
            self.dataChanged.emit(self.index(0, 0), self.index(self.rows.size - 1, len(self.heads) - 1))

    def row_count(self) -> int:
        return int(self.rows.size)

    def is_number(self, place: int) -> bool:
        """Whether a column of the list has numbers: they stand at the right, and its head over them."""
        head, table = self.heads[place], self.hub.study.table
        return place == 0 or (head in table and table[head].is_numeric)

    def _side(self, place: int) -> int:
        return RIGHT if self.is_number(place) else LEFT

    def headerData(self, place: int, along: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.TextAlignmentRole and along == Qt.Orientation.Horizontal:
            return self._side(place)
        return super().headerData(place, along, role)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        row, head = int(self.rows[index.row()]), self.heads[index.column()]
        if role == Qt.ItemDataRole.DisplayRole:
            return self._text(row, head)
        if role == Qt.ItemDataRole.ToolTipRole:
            return plain_tip(self._text(row, head))
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return self._side(index.column())
        if role == Qt.ItemDataRole.ForegroundRole and head == self.hub.focus:
            return QColor(LIGHT.ink)
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
        return {"decision": decision.words, "cause": str(decision.cause), "reason": decision.reason}[head]


def _cell(study: Study, name: str, row: int) -> str:
    """A cell as read, with what a decision made of it."""
    text = study.table[name].cell(row)
    corrected = study.working.corrected(name).value(row) if study.working.decides_on(name) else None
    return text if corrected is None else f"{text} → {number(corrected, 3).rstrip('0').rstrip('.')}"


class Tray(RenewedPane):
    """Lists the selected rows (or, with none selected, the flagged ones) and decides on the selection."""

    patience = 15

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.model = _Records(hub, self)
        self.title = label("Rows", "head")
        self.about = label("", "quiet")
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setItemDelegate(CellPainter(self.model, self.table))
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.table.setShowGrid(False)
        self.table.verticalHeader().hide()  # type: ignore[union-attr]
        self.table.verticalHeader().setDefaultSectionSize(20)  # type: ignore[union-attr]
        self.table.horizontalHeader().setHighlightSections(False)  # type: ignore[union-attr]
        self.table.horizontalHeader().setTextElideMode(Qt.TextElideMode.ElideRight)  # type: ignore[union-attr]
        self.table.selectionModel().selectionChanged.connect(self._chosen)  # type: ignore[union-attr]
        self._following = False
        self._at: str | None = None
        self._fitted: tuple[bool, list[str]] | None = None
        self._build_bar()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 5, 10, 5)
        layout.setSpacing(3)
        layout.addLayout(row_of(self.title, self.about, 1, *self.bar))
        layout.addWidget(self.table)
        hub.selection_changed.connect(self.follow)
        hub.marks_changed.connect(lambda: self.model.put(self.model.rows))
        hub.columns_changed.connect(lambda: self.model.put(self.model.rows))
        hub.focus_changed.connect(self._turned)
        hub.analysed.connect(lambda name: self.want_renewal() if name == hub.focus else None)
        hub.decisions_changed.connect(self._decided)
        self.follow()

    def _build_bar(self) -> None:
        self.cause = QComboBox()
        self.cause.addItems([f"cause {cause}" if cause is Cause.UNKNOWN else str(cause) for cause in Cause])
        self.reason = QLineEdit(placeholderText="reason")
        self.reason.setMinimumWidth(120)
        self.buttons = {
            DecisionKind.KEEP: QPushButton("Keep"),
            DecisionKind.EXCLUDE_VALUE: QPushButton("Exclude value"),
            DecisionKind.EXCLUDE_ROW: QPushButton("Exclude row"),
            DecisionKind.MISSING: QPushButton("Missing"),
            DecisionKind.CORRECT: QPushButton("Correct to"),
        }
        keys = ("K", "E", "Shift+E", "M", "C")
        for (kind, button), key in zip(self.buttons.items(), keys, strict=True):
            button.setToolTip(f"{str(kind).capitalize()} for the selected rows ({key})")
            button.clicked.connect(lambda _, kind=kind: self.decide(kind))
        self.correction = QLineEdit(placeholderText="×10, value …")
        self.correction.setFixedWidth(96)
        self.correction.setToolTip("A value, a factor (×10, ÷1000, ×25.4), or “swap with” a column")
        self.correction.returnPressed.connect(lambda: self.decide(DecisionKind.CORRECT))
        self._offers = QStringListModel(self)
        offered = QCompleter(self._offers, self)
        offered.setCaseSensitivity(Qt.CaseSensitivity.CaseInsensitive)
        offered.setFilterMode(Qt.MatchFlag.MatchContains)
        self.correction.setCompleter(offered)
        self.bar: list[QWidget] = [self.cause, self.reason, *self.buttons.values(), self.correction]

    def follow(self) -> None:
        """List what is selected; a selection made in the tray itself leaves its list as it is."""
        selection = self.hub.study.selection
        if selection.origin == _TRAY and np.isin(selection.rows, self.model.rows).all():
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
        origin = self.hub.study.selection.origin
        if not selected.size:
            self.title.setText("Flagged rows" if listed else "Rows")
            words = (
                f"{count(int(listed))} on {shortened(focus or '', 24)}; select some to decide"
                if listed
                else "nothing selected"
            )
            self.about.setText(words)
        else:
            self.title.setText(plural(int(selected.size), "row") + " selected")
            words = "" if origin in ("", _TRAY) else f"{shortened(origin, 34)} · "
            self.about.setText(f"{words}deciding on {shortened(focus or '', 24)}")
        for widget in self.bar:
            widget.setEnabled(bool(selected.size) and focus is not None)

    def _mark(self, rows: Ints) -> None:
        self._following = True
        chosen = QItemSelection()
        if rows.size and rows.size <= 2000 and self.model.rows.size:
            for place in np.flatnonzero(np.isin(self.model.rows, rows)).tolist():
                last = self.model.columnCount() - 1
                chosen.select(self.model.index(place, 0), self.model.index(place, last))
        marking = self.table.selectionModel()
        assert marking is not None
        marking.select(chosen, QItemSelectionModel.SelectionFlag.ClearAndSelect)
        self._following = False

    def _chosen(self) -> None:
        if self._following:
            return
        marking = self.table.selectionModel()
        assert marking is not None
        rows = self.model.rows[[index.row() for index in marking.selectedRows()]]
        self.hub.study.select(rows, _TRAY)

    def _turned(self) -> None:
        """Another column stands first in the list, selection or not."""
        self._at = None
        others = [column.name for column in self.hub.study.table.numeric if column.name != self.hub.focus]
        self._offers.setStringList([*_FACTORS, *(f"{_SWAP}with {name}" for name in others[:200])])
        self.want_renewal()

    def renew(self) -> None:
        if self.hub.study.selection and self._at == self.hub.focus:
            self.model.touch()
        else:
            self.follow()

    def _decided(self) -> None:
        self.model.touch()
        self._fit_columns()

    def _fit_columns(self) -> None:
        head, focus = self.table.horizontalHeader(), self.hub.focus
        assert head is not None
        working = self.hub.study.working
        rows = self.model.rows[:_SOON_SHOWN].tolist()
        decided = focus is not None and any(working.decision_on(focus, row) is not None for row in rows)
        if self._fitted == (decided, self.model.heads):
            return
        self._fitted = decided, self.model.heads
        for place, name in enumerate(self.model.heads[:60]):
            wide = (_WIDTHS if decided else _UNDECIDED).get(name)
            least = 64 if self.model.is_number(place) else 82
            head.resizeSection(place, wide or min(max(least, 8 * len(name) + 18), 150))

    def decide(self, kind: DecisionKind) -> None:
        """Decide on the selected rows of the column in focus, with the cause and reason given in the bar."""
        study, focus = self.hub.study, self.hub.focus
        if focus is None or not study.selection:
            self.problem.emit("Select one or more values first; then decide about them.")
            return
        cause = list(Cause)[self.cause.currentIndex()]
        try:
            how = self._corrected() if kind is DecisionKind.CORRECT else {}
            study.decide(kind, focus, study.selection.rows, cause=cause, reason=self.reason.text(), **how)
        except CulvixError as error:
            self.problem.emit(error.sentence)
            return
        self.reason.clear()
        self.correction.clear()
        self.cause.setCurrentIndex(0)

    def _corrected(self) -> dict[str, object]:
        """The typed correction as a value, a factor or a swap. Raises CulvixError where it is none of them."""
        typed = self.correction.text().strip().replace("\u202f", "").replace("\u2212", "-")
        if typed.startswith(_SWAP):
            other = typed.removeprefix(_SWAP).removeprefix("with ").strip()
            if other not in self.hub.study.table:
                raise CulvixError(f"There is no column “{other}” to swap with.")
            return {"swapped": other}
        sign, rest = typed[:1], typed[1:]
        try:
            if sign in ("×", "*", "x"):
                return {"factor": float(rest)}
            if sign in ("÷", "/"):
                return {"factor": 1 / float(rest)}
            return {"value": float(typed)}
        except (ValueError, ZeroDivisionError):
            example = factor_words(10.0)
            raise CulvixError(f"Type the correct value, or a factor such as {example}, beside “Correct to”.") from None
