"""The Intake stage: how the file was read and why, its first rows, and where the table comes from."""

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from PyQt6.QtCore import QItemSelectionModel, QModelIndex, QTimer, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QLayout, QPlainTextEdit, QSizePolicy, QVBoxLayout, QWidget

from culvix.app.intake.arriving import reasons_of
from culvix.app.intake.first_rows import FirstRowsView
from culvix.app.intake.questions import MissingBar, QuestionCards
from culvix.app.intake.reading_bar import ReadingBar
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import hidden
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import by_font, label, panel
from culvix.errors import Cancelled, CulvixError
from culvix.tables.model.raw_table import RawTable
from culvix.tables.reading.preview import preview

__all__ = ["IntakeStage"]

_NO_KEY = "its number"
_PAUSE_MS = 200


class IntakeStage(QWidget):
    """How the file was read, in words that can be changed, above the first rows; the rows follow at once."""

    problem = pyqtSignal(str)
    reread_requested = pyqtSignal(object)
    """Read the file again under these options."""
    columns_chosen = pyqtSignal(list)
    """Names of the columns selected in the first rows."""

    def __init__(self, hub: Hub, bar: ReadingBar) -> None:
        """``bar`` tells how the file was read; it is made beforehand, as it takes a while."""
        super().__init__()
        self.hub = hub
        source = hub.study.table.source
        self.view = FirstRowsView()
        self.rows = self.view.rows
        self.bar = bar
        self._refresh_due = False
        self._delay = configured(QTimer(self), interval=_PAUSE_MS, singleShot=True)
        self._delay.timeout.connect(self._preview)
        self.bar.changed.connect(self._delay.start)
        self.bar.requested.connect(self._read_again)
        self.why = label("", "quiet", wrap=True)
        if source.dialect is not None:
            reasons = (f"{part.replace('_', ' ')}: {why}" for part, why in source.dialect.reasons.items())
            self.why.setText("Because: " + "; ".join(reasons) + ".")
        self.missing = MissingBar(hub, "Missing is written as")
        self.missing.problem.connect(self.problem)
        self.questions = QuestionCards()
        self.questions.answered.connect(self._answered)
        self.questions.show_questions(source.questions)
        frame, inside = panel()
        inside.addLayout(self._head(source.kind))  # type: ignore[attr-defined]
        inside.addWidget(self.bar)
        if self.why.text():
            inside.addWidget(self.why)
        inside.addWidget(self.questions)
        inside.addWidget(self.missing)
        inside.addWidget(self.view)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(frame)
        layout.addWidget(self._provenance())
        chosen = self.view.selectionModel()
        assert chosen is not None
        chosen.currentColumnChanged.connect(lambda now, _: self._chosen(now))
        chosen.selectionChanged.connect(lambda *_: self._selected())
        for change in (hub.data_changed, hub.edit_refused):
            change.connect(self._refresh)
        hub.focus_changed.connect(self._follow)

    def show_reading(self) -> None:
        """Show the first rows as they were read."""
        self.rows.show_table(self.hub.study.table)
        self.missing.show_columns(self.hub.study.table.as_read.columns)

    def follow(self) -> None:
        """Take up the column in focus, where one was before this stage was made, or while it was hidden."""
        if self.hub.focus is not None:
            self._follow(self.hub.focus)

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        if self._refresh_due:
            self._refresh()
        self.follow()

    def _head(self, kind: str) -> QLayout:
        self.key = Choice()
        self.key.setMaximumWidth(by_font(170))
        self.key.setToolTip("The column whose cell names a row everywhere, and should tell rows apart")
        self.key.addItems([_NO_KEY, *(column.name for column in self.hub.study.table)])
        self._show_key()
        self.key.activated.connect(self._keyed)
        head = label("How the file was read", "title")
        key = (label("A row is named by", "quiet"), self.key)
        return flow_of(head, label(kind, "quiet"), 0, *key)

    def _provenance(self) -> QWidget:
        self.provenance = QPlainTextEdit(self.hub.study.dictionary.provenance)
        self.provenance.setPlaceholderText("Where from, how collected, how often updated, known bias")
        self.provenance.setTabChangesFocus(True)
        self.provenance.setFixedHeight(by_font(50))
        self._noted = configured(QTimer(self), interval=600, singleShot=True)
        self._noted.timeout.connect(self._note)
        self.provenance.textChanged.connect(self._noted.start)
        frame, inside = panel()
        inside.addWidget(label("Where the table comes from (opens the report)", "head", wrap=True))
        inside.addWidget(self.provenance)
        frame.setSizePolicy(QSizePolicy.Policy.Preferred, QSizePolicy.Policy.Fixed)
        return frame

    def _show_key(self) -> None:
        column = self.hub.study.table.label_column
        self.key.setCurrentText(_NO_KEY if column is None else column.name)

    def _keyed(self, position: int) -> None:
        key = (self.key.itemText(position),) if position else ()
        self._say(key=key)

    def _note(self) -> None:
        self._say(provenance=self.provenance.toPlainText().strip())

    def _say(self, **described: object) -> None:
        study = self.hub.study
        try:
            study.set_table_metadata(replace(study.dictionary, **described))  # type: ignore[arg-type]
        except CulvixError as error:
            self.problem.emit(error.sentence)

    def finish(self) -> None:
        """Take over notes that are still being typed, and show no more first rows."""
        self._delay.stop()
        if self._noted.isActive():
            self._noted.stop()
            self._note()

    # Reading another way

    def _preview(self) -> None:
        """Show the first rows as they would be read under what the bar says now."""
        try:
            options = self.bar.options()
        except CulvixError as error:
            self.problem.emit(error.sentence)
            return
        path = self.hub.study.table.source.path
        self.hub.start(
            "first rows", lambda _: preview(path, options), self._show, failed=self._refused, priority=30, quiet=True
        )

    def _refused(self, error: Exception) -> None:
        if isinstance(error, CulvixError) and not isinstance(error, Cancelled):
            self.problem.emit(error.sentence)

    def _show(self, raw: RawTable | None) -> None:
        if raw is not None:
            self.rows.show_raw(raw)
            self.view.fit()
            self.why.setText(f"As it would be read. {reasons_of(raw)}")

    def _answered(self, change: Mapping[str, Any]) -> None:
        """Read the file again as a question about it was answered."""
        source = self.hub.study.table.source
        try:
            self.reread_requested.emit(source.options.answered(source.dialect, change))
        except CulvixError as error:
            self.problem.emit(error.sentence)

    def _read_again(self) -> None:
        try:
            if self.bar.unchanged:
                self.problem.emit("This is how the file was read; change something first.")
                return
            self.reread_requested.emit(self.bar.options())
        except CulvixError as error:
            self.problem.emit(error.sentence)

    # Columns

    def _refresh(self) -> None:
        self._refresh_due = hidden(self)
        if self._refresh_due:
            return
        if not self._delay.isActive():
            self.rows.show_table(self.hub.study.table)
        self.missing.show_columns(self.hub.study.table.as_read.columns)
        self._show_key()
        if not self.provenance.hasFocus():
            provenance = self.hub.study.dictionary.provenance
            if self.provenance.toPlainText().strip() != provenance:
                self.provenance.setPlainText(provenance)

    def _chosen(self, index: QModelIndex) -> None:
        name = self.rows.heads[index.column()] if index.isValid() else ""
        if name in self.hub.study.table:
            self.hub.set_focus(name)

    def _selected(self) -> None:
        model = self.view.selectionModel()
        assert model is not None
        table = self.hub.study.table
        # By the ranges: asked which columns are selected whole, Qt would look at every row.
        selection = model.selection()
        parts = [selection[at] for at in range(selection.count())]
        chosen = sorted({at for part in parts for at in range(part.left(), part.right() + 1)})
        names = [self.rows.heads[position] for position in chosen]
        self.columns_chosen.emit([name for name in names if name in table])

    def _follow(self, name: str) -> None:
        if hidden(self):
            return
        position = self.rows.heads.index(name) if name in self.rows.heads else -1
        if position >= 0 and self.view.currentIndex().column() != position:
            flags = QItemSelectionModel.SelectionFlag.ClearAndSelect | QItemSelectionModel.SelectionFlag.Columns
            model = self.view.selectionModel()
            assert model is not None
            model.setCurrentIndex(self.rows.index(0, position), flags)
