"""The Survey on the workbench: every column in one line, and the quality of the table."""

from collections.abc import Iterator

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QWidget

from culvix.app.session.stage_page import StagePage, StageRow
from culvix.app.survey.margin import SurveyMargin
from culvix.app.survey.stage import SurveyStage
from culvix.app.widgets.parts import scrolled

__all__ = ["SURVEY", "SurveyPage"]


class SurveyPage(StagePage):
    """The lines of all columns, and what there is to know of the whole."""

    stage: SurveyStage
    margin: SurveyMargin

    def make(self, settings: QSettings) -> Iterator[None]:
        stage = self.stage = SurveyStage(self.hub)
        yield
        self.place(stage)
        yield
        margin = self.margin = SurveyMargin(self.hub)
        self.place_margin(scrolled(margin))
        for pane in (stage, margin):
            pane.problem.connect(self.requests.problem)
        stage.opened.connect(self._open_in_shape)
        stage.export_requested.connect(self.requests.export)
        margin.checked.connect(stage.refresh)
        margin.exchange_requested.connect(self.requests.exchange)
        stage.recall(settings)
        margin.request_update()
        yield

    def _open_in_shape(self, column: str) -> None:
        self.hub.set_focus(column)
        self.requests.stage.emit("Shape")

    @property
    def data(self) -> QWidget:
        return self.stage.view

    def remember(self, settings: QSettings) -> None:
        self.stage.remember(settings)

    def finish(self) -> None:
        self.stage.finish()


SURVEY = StageRow("Survey", SurveyPage, lists_columns=True)
