"""How the window opens a table: its first rows at once, the whole in the background, the workbench step by step."""

import sys
from collections.abc import Callable, Iterator
from functools import partial
from pathlib import Path

from PyQt6.QtCore import QObject, QProcess, QTimer, pyqtSignal
from PyQt6.QtWidgets import QFileDialog, QVBoxLayout, QWidget

from culvix.app.intake.arriving import Arriving
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.shell.controllers.connecting import Connecting
from culvix.app.shell.controllers.context import WindowContext
from culvix.app.shell.controllers.pasting import pasted_file
from culvix.app.shell.controllers.preferring import Preferring
from culvix.app.shell.controllers.reopening import Reopening
from culvix.app.shell.controllers.start_lists import StartLists
from culvix.app.shell.pages.start_page import StartPage
from culvix.app.shell.workbench import Workbench
from culvix.app.widgets.accessible import name_controls
from culvix.app.widgets.parts import shortened
from culvix.errors import Cancelled, CulvixError, DecisionError, WriteError
from culvix.progress import Progress
from culvix.stats.display import plural
from culvix.study import Study
from culvix.study.carrying.carry_over import CarriedOver, carry_over
from culvix.study.document.history.messages import acts_between
from culvix.study.recipes.applying import Applied, apply_recipe
from culvix.study.recipes.recipe_format import load_recipe
from culvix.study.storage.drafts import SUFFIX
from culvix.study.storage.schema import is_study_file
from culvix.tables import Table, read_table
from culvix.tables.model.dictionary import Dictionary
from culvix.tables.model.options.read_options import PLAIN, ReadOptions
from culvix.tables.model.options.reading_questions import Choice
from culvix.tables.model.raw_table import RawTable
from culvix.tables.reading.preview import preview
from culvix.tables.text.ragged import RaggedLines

__all__ = ["Opening"]

_DONE = object()
_LONG = 1 << 23
"""A file of so many bytes is read in a moment; a longer one shows its first rows meanwhile."""
_FIRST_PAINT_MS = 60

_KINDS = (
    f"Tables and studies (*{SUFFIX} *.csv *.tsv *.txt *.tab *.dat *.gz *.zst *.xlsx *.ods *.parquet *.arrow *.feather "
    "*.json *.ndjson *.jsonl *.sqlite *.db)",
    f"Studies (*{SUFFIX})",
    "All files (*)",
)


def _size_of(path: Path) -> int:
    """How long a file is; one that is gone by now is told of when it is read."""
    try:
        return path.stat().st_size
    except OSError:
        return 0


