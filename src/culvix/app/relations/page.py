"""The Relations on the workbench: pairs by strength, and the chosen one."""

from collections.abc import Iterator

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QToolButton, QWidget

from culvix.app.relations.matrix_pane import MatrixPane
from culvix.app.relations.pairs.pair_canvas import PairCanvas
from culvix.app.relations.pairs.pair_margin import PairMargin
from culvix.app.relations.pairs.pair_pane import PairPane
from culvix.app.relations.stage import RelationsStage
from culvix.app.session.stage_page import StagePage, StageRow
from culvix.app.widgets.parts import scrolled
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.plots.scatter import PairPlot

__all__ = ["RELATIONS", "RelationsPage"]


class RelationsPage(StagePage):
    """All pairs in a square or as a list, and the chosen one."""

    stage: RelationsStage
    margin: PairMargin

    def make(self, settings: QSettings) -> Iterator[None]:
        matrix = MatrixPane(self.hub)
        yield
        plot = PairPlot()
        yield
        lanes = HistogramLane(), HistogramLane(upright=True)
        yield
        canvas = PairCanvas(plot, lanes)
        yield
        pane = PairPane(self.hub, canvas)
        yield
        self.stage = RelationsStage(self.hub, matrix, pane)
        self.margin = self.stage.margin
        yield
        self.stage.add_categories()
        yield
        self.stage.add_picture_button()
        yield
        self.place(self.stage)
        yield
        self.place_margin(scrolled(self.margin))
        self.stage.problem.connect(self.requests.problem)
        yield
        self.stage.follow()
        yield

    @property
    def data(self) -> QWidget:
        return self.stage.data

    @property
    def picture_button(self) -> QToolButton:
        return self.stage.picture_button

    @property
    def guide_key(self) -> str:
        return "pearson"


RELATIONS = StageRow("Relations", RelationsPage)
