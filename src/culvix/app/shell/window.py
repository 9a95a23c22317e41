"""The main window: menus, the top strip, the banner for problems, and a workbench once a table is open."""

from pathlib import Path

from PyQt6.QtCore import QSettings
from PyQt6.QtGui import (
    QAction,
    QCloseEvent,
    QContextMenuEvent,
    QDragEnterEvent,
    QDropEvent,
    QKeySequence,
    QMoveEvent,
    QResizeEvent,
)
from PyQt6.QtWidgets import QMainWindow, QVBoxLayout, QWidget

from culvix.app.session.data_keys import DataKeys
from culvix.app.session.jobs import JobRunner
from culvix.app.session.scheduler import task_queue
from culvix.app.shell.commands import COMMANDS, MENUS, Controllers
from culvix.app.shell.controllers.acting import Acting
from culvix.app.shell.controllers.context import WindowContext
from culvix.app.shell.controllers.hinting import Hinting
from culvix.app.shell.controllers.keeping import Keeping
from culvix.app.shell.controllers.layout_memory import LayoutMemory
from culvix.app.shell.controllers.opening import Opening
from culvix.app.shell.controllers.remembering import Remembering
from culvix.app.shell.controllers.saving import Saving
from culvix.app.shell.free_memory import FreeMemory
from culvix.app.shell.pages.guide_pane import GuidePane
from culvix.app.shell.parts.overlays import Banner, Hint, Remark
from culvix.app.shell.parts.top_strip import TopStrip
from culvix.app.shell.parts.words_menu import words_menu
from culvix.app.shell.stages import STAGES
from culvix.app.shell.theme import dress
from culvix.app.shell.workbench import Workbench
from culvix.report.render_process import RenderProcess
from culvix.stats.display import count

__all__ = ["MainWindow"]


