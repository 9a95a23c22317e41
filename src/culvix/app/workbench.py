"""The workbench: rail, stages, margin and row tray around one study."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QSplitter, QStackedWidget, QVBoxLayout, QWidget

from culvix.app.hub import Hub
from culvix.app.intake_margin import IntakeMargin
from culvix.app.intake_stage import IntakeStage
from culvix.app.margin import ShapeMargin, scrolled
from culvix.app.parts import panel
from culvix.app.rail import Rail
from culvix.app.relations_stage import RelationsStage
from culvix.app.shape_stage import ShapeStage
from culvix.app.survey_margin import SurveyMargin
from culvix.app.survey_stage import SurveyStage
from culvix.app.tray import Tray
from culvix.study.study import Study
from culvix.tables.table import Role

__all__ = ["STAGES", "Workbench"]

STAGES = ["Intake", "Survey", "Shape", "Relations"]
_FIRST_STRIPS = 200
"""Strips beyond these columns are worked out when they are opened."""


class Workbench(QWidget):
    """All panes of one study. Their sizes are the splitters' own and are kept by the window."""

    problem = pyqtSignal(str)
    asked = pyqtSignal(str)
    stage_wanted = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.rail = Rail(hub)
        self.intake = IntakeStage(hub)
        self.survey = SurveyStage(hub)
        self.shape = ShapeStage(hub)
        self.relations = RelationsStage(hub)
        self.intake_margin = IntakeMargin(hub)
        self.survey_margin = SurveyMargin(hub)
        self.shape_margin = ShapeMargin(hub)
        self.tray = Tray(hub)
        self.stages = QStackedWidget()
        self.margins = QStackedWidget()
        for stage, margin in (
            (self.intake, scrolled(self.intake_margin)),
            (self.survey, scrolled(self.survey_margin)),
            (self.shape, self.shape_margin),
            (self.relations, scrolled(self.relations.margin)),
        ):
            self.stages.addWidget(stage)
            self.margins.addWidget(margin)
        self.across = QSplitter(Qt.Orientation.Horizontal)
        for pane in (_framed(self.rail), self.stages, _framed(self.margins)):
            self.across.addWidget(pane)
        self.across.setStretchFactor(1, 1)
        self.rail.setMinimumWidth(150)
        self.margins.setMinimumWidth(274)
        self.across.setSizes([178, 810, 280])
        self.across.setCollapsible(1, False)
        self.down = QSplitter(Qt.Orientation.Vertical)
        self.down.addWidget(self.across)
        self.down.addWidget(_framed(self.tray))
        self.down.setStretchFactor(0, 1)
        self.down.setSizes([590, 152])
        self.down.setCollapsible(0, False)
        for splitter in (self.across, self.down):
            splitter.setHandleWidth(6)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 4, 6, 6)
        layout.addWidget(self.down)
        self._tray_wanted = True
        hub.selection_changed.connect(self._show_tray)
        self.rail.chosen.connect(hub.set_focus)
        self.shape_margin.asked.connect(self.asked)
        self.survey.opened.connect(self._open_in_shape)
        self.survey_margin.judged.connect(self.survey.refresh)
        self.intake.columns_chosen.connect(self.intake_margin.show_columns)
        margins = (self.intake_margin, self.survey_margin, self.shape_margin)
        for part in (self.intake, self.survey, self.shape, self.relations, self.tray, *margins):
            part.problem.connect(self.problem)

    def begin(self) -> None:
        """Open the first column worth a look and work out the strips of the others in the background."""
        table = self.hub.study.table
        for column in table.numeric[:_FIRST_STRIPS]:
            self.hub.want(column.name, urgent=False)
        self.survey_margin.want()
        first = first_column(self.hub.study)
        if first is not None:
            self.hub.set_focus(first)

    def _open_in_shape(self, column: str) -> None:
        self.hub.set_focus(column)
        self.stage_wanted.emit("Shape")

    @property
    def stage(self) -> str:
        """The stage shown, by name."""
        return STAGES[self.stages.currentIndex()]

    def show_stage(self, place: int) -> None:
        self.stages.setCurrentIndex(place)
        self.margins.setCurrentIndex(place)
        self._show_tray()
        # Intake and Survey list all columns themselves, and need the room.
        self.show_rail(STAGES[place] not in ("Intake", "Survey"))

    def _show_tray(self) -> None:
        """The Intake needs the room of the row tray, unless rows are selected."""
        frame = self.tray.parentWidget()
        wanted = self.stage != "Intake" or bool(self.hub.study.selection)
        if frame is not None and wanted is not self._tray_wanted:
            self._tray_wanted = wanted
            frame.setVisible(wanted)

    def show_rail(self, wanted: bool) -> None:
        """Show or hide the column rail."""
        frame = self.rail.parentWidget()
        if frame is not None:
            frame.setVisible(wanted)


def _framed(inner: QWidget) -> QWidget:
    frame, layout = panel(margins=(0, 0, 0, 0))
    layout.addWidget(inner)
    return frame


def first_column(study: Study) -> str | None:
    """The column to open first: a measurement, or else anything numeric, or else anything."""
    table = study.table
    for column in table:
        if column.role in (Role.MEASURE, Role.COUNT):
            return column.name
    every = [*table.numeric, *table.columns]
    return every[0].name if every else None
