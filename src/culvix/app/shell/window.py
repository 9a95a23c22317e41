"""The main window: menus, the top strip, the banner for problems, and a workbench once a table is open."""

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtCore import QByteArray, QSettings, Qt, QTimer
from PyQt6.QtGui import (
    QAction,
    QCloseEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeySequence,
    QMoveEvent,
    QResizeEvent,
)
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.session.data_keys import DataKeys
from culvix.app.session.jobs import JobRunner
from culvix.app.session.scheduler import task_queue
from culvix.app.shell.arriving import Arriving
from culvix.app.shell.banner import Banner
from culvix.app.shell.commands import COMMANDS, MENUS
from culvix.app.shell.free_memory import FreeMemory
from culvix.app.shell.guide_pane import GuidePane
from culvix.app.shell.opening import Opening
from culvix.app.shell.theme import dress
from culvix.app.shell.top_strip import TopStrip
from culvix.app.shell.workbench import STAGES, Workbench
from culvix.app.widgets.parts import label
from culvix.errors import CulvixError
from culvix.report.render_process import RenderProcess
from culvix.stats.display import count
from culvix.study import Study
from culvix.study.document.history import Act
from culvix.study.document.history_messages import act_text
from culvix.study.document.settings import replaced

__all__ = ["MainWindow"]

_LAYOUT_VERSION = 1
_CHANGED_MS = 800


