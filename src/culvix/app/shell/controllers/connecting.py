"""How the window opens a table that stays where it is: surveyed whole, sampled, and the sample opened as a study."""

from collections.abc import Callable
from pathlib import Path

from culvix.app.shell.controllers.context import WindowContext
from culvix.app.shell.dialogs.connect_dialog import ConnectDialog, WholeRequest
from culvix.errors import Cancelled, CulvixError
from culvix.files import free_path, write_private
from culvix.places import data_folder
from culvix.progress import Progress
from culvix.study.whole.samples import draw_sample, sample_file
from culvix.study.whole.survey import survey_whole
from culvix.tables.engines import ServerTable, open_engine, tables_at

__all__ = ["Connecting"]

_JOB, _LIST = "surveying the whole", "listing tables"
_ASKED_FOR = 20


class Connecting:
    """One form at a time; the address of the last one stays, without any password."""

    def __init__(self, context: WindowContext, open_file: Callable[[Path], object]) -> None:
        """``open_file`` opens the sample when it is there."""
        self.context, self.open_file = context, open_file
        self.dialog: ConnectDialog | None = None

    def ask(self, address: str = "") -> None:
        """Let the analyst choose a table, by default at ``address``."""
        dialog = self.dialog = ConnectDialog(self.context.window, address or self._last)
        dialog.tables_asked.connect(self._list)
        dialog.survey_asked.connect(self._survey)
        dialog.rejected.connect(self._cancel)
        self.context.jobs.busy.connect(self._show_progress)
        dialog.finished.connect(lambda _: self.context.jobs.busy.disconnect(self._show_progress))
        dialog.open()

    def _cancel(self) -> None:
        for name in (_JOB, _LIST):
            self.context.jobs.cancel(name)

    def _show_progress(self, doing: str, share: float) -> None:
        if self.dialog is not None:
            self.dialog.say(f"{doing[:1].upper()}{doing[1:]} …")

    @property
    def _last(self) -> str:
        return str(self.context.settings.value("connect/address", ""))

    def _list(self, address: str) -> None:
        self._start(_LIST, lambda progress: tables_at(address, progress), self._listed)

    def _listed(self, tables: tuple[ServerTable, ...]) -> None:
        if self.dialog is not None:
            self.dialog.show_tables(tables)

    def _survey(self, asked: WholeRequest) -> None:
        folder, dialog = data_folder() / "samples", self.dialog
        assert dialog is not None
        known = dialog.figures_known.emit

        def work(progress: Progress) -> tuple[Path, str]:
            engine = open_engine(asked.address, table=asked.table or None, query=asked.query or None, progress=progress)
            try:
                survey = survey_whole(
                    engine, progress=lambda share, doing: progress(0.8 * share, doing), on_figures=known
                )
                frame, about = draw_sample(
                    engine, asked.of, query=asked.query, progress=lambda share, doing: progress(0.8 + share / 5, doing)
                )
            finally:
                engine.close()
            return _written(folder, about.table, sample_file(frame, about, survey)), engine.address

        self._start(_JOB, work, self._surveyed)

    def _surveyed(self, found: tuple[Path, str]) -> None:
        path, address = found
        self.context.settings.setValue("connect/address", address)
        if self.dialog is not None:
            self.dialog.accept()
        self.open_file(path)

    def _start(self, name: str, work: Callable[[Progress], object], done: Callable[..., None]) -> None:
        dialog = self.dialog
        if dialog is None:
            return
        dialog.wait(True)
        dialog.say(f"{name[0].upper()}{name[1:]} …")

        def arrived(found: object) -> None:
            dialog.wait(False)
            done(found)

        def failed(error: Exception) -> None:
            dialog.wait(False)
            if not isinstance(error, Cancelled):
                dialog.say(error.sentence if isinstance(error, CulvixError) else str(error))

        self.context.jobs.start(name, work, arrived, failed=failed, priority=_ASKED_FOR)


def _written(folder: Path, table: str, content: bytes) -> Path:
    """A file of its own for the sample, so that it can be traced and opened again. Raises WriteError."""
    name = "".join(letter if letter.isalnum() or letter in "._-" else "_" for letter in table)[:60] or "table"
    path = free_path(folder, f"{name} sample", ".parquet")
    write_private(path, content)
    return path
