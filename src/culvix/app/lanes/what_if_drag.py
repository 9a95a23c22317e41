"""What if this value were another: one point dragged along the axis, every number and limit following it."""

from collections.abc import Callable

import numpy as np
from PyQt6.QtCore import QObject, Qt, pyqtSignal

from culvix.app.session.hub import Hub
from culvix.charts.lanes.points_lane import PointsLane
from culvix.charts.lanes.span_lane import SpanLane
from culvix.charts.lanes.stack import LaneStack
from culvix.errors import CulvixError
from culvix.stats.display import significant
from culvix.study.analysis.column_analysis import ColumnPreview
from culvix.study.analysis.outliers.what_if import WhatIf, what_if
from culvix.study.pictures.column_pictures import with_span

__all__ = ["WhatIfDrag"]


class WhatIfDrag(QObject):
    """While it is on, the one selected row has a handle in the points lane. Let go, everything is as it was."""

    problem = pyqtSignal(str)
    moved = pyqtSignal(object)
    """A `WhatIf` while a point is held, None when it is let go."""

    def __init__(self, hub: Hub, stack: LaneStack, parent: QObject, say: Callable[[str], None]) -> None:
        super().__init__(parent)
        self.hub, self.stack, self.say = hub, stack, say
        self.on = False
        self.now: WhatIf | None = None
        stack.grabbed.connect(self._grabbed)

    def set_active(self, on: bool) -> None:
        """Show the handle, or take it away."""
        self.on = on
        self.let_go()
        self.show_handle()

    @property
    def row(self) -> int | None:
        """The one selected row with a value in use, None where there is none."""
        preview = self.hub.preview
        rows = self.hub.study.selection.in_column(preview.column.name if preview is not None else "")
        if not self.on or preview is None or rows.size != 1 or not np.isfinite(preview.sample.values[rows[0]]):
            return None
        return int(rows[0])

    def show_handle(self) -> None:
        """Put the handle where the selected row stands."""
        lane, row, preview = self.stack.lane(PointsLane), self.row, self.hub.preview
        assert isinstance(lane, PointsLane)
        lane.show_mover(row or 0, None if row is None or preview is None else self._place(preview, row))
        if self.on:
            self.say("Drag the diamond along the axis." if row is not None else "Select one row with a value first.")
        else:
            self.say("")

    def _place(self, preview: ColumnPreview, row: int) -> float:
        """Where the value of ``row`` stands on the axis."""
        return self.stack.axis.position(float(preview.sample.values[row]))

    def _grabbed(self, name: str, _: int, position: float, finished: bool, __: Qt.KeyboardModifier) -> None:
        if name == PointsLane.name and self.row is not None:
            if finished:
                self.let_go()
            else:
                self.move_to(self.stack.value_at(position))

    def move_to(self, value: float) -> None:
        """Show everything as it would be with the selected row at ``value`` (the column's unit)."""
        preview, row, picture = self.hub.preview, self.row, self.stack.picture
        if preview is None or row is None or picture is None:
            return
        try:
            found = self.now = what_if(preview, row, value)
        except CulvixError as error:
            self.problem.emit(error.sentence)
            return
        points, spans = self.stack.lane(PointsLane), self.stack.lane(SpanLane)
        assert isinstance(points, PointsLane) and isinstance(spans, SpanLane)
        points.show_mover(row, self._place(preview, row), self.stack.axis.position(value))
        drawn = picture
        for key, result in found.results.items():
            if result.lower is not None and result.upper is not None:
                drawn = with_span(drawn, key, result.lower, result.upper, found.flag_basis)
        spans.show_picture(drawn)
        spans.show_ghost(picture.spans)
        flagged = sum(bool(np.isin(row, result.rows)) for result in found.results.values())
        self.say(f"At {significant(value)}, flagged by {flagged} of {len(found.results)}. Let go: nothing is changed.")
        self.moved.emit(found)

    def let_go(self) -> None:
        """Put everything back as it was."""
        if self.now is None:
            return
        self.now = None
        spans = self.stack.lane(SpanLane)
        assert isinstance(spans, SpanLane)
        spans.show_ghost(())
        if self.stack.picture is not None:
            spans.show_picture(self.stack.picture)
        self.show_handle()
        self.moved.emit(None)
