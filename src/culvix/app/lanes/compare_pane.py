"""Several columns compared as strips on one axis, under the lines of the survey."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.session.scheduler import paint_afterwards, task_queue
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.lists.columns_button import ColumnsButton
from culvix.app.widgets.parts import label
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.groups.comparison import MOST_OVER, Comparison
from culvix.charts.plots.groups.comparison_rows import AXES, ComparisonRow, comparison_rows, shared_scale
from culvix.stats.display import plural
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.tables.model.table import Role

__all__ = ["ComparePane"]

_MOST = 24


class ComparePane(QFrame):
    """The columns given, or where fewer than two are, all measures and counts."""

    def __init__(self, hub: Hub, *, closable: bool = True) -> None:
        super().__init__()
        self.setObjectName("panel" if closable else "")
        self.hub = hub
        self.names = list(hub.study.document.view.compared_columns)
        self._chart: Comparison | None = None
        self._rows_drawn: tuple[list[ComparisonRow], list[str | None], str, bool, AxisScale]
        self._rows_drawn = [], [], "common", False, MEASURED_AXIS
        self._refused = ""
        self.axis = Choice()
        self.axis.addItems(list(AXES.values()))
        self.axis.currentIndexChanged.connect(lambda _: self._draw())
        self.form = Choice()
        self.form.addItems(["apart", "over each other"])
        self.form.currentIndexChanged.connect(lambda _: self._draw())
        self.about = label("", "quiet")
        self.columns = ColumnsButton(hub, lambda: self.names)
        self.columns.column_toggled.connect(self._toggle_column)
        close = QPushButton("Close")
        if not closable:
            close.hide()
        close.clicked.connect(self.hide)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 4, 8, 6)
        heads = (label("Columns compared", "head"), self.about)
        layout.addLayout(flow_of(*heads, 0, self.columns, self.form, self.axis, close))
        hub.analysed.connect(lambda name: self._draw() if name in self.names and self.isVisible() else None)
        hub.settings_changed.connect(lambda: self._draw() if self.isVisible() else None)

    @property
    def chart(self) -> Comparison:
        """The picture, made when it is first wanted."""
        if self._chart is None:
            self._chart = self._make_chart()
        return self._chart

    def _make_chart(self) -> Comparison:
        made, layout = Comparison(), self.layout()
        assert layout is not None
        layout.addWidget(made)
        return made

    def compare(self, names: Sequence[str]) -> None:
        """Compare the columns called ``names``."""
        table = self.hub.study.table
        # One of them may be gone, when what added it was undone.
        numeric = [name for name in names if name in table and table[name].is_numeric]
        if len(numeric) < 2:
            numeric = [column.name for column in table.numeric if column.role in (Role.MEASURE, Role.COUNT)]
        self.names = numeric[:_MOST]
        self.hub.study.change_view(compared_columns=tuple(self.names))
        for name in self.names:
            if self.hub.study.workspace.known_analysis(name) is None:
                self.hub.request_analysis(name, urgent=False)
        self.show()
        self._draw()

    def request_update(self) -> None:
        """Compare the column in focus with the others chosen."""
        focus = self.hub.focus
        if focus is not None:
            self.compare([focus, *(name for name in self.names if name != focus)])

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self

    def maker(self) -> Maker | None:
        """What makes the chart anew at any size."""
        heading = f"{self.hub.study.name} — {plural(len(self.chart.names), 'column')} {self.axis.currentText()}"
        return partial(self.chart.again, heading) if self.chart.names else None

    def _toggle_column(self, name: str, on: bool) -> None:
        """Take a column in, or leave it out; the last two stay."""
        names = [each for each in self.names if each != name] + ([name] if on else [])
        if len(names) >= 2:
            self.compare(names)

    def _draw(self) -> None:
        if self._chart is None:
            # Drawn for the first time when the window has answered once it is made.
            self._chart = self._make_chart()
            task_queue().soon(self._draw)
            return
        study = self.hub.study
        names = [name for name in self.names if name in study.table and study.table[name].is_numeric]
        over = self.form.currentIndex() == 1
        if over and self.hub.focus in names:
            # The column in focus lies above the others.
            names.sort(key=lambda name: name != self.hub.focus)
        known = [analysis for name in names if (analysis := study.workspace.known_analysis(name)) is not None]
        axis = list(AXES)[self.axis.currentIndex()]
        scale, self._refused = self._scale(known, axis)
        rows = comparison_rows(known, axis, scale)
        # Of the table as it is now: a column may be gone by the next step.
        units = list(dict.fromkeys(study.table[row.name].unit for row in rows))
        self._rows_drawn = rows, units, axis, over, scale
        task_queue().soon(self._put)

    def _scale(self, known: Sequence[ColumnAnalysis], axis: str) -> tuple[AxisScale, str]:
        """The scale of a common axis, that of the column in focus, and what is to be said where it cannot be."""
        first = self.hub.analysis
        common = MEASURED_AXIS if first is None or axis != "common" else first.axis.scale
        scale = shared_scale(known, common)
        return (
            scale,
            "" if scale is common else f"; a {common.name} axis has no place for some values, so it is measured",
        )

    def _put(self) -> None:
        """Show the strips worked out, in a step of its own: with the window waiting for both, it would stand still."""
        study, (rows, units, axis, over, scale) = self.hub.study, self._rows_drawn
        unit = units[0] if len(units) == 1 else None
        message = {"standardised": "SDs from the mean", "own": "from the lowest to the highest value"}
        plain = f"value ({unit})" if unit else "value"
        plain += "" if scale.is_measured else f", {scale.name} axis"
        zero = 0.0 if axis == "standardised" else None
        paint_afterwards(self.chart)
        text, upright = message.get(axis, plain), study.settings.upright
        self.chart.put(rows, text, zero=zero, over=over, upright=upright, scale=scale)
        mixed = len(units) > 1 and axis == "common"
        listed = ", ".join(unit or "none" for unit in units[:6])
        shown = plural(len(rows), "column")
        if over and len(rows) > MOST_OVER:
            shown = f"the first {MOST_OVER} of {shown}"
        self.about.setText((f"units differ: {listed}" if mixed else shown) + self._refused)
