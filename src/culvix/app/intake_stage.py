"""The Intake stage: how the file was read and why, its first rows, and what is said of the column in hand."""

from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QComboBox,
    QFormLayout,
    QLineEdit,
    QPushButton,
    QSpinBox,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from culvix.app.hub import Hub
from culvix.app.models import HeadedTable
from culvix.app.parts import clear_layout, label, panel, row_of
from culvix.charts.palette import LIGHT, colour
from culvix.errors import CulvixError
from culvix.stats.display import count, number, plural
from culvix.tables.dialect import Dialect
from culvix.tables.dictionary import ColumnEntry
from culvix.tables.lines import DELIMITERS
from culvix.tables.table import Column, Role
from culvix.tables.treatments import RULES

__all__ = ["IntakeMargin", "IntakeStage"]

_ROWS = 200
_COLUMNS = 300
_DECIMALS = {".": "decimal point", ",": "decimal comma"}


class _FirstRows(HeadedTable):
    """The first rows as the file has them, cell by cell."""

    def __init__(self, hub: Hub, parent: QWidget) -> None:
        super().__init__(parent)
        self.hub = hub
        self._unread: dict[str, set[int]] = {}
        self.refresh()

    def refresh(self) -> None:
        """Take the cells from the table as it is read now."""
        self.beginResetModel()
        table = self.hub.study.table
        self.heads = [column.name for column in table]
        self._unread = {c.name: set(c.unread_rows[c.unread_rows < _ROWS].tolist()) for c in table if c.unread}
        self.endResetModel()

    def row_count(self) -> int:
        return min(self.hub.study.table.rows, _ROWS)

    def column(self, place: int) -> Column:
        return self.hub.study.table.columns[place]

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        column, row = self.column(index.column()), index.row()
        if role == Qt.ItemDataRole.DisplayRole:
            return column.cell(row)
        if role == Qt.ItemDataRole.TextAlignmentRole:
            side = Qt.AlignmentFlag.AlignRight if column.is_numeric else Qt.AlignmentFlag.AlignLeft
            return int(side | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.ForegroundRole and row in self._unread.get(column.name, ()):
            return colour(LIGHT.flagged)
        if role == Qt.ItemDataRole.ToolTipRole and row in self._unread.get(column.name, ()):
            return "Not read as a number"
        return None

    def headerData(self, place: int, along: Qt.Orientation, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if along == Qt.Orientation.Vertical:
            return count(place + 1) if role == Qt.ItemDataRole.DisplayRole else None
        if role == Qt.ItemDataRole.ToolTipRole:
            column = self.column(place)
            return f"{column.role}: {column.reason}"
        return super().headerData(place, along, role)


class IntakeStage(QWidget):
    """The dialect with its reasons above the first rows; a change reads the file anew."""

    problem = pyqtSignal(str)
    reread_wanted = pyqtSignal(object, object)
    """Read the file again, by a dialect (or None) and from a part (or None)."""
    dictionary_wanted = pyqtSignal()
    save_wanted = pyqtSignal()

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.rows = _FirstRows(hub, self)
        self.view = QTableView(cornerButtonEnabled=False)
        self.view.setModel(self.rows)
        self.view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectColumns)
        self.view.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        names = self.view.verticalHeader()
        assert names is not None
        names.setDefaultSectionSize(22)
        chosen = self.view.selectionModel()
        assert chosen is not None
        chosen.currentColumnChanged.connect(lambda now, _: self._chosen(now))
        frame, inside = panel()
        source = hub.study.table.source
        self.load = QPushButton("Load dictionary")
        self.load.setToolTip("Take what is said of the columns from a datapackage.json")
        self.load.clicked.connect(self.dictionary_wanted)
        self.save = QPushButton("Save dictionary")
        self.save.setToolTip("Write what is said of the columns as a datapackage.json")
        self.save.clicked.connect(self.save_wanted)
        head = label("How the file was read", "title")
        inside.addLayout(row_of(head, label(source.kind, "quiet"), 1, self.load, self.save))  # type: ignore[attr-defined]
        self.why = label("", "quiet", wrap=True)
        if source.dialect is not None:
            inside.addLayout(self._dialect(source.dialect))  # type: ignore[attr-defined]
            said = (f"{part.replace('_', ' ')}: {why}" for part, why in source.dialect.reasons.items())
            self.why.setText("Because: " + "; ".join(said) + ".")
        elif len(source.parts) > 1:
            inside.addLayout(self._part(source.parts, source.part))  # type: ignore[attr-defined]
        inside.addWidget(self.why)
        inside.addWidget(self.view)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame)
        hub.decisions_changed.connect(self.rows.refresh)
        hub.focus_changed.connect(self._follow)
        room = self.view.fontMetrics()
        for place, name in enumerate(self.rows.heads[:_COLUMNS]):
            cells = (self.rows.column(place).cell(row) for row in range(min(self.rows.row_count(), 40)))
            widest = max(room.horizontalAdvance(text) for text in (name, *cells))
            self.view.setColumnWidth(place, min(widest + 24, 260))

    def _dialect(self, dialect: Dialect) -> QVBoxLayout:
        """Fields for the parts of the dialect; each change reads the file again."""
        self.delimiter = QComboBox()
        self.delimiter.addItems([f"between fields: {name}" for name in DELIMITERS.values()])
        self.delimiter.setCurrentIndex(list(DELIMITERS).index(dialect.delimiter))
        self.decimal = QComboBox()
        self.decimal.addItems(list(_DECIMALS.values()))
        self.decimal.setCurrentIndex(list(_DECIMALS).index(dialect.decimal))
        self.headers, self.preamble = QSpinBox(maximum=9), QSpinBox(maximum=999)
        self.headers.setValue(dialect.header_rows)
        self.preamble.setValue(dialect.preamble_rows)
        self.comment = QLineEdit(dialect.comment)
        self.comment.setMaximumWidth(46)
        apply = QPushButton("Read again so")
        apply.clicked.connect(lambda: self._read_again(dialect))
        names = (label("lines of names", "quiet"), self.headers)
        above = (label("lines above", "quiet"), self.preamble, label("comment mark", "quiet"), self.comment)
        layout = QVBoxLayout()
        layout.addLayout(row_of(self.delimiter, self.decimal, 1, apply))
        layout.addLayout(row_of(*names, *above, 1))
        return layout

    def _read_again(self, dialect: Dialect) -> None:
        changed = {
            "delimiter": list(DELIMITERS)[self.delimiter.currentIndex()],
            "decimal": list(_DECIMALS)[self.decimal.currentIndex()],
            "header_rows": self.headers.value(),
            "preamble_rows": self.preamble.value(),
            "comment": self.comment.text().strip(),
        }
        parts = {name: value for name, value in changed.items() if value != getattr(dialect, name)}
        if parts:
            self.reread_wanted.emit(dialect.changed(**parts), None)
        else:
            self.problem.emit("This is how the file was read; change something first.")

    def _part(self, parts: tuple[str, ...], part: str) -> QVBoxLayout:
        self.parts = QComboBox()
        self.parts.addItems(list(parts))
        self.parts.setCurrentText(part)
        self.parts.activated.connect(lambda place: self.reread_wanted.emit(None, parts[place]))
        layout = QVBoxLayout()
        layout.addLayout(row_of(label("sheet or table", "quiet"), self.parts, 1))
        return layout

    def _chosen(self, index: QModelIndex) -> None:
        if index.isValid():
            self.hub.set_focus(self.rows.column(index.column()).name)

    def _follow(self, name: str) -> None:
        place = self.rows.heads.index(name)
        if self.view.currentIndex().column() != place:
            self.view.setCurrentIndex(self.rows.index(0, place))


