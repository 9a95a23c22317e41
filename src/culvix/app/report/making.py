"""The report made anew in the background whenever something in it changed, and its pages drawn when they are seen."""

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QPainter

from culvix.app.session.hub import Hub
from culvix.errors import Cancelled, CulvixError
from culvix.progress import Progress
from culvix.report.compose import compose
from culvix.report.context import Remembered
from culvix.report.drawing_ahead import drawing_ahead
from culvix.report.formats.pages import HEIGHT, WIDTH
from culvix.report.live_pages import LivePage, LiveReport, live_report
from culvix.report.remembered_pictures import RememberedPictures
from culvix.study.analysis.workspace import Workspace

__all__ = ["ReportMaker"]


class ReportMaker(QObject):
    """Makes the report of the study in hand; what did not change since the last one is not made again."""

    made = pyqtSignal(object)
    """A `LiveReport` of the study as it stands."""
    stopped = pyqtSignal()
    """It was given up."""
    drawn = pyqtSignal(int, object, float, object)
    """An image of a page: its number (from 0), the `LivePage`, pixels a point, and the `QImage`."""

    def __init__(self, hub: Hub, pictures: RememberedPictures) -> None:
        super().__init__()
        self.hub, self.pictures = hub, pictures
        self._remembered = Remembered()
        self._of: Workspace | None = None

    def make(self) -> None:
        """Make the report of the study as it stands, unless that is the one made last."""
        workspace = self.hub.study.workspace
        if self._of is workspace:
            return
        self._of, remembered, pictures = workspace, self._remembered, self.pictures

        def work(progress: Progress) -> LiveReport:
            with drawing_ahead(pictures.draw) as (pictured, drawn):
                report = compose(workspace, pictured=pictured, remembered=remembered, progress=progress)
                return live_report(report, drawn, progress=progress)

        self.hub.start("putting the report on pages", work, self.made.emit, failed=self._failed, priority=8)

    def _failed(self, error: Exception) -> None:
        self._of = None
        self.stopped.emit()
        if isinstance(error, CulvixError) and not isinstance(error, Cancelled):
            self.hub.problem.emit(error.sentence)

    def draw_page(self, number: int, page: LivePage, scale: float) -> None:
        """Draw a page with ``scale`` pixels a point, in the background."""

        def work(progress: Progress) -> QImage:
            del progress
            image = QImage(round(WIDTH * scale), round(HEIGHT * scale), QImage.Format.Format_RGB32)
            image.fill(QColor("white"))
            painter = QPainter(image)
            painter.setRenderHint(QPainter.RenderHint.Antialiasing)
            painter.scale(scale, scale)
            page.drawing.play(painter)
            painter.end()
            return image

        def arrived(image: QImage) -> None:
            self.drawn.emit(number, page, scale, image)

        self.hub.start(f"page {number + 1} of the report", work, arrived, priority=11, quiet=True)
