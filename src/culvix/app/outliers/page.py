"""The Outliers stage on the workbench: flagged values, where they lie, and what deciding on them changes."""

from collections.abc import Iterator

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QWidget

from culvix.app.lanes.lane_canvas import LaneCanvas
from culvix.app.outliers.margin import OutliersMargin
from culvix.app.outliers.stage import OUTLIER_LANES, OutliersStage
from culvix.app.session.stage_page import StagePage, StageRow
from culvix.app.widgets.parts import scrolled

__all__ = ["OUTLIERS", "OutliersPage"]


class OutliersPage(StagePage):
    """The list of flagged values over the lanes, with impact, rules and history beside them."""

    stage: OutliersStage
    margin: OutliersMargin

    def make(self, settings: QSettings) -> Iterator[None]:
        canvas = LaneCanvas(lanes=())
        yield
        for name in OUTLIER_LANES:
            canvas.stack.make(name)
            yield
        canvas.stack.choose(OUTLIER_LANES)
        yield
        stage = self.stage = OutliersStage(self.hub, canvas)
        yield
        self.place(stage)
        yield
        margin = self.margin = OutliersMargin(self.hub)
        self.place_margin(scrolled(margin))
        for pane in (stage, margin):
            pane.problem.connect(self.requests.problem)
        margin.asked.connect(self.requests.guide)
        stage.hand.moved.connect(margin.impact.show_what_if)
        yield
        stage.recall(settings)
        margin.recall(settings)
        stage.follow()
        yield

    @property
    def data(self) -> QWidget:
        return self.stage.list.view

    def remember(self, settings: QSettings) -> None:
        self.stage.remember(settings)
        self.margin.remember(settings)

    def go_on(self) -> None:
        self.stage.list.step(1)


OUTLIERS = StageRow("Outliers", OutliersPage, lists_rows=True)
