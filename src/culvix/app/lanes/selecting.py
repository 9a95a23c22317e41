"""What is clicked and dragged in a stack of lanes, as selections of rows."""

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QObject, Qt

from culvix.app.session.hub import Hub
from culvix.charts.lanes.stack import LaneStack
from culvix.stats.core.arrays import Ints
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.document.row_sets import union

__all__ = ["Selecting"]


class Selecting(QObject):
    """Selects rows of the analysis that ``pictured`` gives: what the stack shows.

    Where that is a column on another scale, ``measured`` gives the one it comes from, whose values are selected.
    """

    def __init__(
        self,
        hub: Hub,
        stack: LaneStack,
        pictured: Callable[[], ColumnPreview | None],
        parent: QObject,
        measured: Callable[[], ColumnPreview | None] | None = None,
    ) -> None:
        super().__init__(parent)
        self.hub, self.stack, self.pictured, self.measured = hub, stack, pictured, measured or pictured
        stack.rows_picked.connect(lambda rows, modifiers: self._select(rows, modifiers, ""))
        stack.interval_chosen.connect(self._interval)

    def _interval(self, low: float, high: float, modifiers: Qt.KeyboardModifier) -> None:
        analysis, measured = self.pictured(), self.measured()
        if analysis is None or measured is None:
            return
        imported = analysis.flag_basis
        x = self.stack.axis.positions(imported.sorted)
        first, last = int(np.searchsorted(x, low, side="left")), int(np.searchsorted(x, high, side="right"))
        rows = imported.rows[first:last]
        if measured is not analysis or not self.stack.axis.is_measured:
            # In the measured unit: from the smallest to the largest of these rows.
            values = measured.flag_basis.values[rows]
            low, high = (float(values.min()), float(values.max())) if rows.size else (low, high)
        ends = [measured.style.value(v) if np.isfinite(v) else "" for v in (low, high)]
        message = f"{measured.column.name} from {ends[0]} to {ends[1]}"
        if not ends[0] or not ends[1]:
            message = f"{measured.column.name} {'up to' if not ends[0] else 'from'} {ends[0] or ends[1]}"
        self._select(rows, modifiers, message)

    def _select(self, rows: Ints, modifiers: Qt.KeyboardModifier, origin: str) -> None:
        """Select ``rows`` of the column pictured; with a modifier held, beside what is selected of it already."""
        study, preview = self.hub.study, self.measured()
        if preview is None:
            return
        column = preview.column.name
        adding = modifiers & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        if not adding or column not in study.selection.cells:
            study.select(rows, origin, column=column)
            return
        before = study.selection.cells[column]
        toggled = modifiers & Qt.KeyboardModifier.ControlModifier
        rows = np.setxor1d(before, rows, assume_unique=True) if toggled else union(before, rows)
        study.select_these(study.selection.with_rows(column, rows))
