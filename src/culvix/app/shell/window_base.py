"""What the parts of the main window ask of each other."""

from collections.abc import Callable, Sequence
from typing import TYPE_CHECKING

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QMainWindow

from culvix.errors import Cancelled, CulvixError
from culvix.tables.model.dictionary import Dictionary
from culvix.tables.model.read_options import ReadOptions

if TYPE_CHECKING:
    from culvix.app.session.jobs import JobRunner
    from culvix.app.shell.banner import Banner
    from culvix.app.shell.workbench import Workbench
    from culvix.report.render_process import RenderProcess

__all__ = ["WindowBase"]


class WindowBase(QMainWindow):
    """The workbench, once there is one, the background work, and sentences under the top strip."""

    bench: "Workbench | None"
    jobs: "JobRunner"
    renderer: "RenderProcess"
    banner: "Banner"
    settings: QSettings
    read_again: Callable[[ReadOptions, Dictionary | None], None]
    """Reads the file in hand again in another way or under another dictionary."""

    def complain(self, sentence: str) -> None:
        """Say in place what went wrong or needs attention."""
        self.tell(sentence)

    def tell(self, sentence: str, action: str = "", act: Callable[[], object] | None = None) -> None:
        """Show ``sentence`` under the top strip, with a button where there is something to do about it."""
        self.offer(sentence, [(action, act)] if act is not None else [])

    def offer(self, sentence: str, ways: Sequence[tuple[str, Callable[[], object]]]) -> None:
        """Show ``sentence`` under the top strip, with a button for each of at most two ``ways`` to go on."""
        self.banner.offer(sentence, ways)

    def refused(self, error: Exception) -> None:
        """Say why a piece of work came to nothing; a cancellation needs no words."""
        if not isinstance(error, Cancelled):
            self.complain(error.sentence if isinstance(error, CulvixError) else str(error))
