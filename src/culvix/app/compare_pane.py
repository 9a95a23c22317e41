"""Several columns compared as strips on one axis, under the lines of the survey."""

from collections.abc import Sequence

from PyQt6.QtWidgets import QComboBox, QFrame, QPushButton, QVBoxLayout

from culvix.app.hub import Hub
from culvix.app.parts import label, row_of
from culvix.charts.comparison import Comparison, comparison_strips
from culvix.stats.display import plural
from culvix.tables.table import Role

__all__ = ["ComparePane"]

_MOST = 24
_AXES = ("in SDs from each mean", "on a common axis")


class ComparePane(QFrame):
    """The columns given, or where fewer than two are, all measures and counts."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.setProperty("panel", True)
        self.hub = hub
        self.names: list[str] = []
        self._chart: Comparison | None = None
        self.axis = QComboBox()
        self.axis.addItems(list(_AXES))
        self.axis.currentIndexChanged.connect(lambda _: self._draw())
        self.about = label("", "quiet")
        close = QPushButton("Close")
        close.clicked.connect(self.hide)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 4, 8, 6)
        layout.addLayout(row_of(label("Columns compared", "head"), self.about, 1, self.axis, close))
        hub.analysed.connect(lambda name: self._draw() if name in self.names and self.isVisible() else None)

    @property
    def chart(self) -> Comparison:
        """The picture, made when it is first wanted."""
        if self._chart is None:
            self._chart = Comparison()
            layout = self.layout()
            assert layout is not None
            layout.addWidget(self._chart)
        return self._chart

    def compare(self, names: Sequence[str]) -> None:
        """Compare the columns called ``names``."""
        table = self.hub.study.table
        numeric = [name for name in names if table[name].is_numeric]
        if len(numeric) < 2:
            numeric = [column.name for column in table.numeric if column.role in (Role.MEASURE, Role.COUNT)]
        self.names = numeric[:_MOST]
        for name in self.names:
            self.hub.want(name, urgent=False)
        self.show()
        self._draw()

    def _draw(self) -> None:
        study = self.hub.study
        names = [name for name in self.names if name in study.table and study.table[name].is_numeric]
        known = [analysis for name in names if (analysis := study.known_analysis(name)) is not None]
        standardised = self.axis.currentIndex() == 0
        strips = comparison_strips(known, standardised=standardised)
        units = list(dict.fromkeys(study.table[strip.name].unit for strip in strips))
        unit = units[0] if len(units) == 1 else None
        words = "SDs from the mean" if standardised else f"value ({unit})" if unit else "value"
        self.chart.put(strips, words, standardised=standardised)
        mixed = len(units) > 1 and not standardised
        told = ", ".join(unit or "none" for unit in units[:6])
        self.about.setText(f"units differ: {told}" if mixed else plural(len(strips), "column"))
