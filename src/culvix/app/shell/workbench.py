"""The workbench: rail, stages, margin and row tray around one study."""

import json
from collections.abc import Callable, Iterator
from itertools import chain

from PyQt6.QtCore import QSettings, Qt, QTimer
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QFrame, QLayout, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from culvix.app.docks.questions_pane import QuestionsPane
from culvix.app.docks.rail import Rail
from culvix.app.docks.tray import Tray
from culvix.app.groups.page import GroupsPage
from culvix.app.intake.page import IntakePage
from culvix.app.outliers.page import OutliersPage
from culvix.app.relations.page import RelationsPage
from culvix.app.report.page import ReportPage
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.scheduler import PaintingAfterwards, task_queue
from culvix.app.session.stage_page import StagePage, StageRequests, StageRow
from culvix.app.shape.page import ShapePage
from culvix.app.shell.parts.tray_room import TrayRoom
from culvix.app.shell.stages import STAGE_ROWS, STAGES
from culvix.app.survey.page import SurveyPage
from culvix.app.widgets.flow import LeastHighLayout
from culvix.app.widgets.parts import by_font, panel, scrolled
from culvix.report.remembered_pictures import RememberedPictures
from culvix.study.document.choices.selection import selection_of_view, view_of_selection
from culvix.study.study import Study
from culvix.tables.checks.table_checks import TableFinding
from culvix.tables.model.table import Role

__all__ = ["Workbench"]

_DONE = object()
_SIZES = "layout1/sizes"
_STAGE_BESIDE_RAIL = 440
"""The least width of a stage that leaves the rail its room, in pixels."""
_RAIL = 150
"""How wide the rail is at least to be of use, in pixels."""
_LEAST_STAGE = 360
"""The least width of a stage, in pixels: its controls flow into rows."""
_BETWEEN_MS = 5
"""Between two steps of making panes that are not shown yet, so that those shown go first."""
_FIRST_SPARKLINES = 200
"""Sparklines beyond these columns are worked out when they are opened."""