class Opening(QObject):
    """Takes a file and shows it when it is there, on one of three pages: start, first rows, or a workbench."""

    completed = pyqtSignal(QWidget, str)
    """A workbench is complete, and is to be shown at a stage in place of what was open."""

    def __init__(self, context: WindowContext, watch: Callable[[QWidget], None], is_kept: Callable[[], bool]) -> None:
        """``watch`` is told of every pane that is made; ``is_kept`` tells whether the open study keeps itself."""
        super().__init__(context.window)
        self.context, self.watch, self.is_kept = context, watch, is_kept
        self.lost: tuple[str, ...] = ()
        """What an earlier reading had and the study shown has not."""
        self.carried = False
        """Whether the study shown has the work of another one in it."""
        self.file: Path | None = None
        """The file that the study shown was kept in before."""
        self._building: tuple[Workbench, Iterator[None], str] | None = None
        self._stepper = configured(QTimer(self), singleShot=True, interval=0)
        self._stepper.timeout.connect(self._step_on)
        self.preferring = Preferring(context)
        self.connecting = Connecting(context, self.open_requested)
        self.reopening = Reopening(context, self.show_study)
        self.pages = QVBoxLayout()
        self.pages.setContentsMargins(0, 0, 0, 0)
        self.start, self.arriving = StartPage(), Arriving()
        self.start.file_requested.connect(self.ask_open)
        self.start.copied_requested.connect(self.open_copied)
        self.start.whole_requested.connect(self.connecting.ask)
        self.start.example_requested.connect(self.open_demo)
        self.start.open_requested.connect(self.open_requested)
        StartLists(context, self.start)
        self.arriving.hide()
        for page in (self.start, self.arriving):
            self.pages.addWidget(page)

    def open_window(self) -> None:
        """Open a second window: a program of its own, which no fault of this one reaches."""
        started, _ = QProcess.startDetached(sys.executable, ["-P", "-m", "culvix"])
        if not started:
            self.context.complain("A second window could not be opened: the program was not found.")

    def ask_open(self) -> None:
        """Let the analyst choose a file."""
        kinds = ";;".join(_KINDS)
        name, _ = QFileDialog.getOpenFileName(self.context.window, "Open a table", "", kinds)
        if name:
            self.open_requested(Path(name))

    def open_copied(self) -> None:
        """Open the table that has been copied to the clipboard."""
        try:
            self.open_requested(pasted_file())
        except CulvixError as error:
            self.context.complain(error.sentence)

    def open_demo(self) -> None:
        """Write the example files into the current folder and open the study of this spring's."""
        from culvix.demo import write_demo
        from culvix.study.example_study import write_example_study

        folder = Path.cwd() / "culvix-demo"

        def failed(error: Exception) -> None:
            if isinstance(error, OSError):
                error = WriteError(f"The example files cannot be written here: {(error.strerror or '').lower()}.")
            self.context.refused(error)

        self.context.jobs.start(
            "making the example",
            lambda _: write_example_study(write_demo(folder)),
            self.open_requested,
            failed=failed,
            priority=20,
        )

    def open_requested(self, path: Path) -> None:
        """Open ``path`` as the analyst wishes; where decisions would be lost, once that is confirmed."""
        self._once_confirmed(f"Open {shortened(path.name, 30)}", lambda: self.open_path(path))

    def _once_confirmed(self, what: str, act: Callable[[], None]) -> None:
        """Do ``act``, which takes the place of the study shown; where decisions would be lost, once it is confirmed."""
        lost = self.decisions_lost
        if not lost:
            act()
            return
        message = f"{lost} would be lost with this study: they are not kept yet."
        self.context.offer(message, [(what, act), ("Stay here", self.context.banner.hide)])

    def open_path(self, path: Path) -> None:
        """Read ``path`` in the background, its first rows in view at once; what is open comes back if that fails."""
        self.context.banner.hide()
        try:
            is_study = is_study_file(path)
        except CulvixError:
            # Whatever is wrong is told when the file is read.
            is_study = False
        if is_study:
            self.reopening.reopen(path)
        else:
            self._read(path, PLAIN, None, self._opened)

    def ask_recipe(self) -> None:
        """Let the analyst choose a recipe, and run it on the file in hand."""
        if self.context.bench is None:
            return
        source = self.context.bench.hub.study.table.source.path
        kinds = "Recipe (*.json);;All files (*)"
        name, _ = QFileDialog.getOpenFileName(self.context.window, "Run a recipe", str(source.parent), kinds)
        if name:
            self._once_confirmed("Run the recipe", lambda: self.run_recipe(Path(name), source))

    def run_recipe(self, recipe: Path, path: Path) -> None:
        """Run the recipe in the file ``recipe`` on the table at ``path``, and show what results."""
        self.context.banner.hide()

        def done(applied: Applied) -> None:
            looks: tuple[str, ...] = ()
            if applied.needs_review:
                what = plural(len(applied.discrepancies), "thing")
                looks = (f"{what} to look at: not as where the recipe comes from; see the findings beside the Survey.",)
            self.show_study(applied.study, "Survey", (*looks, *applied.notes), carried=True)

        self.context.jobs.start(
            "running a recipe",
            lambda progress: apply_recipe(load_recipe(recipe), path, progress),
            done,
            failed=self.context.refused,
            priority=20,
        )

    @property
    def decisions_lost(self) -> str:
        """What would be lost with the study that is open, in words; empty where that is nothing."""
        if self.context.bench is None or self.is_kept():
            return ""
        history = self.context.bench.hub.study.history
        return acts_between([act for act in history.acts[: history.cursor] if act.decisions])

    def _read(
        self, path: Path, options: ReadOptions, dictionary: Dictionary | None, done: Callable[[Table], None]
    ) -> None:
        def failed(error: Exception) -> None:
            self._leave_arriving()
            if isinstance(error, RaggedLines):
                ways = [(choice.label, partial(again, choice)) for choice in error.choices]
                self.context.offer(error.sentence, ways)
            else:
                self.context.refused(error)

        def again(choice: Choice) -> None:
            self._read(path, options.answered(options.dialect, choice.change), dictionary, done)

        def work(progress: Progress) -> Table:
            table = read_table(path, options, dictionary=dictionary, progress=progress)
            # What names the rows is asked for wherever one is shown; finding it takes its time.
            _ = table.label_column
            return table

        def read(after: int = 0) -> None:
            self.context.jobs.start(
                "opening",
                work,
                done,
                failed=failed,
                priority=20,
                after=after,
            )

        def previewed(raw: RawTable | None) -> None:
            if raw is None or _size_of(path) < _LONG:
                read()
                return
            # The first rows are on the screen before the work on the rest begins, which would hold up their painting.
            self._show_arriving(path, raw)
            read(_FIRST_PAINT_MS)

        def unread(error: Exception) -> None:
            # Whatever is wrong is told when the whole is read.
            if not isinstance(error, Cancelled):
                read()

        self.context.jobs.start("opening", lambda _: preview(path, options), previewed, failed=unread, priority=20)

    def _show_arriving(self, path: Path, raw: RawTable) -> None:
        for page in (self.start, self.context.bench):
            if page is not None:
                page.hide()
        self.arriving.put(path.name, raw)
        self.arriving.show()

    def _leave_arriving(self) -> None:
        self.arriving.hide()
        (self.start if self.context.bench is None else self.context.bench).show()

    def read_again(self, options: ReadOptions, dictionary: Dictionary | None = None) -> None:
        """Read the file in hand again in another way or under another dictionary."""
        if self.context.bench is None:
            return
        study = self.context.bench.hub.study
        if study.decisions:
            decisions = plural(len(study.decisions), "decision")
            self.context.complain(f"This table carries {decisions}; undo before it is read another way.")
            return
        dictionary = study.dictionary if dictionary is None else dictionary
        worked = bool(study.history.labels) or self.carried

        def failed(error: Exception) -> None:
            self._leave_arriving()
            self.context.refused(error)

        def decided_meanwhile() -> bool:
            if study.decisions:
                failed(DecisionError("Decisions were made meanwhile; undo them before it is read another way."))
            return bool(study.decisions)

        def done(table: Table) -> None:
            if decided_meanwhile():
                return
            before, steps = study.workspace, study.history.cursor
            # Derived columns of a long table take their time.
            self.context.jobs.start(
                "opening", lambda _: carry_over(before, table, dictionary, steps), carried, failed=failed, priority=20
            )

        def carried(found: CarriedOver) -> None:
            if not decided_meanwhile():
                self.show_study(found.study, "Intake", found.lost, carried=worked)

        self._read(study.table.source.path, options, dictionary, done)

    def _opened(self, table: Table) -> None:
        preferred = self.preferring.current
        study = Study.of_table(table, preferred.settings)
        study.sign(preferred.initials)
        self.show_study(study)

    def show_study(
        self,
        study: Study,
        stage: str = "Survey",
        lost: tuple[str, ...] = (),
        file: Path | None = None,
        *,
        carried: bool = False,
    ) -> None:
        """Set up a workbench for ``study``, step by step, and show it in place of what was open.

        ``lost`` says what of that is not in it; ``file`` is where the study was kept before, ``carried`` whether it has
        the work of another one in it.
        """
        self.lost, self.file, self.carried = lost, file, carried
        if self._building is not None:
            self.let_go(self._building[0])
        bench = Workbench(
            Hub(study, self.context.jobs, self.context.window), self.context.settings, self.context.pictures
        )
        bench.requests.placed.connect(self.watch)
        bench.requests.placed.connect(name_controls)
        bench.hide()
        self.pages.addWidget(bench)
        self._building = (bench, bench.build(stage), stage)
        self._stepper.start()

    @property
    def at_rest(self) -> bool:
        """Whether no workbench is being set up."""
        return self._building is None

    def _step_on(self) -> None:
        """One step of setting up; the window answers before the next."""
        if self._building is None:
            return
        bench, steps, stage = self._building
        if next(steps, _DONE) is _DONE:
            self._building = None
            self.completed.emit(bench, stage)
        else:
            self._stepper.start()

    def show_bench(self, bench: Workbench) -> None:
        """Show ``bench`` in place of the pages before it."""
        self.start.hide()
        self.arriving.hide()
        bench.show()

    def stop(self) -> None:
        """Set nothing up any more."""
        self._stepper.stop()

    def let_go(self, bench: Workbench) -> None:
        """Take a bench away, finished or not."""
        bench.hide()
        self.pages.removeWidget(bench)
        bench.deleteLater()
        bench.hub.let_go()
