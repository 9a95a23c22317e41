"""The probe in numbers: what one value means in the column; every reading can be typed, and leads to its value."""

from math import isfinite

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QApplication, QFrame, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from culvix.app.widgets.flow import FlowLayout
from culvix.app.widgets.parts import by_font, label
from culvix.errors import StatisticsError
from culvix.stats.describe.probe import VALUE_AT, ProbeReading, between, read_probe, row_at
from culvix.stats.display import DASH, count, number, per_cent, plural, signed, typed_number
from culvix.study.analysis.column_analysis import ColumnPreview

__all__ = ["ProbeBar"]

_TELLS = {
    "percentile": "the mean of the shares below, and at or below, the value; typed: by the study's type of quartiles",
    "rank": "place of the value in order, from 1; typed below 0: from the largest, which is −1",
    "z": "distance from the mean of the values in use, in SDs (n−1)",
    "robust z": "distance from the median of the values in use, in scaled MADs",
    "below / at / above": "rows below, exactly at, and above the value",
    "normal expects": "the percentile at which a normal with this mean and SD would have the value",
    "row": "the first row with this value, or with the value nearest to it",
}
_WIDTHS = {"value": 76, "percentile": 54, "rank": 62, "z": 62, "robust z": 62, "normal expects": 58}
_AROUND = 20
_BESIDE = 4


def _cell(name: str, answer: QWidget) -> QWidget:
    """A small heading over what it names."""
    head = label(name, "small")
    head.setToolTip(_TELLS.get(name, ""))
    part = QWidget()
    cell = QVBoxLayout(part)
    cell.setContentsMargins(0, 0, 0, 0)
    cell.setSpacing(0)
    cell.addWidget(head)
    cell.addWidget(answer)
    return part


