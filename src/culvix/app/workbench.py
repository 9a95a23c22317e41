"""The workbench: rail, stages, margin and row tray around one study."""

from collections.abc import Iterator

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QLayout, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from culvix.app.hub import Hub
from culvix.app.intake_margin import IntakeMargin
from culvix.app.intake_stage import IntakeStage
from culvix.app.lane_canvas import LaneCanvas
from culvix.app.margin import ShapeMargin, scrolled
from culvix.app.parts import panel
from culvix.app.rail import Rail
from culvix.app.relations_stage import RelationsStage
from culvix.app.shape_stage import ShapeStage
from culvix.app.survey_margin import SurveyMargin
from culvix.app.survey_stage import SurveyStage
from culvix.app.tray import Tray
from culvix.charts.stack import DEFAULT_LANES
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
        """An empty bench; `build` puts its panes in."""
        super().__init__()
        self.hub = hub
        self._tray_wanted = True

    def build(self) -> Iterator[None]:
        """Make the panes, each in a step of its own, so that the window answers between them.

        Every pane goes straight to its place: to move a finished one is as dear as to make it.
        """
        hub = self.hub
        rail, tray = self._lay_out()
        yield
        self.intake = IntakeStage(hub)
        self.stages.addWidget(self.intake)
        yield
        self.survey = SurveyStage(hub)
        self.stages.addWidget(self.survey)
        yield
        canvas = LaneCanvas(lanes=())
        for name in DEFAULT_LANES:
            canvas.stack.make(name)
            yield
        canvas.stack.choose(DEFAULT_LANES)
        yield
        self.shape = ShapeStage(hub, canvas)
        self.stages.addWidget(self.shape)
        yield
        self.relations = RelationsStage(hub)
        self.stages.addWidget(self.relations)
        yield
        self.intake_margin = IntakeMargin(hub)
        self.margins.addWidget(scrolled(self.intake_margin))
        yield
        self.survey_margin = SurveyMargin(hub)
        self.margins.addWidget(scrolled(self.survey_margin))
        self.shape_margin = ShapeMargin(hub)
        self.margins.addWidget(self.shape_margin)
        self.margins.addWidget(scrolled(self.relations.margin))
        yield
        self.rail = Rail(hub)
        self.rail.setMinimumWidth(150)
        rail.addWidget(self.rail)
        self.tray = Tray(hub)
        tray.addWidget(self.tray)
        yield
        self._connect()

    def _lay_out(self) -> tuple[QLayout, QLayout]:
        """The frames of the panes; returned are the places for rail and tray."""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 4, 6, 6)
        self.down = QSplitter(Qt.Orientation.Vertical)
        layout.addWidget(self.down)
        self.across = QSplitter(Qt.Orientation.Horizontal)
        self.down.addWidget(self.across)
        self.stages, self.margins = QStackedWidget(), QStackedWidget()
        self.margins.setMinimumWidth(274)
        # Narrower than its words would like, so that the panes beside it can be widened.
        self.stages.setMinimumWidth(600)
        (rail_frame, rail), (margin_frame, margin), (tray_frame, tray) = (panel(margins=(0, 0, 0, 0)) for _ in range(3))
        margin.addWidget(self.margins)
        for pane in (rail_frame, self.stages, margin_frame):
            self.across.addWidget(pane)
        self.across.setStretchFactor(1, 1)
        self.across.setSizes([178, 810, 280])
        self.across.setCollapsible(1, False)
        self.down.addWidget(tray_frame)
        self.down.setStretchFactor(0, 1)
        self.down.setSizes([590, 152])
        self.down.setCollapsible(0, False)
        for splitter in (self.across, self.down):
            splitter.setHandleWidth(6)
        return rail, tray

    def _connect(self) -> None:
        self.hub.selection_changed.connect(self._show_tray)
        self.rail.chosen.connect(self.hub.set_focus)
        self.shape_margin.asked.connect(self.asked)
        self.survey.opened.connect(self._open_in_shape)
        self.survey_margin.judged.connect(self.survey.refresh)
        self.intake.columns_chosen.connect(self.intake_margin.show_columns)
        margins = (self.intake_margin, self.survey_margin, self.shape_margin)
        for part in (self.intake, self.survey, self.shape, self.relations, self.tray, *margins):
            part.problem.connect(self.problem)

    def finish(self) -> None:
        """Take over what is still being typed, and leave nothing to be done later."""
        self.intake.finish()
        self.survey.finish()

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


def first_column(study: Study) -> str | None:
    """The column to open first: a measurement, or else anything numeric, or else anything."""
    table = study.table
    for column in table:
        if column.role in (Role.MEASURE, Role.COUNT):
            return column.name
    every = [*table.numeric, *table.columns]
    return every[0].name if every else None
