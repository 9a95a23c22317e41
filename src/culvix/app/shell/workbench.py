"""The workbench: rail, stages, margin and row tray around one study."""

from collections.abc import Callable, Iterator
from itertools import chain

from PyQt6.QtCore import QSettings, Qt, QTimer, pyqtSignal
from PyQt6.QtWidgets import QLayout, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from culvix.app.docks.rail import Rail
from culvix.app.docks.tray import Tray
from culvix.app.intake.margin import IntakeMargin
from culvix.app.intake.reading_bar import ReadingBar
from culvix.app.intake.stage import IntakeStage
from culvix.app.lanes.adjust_pane import AdjustPane
from culvix.app.lanes.lane_canvas import LaneCanvas
from culvix.app.outliers.margin import OutliersMargin
from culvix.app.outliers.stage import OUTLIER_LANES, OutliersStage
from culvix.app.relations.stage import RelationsStage
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.scheduler import task_queue
from culvix.app.shape.margin import ShapeMargin, scrolled
from culvix.app.shape.stage import ShapeStage
from culvix.app.survey.margin import SurveyMargin
from culvix.app.survey.stage import SurveyStage
from culvix.app.widgets.parts import panel
from culvix.charts.lanes.stack import DEFAULT_LANES
from culvix.study.study import Study
from culvix.tables.checks.table_checks import TableFinding
from culvix.tables.model.table import Role

__all__ = ["STAGES", "Workbench"]

STAGES = ["Intake", "Survey", "Shape", "Outliers", "Relations"]
_DONE = object()
_BETWEEN_MS = 5
"""Between two steps of making panes that are not shown yet, so that those shown go first."""
_FIRST_STRIPS = 200
"""Strips beyond these columns are worked out when they are opened."""


