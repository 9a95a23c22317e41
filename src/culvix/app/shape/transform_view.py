"""The column in focus as measured and, beside it, on another scale, which can become a column of its own."""

from collections import deque
from dataclasses import replace
from functools import partial

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from culvix.app.lanes.lane_canvas import LaneCanvas
from culvix.app.lanes.selecting import Selecting
from culvix.app.session.hub import Hub
from culvix.app.session.picture_settings import change_picture
from culvix.app.session.scheduler import paint_afterwards, task_queue
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import beside, label, row_of
from culvix.charts.export.picture_export import side_by_side
from culvix.charts.export.picture_files import Maker
from culvix.errors import Cancelled, CulvixError
from culvix.progress import Progress
from culvix.stats.describe.probe import row_at
from culvix.stats.display import correlation, number, signed
from culvix.stats.measured_style import MeasuredStyle, inverse_of
from culvix.stats.shape.axis_scale import LN_AXIS, LOG_AXIS
from culvix.stats.shape.power_transform import SEARCHED
from culvix.stats.shape.transform import SCALE_NAMES, judge, usual_transform
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.rescaled import Rescaled, rescale
from culvix.study.document.choices.settings import MEASURED
from culvix.study.pictures.column_pictures import shape_picture

__all__ = ["TransformView"]

_LANES = ("histogram", "box", "Q-Q")
_LOG = {"log10": LOG_AXIS, "ln": LN_AXIS}