class IntakeMargin(QWidget):
    """What is said of the column in focus: label, unit, role, valid range, codes for missing, rules for its cells."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self._body = QVBoxLayout(self)
        self._body.setContentsMargins(10, 8, 10, 8)
        self._body.setSpacing(6)
        hub.focus_changed.connect(self.rebuild)
        hub.decisions_changed.connect(self.rebuild)

    def rebuild(self, _: str = "") -> None:
        """Show the column in focus as it is described now."""
        clear_layout(self._body)
        if self.hub.focus is None:
            return
        column = self.hub.study.table[self.hub.focus]
        self._body.addWidget(label(column.name, "head", wrap=True))
        self._body.addWidget(label(f"{column.role}: {column.reason}.", wrap=True))
        numbers = (column.rows - column.missing - column.unread, column.missing, column.unread)
        words = "{} read, {} missing, {} unread".format(*map(count, numbers))
        self._body.addWidget(label(words, "quiet", wrap=True))
        self._fields(column, self.hub.study.dictionary.of(column.name))
        self._kinds(column)
        self._body.addStretch(1)

    def _fields(self, column: Column, entry: ColumnEntry) -> None:
        form = QFormLayout()
        low, high = entry.valid_range
        shown = {
            "label": (entry.label or "", column.label or column.name),
            "unit": (entry.unit or "", column.unit or "none"),
            "smallest": ("" if low is None else f"{low:g}", "any"),
            "largest": ("" if high is None else f"{high:g}", "any"),
            "missing codes": (" ".join(entry.missing_codes), "as -9 NA"),
        }
        self.fields: dict[str, QLineEdit] = {}
        for name, (text, hint) in shown.items():
            field = QLineEdit(text, placeholderText=hint)
            field.editingFinished.connect(self._said)
            form.addRow(label(name, "quiet"), field)
            self.fields[name] = field
        self.role = QComboBox()
        self.role.addItems(["as judged", *Role])
        self.role.setCurrentText("as judged" if entry.role is None else str(entry.role))
        self.role.activated.connect(lambda _: self._said())
        form.addRow(label("role", "quiet"), self.role)
        self._body.addLayout(form)

    def _kinds(self, column: Column) -> None:
        if not column.kinds:
            return
        self._body.addSpacing(4)
        self._body.addWidget(label("Cells that are no plain numbers", "head"))
        self.rules: dict[str, QComboBox] = {}
        for key, found in column.kinds.items():
            examples = ", ".join(f"“{text[:16]}”" for text in found.examples[:2])
            self._body.addWidget(label(f"{plural(found.count, 'cell')}: {found.kind.name} ({examples})", wrap=True))
            rules = found.kind.rules
            box = QComboBox()
            box.addItems([RULES[rule] for rule in rules])
            box.setCurrentText(RULES[column.rules.get(key, "unread")])
            box.activated.connect(lambda place, key=key, rules=rules: self._ruled(column.name, key, rules[place]))
            self.rules[key] = box
            self._body.addWidget(box)

    def _ruled(self, column: str, kind: str, rule: str) -> None:
        try:
            self.hub.study.settle_cells(column, kind, rule)
        except CulvixError as error:
            self.problem.emit(error.sentence)

    def _said(self) -> None:
        """Take over what stands in the fields."""
        name = self.hub.focus
        if name is None:
            return
        study = self.hub.study
        try:
            ends = [self._number(end) for end in ("smallest", "largest")]
            said = replace(
                study.dictionary.of(name),
                label=self.fields["label"].text().strip() or None,
                unit=self.fields["unit"].text().strip() or None,
                valid_range=(ends[0], ends[1]),
                missing_codes=tuple(self.fields["missing codes"].text().split()),
                role=None if self.role.currentText() == "as judged" else Role(self.role.currentText()),
            )
            study.describe(name, said)
        except CulvixError as error:
            self.problem.emit(error.sentence)

    def _number(self, end: str) -> float | None:
        text = self.fields[end].text().strip().replace("−", "-")
        if not text:
            return None
        try:
            value = float(text)
        except ValueError:
            raise CulvixError(f"The {end} valid value must be a number, not “{text}”.") from None
        if not np.isfinite(value):
            raise CulvixError(f"The {end} valid value must be finite, not {number(value)}.")
        return value
