"""The Report stage: the pages as they will be printed, in which parts are copied and own words are written."""

from dataclasses import replace
from pathlib import Path

from PyQt6.QtCore import QRect, QSettings, pyqtSignal
from PyQt6.QtGui import QKeySequence, QShortcut
from PyQt6.QtWidgets import QApplication, QFileDialog, QPushButton, QVBoxLayout

from culvix.app.report.copying import Copied, copied_part, mime_of
from culvix.app.report.making import ReportMaker
from culvix.app.report.own_words import OwnWordsField
from culvix.app.report.pages_view import ZOOMS, PagesView
from culvix.app.report.part_bar import PartBar
from culvix.app.session.data_keys import keeps_its_keys
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import label
from culvix.errors import CulvixError
from culvix.files import write_whole
from culvix.report.formats.part_files import part_file, part_kinds
from culvix.report.live_pages import LiveReport, Zone
from culvix.report.parts import Paragraph, Part, PictureBlock, TableBlock, plain
from culvix.report.remembered_pictures import RememberedPictures
from culvix.stats.display import count

__all__ = ["ReportStage"]

_OF_COLUMN = "column/"


class ReportStage(LazyPane):
    """Follows the study: whatever is changed elsewhere is in the report when it is shown."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub, pictures: RememberedPictures) -> None:
        super().__init__()
        self.hub = hub
        self.maker = ReportMaker(hub, pictures)
        self.pages = PagesView()
        keeps_its_keys(self.pages)
        ground = self.pages.viewport()
        assert ground is not None
        self.bar, self.words = PartBar(ground), OwnWordsField(ground)
        self._writes_at = ""
        self.position = label("", "quiet")
        self.zoom = Choice()
        self.zoom.setToolTip("How large the pages are shown")
        self.zoom.addItems(list(ZOOMS))
        self.back, self.on = QPushButton("‹"), QPushButton("›")
        for button, name, tip, by in (
            (self.back, "Page before", "The page before (PageUp)", -1),
            (self.on, "Next page", "The next page (PageDown)", 1),
        ):
            button.setObjectName("slim")
            button.setAccessibleName(name)
            button.setToolTip(tip)
            button.clicked.connect(lambda _, by=by: self.pages.go_to_page(self.pages.page + by))
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(flow_of(label("Report", "title"), self.back, self.position, self.on, self.zoom))
        layout.addWidget(self.pages, 1)
        self._connect()
        self.request_refresh()

    def _connect(self) -> None:
        hub, pages = self.hub, self.pages
        for change in (hub.data_changed, hub.settings_changed, hub.review_changed, hub.report_changed):
            change.connect(self.request_refresh)
        hub.focus_changed.connect(self._follow_focus)
        self.maker.made.connect(self._show)
        self.maker.stopped.connect(self._tell_stopped)
        self.maker.drawn.connect(pages.take_image)
        pages.page_requested.connect(self._draw_page)
        pages.page_changed.connect(lambda _: self._show_position())
        pages.chosen.connect(self._follow_part)
        pages.opened.connect(self.write)
        self.zoom.activated.connect(lambda _: self.show_as(self.zoom.currentText()))
        self.bar.copied.connect(self.copy)
        self.bar.saved.connect(self.ask_save_part)
        self.bar.written.connect(self.write)
        self.words.written.connect(self._written)
        copy = QShortcut(QKeySequence(QKeySequence.StandardKey.Copy), pages)
        copy.setContext(copy.context().WidgetWithChildrenShortcut)
        copy.activated.connect(self.copy)

    # The pages

    def refresh(self) -> None:
        """See to it that the pages show the study as it stands."""
        self.maker.make()
        if self.pages.live is None:
            self.position.setText("being written …")

    def _show(self, live: LiveReport) -> None:
        self.pages.show_report(live)
        self._show_position()

    def _tell_stopped(self) -> None:
        """Say that these are not the pages of the study as it stands; the next change makes them anew."""
        self.position.setText("stopped; any change, or showing the stage again, begins anew")
        self._refresh_due = True

    def show_as(self, zoom: str) -> None:
        """Show the pages as large as a row of `ZOOMS` says."""
        self.zoom.setCurrentText(zoom)
        self.pages.set_zoom(zoom)

    def _draw_page(self, number: int, scale: float) -> None:
        assert self.pages.live is not None
        self.maker.draw_page(number, self.pages.live.pages[number], scale)

    def _follow_focus(self, column: str) -> None:
        """Turn to the sheet of the column in focus, unless it was chosen here."""
        zone = self.pages.zone
        if zone is None or zone.after != f"{_OF_COLUMN}{column}":
            self.pages.go_to(f"{_OF_COLUMN}{column}")

    def _show_position(self) -> None:
        live, page = self.pages.live, self.pages.page
        pages = len(live.pages) if live else 0
        self.position.setText(f"page {count(page + 1)} of {count(pages)}" if live else "")
        self.back.setEnabled(page > 0)
        self.on.setEnabled(page + 1 < pages)

    # The part chosen

    @property
    def part(self) -> Part | None:
        """The part chosen, None where there is none, or it is a heading of the report."""
        zone = self.pages.zone
        return zone.part if zone is not None else None

    def _follow_part(self) -> None:
        """Let the acts on the part chosen stand where it lies."""
        zone, room = self.pages.zone, self.pages.room
        if zone is None or not self.words.isHidden():
            self.bar.hide()
            return
        self.bar.copy.setVisible(zone.part is not None)
        writes, tip = ("Write on", "Change these words (Enter)") if self._is_own(zone) else self._writing(zone)
        self.bar.write.setVisible(bool(writes))
        saves = isinstance(zone.part, PictureBlock | TableBlock)
        self.bar.show_at(room, saves=saves, writes=writes, tip=tip)
        if zone.after.startswith(_OF_COLUMN):
            self.hub.set_focus(zone.after.removeprefix(_OF_COLUMN))

    def _writing(self, zone: Zone) -> tuple[str, str]:
        if zone.after == "summary" and not zone.heads:
            return "Put otherwise", "Write the sentences of the first page yourself (Enter)"
        return "Write below", "Own words at the end of this section or sheet (Enter)"

    def _is_own(self, zone: Zone) -> bool:
        return isinstance(zone.part, Paragraph) and zone.part.kind == "own"

    def copy(self) -> None:
        """Put the part chosen on the clipboard."""
        part, pictures = self.part, self.maker.pictures
        if part is None:
            return

        def arrived(copied: Copied) -> None:
            clipboard = QApplication.clipboard()
            if clipboard is not None:
                clipboard.setMimeData(mime_of(copied))
                self.hub.message.emit("Copied, as rich text and as plain text.")

        self.hub.start("copying", lambda _: copied_part(part, pictures), arrived, priority=12)

    def ask_save_part(self) -> None:
        """Let the analyst choose where the picture or table chosen is written to."""
        part = self.part
        if isinstance(part, PictureBlock | TableBlock):
            folder = self.hub.study.table.source.path.parent
            kinds = part_kinds(part)
            proposed = str(folder / f"{part.name.replace('/', '-')}{next(iter(kinds))}")
            filters = ";;".join(f"{name} (*{suffix})" for suffix, name in kinds.items())
            name, _ = QFileDialog.getSaveFileName(self, "Save this part of the report", proposed, filters)
            if name:
                self.save_part(Path(name))

    def save_part(self, path: Path) -> None:
        """Write the picture or table chosen to ``path``, in the background."""
        part, pictures, source = self.part, self.maker.pictures, self.hub.study.table.source.path
        if isinstance(part, PictureBlock | TableBlock):
            self.hub.start(
                f"writing {path.name}",
                lambda _: write_whole(path, part_file(part, path.suffix, pictures.draw), sources=(source,)),
                lambda _: self.hub.message.emit(f"{part.name} saved as {path.name}."),
                priority=12,
            )

    # Own words

    def write(self) -> None:
        """Let the analyst write at the part chosen: its own words, or new ones at the end of its section or sheet."""
        zone, room = self.pages.zone, self.pages.room
        if zone is None:
            return
        layout = self.hub.study.document.report
        self._writes_at = zone.after
        own = self._is_own(zone)
        if zone.after == "summary" and not zone.heads and not own and self.pages.live is not None:
            words, hint = "\n".join(self._sentences()), "A sentence in each line; none for those made from the study"
            self._writes_at = "sentences"
        else:
            words = layout.text_after(zone.after)
            hint = "Own words, a blank line between two paragraphs"
        self.bar.hide()
        over = own or self._writes_at == "sentences"
        self.words.begin(words, room if over else QRect(room.left(), room.bottom() + 4, room.width(), 80), hint)

    def _sentences(self) -> list[str]:
        """The sentences of the first page as they stand."""
        assert self.pages.live is not None
        section = next(each for each in self.pages.live.report.sections if each.key == "summary")
        return [plain(text) for part in section.parts for text in getattr(part, "items", (getattr(part, "text", ()),))]

    def _written(self, words: str) -> None:
        study = self.hub.study
        layout = study.document.report
        if self._writes_at == "sentences":
            lines = tuple(line.strip() for line in words.split("\n") if line.strip())
            study.change_report(replace(layout, summary=lines))
        else:
            try:
                study.change_report(layout.with_text(self._writes_at, words))
            except CulvixError as error:
                self.problem.emit(error.sentence)
        self.pages.setFocus()

    def finish(self) -> None:
        """Take over what is still being written."""
        self.words.finish()

    # Between two sessions

    def remember(self, settings: QSettings) -> None:
        """Write down how large the pages are shown."""
        settings.setValue("report/zoom", self.pages.zoom)

    def recall(self, settings: QSettings) -> None:
        """Show the pages as large as before."""
        zoom = str(settings.value("report/zoom", ""))
        if zoom in ZOOMS:
            self.show_as(zoom)