class Workbench(QWidget):
    """All panes of one study. Their sizes are the splitters' own and are kept by the window.

    The stage shown first is made before the bench stands, the others one by one afterwards, or when they are asked for.
    Every pane goes straight to its place: to move a finished one is as dear as to make it.
    """

    problem = pyqtSignal(str)
    asked = pyqtSignal(str)
    stage_requested = pyqtSignal(str)
    reread_requested = pyqtSignal(object)
    dictionary_requested = pyqtSignal()
    save_requested = pyqtSignal()
    export_requested = pyqtSignal()
    made = pyqtSignal(QWidget)
    """A pane was made and put into its place."""

    def __init__(self, hub: Hub, settings: QSettings) -> None:
        """An empty bench; `build` puts its panes in. ``settings`` hold what the panes remember."""
        super().__init__()
        self.hub, self.settings = hub, settings
        self._tray_requested = True
        self._made: dict[str, QWidget] = {}
        self._making = {
            "Survey": self._make_survey(),
            "Intake": self._make_intake(),
            "Shape": self._make_shape(),
            "Outliers": self._make_outliers(),
            "Relations": self._make_relations(),
        }
        self._rest = chain.from_iterable(self._making.values())
        self._margin_soon = configured(QTimer(self), singleShot=True, interval=_BETWEEN_MS)
        self._margin_soon.timeout.connect(self._show_margin)
        self._later = configured(QTimer(self), singleShot=True, interval=_BETWEEN_MS)
        self._later.timeout.connect(lambda: task_queue().take(self._make_more))

    # Making

    def build(self, first: str) -> Iterator[None]:
        """Make the frame and the stage called ``first``, in steps between which the window answers."""
        rail, tray = self._lay_out()
        yield
        self.rail = Rail(self.hub)
        self.rail.setMinimumWidth(150)
        rail.addWidget(self.rail)
        self.made.emit(self.rail)
        yield
        self.tray = Tray(self.hub)
        tray.addWidget(self.tray)
        self.made.emit(self.tray)
        self._watch(self.tray)
        self.hub.selection_changed.connect(self._show_tray)
        self.rail.chosen.connect(self.hub.set_focus)
        self.rail.left.connect(self.focus_data)
        self.tray.bar.released.connect(self.focus_data)
        self.tray.bar.went_on.connect(self._go_on)
        yield
        yield from self._making[first]

    def _make_more(self) -> None:
        """One step of making what is not shown yet; the work on the columns comes after the last."""
        if next(self._rest, _DONE) is not _DONE:
            self._later.start()
            return
        self.hub.jobs.release()

    def _pane(self, name: str, stage: str) -> QWidget:
        """A pane, made now where it is not there yet."""
        if name not in self._made:
            for _ in self._making[stage]:
                pass
        return self._made[name]

    def _put(self, name: str, pane: QWidget, position: QStackedWidget, stage: str) -> None:
        page = position.widget(STAGES.index(stage))
        inside = page.layout() if page is not None else None
        assert inside is not None
        inside.addWidget(pane)
        self._made[name] = pane
        self.made.emit(pane)

    def _watch(self, *panes: QWidget) -> None:
        for pane in panes:
            pane.problem.connect(self.problem)  # type: ignore[attr-defined]

    def _make_intake(self) -> Iterator[None]:
        bar = ReadingBar(self.hub.study.table.source, self.hub.study.table.rows)
        yield
        stage = IntakeStage(self.hub, bar)
        yield
        self._put("intake", stage, self.stages, "Intake")
        yield
        stage.show_reading()
        yield
        stage.view.fit()
        yield
        margin = IntakeMargin(self.hub)
        yield
        self._put("intake margin", scrolled(margin), self.margins, "Intake")
        self._made["intake margin"] = margin
        self._watch(stage, margin)
        stage.columns_chosen.connect(margin.show_columns)
        stage.reread_requested.connect(self.reread_requested)
        margin.dictionary_requested.connect(self.dictionary_requested)
        margin.save_requested.connect(self.save_requested)
        yield
        stage.follow()
        margin.show_columns([])
        yield

    def _make_survey(self) -> Iterator[None]:
        stage = SurveyStage(self.hub)
        self._put("survey", stage, self.stages, "Survey")
        yield
        margin = SurveyMargin(self.hub)
        self._put("survey margin", scrolled(margin), self.margins, "Survey")
        self._made["survey margin"] = margin
        self._watch(stage, margin)
        stage.opened.connect(self._open_in_shape)
        stage.export_requested.connect(self.export_requested)
        margin.checked.connect(stage.refresh)
        margin.exchange_requested.connect(self._ask_exchange)
        stage.recall(self.settings)
        margin.want()
        yield

    def _make_shape(self) -> Iterator[None]:
        canvas = LaneCanvas(lanes=())
        yield
        for name in DEFAULT_LANES:
            canvas.stack.make(name)
            yield
        canvas.stack.choose(DEFAULT_LANES)
        yield
        adjust = AdjustPane(self.hub)
        yield
        stage = ShapeStage(self.hub, canvas, adjust)
        yield
        self._put("shape", stage, self.stages, "Shape")
        yield
        margin = ShapeMargin(self.hub)
        self._put("shape margin", margin, self.margins, "Shape")
        self._watch(stage, margin)
        margin.asked.connect(self.asked)
        yield
        stage.recall(self.settings)
        margin.summary.recall(self.settings)
        yield
        stage.follow()
        yield

    def _make_outliers(self) -> Iterator[None]:
        canvas = LaneCanvas(lanes=())
        yield
        for name in OUTLIER_LANES:
            canvas.stack.make(name)
            yield
        canvas.stack.choose(OUTLIER_LANES)
        yield
        stage = OutliersStage(self.hub, canvas)
        yield
        self._put("outliers", stage, self.stages, "Outliers")
        yield
        margin = OutliersMargin(self.hub)
        self._put("outliers margin", scrolled(margin), self.margins, "Outliers")
        self._made["outliers margin"] = margin
        self._watch(stage, margin)
        margin.asked.connect(self.asked)
        stage.hand.moved.connect(margin.impact.show_what_if)
        yield
        stage.recall(self.settings)
        margin.recall(self.settings)
        stage.follow()
        yield

    def _make_relations(self) -> Iterator[None]:
        stage = RelationsStage(self.hub)
        self._put("relations", stage, self.stages, "Relations")
        self.margins.widget(STAGES.index("Relations")).layout().addWidget(scrolled(stage.margin))  # type: ignore[union-attr]
        self._watch(stage)
        yield

    # The panes

    @property
    def intake(self) -> IntakeStage:
        return self._pane("intake", "Intake")  # type: ignore[return-value]

    @property
    def intake_margin(self) -> IntakeMargin:
        return self._pane("intake margin", "Intake")  # type: ignore[return-value]

    @property
    def survey(self) -> SurveyStage:
        return self._pane("survey", "Survey")  # type: ignore[return-value]

    @property
    def survey_margin(self) -> SurveyMargin:
        return self._pane("survey margin", "Survey")  # type: ignore[return-value]

    @property
    def shape(self) -> ShapeStage:
        return self._pane("shape", "Shape")  # type: ignore[return-value]

    @property
    def shape_margin(self) -> ShapeMargin:
        return self._pane("shape margin", "Shape")  # type: ignore[return-value]

    @property
    def outliers(self) -> OutliersStage:
        return self._pane("outliers", "Outliers")  # type: ignore[return-value]

    @property
    def outliers_margin(self) -> OutliersMargin:
        return self._pane("outliers margin", "Outliers")  # type: ignore[return-value]

    @property
    def relations(self) -> RelationsStage:
        return self._pane("relations", "Relations")  # type: ignore[return-value]

    def _lay_out(self) -> tuple[QLayout, QLayout]:
        """The frames of the panes; returned are the places for rail and tray."""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 4, 6, 6)
        self.down = QSplitter(Qt.Orientation.Vertical)
        layout.addWidget(self.down)
        self.across = QSplitter(Qt.Orientation.Horizontal)
        self.down.addWidget(self.across)
        self.stages, self.margins = QStackedWidget(), QStackedWidget()
        for _ in STAGES:
            for position in (self.stages, self.margins):
                page = QWidget()
                QVBoxLayout(page).setContentsMargins(0, 0, 0, 0)
                position.addWidget(page)
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

    def finish(self) -> None:
        """Take over what is still being typed, and leave nothing to be done later."""
        self._later.stop()
        # A step may be waiting for its turn; there is no more to make.
        self._rest = chain()
        self.hub.jobs.release()
        for pane in (self._made.get("intake"), self._made.get("survey")):
            if isinstance(pane, IntakeStage | SurveyStage):
                pane.finish()

    def remember(self, settings: QSettings) -> None:
        """Write down what the panes are to recall."""
        for pane in self._made.values():
            if isinstance(pane, SurveyStage | ShapeStage | OutliersStage | OutliersMargin):
                pane.remember(settings)
            elif isinstance(pane, ShapeMargin):
                pane.summary.remember(settings)

    def begin(self) -> None:
        """Make the other panes, open the first column worth a look, and work out all columns in the background."""
        self.hub.jobs.hold()
        for column in self.hub.study.table.numeric[:_FIRST_STRIPS]:
            self.hub.want(column.name, urgent=False)
        first = first_column(self.hub.study)
        if first is not None:
            self.hub.set_focus(first)
        self._later.start()

    def _open_in_shape(self, column: str) -> None:
        self.hub.set_focus(column)
        self.stage_requested.emit("Shape")

    @property
    def stage(self) -> str:
        """The stage shown, by name."""
        return STAGES[self.stages.currentIndex()]

    def show_stage(self, position: int) -> None:
        for _ in self._making[STAGES[position]]:
            # Asked for before its turn.
            pass
        self.stages.setCurrentIndex(position)
        # The margin follows when the stage is painted: in one go they would hold up the window.
        self._margin_soon.start()
        self._show_tray()
        self.focus_data()
        # Intake and Survey list all columns themselves, and need the room.
        self.show_rail(STAGES[position] not in ("Intake", "Survey"))

    def step(self, by: int) -> None:
        """Walk to the next, or the previous, flagged value that is not decided."""
        self.outliers.list.step(by)

    def _go_on(self) -> None:
        """A value was decided with Enter: turn to the next, where flagged values are listed."""
        if self.stage == "Outliers":
            self.step(1)
        self.focus_data()

    def _ask_exchange(self, finding: TableFinding) -> None:
        """Ask whether the values of ``finding`` are to be exchanged; once they are, it is noted."""
        first, second = finding.columns
        self.hub.study.select(finding.rows, finding.evidence, column=first)
        self.tray.bar.ask_exchange(second, lambda: self.hub.study.note(finding, True))

    def focus_data(self) -> None:
        """Give the keyboard to the data of the stage shown."""
        data: dict[str, Callable[[], QWidget]] = {
            "Intake": lambda: self.intake.view,
            "Survey": lambda: self.survey.view,
            "Shape": lambda: self.shape.views.data,
            "Outliers": lambda: self.outliers.list.view,
            "Relations": lambda: self.relations.canvas,
        }
        data[self.stage]().setFocus(Qt.FocusReason.OtherFocusReason)

    def _show_margin(self) -> None:
        self.margins.setCurrentIndex(self.stages.currentIndex())

    def _show_tray(self) -> None:
        """The Intake needs the room of the row tray, unless rows are selected."""
        frame = self.tray.parentWidget()
        wanted = self.stage != "Intake" or bool(self.hub.study.selection)
        if frame is not None and wanted is not self._tray_requested:
            self._tray_requested = wanted
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
