"""How the window opens a study: as it was left, or in a way that is chosen where its table is not as it was."""

from collections.abc import Callable
from functools import partial
from pathlib import Path

from PyQt6.QtWidgets import QFileDialog

from culvix.app.shell.controllers.context import WindowContext
from culvix.progress import Progress
from culvix.stats.display import plural
from culvix.study import Study
from culvix.study.storage.reopening import (
    SourceChanged,
    SourceMissing,
    reopen,
    reopen_damaged,
    reopen_on_kept_source,
)
from culvix.study.storage.study_reading import DamagedStudy

__all__ = ["Reopening"]


class Reopening:
    """Opens studies from their files."""

    def __init__(self, context: WindowContext, show_study: Callable[..., None]) -> None:
        """``show_study`` takes a study, the stage to show it at, what was lost, and the file it is kept in."""
        self.context, self.show_study = context, show_study

    def reopen(self, path: Path) -> None:
        """Open the study in the file at ``path`` as it was left."""
        self._start(path, partial(reopen, path))

    def _start(self, path: Path, work: Callable[[Progress], Study]) -> None:
        def done(study: Study) -> None:
            self.show_study(study, study.document.view.stage or "Survey", file=path)

        def failed(error: Exception) -> None:
            if isinstance(error, SourceMissing):
                self.context.offer(error.sentence, [("Choose the file …", lambda: self.ask_source(path))])
            elif isinstance(error, SourceChanged):
                self._offer_ways(path, error)
            elif isinstance(error, DamagedStudy):
                self.context.offer(error.sentence, [("Open what can be read", lambda: self._open_damaged(path))])
            else:
                self.context.refused(error)

        self.context.jobs.start("opening", work, done, failed=failed, priority=20)

    def ask_source(self, path: Path) -> None:
        """Let the analyst say where the table is that the study at ``path`` is about."""
        name, _ = QFileDialog.getOpenFileName(self.context.window, "The table of the study", str(path.parent))
        if name:
            self.context.banner.hide()
            self._start(path, partial(reopen, path, source=Path(name)))

    def _offer_ways(self, path: Path, changed: SourceChanged) -> None:
        """Say how the table of the study at ``path`` has changed, and how it can be gone on with."""
        ways: list[tuple[str, Callable[[], object]]] = []
        if changed.changes is not None:
            ways.append(("Take it over", lambda: self._take_over(changed)))
        if changed.has_kept_source:
            reopen = partial(reopen_on_kept_source, path)
            ways.append(("Open it as it was", lambda: self._start(path, reopen)))
        self.context.offer(changed.sentence, ways)

    def _open_damaged(self, path: Path) -> None:
        """Go on with what is left of a damaged study, as a draft."""
        self.context.banner.hide()

        def done(found: tuple[Study, str]) -> None:
            self.show_study(found[0], "Survey", (found[1],), carried=True)

        self.context.jobs.start(
            "opening", lambda progress: reopen_damaged(path, progress), done, failed=self.context.refused, priority=20
        )

    def _take_over(self, changed: SourceChanged) -> None:
        """Go on with a study on its table as it is now: as a draft, while the study of then stays where it is."""
        self.context.banner.hide()

        def done(study: Study) -> None:
            what = plural(len(study.document.discrepancies), "thing")
            stays = "The study was taken over as a draft; the earlier one stays as it is."
            message = f"{stays} {what} to look at: see the findings"
            self.show_study(study, "Survey", (f"{message} beside the Survey.",), carried=True)

        self.context.jobs.start(
            "taking the study over", lambda _: changed.taken_over(), done, failed=self.context.refused, priority=20
        )
