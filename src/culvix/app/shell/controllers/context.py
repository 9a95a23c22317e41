"""What the window and its controllers share: the open workbench, background work, and sentences under the strip."""

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QWidget

from culvix.app.session.jobs import JobRunner
from culvix.app.shell.parts.overlays import Banner, Remark
from culvix.app.shell.workbench import Workbench
from culvix.errors import Cancelled, CulvixError
from culvix.report.remembered_pictures import RememberedPictures
from culvix.report.render_process import RenderProcess

__all__ = ["WindowContext"]


class WindowContext:
    """``bench`` is the workbench shown, None before a table is open; dialogs belong to ``window``."""

    def __init__(
        self,
        window: QWidget,
        settings: QSettings,
        jobs: JobRunner,
        renderer: RenderProcess,
        banner: Banner,
        remark: Remark,
    ) -> None:
        self.window, self.settings, self.jobs, self.renderer = window, settings, jobs, renderer
        self.pictures = RememberedPictures(renderer.draw)
        self.banner, self.remark = banner, remark
        self.bench: Workbench | None = None

    def complain(self, sentence: str) -> None:
        """Say what went wrong or needs attention; it stays until it is closed or the work goes on."""
        self.offer(sentence, [])

    def tell(self, sentence: str, action: str = "", act: Callable[[], object] | None = None) -> None:
        """Remark ``sentence`` for a moment, with a button where there is something to do about it."""
        self.remark.say(sentence, action, act)

    def offer(self, sentence: str, ways: Sequence[tuple[str, Callable[[], object]]]) -> None:
        """Show ``sentence`` under the top strip, with a button for each of at most two ``ways`` to go on."""
        self.banner.offer(sentence, ways)

    def refused(self, error: Exception) -> None:
        """Say why a piece of work came to nothing; a cancellation needs no words."""
        if not isinstance(error, Cancelled):
            self.complain(error.sentence if isinstance(error, CulvixError) else str(error))
