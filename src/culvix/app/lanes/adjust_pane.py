"""What can be set of the lanes by typing, and the frequency table: a pane that stays open beside the picture."""

from collections.abc import Callable, Mapping
from typing import Any

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QCheckBox,
    QComboBox,
    QGridLayout,
    QLineEdit,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from culvix.app.lanes.frequency_table import FrequencyTable
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.session.picture_settings import change_picture
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import label, row_of
from culvix.errors import CulvixError
from culvix.stats.display import as_typed, significant, typed_number
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.stats.shape.density import BANDWIDTH_RULES
from culvix.study.document.choices.settings import replaced

__all__ = ["AdjustPane"]

_EDGES = {"left": "to the bin above", "right": "to the bin below"}
_LINES = {"moments": "mean and SD", "quartiles": "the quartiles"}
_BANDS = {"pointwise": "each point", "simultaneous": "all points at once"}
_WHISKERS = {"fences": "within fences", "extremes": "the extremes", "percentiles": "5 % and 95 %"}
_RULES: dict[str | None, str] = {None: "the shape"}
_RULES |= {key: name.removeprefix("improved ").split(",")[0] for key, name in BANDWIDTH_RULES.items()}
_DIRECTIONS = {False: "to the right", True: "upwards"}
_DOTS = {False: "spread", True: "stacked"}