class ProbeBar(QFrame):
    """Shows the readings at the probe, moves it to what is typed, and compares it with a pinned one."""

    moved = pyqtSignal(float)
    pinned = pyqtSignal(object)
    """A value to pin the second probe at, None to take it away."""
    refused = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("panel")
        self.analysis: ColumnPreview | None = None
        self.value: float | None = None
        self.pin_value: float | None = None
        self.readings: dict[str, str] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 2, 10, 3)
        layout.setSpacing(1)
        row = FlowLayout(6)
        layout.addLayout(row)
        row.addWidget(label("Probe", "probe"))
        self.fields: dict[str, QLineEdit] = {}
        self._as_typed: tuple[str, float | None, str | None] = ("", None, None)
        for name, width in _WIDTHS.items():
            field = self.fields[name] = QLineEdit()
            field.setFixedWidth(by_font(width))
            field.setObjectName("slim")
            field.setToolTip(_TELLS.get(name, "a value in the column's unit"))
            field.returnPressed.connect(lambda name=name: self._typed(name))
            row.addWidget(_cell(name, field))
        self.answers: dict[str, QLabel] = {}
        for name in ("below / at / above", "row"):
            self.answers[name] = label(DASH, "head")
            row.addWidget(_cell(name, self.answers[name]))
        row.add_gap()
        self.pin, self.copy_button = QPushButton("Pin"), QPushButton("Copy")
        self.pin.setToolTip("Leave a second probe here, to read what lies between (B)")
        self.copy_button.setToolTip("Copy all readings")
        self.pin.clicked.connect(self.toggle_pin)
        self.copy_button.clicked.connect(self.copy)
        row.addWidget(self.pin)
        row.addWidget(self.copy_button)
        self.between = label("", "probe")
        self.between.hide()
        layout.addWidget(self.between)

    def show_reading(self, analysis: ColumnPreview | None, value: float | None, pinned: float | None = None) -> None:
        """Read ``value`` in ``analysis``, and what lies between it and ``pinned``; or show an empty bar."""
        if analysis is not None and analysis is not self.analysis:
            self._make_room(analysis)
        self.analysis, self.value, self.pin_value = analysis, value, pinned
        reading = read_probe(analysis.sample, value) if analysis is not None and value is not None else None
        self.pin.setText("Pin" if pinned is None else "Unpin")
        self.between.setVisible(reading is not None and pinned is not None)
        for part in (*self.fields.values(), self.pin, self.copy_button):
            part.setEnabled(reading is not None)
        if analysis is None or reading is None:
            self.readings = {}
            for field in self.fields.values():
                field.clear()
            for answer in self.answers.values():
                answer.setText(DASH)
            return
        self._write(analysis, reading)
        if pinned is not None:
            self._write_between(analysis, reading.value, pinned)

    def _make_room(self, analysis: ColumnPreview) -> None:
        """Let the field of the value be as wide as the column's longest."""
        field, x = self.fields["value"], analysis.sample.sorted
        ends = [number(float(end), analysis.style.value_decimals + 1) for end in x[[0, -1]]] if x.size else []
        widest = max((field.fontMetrics().horizontalAdvance(text) for text in ends), default=0)
        field.setFixedWidth(max(by_font(_WIDTHS["value"]), widest + _AROUND))
        half, whole = count(x.size // 2), count(x.size)
        for answer in self.answers.values():
            answer.setFixedSize(0, answer.sizeHint().height())
        self._answer("below / at / above", f"{half} / 1 / {half}")
        self._answer("row", f"near {whole}")

    def _answer(self, name: str, text: str) -> None:
        """Write an answer; its room only grows, as lanes would move with every step of the probe otherwise."""
        answer = self.answers[name]
        answer.ensurePolished()
        answer.setText(text)
        answer.setFixedWidth(max(answer.minimumWidth(), answer.fontMetrics().horizontalAdvance(text) + _BESIDE))

    def _write(self, analysis: ColumnPreview, reading: ProbeReading) -> None:
        expected = reading.normal_percentile
        shown = {
            "value": number(reading.value, analysis.style.value_decimals + 1),
            "percentile": number(reading.percentile, 1),
            "rank": count(reading.below + 1) if reading.equal else f"{count(reading.below)}+",
            "z": signed(reading.z),
            "robust z": signed(reading.robust_z),
            "normal expects": DASH if expected is None else number(expected, 1),
        }
        typed, at, text_typed = self._as_typed
        if at == reading.value and text_typed is not None:
            # What was asked for stays as it was typed; ties may give the value found another share.
            shown[typed] = text_typed
        for name, text in shown.items():
            self.fields[name].setText(text)
            self.fields[name].setCursorPosition(0)
        sides = f"{count(reading.below)} / {count(reading.equal)} / {count(reading.above)}"
        self._answer("below / at / above", sides)
        self._answer("row", self._row(analysis, reading))
        self.readings = {
            **shown,
            "value": repr(reading.value),
            "below": str(reading.below),
            "at": str(reading.equal),
            "above": str(reading.above),
            "n": str(reading.n),
        }

    def _row(self, analysis: ColumnPreview, reading: ProbeReading) -> str:
        # The order of all rows is worked out in the background with the analysis.
        found = row_at(analysis.sample, reading.value) if "rows" in analysis.sample.__dict__ else None
        if found is None:
            return DASH
        row = count(found[0] + 1)
        if reading.equal:
            return row if reading.equal == 1 else f"{row} …"
        return f"near {row}"

    def _write_between(self, analysis: ColumnPreview, value: float, pinned: float) -> None:
        found = between(analysis.sample, value, pinned)
        if found is None:
            return
        style = analysis.style
        message = f"From {style.value(found.low)} to {style.value(found.high)}: {plural(found.rows, 'row')}"
        message += f", {per_cent(found.share)} of {count(analysis.sample.n)}"
        if found.normal is not None:
            message += f"; a normal would have {per_cent(found.normal)} there"
        self.between.setText(message)

    def _typed(self, name: str) -> None:
        text = self.fields[name].text().strip().rstrip("%+").replace("\N{MINUS SIGN}", "-")
        if self.analysis is None:
            return
        try:
            reading = typed_number("".join(text.split()))
        except ValueError:
            self.refused.emit(f"“{self.fields[name].text()}” is not a number the probe can go to.")
            return
        try:
            value = VALUE_AT[name](self.analysis.sample, reading, self.analysis.request.settings.quantile_type)
        except StatisticsError as error:
            self.refused.emit(error.sentence)
            return
        if isfinite(value):
            self._as_typed = name, value, number(reading, 1) if name == "percentile" else None
            self.moved.emit(value)
        else:
            self.refused.emit("That lies beyond what a number can hold.")

    def toggle_pin(self) -> None:
        """Leave a second probe where the probe is, or take it away."""
        self.pinned.emit(self.value if self.pin_value is None else None)

    def copy(self) -> None:
        """Put all readings on the clipboard, the value in full precision."""
        clipboard = QApplication.clipboard()
        if clipboard is None or not self.readings:
            return
        lines = [f"{name}\t{text}" for name, text in self.readings.items()]
        if self.between.isVisible():
            lines.append(self.between.text())
        clipboard.setText("\n".join(lines))
