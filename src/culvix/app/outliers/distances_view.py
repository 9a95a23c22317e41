"""Several columns at once: robust distances of rows against classical ones, and what each column adds to a distance."""

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QFrame, QPushButton, QVBoxLayout

from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.lists.columns_button import ColumnsButton
from culvix.app.widgets.parts import label, row_of, shortened
from culvix.charts.palette import SHADES
from culvix.charts.plots.distances import DistancePlot, ShareBars
from culvix.progress import Progress
from culvix.stats.core.arrays import Ints
from culvix.stats.display import count, number, plural
from culvix.stats.multivariate.row_distances import RowDistances, row_distances
from culvix.study.analysis.working_set import WorkingSet
from culvix.tables.model.table import Role

__all__ = ["DistancesView"]

_LEVELS = (0.975, 0.99, 0.999)
_FIRST = 4


class DistancesView(LazyPane):
    """Columns are chosen under Columns; the work is done in the background and can be cancelled."""

    problem = pyqtSignal(str)
    found_anew = pyqtSignal()
    """Other distances are there, or none any more."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.names = hub.study.document.view.distance_columns
        self.found: RowDistances | None = None
        self._made_of: tuple[WorkingSet, tuple[str, ...], float] | None = None
        self.columns, self.level = ColumnsButton(hub, lambda: self.names), Choice()
        self.columns.column_toggled.connect(self._toggle_column)
        self.level.addItems([f"cut-off at {100 * level:g} %" for level in _LEVELS])
        self.about, self.contributions = label("", "quiet", wrap=True), label("", "quiet", wrap=True)
        self.select = QPushButton("Select those beyond")
        self.canvas = pg.GraphicsLayoutWidget()
        self.canvas.setBackground(SHADES.panel)
        self.canvas.setFrameShape(QFrame.Shape.NoFrame)
        self.canvas.ci.setContentsMargins(4, 6, 12, 2)
        self.plot, self.bars = DistancePlot(), ShareBars()
        self.canvas.addItem(self.plot)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 4, 8, 6)
        layout.setSpacing(3)
        layout.addLayout(flow_of(self.columns, self.level, 0, self.select))
        layout.addWidget(self.about)
        beside = QVBoxLayout()
        beside.addWidget(self.contributions)
        beside.addWidget(self.bars)
        beside.addStretch(1)
        middle = row_of(self.canvas)
        middle.addLayout(beside)
        middle.setStretch(0, 3)
        middle.setStretch(1, 2)
        layout.addLayout(middle, 1)
        self._connect()

    def _connect(self) -> None:
        self.plot.picked.connect(self._picked)
        self.plot.view_box.fit_requested.connect(self.plot.fit)
        self.level.activated.connect(self.request_refresh)
        self.select.clicked.connect(self._select_flagged)
        self.hub.data_changed.connect(self.request_refresh)
        self.hub.selection_changed.connect(self._draw)
        self.request_refresh()

    def choose(self, names: tuple[str, ...]) -> None:
        """Look at these columns together; two at least."""
        if len(names) < 2:
            self.problem.emit("Distances over several columns need at least two of them.")
            return
        self.names = names
        self.hub.study.change_view(distance_columns=names)
        self.request_refresh()

    def _toggle_column(self, name: str, on: bool) -> None:
        self.choose(tuple(each for each in self.names if each != name) + ((name,) if on else ()))

    def _usual(self) -> tuple[str, ...]:
        """The column in focus and the first other measures."""
        measures = [c.name for c in self.hub.study.table.numeric if c.role in (Role.MEASURE, Role.COUNT)]
        first = [name for name in measures if name == self.hub.focus]
        return tuple([*first, *(name for name in measures if name not in first)][:_FIRST])

    def refresh(self) -> None:
        """Work the distances out as things stand, unless they are there already."""
        study = self.hub.study
        names = tuple(name for name in self.names or self._usual() if name in study.table)
        self.names, working, level = names, study.working, _LEVELS[self.level.currentIndex()]
        made_of = (working, names, level)
        if self._made_of is not None and all(a == b for a, b in zip(self._made_of, made_of, strict=True)):
            self._draw()
            return
        columns = [study.table[name] for name in names]

        def work(progress: Progress) -> RowDistances:
            values = [working.sample(column).values for column in columns]
            return row_distances(values, level=level, progress=progress)

        def arrived(found: RowDistances) -> None:
            if self.names == names and study.working is working:
                refit = self._made_of is None or self._made_of[1:] != made_of[1:]
                self.found, self._made_of = found, made_of
                self._draw(refit=refit)
                self.found_anew.emit()

        def refused(error: Exception) -> None:
            self.found = self._made_of = None
            self.about.setText(str(error))
            self._show(False)
            self.found_anew.emit()

        self.about.setText("Working out the distances …")
        self.hub.start("distances over several columns", work, arrived, failed=refused, priority=8)

    def _show(self, there: bool) -> None:
        for part in (self.canvas, self.contributions, self.bars, self.select):
            part.setVisible(there)

    def _draw(self, *, refit: bool = False) -> None:
        found = self.found
        if found is None:
            return
        self._show(True)
        selected = self.hub.study.selection.rows
        self.plot.show_distances(found, selected, refit=refit)
        classical = int(np.count_nonzero(found.classical > found.classical_cutoff))
        self.about.setText(
            f"{', '.join(shortened(name, 24) for name in self.names)}: {plural(found.rows.size, 'complete row')}. "
            f"{count(found.flagged.size)} beyond {number(found.cutoff, 2)} by the robust distance (reweighted minimum "
            f"covariance determinant), {count(classical)} beyond {number(found.classical_cutoff, 2)} by the classical."
        )
        self._show_contributions(selected)

    def _show_contributions(self, selected: Ints) -> None:
        """What the columns add to the distance of the one selected row."""
        found = self.found
        at = np.flatnonzero(found.rows == selected[0]) if found is not None and selected.size == 1 else selected[:0]
        self.bars.setVisible(bool(at.size))
        if found is None or not at.size:
            self.contributions.setText("Select one row to see what each column adds to its distance.")
            return
        position, row = int(at[0]), count(self.hub.study.table.number_of(int(selected[0])))
        squared = float(found.contributions[position].sum())
        self.contributions.setText(
            f"Row {row}: robust distance {number(float(found.robust[position]), 2)}, classical "
            f"{number(float(found.classical[position]), 2)}. Shares of the squared robust distance:"
        )
        self.bars.put(self.names, found.contributions[position] / (squared or 1.0))

    def _picked(self, rows: Ints, modifiers: Qt.KeyboardModifier) -> None:
        study = self.hub.study
        if modifiers & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier):
            rows = np.setxor1d(study.selection.rows, rows, assume_unique=True)
        study.select(rows, "distances over several columns")

    def _select_flagged(self) -> None:
        if self.found is not None:
            self.hub.study.select(self.found.flagged, f"robust distance over {plural(len(self.names), 'column')}")