class AdjustPane(LazyPane):
    """Fields for bins, density, box, dots and Q-Q line; each holds as soon as it is left."""

    patience = 8

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self._shows: list[Callable[[], None]] = []
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(6)
        self.grid.setVerticalSpacing(3)
        self.grid.setColumnStretch(1, 1)
        self.count = self._typed("Bins", "bin_count", "how many", whole=True)
        self.start = self._typed("from", "bin_start", "first edge", edge=True)
        self.end = self._typed("to", "bin_end", "last edge", edge=True)
        self.closed = self._choice("On an edge", _EDGES, "closed")
        self.bandwidth_rule = self._choice("Density by", _RULES, "bandwidth_rule", of_column=True)
        self.bandwidth = self._typed("bandwidth", "bandwidth", "")
        self.whiskers = self._choice("Whiskers to", _WHISKERS, "whiskers")
        self.notch = self._tick("notch: the median's interval", "notch")
        self.box_points = self._tick("every row over the box", "box_points")
        self.dots = self._choice("Dots", _DOTS, "stacked_points")
        self.line = self._choice("Q-Q line by", _LINES, "qq_line")
        self.band = self._choice("Band for", _BANDS, "qq_band")
        self.direction = self._choice("Values run", _DIRECTIONS, "upright")
        self.table = FrequencyTable()
        self._lay_out()
        hub.settings_changed.connect(self.show_settings)

    def _lay_out(self) -> None:
        """Fields and frequencies take turns: each needs the whole height of a small window."""
        fields = QWidget()
        column = QVBoxLayout(fields)
        column.setContentsMargins(0, 0, 0, 0)
        column.addLayout(self.grid)
        column.addStretch(1)
        self.pages = QStackedWidget()
        self.pages.addWidget(fields)
        self.pages.addWidget(self.table)
        self.turns = [
            configured(QPushButton(name), checkable=True, autoExclusive=True) for name in ("Settings", "Frequencies")
        ]
        for position, button in enumerate(self.turns):
            button.setObjectName("stage")
            button.clicked.connect(lambda _, position=position: self.turn_to(position))
        self.turns[0].setToolTip("What can be set of the picture by typing")
        self.turns[1].setToolTip("Rows, per cent and per cent up to each bin")
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 6, 8, 6)
        layout.setSpacing(5)
        layout.addLayout(row_of(*self.turns, 1, self.table.copy_button))
        layout.addWidget(self.pages, 1)
        self.turn_to(0)

    def turn_to(self, page: int) -> None:
        """Show the fields (0) or the frequencies (1)."""
        self.turns[page].setChecked(True)
        self.pages.setCurrentIndex(page)
        self.table.copy_button.setVisible(page == 1)

    def show_settings(self) -> None:
        """Show in all fields what holds for the column in focus."""
        if self.hub.focus is not None:
            for show in self._shows:
                show()

    def _position(self, name: str, field: QWidget) -> None:
        row = self.grid.rowCount()
        if name:
            self.grid.addWidget(label(name, "quiet"), row, 0)
        self.grid.addWidget(field, row, 1 if name else 0, 1, 1 if name else 2)

    @property
    def _axis(self) -> AxisScale:
        """The scale of the axis, on which edges have their places."""
        return MEASURED_AXIS if self.hub.preview is None else self.hub.preview.axis.scale

    def _typed(self, name: str, key: str, hint: str, *, whole: bool = False, edge: bool = False) -> QLineEdit:
        field = configured(QLineEdit(), placeholderText=hint)
        field.setObjectName("slim")

        def show() -> None:
            value = getattr(self.hub.study.settings.of(self.hub.focus or ""), key)
            if edge and value is not None:
                value = self._axis.value(value)
            field.setText("" if value is None else as_typed(value))

        def take() -> None:
            text = field.text().strip()
            try:
                value = typed_number(text) if text else None
                if whole and value is not None and value != int(value):
                    raise ValueError("not whole")
            except (ValueError, OverflowError):
                kind = "whole number" if whole else "number"
                self._refuse(f"“{text}” is not a {kind}; type one, or nothing to leave it to the rule.")
                return
            if edge and value is not None:
                value = self._axis.position(value)
            before = getattr(self.hub.study.settings.of(self.hub.focus or ""), key)
            if value is None or before is None or f"{before:.12g}" != f"{value:.12g}":
                self._change({key: int(value) if whole and value is not None else value})

        field.editingFinished.connect(take)
        self._shows.append(show)
        self._position(name, field)
        return field

    def _choice(self, name: str, message: Mapping[Any, str], key: str, *, of_column: bool = False) -> QComboBox:
        box = Choice()
        box.addItems(list(message.values()))
        box.setMinimumContentsLength(10)
        box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        keys = list(message)

        def show() -> None:
            settings = self.hub.study.settings
            box.setCurrentIndex(keys.index(getattr(settings.of(self.hub.focus or "") if of_column else settings, key)))

        def take(position: int) -> None:
            if of_column:
                self._change({key: keys[position], "bandwidth": None})
            else:
                self._set({key: keys[position]})

        box.activated.connect(take)
        self._shows.append(show)
        self._position(name, box)
        return box

    def _tick(self, name: str, key: str) -> QCheckBox:
        box = QCheckBox(name)
        box.clicked.connect(lambda on: self._set({key: on}))
        self._shows.append(lambda: box.setChecked(getattr(self.hub.study.settings, key)))
        self._position("", box)
        return box

    def _change(self, changes: dict[str, object]) -> None:
        """Change the picture of the column; a count of bins takes the place of a width."""
        if changes.get("bin_count") is not None:
            changes = {**changes, "bin_width": None}
        try:
            change_picture(self.hub, **changes)
        except CulvixError as error:
            self._refuse(error.sentence)

    def _set(self, changes: dict[str, object]) -> None:
        study = self.hub.study
        study.change_settings(replaced(study.settings, **changes))

    def _refuse(self, sentence: str) -> None:
        self.problem.emit(sentence)
        self.show_settings()

    def refresh(self) -> None:
        """Show the bandwidth in use and the frequencies of the column in focus."""
        analysis = self.hub.preview
        parts = analysis.axis if analysis else None
        curve = parts.density if parts else None
        self.bandwidth.setPlaceholderText("" if curve is None else significant(curve.bandwidth))
        bars = parts.histogram if parts else None
        self.table.show_bars(bars, parts, analysis.column.words_of_numbers if analysis else {})
        self.count.setPlaceholderText("" if bars is None else str(bars.counts.size))
        for field, edge in ((self.start, 0), (self.end, -1)):
            field.setPlaceholderText("" if bars is None else as_typed(self._axis.value(bars.edges[edge]), 6))
        for field in (self.count, self.start, self.end, self.bandwidth):
            field.setAlignment(Qt.AlignmentFlag.AlignRight)