class Workbench(QWidget):
    """All panes of one study. Their sizes are the splitters' own and are kept by the window.

    The stage shown first is made before the bench stands, the others one by one afterwards, or when they are asked for.
    """

    def __init__(self, hub: Hub, settings: QSettings, pictures: RememberedPictures) -> None:
        """An empty bench; `build` puts its panes in. ``settings`` hold what the panes remember.

        ``pictures`` draws those of the report.
        """
        super().__init__()
        self.hub, self.settings = hub, settings
        self.requests = StageRequests(self, pictures)
        self.requests.exchange.connect(self._ask_exchange)
        self._focus_left = hub.study.document.view.focus
        """The column that was in focus when the study was kept, if it was."""
        self._pages: dict[str, StagePage] = {}
        self._stage_panes: list[QWidget] = []
        self._margin_panes: list[QWidget] = []
        self._wants_rail, self._rail_made = True, False
        self._steps: dict[str, Iterator[None]] = {}
        self._complete: set[str] = set()
        self._rest: Iterator[None] = iter(())
        self._margin_timer = configured(QTimer(self), singleShot=True, interval=_BETWEEN_MS)
        self._margin_timer.timeout.connect(self._show_margin)
        self._later = configured(QTimer(self), singleShot=True, interval=_BETWEEN_MS)
        self._later.timeout.connect(lambda: task_queue().take(self._make_more))

    # Making

    def build(self, first: str) -> Iterator[None]:
        """Make the frame and the stage called ``first``, in steps between which the window answers."""
        rail, tray = self._lay_out()
        self._prepare_pages()
        yield
        self.rail = Rail(self.hub)
        rail.addWidget(self.rail)
        self._rail_made = True
        self.requests.placed.emit(self.rail)
        yield
        self.tray = Tray(self.hub)
        yield
        tray.addWidget(self.tray)
        self.requests.placed.emit(self.tray)
        frame = self.tray.parentWidget()
        assert isinstance(frame, QFrame)
        self.tray_room = TrayRoom(self.tray, frame, self.down, self.settings)
        self.tray.problem.connect(self.requests.problem)
        yield
        self.questions = QuestionsPane(self.hub)
        self.margins.addWidget(self.questions)
        self.questions.problem.connect(self.requests.problem)
        self.questions.left.connect(self.toggle_questions)
        self.rail.chosen.connect(self.hub.set_focus)
        self.rail.left.connect(self.focus_data)
        self.tray.bar.released.connect(self.focus_data)
        self.tray.bar.went_on.connect(self._go_on)
        yield
        yield from self._steps[first]

    def _prepare_pages(self) -> None:
        for position, row in enumerate(STAGE_ROWS):
            places = (self._place(panes[position]) for panes in (self._stage_panes, self._margin_panes))
            page = self._pages[row.title] = row.page(self.hub, self.requests, *places)
            self._steps[row.title] = self._make(row.title, page)
        steps = (*self._steps.values(), *(page.make_rest() for page in self._pages.values()))
        self._rest = chain.from_iterable(steps)

    def _make(self, title: str, page: StagePage) -> Iterator[None]:
        yield from page.make(self.settings)
        self._complete.add(title)

    def _place(self, part: QWidget) -> Callable[[QWidget], None]:
        """What puts a widget into the ``part`` of the bench that belongs to one stage."""

        def place(pane: QWidget) -> None:
            inside = part.layout()
            assert inside is not None
            inside.addWidget(pane)
            self.requests.placed.emit(pane)

        return place

    def _make_more(self) -> None:
        """One step of making what is not shown yet; the work on the columns comes after the last."""
        if next(self._rest, _DONE) is not _DONE:
            self._later.start()
            return
        self.hub.jobs.release()

    def page(self, title: str) -> StagePage:
        """The page of a stage, made now where it is not there yet."""
        for _ in self._steps[title]:
            pass
        return self._pages[title]

    def is_made(self, title: str) -> bool:
        """Whether the page of a stage is complete."""
        return title in self._complete

    # The panes

    @property
    def intake(self) -> IntakePage:
        return self.page("Intake")  # type: ignore[return-value]

    @property
    def survey(self) -> SurveyPage:
        return self.page("Survey")  # type: ignore[return-value]

    @property
    def shape(self) -> ShapePage:
        return self.page("Shape")  # type: ignore[return-value]

    @property
    def outliers(self) -> OutliersPage:
        return self.page("Outliers")  # type: ignore[return-value]

    @property
    def report(self) -> ReportPage:
        return self.page("Report")  # type: ignore[return-value]

    @property
    def groups(self) -> GroupsPage:
        return self.page("Groups")  # type: ignore[return-value]

    @property
    def relations(self) -> RelationsPage:
        return self.page("Relations")  # type: ignore[return-value]

    def _lay_out(self) -> tuple[QLayout, QLayout]:
        """The frames of the panes; returned are the places for rail and tray."""
        layout = QVBoxLayout(self)
        layout.setContentsMargins(6, 4, 6, 6)
        self.down = QSplitter(Qt.Orientation.Vertical)
        layout.addWidget(self.down)
        self.across = QSplitter(Qt.Orientation.Horizontal)
        self.down.addWidget(self.across)
        self.stages, self.margins = QStackedWidget(), QStackedWidget()
        self._painting = PaintingAfterwards(self.stages)
        for _ in STAGE_ROWS:
            stage, beside = QWidget(), QWidget()
            LeastHighLayout(stage).setContentsMargins(0, 0, 0, 0)
            QVBoxLayout(beside).setContentsMargins(0, 0, 0, 0)
            self._stage_panes.append(stage)
            self._margin_panes.append(beside)
            # In a window too low for large letters a stage scrolls.
            self.stages.addWidget(scrolled(stage))
            self.margins.addWidget(beside)
        self.margins.setMinimumWidth(by_font(284))
        # Narrower than its words would like, so that the panes beside it can be widened.
        self.stages.setMinimumWidth(_LEAST_STAGE)
        (rail_frame, rail), (margin_frame, margin), (tray_frame, tray) = (panel(margins=(0, 0, 0, 0)) for _ in range(3))
        margin.addWidget(self.margins)
        for pane in (rail_frame, self.stages, margin_frame):
            self.across.addWidget(pane)
        # Shown where there is room for it, it must not make a narrow window wider before.
        rail_frame.hide()
        rail_frame.setMinimumWidth(1)
        self.across.setStretchFactor(1, 1)
        self.across.setSizes([by_font(178), 802, by_font(288)])
        self.sizes = _sizes_in(self.settings)
        self.across.splitterMoved.connect(lambda *_: self._note_sizes())
        self.across.setCollapsible(1, False)
        self.down.addWidget(tray_frame)
        self.down.setStretchFactor(0, 1)
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
        for title in self._complete:
            self._pages[title].finish()
        self.hub.study.change_view(**view_of_selection(self.hub.study.selection))

    def remember(self, settings: QSettings) -> None:
        """Write down what the panes are to recall."""
        self.tray_room.remember(settings)
        settings.setValue(_SIZES, json.dumps(self.sizes))
        for title in self._complete:
            self._pages[title].remember(settings)

    def begin(self) -> None:
        """Make the other panes, open the first column worth a look, and work out all columns in the background."""
        self.hub.jobs.hold()
        for column in self.hub.study.table.numeric[:_FIRST_SPARKLINES]:
            self.hub.request_analysis(column.name, urgent=False)
        for column in self.hub.study.table.columns[:_FIRST_SPARKLINES]:
            self.hub.request_bars(column.name)
        study, left = self.hub.study, self._focus_left
        first = left if left is not None and left in study.table else first_column(study)
        if first is not None:
            self.hub.set_focus(first)
        selected = selection_of_view(study.document.view, study.table)
        if selected:
            study.select_these(selected)
        self._later.start()

    def _note_sizes(self) -> None:
        """The panes of this stage were given other widths by hand."""
        self.sizes[self.stage] = self.across.sizes()

    @property
    def stage(self) -> str:
        """The stage shown, by name."""
        return STAGES[self.stages.currentIndex()]

    def show_stage(self, position: int) -> None:
        """Show a stage by its place in the working order."""
        row = STAGE_ROWS[position]
        self.page(row.title)
        self._painting.hold()
        left = self.stages.currentWidget()
        if left is not None and position != self.stages.currentIndex():
            # Out of sight, it is not laid out anew while the room for the next one is made.
            left.hide()
        if row.title in self.sizes:
            self.across.setSizes(self.sizes[row.title])
        self._show_tray(row)
        self.show_rail(not row.lists_columns)
        # The room beside the rail is there before the stage: laid out in the old one, it would be laid out twice.
        self.across.refresh()
        self.stages.setCurrentIndex(position)
        self.hub.study.change_view(stage=row.title)
        # The margin follows when the stage is painted: in one go they would hold up the window.
        if not self.shows_questions:
            self._margin_timer.start()
        self.focus_data()

    def step(self, by: int) -> None:
        """Walk to the next, or the previous, flagged value that is not decided."""
        self.outliers.stage.list.step(by)

    def _go_on(self) -> None:
        """A value was decided with Enter."""
        self.page(self.stage).go_on()
        self.focus_data()

    def _ask_exchange(self, finding: TableFinding) -> None:
        """Ask whether the values of ``finding`` are to be exchanged; once they are, it is noted."""
        first, second = finding.columns
        self.hub.study.select(finding.rows, finding.evidence, column=first)
        self.tray.bar.ask_exchange(second, lambda: self.hub.study.note(finding, True))

    def focus_data(self) -> None:
        """Give the keyboard to the data of the stage shown."""
        self.page(self.stage).data.setFocus(Qt.FocusReason.OtherFocusReason)

    def _show_margin(self) -> None:
        self.margins.setCurrentIndex(self.stages.currentIndex())

    def _show_tray(self, row: StageRow) -> None:
        """Open or fold the row tray as the stage of ``row`` wants it."""
        self.tray_room.show_for(row)

    @property
    def shows_questions(self) -> bool:
        """Whether the list of open questions stands beside the stage."""
        return self.margins.currentWidget() is self.questions

    def toggle_questions(self) -> None:
        """Show the list of open questions beside the stage, or what belongs there."""
        if self.shows_questions:
            self._show_margin()
            self.focus_data()
            return
        self._margin_timer.stop()
        self.margins.setCurrentWidget(self.questions)
        self.questions.begin()

    def next_question(self) -> None:
        """Turn to the next open question."""
        if self.shows_questions:
            self.questions.step(1)
        else:
            self.toggle_questions()

    def show_rail(self, requested: bool) -> None:
        """Show or hide the column rail; a window too narrow for it beside stage and margin has none."""
        self._wants_rail = requested
        frame = self.rail.parentWidget()
        if frame is not None:
            frame.setVisible(requested and self._has_room_for_rail)

    @property
    def _has_room_for_rail(self) -> bool:
        beside = by_font(_RAIL) + self.margins.minimumWidth() + 2 * self.across.handleWidth()
        return self.across.width() >= beside + _STAGE_BESIDE_RAIL

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self._rail_made:
            self.show_rail(self._wants_rail)


def _sizes_in(settings: QSettings) -> dict[str, list[int]]:
    """The widths of the panes in each stage, as far as they were written down."""
    try:
        found = json.loads(str(settings.value(_SIZES, "{}")))
        return {stage: list(map(int, sizes)) for stage, sizes in found.items() if stage in STAGES and len(sizes) == 3}
    except (ValueError, TypeError, AttributeError):
        # Preferences that another hand has spoilt are no reason not to start.
        return {}


def first_column(study: Study) -> str | None:
    """The column to open first: a measurement, or else anything numeric, or else anything."""
    table = study.table
    for column in table:
        if column.role in (Role.MEASURE, Role.COUNT):
            return column.name
    every = [*table.numeric, *table.columns]
    return every[0].name if every else None
