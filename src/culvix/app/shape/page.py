"""The Shape stage on the workbench: the lanes of one column, and its summary, tests and findings."""

from collections.abc import Iterator

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QToolButton, QWidget

from culvix.app.lanes.adjust_pane import AdjustPane
from culvix.app.lanes.lane_canvas import LaneCanvas
from culvix.app.session.stage_page import StagePage, StageRow
from culvix.app.shape.margin import ShapeMargin
from culvix.app.shape.stage import ShapeStage
from culvix.charts.lanes.stack import DEFAULT_LANES

__all__ = ["SHAPE", "ShapePage"]


class ShapePage(StagePage):
    """The column in focus in pictures and numbers."""

    stage: ShapeStage
    margin: ShapeMargin

    def make(self, settings: QSettings) -> Iterator[None]:
        canvas = LaneCanvas(lanes=())
        yield
        for name in DEFAULT_LANES:
            canvas.stack.make(name)
            yield
        canvas.stack.choose(DEFAULT_LANES)
        yield
        adjust = AdjustPane(self.hub)
        yield
        stage = self.stage = ShapeStage(self.hub, canvas, adjust)
        yield
        self.place(stage)
        yield
        margin = self.margin = ShapeMargin(self.hub)
        self.place_margin(margin)
        for pane in (stage, margin):
            pane.problem.connect(self.requests.problem)
        margin.asked.connect(self.requests.guide)
        yield
        stage.recall(settings)
        margin.summary.recall(settings)
        yield
        stage.follow()
        yield

    @property
    def picture_button(self) -> QToolButton:
        return self.stage.picture_button

    def make_rest(self) -> Iterator[None]:
        yield from self.stage.views.make_rest()

    @property
    def data(self) -> QWidget:
        return self.stage.views.data

    def remember(self, settings: QSettings) -> None:
        self.stage.remember(settings)
        self.margin.summary.remember(settings)


SHAPE = StageRow("Shape", ShapePage)
