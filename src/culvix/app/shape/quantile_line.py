"""Any quantile of the column in focus, with its interval."""

from PyQt6.QtWidgets import QDoubleSpinBox, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.widgets.parts import label, row_of
from culvix.stats.core.quantiles import quantile
from culvix.stats.describe.intervals import OpenInterval, quantile_interval
from culvix.study.analysis.column_analysis import ColumnAnalysis

__all__ = ["QuantileLine", "interval_text"]


def interval_text(analysis: ColumnAnalysis, ends: OpenInterval | None) -> str:
    """``ends`` in the style of the column; empty where both are missing."""
    if ends is None or ends == (None, None):
        return ""
    low, high = (None if end is None else analysis.style.statistic(end) for end in ends)
    if low is None:
        return f"up to {high}; no value bounds it from below at this n"
    if high is None:
        return f"from {low}; no value bounds it from above at this n"
    return f"{low} to {high}"


class QuantileLine(QWidget):
    """A share of the values, and the value they lie below."""

    def __init__(self) -> None:
        super().__init__()
        self._analysis: ColumnAnalysis | None = None
        self.share = configured(QDoubleSpinBox(), decimals=1, minimum=0.1, maximum=99.9, singleStep=1, value=90)
        self.share.setSuffix(" %")
        self.share.setKeyboardTracking(False)
        self.share.setObjectName("slim")
        self.share.setToolTip("The share of the values below the quantile")
        self.share.valueChanged.connect(lambda _: self._tell())
        self.value = label("", "head")
        self.ends = label("", "quiet", wrap=True)
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 2, 0, 0)
        outer.setSpacing(2)
        outer.addLayout(row_of(label("quantile"), self.share, 1, self.value))
        outer.addWidget(self.ends)

    def show_analysis(self, analysis: ColumnAnalysis | None) -> None:
        """Show the quantile of ``analysis``; nothing of none, or without values."""
        self._analysis = analysis if analysis is not None and analysis.sample.n else None
        self.setVisible(self._analysis is not None)
        self._tell()

    def _tell(self) -> None:
        analysis = self._analysis
        if analysis is None:
            return
        settings, x, p = analysis.request.settings, analysis.sample.sorted, self.share.value() / 100
        self.value.setText(analysis.style.statistic(quantile(x, p, settings.quantile_type)))
        message = interval_text(analysis, quantile_interval(analysis.sample, p, settings.confidence))
        level = f"{100 * settings.confidence:g} %"
        self.ends.setText(f"{level}: {message}" if message else f"No two values bracket it with {level} confidence.")