class TransformView(QWidget):
    """Two stacks of the same lanes. The scale is a setting of the column."""

    problem = pyqtSignal(str)
    adopted = pyqtSignal(str)
    """The name of a new column."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.shown: Rescaled | None = None
        self.scale = Choice()
        self.scale.addItems(list(SCALE_NAMES.values()))
        self.scale.activated.connect(self._chosen)
        self.adopt = QPushButton("Adopt as new column")
        self.adopt.setToolTip("The new column follows this one and the decisions on it")
        self.adopt.clicked.connect(self._adopt)
        self.about = label("", wrap=True)
        self.canvases = (LaneCanvas(()), LaneCanvas(()))
        self.stacks = []
        for position, canvas in enumerate(self.canvases):
            stack = canvas.stack
            self.stacks.append(stack)
            Selecting(hub, stack, partial(self._pictured, position), self, partial(self._pictured, 0))
            stack.probe_moved.connect(partial(self._probe, position))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 4, 4, 4)
        layout.setSpacing(3)
        layout.addLayout(flow_of(label("As measured, and as", "quiet"), self.scale, 0, self.adopt))
        layout.addWidget(self.about)
        self.both = row_of(*self.canvases, spacing=2)
        for canvas in self.canvases:
            self.both.setStretchFactor(canvas, 1)
        layout.addLayout(self.both, 1)
        self._undrawn: list[int] = []
        # Lane by lane while the other scale is worked out, so that the window answers between them.
        self._unmade = deque((stack, name) for stack in self.stacks for name in _LANES)
        task_queue().take(self._make_one)

    def _make_one(self) -> None:
        """Make the next lane; with the last one of a stack it stands, with the last of all something can be drawn."""
        if not self._unmade:
            self._draw()
            return
        stack, name = self._unmade.popleft()
        stack.make(name)
        if not any(other is stack for other, _ in self._unmade):
            stack.choose(_LANES)
        task_queue().take(self._make_one)

    def _pictured(self, position: int) -> ColumnAnalysis | None:
        return None if self.shown is None else (self.shown.before, self.shown.after)[position]

    @property
    def key(self) -> str:
        """The scale chosen for the column in focus, or else the usual one that takes its values."""
        axis, analysis = self.hub.study.settings.of(self.hub.focus or "").axis, self.hub.analysis
        if axis != MEASURED:
            return axis
        return next(iter(SCALE_NAMES)) if analysis is None else usual_transform(analysis.sample)

    def request_update(self) -> None:
        """Show the column in focus on the scale chosen for it, worked out in the background."""
        analysis, key = self.hub.analysis, self.key
        self.scale.setCurrentIndex(list(SCALE_NAMES).index(key))
        if analysis is None:
            self._say("It is being worked out …")
            return
        if self.shown is not None and self.shown.before is analysis and self.shown.scale.key == key:
            self._draw()
            return

        def work(progress: Progress) -> Rescaled:
            return rescale(analysis, key, progress)

        self.hub.start("another scale", work, self._arrived, failed=self._refused, priority=12)

    def _arrived(self, found: Rescaled) -> None:
        if found.before is self.hub.analysis:
            self.shown = found
            task_queue().soon(self._draw)

    def _refused(self, error: Exception) -> None:
        self.shown = None
        if isinstance(error, Cancelled):
            self._say(f"{error} Choose the scale again to have it worked out.")
        else:
            self._say(f"{error} Another scale, or a decision on those rows, makes it possible.")

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self

    def maker(self) -> Maker | None:
        """What makes both stacks anew at any size, side by side."""
        if self.shown is None:
            return None
        sides = [(stack.picture, stack.column_scale, stack.title) for stack in self.stacks]

        def make(width: int, height: int) -> QWidget:
            drawn = [(picture, scale, title) for picture, scale, title in sides if picture is not None]
            view: QWidget = side_by_side(drawn, _LANES, width, height)
            return view

        return make

    def _say(self, message: str) -> None:
        self.about.setText(message)
        self.adopt.setEnabled(self.shown is not None)
        self.canvases[1].setVisible(self.shown is not None)
        self.canvases[0].setVisible(self.shown is not None)

    def _draw(self) -> None:
        """Show both sides, one after the other; before their lanes are made there is nothing to show them in."""
        found = self.shown
        if found is None or self._unmade or found.before is not self.hub.analysis:
            return
        study = self.hub.study
        # Upright lanes are narrow: of them one stack stands under the other.
        self.both.setDirection(beside(not study.settings.upright))
        self._say(_judgement(found))
        measured = found.before.column.title
        self.stacks[1].column_scale = _LOG.get(found.scale.key)
        self.stacks[1].title = f"{measured}, log scale" if found.scale.key in _LOG else ""
        self._undrawn = [0, 1]
        task_queue().take(self._draw_one)

    def _draw_one(self) -> None:
        """Draw the next side, painted in a step of its own; after the last one comes the probe."""
        found, study = self.shown, self.hub.study
        if found is None or not self._undrawn:
            return
        position = self._undrawn.pop(0)
        stack, analysis = self.stacks[position], (found.before, found.after)[position]
        refit = stack.picture is None or stack.picture.title != analysis.column.title
        selected = study.selection.in_column(found.before.column.name)
        picture = shape_picture(analysis, found.working, selected, study.settings, measured=True)
        back = inverse_of(found.scale)
        if position and back is not None:
            # What is read off the picture is in the unit that was measured.
            digits = found.before.style.value_decimals, found.before.style.statistic_decimals
            picture = replace(picture, style=MeasuredStyle(*digits, inverse=back))
        stack.show_picture(picture, refit=refit)
        paint_afterwards(self.canvases[position])
        task_queue().take(self._draw_one if self._undrawn else self._probe_median)

    def _probe_median(self) -> None:
        median = None if self.shown is None else self.shown.before.description.median
        if median is not None:
            self._probe(0, float(median))

    def _probe(self, position: int, value: float) -> None:
        """Move the probe of one side to ``value``, and that of the other to where the same rows stand there."""
        if self.shown is None:
            return
        here, there = self.shown.before.sample, self.shown.after.sample
        if position:
            here, there = there, here
        self.stacks[position].set_probe(value)
        # Every scale keeps the order or turns it round, so the nearest row is enough.
        nearest = row_at(here, value)
        if nearest is not None and np.isfinite(there.values[nearest[0]]):
            self.stacks[1 - position].set_probe(float(there.values[nearest[0]]))

    def _chosen(self, position: int) -> None:
        try:
            change_picture(self.hub, axis=list(SCALE_NAMES)[position])
        except CulvixError as error:
            self.problem.emit(error.sentence)
        self.request_update()

    def _adopt(self) -> None:
        if self.shown is None:
            return
        try:
            name = self.hub.study.derive(self.shown.before.column.name, self.shown.scale)
        except CulvixError as error:
            self.problem.emit(error.sentence)
            return
        self.adopted.emit(name)


def _judgement(found: Rescaled) -> str:
    """Both shapes in numbers, and the fitted power."""
    before, after = judge(found.before.sample), judge(found.after.sample)
    message = f"Skewness {signed(before.skewness)} → {signed(after.skewness)}"
    pairs = [correlation(j.qq_correlation) for j in (before, after)]
    message += f" · Q-Q correlation {pairs[0]} → {pairs[1]}"
    if found.fit is not None:
        low, high = found.fit.interval
        ends = f"below {number(-SEARCHED, 0)}" if low is None else number(low, 2)
        ends += " to " + (f"above {number(SEARCHED, 0)}" if high is None else number(high, 2))
        message += f" · λ {number(found.fit.power, 3)} (95 %: {ends})"
        if found.fit.plain == 1:
            message += ", where 1 lies: no power is called for"
        elif found.fit.plain is not None:
            message += f", nearest plain power {number(found.fit.plain, 1).removesuffix('.0')}"
        if found.fit.note is not None:
            message += f". {found.fit.note}"
    return message
