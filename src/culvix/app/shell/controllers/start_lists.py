"""What the start page lists: drafts, studies and tables of late, and pictures of the example."""

from collections.abc import Sequence
from datetime import UTC, datetime
from pathlib import Path

from PyQt6.QtCore import QObject, QTimer

from culvix.app.shell.controllers.context import WindowContext
from culvix.app.shell.example_pictures import example_pictures
from culvix.app.shell.pages.start_page import StartPage
from culvix.errors import CulvixError
from culvix.stats.display import plural
from culvix.study.storage.drafts import SUFFIX, drafts, is_draft, remove_draft, remove_empty_drafts
from culvix.study.storage.listing import StudySummary, study_summaries
from culvix.study.storage.recents import Recent, recents

__all__ = ["StartLists"]

_EXAMPLE_MS = 800
"""So long after the page the pictures of the example are worked out, if it is shown still."""


def _known_drafts() -> list[StudySummary]:
    """The drafts there are; none where their folder cannot be read, which is told once there is something to write."""
    try:
        remove_empty_drafts(datetime.now(UTC))
        return drafts()
    except CulvixError:
        return []


def _known_studies(known: Sequence[Recent]) -> list[StudySummary]:
    """Those of the files opened lately that are studies; a draft is known by itself."""
    paths = (each.path for each in known if each.path.suffix == SUFFIX)
    return [study for study in study_summaries(paths) if not is_draft(study.path)]


class StartLists(QObject):
    """Fills the start page, and takes drafts away that nobody wants."""

    def __init__(self, context: WindowContext, page: StartPage) -> None:
        super().__init__(page)
        self.context, self.page = context, page
        page.remove_requested.connect(self.ask_removal)
        self.show_lists()
        QTimer.singleShot(_EXAMPLE_MS, self._picture_example)

    def _picture_example(self) -> None:
        """Show what is in the example, where nothing else is being opened."""
        if self.page.isVisible() and self.context.bench is None and self.context.jobs.at_rest:
            self.context.jobs.start(
                "example", lambda _: example_pictures(), self.page.example.show_pictures, priority=1, quiet=True
            )

    def show_lists(self) -> None:
        """Show on the start page what was worked on before."""
        known = recents()
        tables = [each for each in known if each.path.suffix != SUFFIX]
        self.page.show_lists(_known_drafts(), _known_studies(known), tables)

    def ask_removal(self, path: Path) -> None:
        """Take the draft at ``path`` away once that is confirmed."""

        def remove() -> None:
            self.context.banner.hide()
            try:
                remove_draft(path)
            except CulvixError as error:
                self.context.complain(error.sentence)
            self.show_lists()

        found = list(study_summaries([path]))
        what = plural(found[0].acts, "act") if found else "what is in it"
        message = f"The draft with {what} would be gone for good."
        self.context.offer(message, [("Take it away", remove), ("Leave it", self.context.banner.hide)])