class MainWindow(Opening):
    """One window, one study at a time."""

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        dress(self)
        self.setWindowTitle("Culvix")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.settings = settings if settings is not None else QSettings("culvix", "culvix")
        self.jobs = JobRunner(self)
        FreeMemory(self.jobs)
        self.guide = GuidePane(self)
        self.renderer = RenderProcess()
        self.bench: Workbench | None = None
        self._leaving = False
        self._building = None
        self._stepper = configured(QTimer(self), singleShot=True, interval=0)
        self._stepper.timeout.connect(self._step_on)
        self._changed = configured(QTimer(self), singleShot=True, interval=_CHANGED_MS)
        self._changed.timeout.connect(self._remember_change)
        self.strip = TopStrip(STAGES)
        self.banner = Banner()
        self.position = QVBoxLayout()
        self.position.setContentsMargins(0, 0, 0, 0)
        self.opening = self._build_opening()
        self.position.addWidget(self.opening)
        self.arriving = Arriving()
        self.arriving.hide()
        self.position.addWidget(self.arriving)
        body = QWidget()
        layout = QVBoxLayout(body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.strip)
        layout.addWidget(self.banner)
        layout.addLayout(self.position, 1)
        self.setCentralWidget(body)
        self._build_commands()
        self.strip.stage_chosen.connect(self.show_stage)
        self.strip.cancel_requested.connect(self.jobs.cancel_loud)
        self.strip.report_requested.connect(self.ask_report)
        self.jobs.busy.connect(self.strip.work)
        self.jobs.idle.connect(self.strip.rest)
        self.jobs.failed.connect(self.complain)
        self._refresh_actions()

    # Building

    def _build_opening(self) -> QWidget:
        page = QWidget()
        layout = QVBoxLayout(page)
        layout.addStretch(2)
        centre = Qt.AlignmentFlag.AlignHCenter
        layout.addWidget(label("Drop a table here", "title"), 0, centre)
        layout.addWidget(label("delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite", "quiet"), 0, centre)
        layout.addSpacing(10)
        open_file, demo = QPushButton("Open a file …"), QPushButton("Open the example study")
        open_file.clicked.connect(self.ask_open)
        demo.clicked.connect(self.open_demo)
        copied = QPushButton("Open what was copied")
        copied.clicked.connect(self.open_copied)
        layout.addWidget(open_file, 0, centre)
        layout.addWidget(copied, 0, centre)
        layout.addWidget(demo, 0, centre)
        layout.addStretch(3)
        return page

    def _build_commands(self) -> None:
        """Put the commands into the menus, and their keys on the window."""
        bar = self.menuBar()
        assert bar is not None
        menus = {name: bar.addMenu(text) for name, text in MENUS.items()}
        self.actions_of_study: list[QAction] = []
        self._named_actions: dict[str, QAction] = {}
        for command in COMMANDS:
            action = QAction(command.text, self)
            action.triggered.connect(lambda _, command=command: command.act(self))
            action.setShortcuts([QKeySequence(key) for key in command.keys])
            # Keys of commands outside the menus work in the window all the same.
            self.addAction(action)
            menu = menus.get(command.menu)
            if menu is not None:
                if command.apart:
                    menu.addSeparator()
                menu.addAction(action)
            if command.needs_study:
                self.actions_of_study.append(action)
            if command.name:
                self._named_actions[command.name] = action
        self.undo_action, self.redo_action = self._named_actions["undo"], self._named_actions["redo"]
        self.keys = DataKeys(self, self.leave_field)

    # The study

    def _put(self, bench: Workbench, stage: str) -> None:
        study, hub = bench.hub.study, bench.hub
        if self.bench is not None:
            self._remember_layout()
            self.bench.finish()
            self._let_go(self.bench)
        self.opening.hide()
        self.arriving.hide()
        self.bench = bench
        bench.show()
        self._connect(bench)
        self.strip.show_study(hub)
        self.setWindowTitle(f"{study.name} — Culvix")
        self._restore_layout()
        self.show_stage(STAGES.index(stage))
        self._refresh_actions()
        # When it stands; in one go it would hold up the window.
        task_queue().soon(self._begin)

    def _begin(self) -> None:
        """Begin the work on the study shown, and say what was noticed on reading it."""
        if self.bench is None:
            return
        self.bench.begin()
        notes = (*self._lost, *self.bench.hub.study.table.source.notes)
        if notes:
            self.complain(" ".join(notes[: max(3, len(self._lost))]))

    def _connect(self, bench: Workbench) -> None:
        bench.problem.connect(self.complain)
        for splitter in (bench.across, bench.down):
            splitter.splitterMoved.connect(lambda *_: self._changed.start())
        bench.asked.connect(self.guide.open_at)
        bench.stage_requested.connect(lambda name: self.show_stage(STAGES.index(name)))
        bench.export_requested.connect(self.ask_survey)
        bench.reread_requested.connect(self.read_again)
        bench.dictionary_requested.connect(self.ask_dictionary)
        bench.save_requested.connect(self.ask_save_dictionary)
        hub = bench.hub
        hub.problem.connect(self.complain)
        hub.said.connect(self.tell)
        hub.data_changed.connect(self._refresh_actions)
        hub.settings_changed.connect(self._refresh_actions)
        hub.review_changed.connect(self._refresh_actions)
        for change in (hub.data_changed, hub.settings_changed, hub.focus_changed, hub.selection_changed):
            change.connect(self._words_are_old)

    def show_stage(self, position: int) -> None:
        """Show a stage by its place in the working order."""
        if self.bench is not None:
            self.bench.show_stage(position)
            self.strip.choose(position)

    def show_view(self, position: int) -> None:
        """Show a view of the Shape stage by its place."""
        if self.bench is not None:
            self.show_stage(STAGES.index("Shape"))
            self.bench.shape.show_view(position)

    def turn_lanes(self) -> None:
        """Let the values of all pictures run the other way: up, or to the right."""
        if self.bench is not None:
            study = self.bench.hub.study
            study.change_settings(replaced(study.settings, upright=not study.settings.upright))

    def toggle_pane(self, pane: str) -> None:
        """Show or hide the rail, the margins or the tray."""
        if self.bench is None:
            return
        inner: QWidget = getattr(self.bench, pane)
        frame = inner.parentWidget()
        if frame is not None:
            frame.setVisible(not frame.isVisible())

    def ask_guide(self) -> None:
        """Open the guide at what is in view."""
        analysis = self.bench.hub.analysis if self.bench is not None else None
        in_relations = self.bench is not None and self.bench.stage == "Relations"
        self.guide.open_at("pearson" if in_relations else analysis.verdict.method if analysis else "n")

    # Decisions

    def leave(self) -> None:
        """Leave the question in the place of the acts, or clear the selection."""
        if self.bench is not None and not self.bench.tray.bar.leave_question():
            self.bench.hub.study.select([])

    def leave_field(self) -> None:
        """Give the keyboard from a field back to the data, and nothing else."""
        if self.bench is not None:
            self.bench.tray.bar.leave_question()
            self.bench.focus_data()

    def undo(self) -> None:
        """Take back the latest act, and say which it was."""
        self._step("Undone", lambda study: study.undo())

    def redo(self) -> None:
        """Do the act undone last again, and say which it was."""
        self._step("Done again", lambda study: study.redo())

    def _step(self, message: str, move: Callable[[Study], Act]) -> None:
        if self.bench is None:
            return
        study = self.bench.hub.study
        try:
            self.strip.note.say(f"{message}: {act_text(study.table, move(study))}")
        except CulvixError as error:
            self.complain(error.sentence)

    def _refresh_actions(self) -> None:
        for action in self.actions_of_study:
            action.setEnabled(self.bench is not None)
        study = self.bench.hub.study if self.bench is not None else None
        undoable, redoable = (study.history.undoable, study.history.redoable) if study else (None, None)
        self.undo_action.setEnabled(undoable is not None)
        self.redo_action.setEnabled(redoable is not None)
        self.undo_action.setText(f"Undo: {undoable.label}" if undoable else "Undo")
        self.redo_action.setText(f"Redo: {redoable.label}" if redoable else "Redo")

    # Report

    # Words

    def _words_are_old(self) -> None:
        """Take down a sentence once the work has gone on; one with something to do about it stays."""
        self.strip.note.say("")
        if not self.banner.action.isVisible():
            self.banner.hide()

    @property
    def text(self) -> str:
        """The sentence shown now, empty where none is."""
        return self.banner.text.text() if self.banner.isVisible() else ""

    # Window

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls() and any(url.isLocalFile() for url in data.urls()):
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        data = event.mimeData() if event is not None else None
        if event is None or data is None:
            return
        files = [url.toLocalFile() for url in data.urls() if url.isLocalFile()]
        event.acceptProposedAction()
        if files:
            self.open_requested(Path(files[0]))
        if len(files) > 1:
            self.complain(f"{count(len(files))} files were dropped; the first of them is opened.")

    def moveEvent(self, event: QMoveEvent | None) -> None:
        super().moveEvent(event)
        self._changed.start()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._changed.start()

    def _remember_change(self) -> None:
        """Write down how the window stands, so that it is known however the program ends."""
        if self.bench is not None:
            self.bench.remember(self.settings)
            for name, splitter in (("across", self.bench.across), ("down", self.bench.down)):
                panes = (splitter.widget(position) for position in range(splitter.count()))
                # A hidden pane would be remembered as one without width.
                if all(pane is not None and pane.isVisibleTo(splitter) for pane in panes):
                    self.settings.setValue(f"layout{_LAYOUT_VERSION}/{name}", splitter.saveState())
        self.settings.setValue(f"layout{_LAYOUT_VERSION}/window", self.saveGeometry())

    def _remember_layout(self) -> None:
        if self.bench is not None:
            self.bench.show_rail(True)  # a hidden pane would be remembered as one without width
        self._remember_change()

    def _restore_layout(self) -> None:
        if self.bench is None:
            return
        for name, splitter in (("across", self.bench.across), ("down", self.bench.down)):
            state = self.settings.value(f"layout{_LAYOUT_VERSION}/{name}")
            if isinstance(state, QByteArray):
                splitter.restoreState(state)

    def restore_position(self) -> None:
        """Put the window where it was when it was closed last."""
        state = self.settings.value(f"layout{_LAYOUT_VERSION}/window")
        if isinstance(state, QByteArray):
            self.restoreGeometry(state)

    def close_anyway(self) -> None:
        """Close, whatever is lost with it."""
        self._leaving = True
        self.close()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        lost = "" if self._leaving else self.decisions_lost
        if lost and event is not None:
            event.ignore()
            self.offer(
                f"{lost} would be lost: they are not kept yet. Report and cleaned data can be saved first.",
                [("Quit all the same", self.close_anyway), ("Stay here", self.banner.hide)],
            )
            return
        self._remember_layout()
        self._stepper.stop()
        self._changed.stop()
        if self.bench is not None:
            self.bench.finish()
        self.jobs.shut_down()
        self.renderer.close()
        super().closeEvent(event)
