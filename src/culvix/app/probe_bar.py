"""The probe in numbers: what one value means in the column, each entry live, value and percentile typable."""

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QFrame, QHBoxLayout, QLabel, QLineEdit, QVBoxLayout, QWidget

from culvix.app.parts import label
from culvix.errors import StatisticsError
from culvix.stats.display import DASH, count, number, signed, typed_number
from culvix.stats.probe import ProbeReading, read_probe
from culvix.stats.quantiles import quantile
from culvix.study.analysis import ColumnAnalysis

__all__ = ["ProbeBar"]

_TELLS = {
    "z": "distance from the mean in SDs (n−1)",
    "robust z": "distance from the median in scaled MADs",
    "below / at / above": "rows below, exactly at, and above the value",
    "normal expects": "the percentile at which a normal with this mean and SD would have the value",
}


def _cell(name: str, answer: QWidget) -> QVBoxLayout:
    """A small heading over what it names."""
    head = label(name, "small")
    head.setToolTip(_TELLS.get(name, ""))
    cell = QVBoxLayout()
    cell.setSpacing(0)
    cell.addWidget(head)
    cell.addWidget(answer)
    return cell


class ProbeBar(QFrame):
    """Shows the reading at the probe and moves it to a typed value or percentile."""

    moved = pyqtSignal(float)
    refused = pyqtSignal(str)

    def __init__(self) -> None:
        super().__init__()
        self.setProperty("panel", True)
        self.analysis: ColumnAnalysis | None = None
        self.value_field = self._field("a value", 86)
        self.percentile_field = self._field("%", 60)
        self.value_field.returnPressed.connect(self._value_typed)
        self.percentile_field.returnPressed.connect(self._percentile_typed)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(10, 2, 10, 3)
        layout.setSpacing(14)
        layout.addWidget(label("Probe", "probe"))
        layout.addLayout(_cell("value", self.value_field))
        layout.addLayout(_cell("percentile", self.percentile_field))
        self.answers: dict[str, QLabel] = {}
        for name in ("z", "robust z", "below / at / above", "normal expects", "n"):
            self.answers[name] = label(DASH, "head")
            layout.addLayout(_cell(name, self.answers[name]))
        layout.addStretch(1)

    def _field(self, hint: str, width: int) -> QLineEdit:
        field = QLineEdit(placeholderText=hint)
        field.setFixedWidth(width)
        field.setProperty("slim", True)
        return field

    def show_reading(self, analysis: ColumnAnalysis | None, value: float | None) -> None:
        """Read ``value`` in ``analysis``, or show an empty bar."""
        self.analysis = analysis
        reading = read_probe(analysis.sample, value) if analysis is not None and value is not None else None
        if analysis is None or reading is None:
            self.value_field.clear()
            self.percentile_field.clear()
            for answer in self.answers.values():
                answer.setText(DASH)
            return
        self._write(analysis, reading)

    def _write(self, analysis: ColumnAnalysis, reading: ProbeReading) -> None:
        self.value_field.setText(number(reading.value, analysis.style.value_decimals + 1))
        self.percentile_field.setText(number(reading.percentile, 1))
        expected = reading.normal_percentile
        words = {
            "z": signed(reading.z),
            "robust z": signed(reading.robust_z),
            "below / at / above": f"{count(reading.below)} / {count(reading.equal)} / {count(reading.above)}",
            "normal expects": f"{number(expected, 1)} %" if expected is not None else DASH,
            "n": count(reading.n),
        }
        for name, text in words.items():
            self.answers[name].setText(text)

    def _typed(self, field: QLineEdit) -> float | None:
        try:
            return typed_number(field.text().strip().rstrip("%"))
        except ValueError:
            self.refused.emit(f"“{field.text()}” is not a number the probe can go to.")
            return None

    def _value_typed(self) -> None:
        value = self._typed(self.value_field)
        if value is not None and self.analysis is not None:
            self.moved.emit(value)

    def _percentile_typed(self) -> None:
        share = self._typed(self.percentile_field)
        if share is None or self.analysis is None:
            return
        try:
            kind = self.analysis.request.settings.quantile_type
            self.moved.emit(quantile(self.analysis.sample.sorted, share / 100, kind))
        except StatisticsError:
            self.refused.emit("A percentile lies between 0 and 100, in a column that has values.")
