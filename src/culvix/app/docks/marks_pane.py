"""Marks: the analyst's highlight rules, with their counts, and the line in which a new one is written."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QLineEdit, QPushButton, QSpinBox, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import clear_layout, label, plain_tip, row_of, shortened
from culvix.charts.palette import SHADES
from culvix.errors import CulvixError
from culvix.stats.display import plural
from culvix.study.document.marks import CONDITIONS, SHAPES, new_mark

__all__ = ["MARK_COLOURS", "MarksPane"]

_LONGEST_NAME = 44
MARK_COLOURS = dict(
    zip(SHAPES, (SHADES.caution, SHADES.resolved, SHADES.probe, SHADES.data, SHADES.flagged, SHADES.ink), strict=True)
)


class MarksPane(QWidget):
    """A click on a mark selects its rows everywhere."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.listed = QVBoxLayout()
        self.listed.setSpacing(3)
        self.clear = QPushButton("Clear")
        self.clear.setToolTip("Take all marks away")
        self.clear.clicked.connect(lambda: hub.study.remove_mark())
        self.column = Choice()
        self.column.addItems([column.name for column in hub.study.table])
        self.column.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.condition = Choice()
        self.condition.addItems([condition.text for condition in CONDITIONS.values()])
        self.value = QLineEdit()
        self.run = configured(QSpinBox(), minimum=1, maximum=9999)
        self.run.setToolTip("Mark only where so many rows in succession fit")
        self.name = configured(QLineEdit(), placeholderText="name")
        self.add = QPushButton("Mark")
        self.add.clicked.connect(self._add)
        for field in (self.value, self.name):
            field.returnPressed.connect(self._add)
        self.condition.currentIndexChanged.connect(self._asked)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(row_of(label("Marks", "head"), 1, self.clear))
        layout.addLayout(self.listed)
        layout.addWidget(self.column)
        layout.addLayout(row_of(self.condition, self.value, spacing=4))
        layout.addLayout(row_of(label("in runs of", "quiet"), self.run, self.name, self.add, spacing=4))
        hub.marks_changed.connect(self.show_marks)
        hub.data_changed.connect(self.show_marks)
        hub.focus_changed.connect(self.column.setCurrentText)
        self._asked()
        self.show_marks()

    def _asked(self) -> None:
        asked = list(CONDITIONS.values())[self.condition.currentIndex()]
        self.value.setVisible(asked.takes > 0)
        self.value.setPlaceholderText("10 and 20" if asked.takes == 2 else "value")

    def _add(self) -> None:
        study = self.hub.study
        condition = list(CONDITIONS)[self.condition.currentIndex()]
        requested = (self.column.currentText(), condition, self.value.text(), self.run.value(), self.name.text())
        try:
            study.add_mark(new_mark(study.table, study.document.marks, *requested))
        except CulvixError as error:
            self.problem.emit(error.sentence)
            return
        self.name.clear()

    def show_marks(self) -> None:
        """List the marks with the rows each has now."""
        clear_layout(self.listed)
        marks = self.hub.study.document.marks
        self.clear.setVisible(bool(marks))
        for mark in marks:
            rows = self.hub.study.workspace.marked(mark)
            shape = label(mark.shape)
            shape.setStyleSheet(f"color: {MARK_COLOURS[mark.shape]};")
            message = label(shortened(mark.name, _LONGEST_NAME), wrap=True)
            message.setToolTip(plain_tip(f"{mark.name}\n{mark.sentence}"))
            show = QPushButton(plural(rows.size, "row"))
            show.setToolTip("Select these rows")
            show.clicked.connect(
                lambda _, rows=rows, mark=mark: self.hub.study.select(rows, mark.name, column=mark.column)
            )
            take = QPushButton("×")
            take.setToolTip("Take this mark away")
            take.clicked.connect(lambda _, mark=mark: self.hub.study.remove_mark(mark.name))
            line = row_of(shape, message, show, take, spacing=5)
            line.setStretch(1, 1)
            self.listed.addLayout(line)
