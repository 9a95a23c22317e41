"""The Intake on the workbench: how the file was read, and what is said of its columns."""

from collections.abc import Iterator

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QWidget

from culvix.app.intake.margin import IntakeMargin
from culvix.app.intake.reading_bar import ReadingBar
from culvix.app.intake.stage import IntakeStage
from culvix.app.session.stage_page import StagePage, StageRow
from culvix.app.widgets.parts import scrolled

__all__ = ["INTAKE", "IntakePage"]


class IntakePage(StagePage):
    """The table as read, with its questions, and the dictionary beside it."""

    stage: IntakeStage
    margin: IntakeMargin

    def make(self, settings: QSettings) -> Iterator[None]:
        table, requests = self.hub.study.table, self.requests
        bar = ReadingBar(table.source, table.rows)
        yield
        stage = self.stage = IntakeStage(self.hub, bar)
        yield
        self.place(stage)
        yield
        stage.show_reading()
        yield
        stage.view.fit()
        yield
        margin = self.margin = IntakeMargin(self.hub)
        yield
        self.place_margin(scrolled(margin))
        for pane in (stage, margin):
            pane.problem.connect(requests.problem)
        stage.columns_chosen.connect(margin.show_columns)
        stage.reread_requested.connect(requests.reread)
        margin.dictionary_requested.connect(requests.dictionary)
        margin.save_requested.connect(requests.save_dictionary)
        yield
        stage.follow()
        margin.show_columns([])
        yield

    @property
    def data(self) -> QWidget:
        return self.stage.view

    def finish(self) -> None:
        self.stage.finish()


INTAKE = StageRow("Intake", IntakePage, lists_columns=True, needs_tray_room=True)
