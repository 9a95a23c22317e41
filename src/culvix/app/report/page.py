"""The Report on the workbench: its pages, and the outline of what is in it."""

from collections.abc import Iterator

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QWidget

from culvix.app.report.outline_pane import OutlinePane
from culvix.app.report.stage import ReportStage
from culvix.app.session.stage_page import StagePage, StageRow
from culvix.app.widgets.parts import scrolled

__all__ = ["REPORT", "ReportPage"]


class ReportPage(StagePage):
    """What is chosen in the outline is on the pages at once."""

    stage: ReportStage
    outline: OutlinePane

    def make(self, settings: QSettings) -> Iterator[None]:
        self.stage = ReportStage(self.hub, self.requests.pictures)
        self.place(self.stage)
        yield
        self.outline = OutlinePane(self.hub)
        self.place_margin(scrolled(self.outline))
        self.outline.sought.connect(self.stage.pages.go_to)
        for pane in (self.stage, self.outline):
            pane.problem.connect(self.requests.problem)
        yield
        self.stage.recall(settings)
        yield

    @property
    def data(self) -> QWidget:
        return self.stage.pages

    @property
    def guide_key(self) -> str:
        return "report"

    def remember(self, settings: QSettings) -> None:
        self.stage.remember(settings)

    def finish(self) -> None:
        self.stage.finish()
        self.outline.finish()


REPORT = StageRow("Report", ReportPage, needs_tray_room=True, has_no_rows=True)