class MainWindow(QMainWindow):
    """One window, one study at a time. What is done with it is the business of its controllers."""

    def __init__(self, settings: QSettings | None = None) -> None:
        super().__init__()
        dress(self)
        self.setWindowTitle("Culvix")
        self.setAcceptDrops(True)
        self.resize(1280, 800)
        self.settings = settings if settings is not None else QSettings("culvix", "culvix")
        self.jobs = JobRunner(self)
        FreeMemory(self.jobs)
        self.guide, self.strip, self.body = GuidePane(self), TopStrip(STAGES), QWidget()
        self.setCentralWidget(self.body)
        self.banner, self.remark = Banner(self.body, self.strip), Remark(self.body)
        self.renderer = RenderProcess()
        self.context = WindowContext(self, self.settings, self.jobs, self.renderer, self.banner, self.remark)
        self.layout_memory = LayoutMemory(self.context)
        self.hinting = Hinting(Hint(self.body), self.settings)
        self.acting = Acting(self.context, self.strip, self.guide, self.hinting)
        self.keys = DataKeys(self, self.acting.leave_field)
        self.keeping = Keeping(self.context)
        self.opening = Opening(self.context, self.keys.watch, lambda: self.keeping.is_safe)
        self.remembering = Remembering(self.context, self.keeping)
        self.saving = Saving(self.context, self.opening.read_again)
        self._leaving = False
        self._lay_out()
        self._build_commands()
        self._connect()
        self._refresh_actions()

    # Building

    def _lay_out(self) -> None:
        layout = QVBoxLayout(self.body)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(0)
        layout.addWidget(self.strip)
        layout.addLayout(self.opening.pages, 1)

    def _build_commands(self) -> None:
        """Put the commands into the menus, and their keys on the window."""
        bar = self.menuBar()
        assert bar is not None
        controllers = Controllers(self.opening, self.saving, self.keeping, self.acting, self.close)
        menus = {name: bar.addMenu(text) for name, text in MENUS.items()}
        self.actions_of_study: list[QAction] = []
        named: dict[str, QAction] = {}
        for command in COMMANDS:
            action = QAction(command.text, self)
            action.triggered.connect(lambda _, command=command: command.act(controllers))
            action.setShortcuts([QKeySequence(key) for key in command.keys])
            # Keys of commands outside the menus work in the window all the same.
            self.addAction(action)
            menu = menus.get(command.menu)
            if menu is not None:
                if command.separated:
                    menu.addSeparator()
                menu.addAction(action)
            if command.needs_study:
                self.actions_of_study.append(action)
            if command.name:
                named[command.name] = action
        self.undo_action, self.redo_action = named["undo"], named["redo"]

    def _connect(self) -> None:
        self.strip.stage_chosen.connect(self.acting.show_stage)
        self.strip.cancel_requested.connect(self.jobs.cancel_loud)
        self.strip.report_requested.connect(self.saving.ask_report)
        self.strip.questions_requested.connect(self._toggle_questions)
        self.opening.completed.connect(self._show_bench)
        self.keeping.changed.connect(lambda: self.strip.show_status(self.keeping.text))
        self.jobs.busy.connect(self.strip.work)
        self.jobs.idle.connect(self.strip.rest)
        self.jobs.failed.connect(self.context.complain)

    def _toggle_questions(self) -> None:
        """Show the list of open questions, or put it away."""
        if self.bench is not None:
            self.bench.toggle_questions()

    # The study

    @property
    def bench(self) -> Workbench | None:
        """The workbench shown, None before a table is open."""
        return self.context.bench

    def _show_bench(self, bench: Workbench, stage: str) -> None:
        """Show ``bench``, which is complete, at a stage in place of what was open."""
        before = self.context.bench
        if before is not None:
            self.layout_memory.remember_whole()
            before.finish()
            self.opening.let_go(before)
        self.context.bench = bench
        self.opening.show_bench(bench)
        self._follow(bench)
        self.strip.show_study(bench.hub)
        self.layout_memory.restore_panes(bench)
        self.acting.show_stage(STAGES.index(stage))
        self._refresh_actions()
        # When it stands; in one go it would hold up the window.
        task_queue().soon(self._begin)

    def _begin(self) -> None:
        """Begin the work on the study shown, let it keep itself, and say what was noticed on reading it."""
        if self.bench is None:
            return
        study = self.bench.hub.study
        self.setWindowTitle(f"{study.name} — Culvix")
        self.keeping.follow(study, self.opening.file, carried=self.opening.carried)
        self.bench.begin()
        messages = (self.keeping.note, *self.opening.lost)
        notes = tuple(note for note in (*messages, *study.table.source.notes) if note)
        if notes:
            self.context.complain(" ".join(notes[: max(3, len(messages))]))

    def _follow(self, bench: Workbench) -> None:
        """Do what the panes of ``bench`` ask for, and tell what its study says."""
        for splitter in (bench.across, bench.down):
            splitter.splitterMoved.connect(lambda *_: self.layout_memory.changed())
        requests, hub = bench.requests, bench.hub
        bench.rail.counted.connect(self.strip.show_open)
        self.strip.show_open(0)
        requests.problem.connect(self.context.complain)
        requests.guide.connect(self.guide.open_at)
        requests.stage.connect(lambda name: self.acting.show_stage(STAGES.index(name)))
        requests.export.connect(self.saving.ask_survey)
        requests.reread.connect(self.opening.read_again)
        requests.dictionary.connect(self.saving.ask_dictionary)
        requests.save_dictionary.connect(self.saving.ask_save_dictionary)
        hub.problem.connect(self.context.complain)
        hub.message.connect(self.context.tell)
        hub.data_changed.connect(self._refresh_actions)
        hub.settings_changed.connect(self._refresh_actions)
        hub.review_changed.connect(self._refresh_actions)
        for change in (hub.data_changed, hub.settings_changed, hub.focus_changed, hub.selection_changed):
            change.connect(self._take_down)

    def _refresh_actions(self) -> None:
        for action in self.actions_of_study:
            action.setEnabled(self.bench is not None)
        history = self.bench.hub.study.history if self.bench is not None else None
        undoable, redoable = (history.undoable, history.redoable) if history else (None, None)
        self.undo_action.setEnabled(undoable is not None)
        self.redo_action.setEnabled(redoable is not None)
        self.undo_action.setText(f"Undo: {undoable.label}" if undoable else "Undo")
        self.redo_action.setText(f"Redo: {redoable.label}" if redoable else "Redo")

    def _take_down(self) -> None:
        """Take down a sentence once the work has gone on; one with something to do about it stays."""
        self.strip.note.say("")
        if not self.banner.action.isVisible():
            self.banner.hide()

    @property
    def text(self) -> str:
        """The sentence shown now, empty where none is."""
        shown = next((each for each in (self.banner, self.remark) if each.isVisible()), None)
        return shown.text.text() if shown is not None else ""

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
            self.opening.open_requested(Path(files[0]))
        if len(files) > 1:
            self.context.complain(f"{count(len(files))} files were dropped; the first of them is opened.")

    def contextMenuEvent(self, event: QContextMenuEvent | None) -> None:
        menu = words_menu(self, event.pos()) if event is not None else None
        if menu is not None and event is not None:
            menu.popup(event.globalPos())

    def moveEvent(self, event: QMoveEvent | None) -> None:
        super().moveEvent(event)
        self.layout_memory.changed()

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self.layout_memory.changed()

    def restore_position(self) -> None:
        """Put the window where it was when it was closed last."""
        self.layout_memory.restore_window(self)

    def close_anyway(self) -> None:
        """Close, whatever is lost with it."""
        self._leaving = True
        self.close()

    def closeEvent(self, event: QCloseEvent | None) -> None:
        lost = "" if self._leaving else self.opening.decisions_lost
        if lost and event is not None:
            event.ignore()
            self.context.offer(
                f"{lost} would be lost: they are not kept yet. Report and cleaned data can be saved first.",
                [("Quit all the same", self.close_anyway), ("Stay here", self.banner.hide)],
            )
            return
        self.layout_memory.remember_whole()
        self.opening.stop()
        self.layout_memory.stop()
        if self.bench is not None:
            self.bench.finish()
        self.keeping.stop()
        self.remembering.stop()
        self.jobs.shut_down()
        self.renderer.close()
        super().closeEvent(event)
