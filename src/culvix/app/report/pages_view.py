"""The pages of a report one under the other, as they are printed; a part of one is chosen by a click or with keys."""

from collections import Counter
from collections.abc import Iterator

from PyQt6.QtCore import QPointF, QRect, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QColor, QImage, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QResizeEvent
from PyQt6.QtWidgets import QAbstractScrollArea, QFrame, QScrollBar, QWidget

from culvix.charts.palette import SHADES
from culvix.report.formats.fragments import fragment_text
from culvix.report.formats.pages import HEIGHT, WIDTH
from culvix.report.live_pages import LivePage, LiveReport, Zone
from culvix.report.parts import PictureBlock

__all__ = ["ZOOMS", "PagesView"]

ZOOMS: dict[str, float | None] = {"whole width": None, "whole page": 0.0, "100 %": 1.0, "150 %": 1.5, "200 %": 2.0}
"""How large a page is shown: as large as it is on paper times a number, or as its room allows."""

_GAP = 14
"""Between two pages, and around them, in pixels."""
_ON_SCREEN = 96 / 72
"""Pixels of a point at 100 %."""
_WIDEST = 1.25 * _ON_SCREEN
"""A page as wide as its room is no larger than this: its letters would be those of a poster."""
_REMEMBERED = 8
"""Drawn pages that are kept."""
_STEP = 60
_AROUND = 2.5
"""How far the line around a chosen part is from it, in points."""


class PagesView(QAbstractScrollArea):
    """Shows the drawings it is given; what is in sight and not drawn yet is asked for."""

    page_requested = pyqtSignal(int, float)
    """A page (from 0) is to be drawn with so many pixels a point."""
    chosen = pyqtSignal()
    """Another part of a page is chosen, or it lies elsewhere now."""
    opened = pyqtSignal()
    """Something is to be written at the part chosen."""
    page_changed = pyqtSignal(int)
    """The page (from 0) that fills most of the view is another one."""

    def __init__(self) -> None:
        super().__init__()
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("Pages of the report")
        self.live: LiveReport | None = None
        self.zoom = next(iter(ZOOMS))
        self.chosen_part: tuple[int, int] | None = None
        """Page and zone (from 0) of the part chosen."""
        self.page = 0
        self._images: dict[int, tuple[LivePage, float, QImage]] = {}
        self._asked: set[tuple[LivePage, float]] = set()
        self._bar.valueChanged.connect(self._scrolled)

    # What is shown

    def show_report(self, live: LiveReport) -> None:
        """Show the pages of ``live`` where those before were."""
        before = self._kind_chosen()
        self.live = live
        self._asked.clear()
        self.chosen_part = (
            next((place for place, kind in self._kinds() if kind == before), None) if before is not None else None
        )
        self._fit()
        self.chosen.emit()

    def take_image(self, number: int, page: LivePage, scale: float, image: QImage) -> None:
        """Show ``image`` of a page that was asked for."""
        self._images.pop(number, None)
        self._images[number] = page, scale, image
        for old in list(self._images)[:-_REMEMBERED]:
            del self._images[old]
        self._ground.update()

    def set_zoom(self, zoom: str) -> None:
        """Show the pages as large as a row of `ZOOMS` says."""
        self.zoom = zoom
        self._fit()
        self.chosen.emit()

    def go_to_page(self, number: int) -> None:
        """Bring the upper edge of a page (from 0) into view."""
        self._bar.setValue(round(self._top(number)) - _GAP)

    def go_to(self, after: str) -> None:
        """Bring the beginning of a section or sheet into view, where it is in the report."""
        place = self.live.place_of(after) if self.live else None
        if place is not None:
            self._bar.setValue(round(self._top(place[0]) + place[1] * self.scale) - _GAP)

    @property
    def zone(self) -> Zone | None:
        """The part chosen, where it stands."""
        if self.chosen_part is None or self.live is None:
            return None
        page, zone = self.chosen_part
        zones = self.live.pages[page].zones if page < len(self.live.pages) else ()
        return zones[zone] if zone < len(zones) else None

    @property
    def room(self) -> QRect:
        """Where the part chosen lies in the viewport, in pixels; empty where none is."""
        zone = self.zone
        return (
            QRect()
            if zone is None or self.chosen_part is None
            else self._shown(self.chosen_part[0], zone.room).toAlignedRect()
        )

    def _kinds(self) -> Iterator[tuple[tuple[int, int], tuple[str, type, int]]]:
        """The place of every part, with what tells it from others in another report: where it belongs, and its turn."""
        met: Counter[tuple[str, type]] = Counter()
        for number, page in enumerate(self.live.pages if self.live else ()):
            for position, zone in enumerate(page.zones):
                kind = zone.after, type(zone.part)
                met[kind] += 1
                yield (number, position), (*kind, met[kind])

    def _kind_chosen(self) -> tuple[str, type, int] | None:
        """What tells the part chosen from others."""
        return next((kind for place, kind in self._kinds() if place == self.chosen_part), None)

    # Places

    @property
    def scale(self) -> float:
        """Pixels a point."""
        size, factor = self._ground.size(), ZOOMS[self.zoom]
        across = max(size.width() - 2 * _GAP, 200) / WIDTH
        if factor is None:
            return min(across, _WIDEST)
        return factor * _ON_SCREEN if factor else min(across, max(size.height() - 2 * _GAP, 200) / HEIGHT)

    def _fit(self) -> None:
        """Let the scroll bars reach over all pages, the same place of the report at the top."""
        bar, beyond = self._bar, self.horizontalScrollBar()
        before = bar.value() / max(bar.maximum() + bar.pageStep(), 1)
        pages, size = len(self.live.pages) if self.live else 0, self._ground.size()
        whole = round(self._top(pages))
        bar.setPageStep(size.height())
        bar.setSingleStep(_STEP)
        bar.setRange(0, max(whole - size.height(), 0))
        if bar.value() and before:
            bar.setValue(round(before * (bar.maximum() + bar.pageStep())))
        assert beyond is not None
        beyond.setPageStep(size.width())
        beyond.setRange(0, max(round(WIDTH * self.scale) + 2 * _GAP - size.width(), 0))
        self._ground.update()
        self._tell_page()

    def _top(self, number: int) -> float:
        return _GAP + number * (HEIGHT * self.scale + _GAP)

    def _shown(self, number: int, room: QRectF) -> QRectF:
        """Where ``room`` (points) of a page lies in the viewport (pixels)."""
        scale, beyond = self.scale, self.horizontalScrollBar()
        assert beyond is not None
        left = max((self._ground.width() - WIDTH * scale) / 2, _GAP) - beyond.value()
        top = self._top(number) - self._bar.value()
        return QRectF(left + room.left() * scale, top + room.top() * scale, room.width() * scale, room.height() * scale)

    def _in_sight(self) -> Iterator[tuple[int, LivePage, QRectF]]:
        for number, page in enumerate(self.live.pages if self.live else ()):
            room = self._shown(number, QRectF(0, 0, WIDTH, HEIGHT))
            if room.intersects(QRectF(self._ground.rect())):
                yield number, page, room

    def _scrolled(self) -> None:
        self._ground.update()
        self._tell_page()
        self.chosen.emit()

    def _tell_page(self) -> None:
        middle = self._bar.value() + self._ground.height() / 2
        last = len(self.live.pages) - 1 if self.live else 0
        page = max(min(int((middle - _GAP) / (HEIGHT * self.scale + _GAP)), last), 0)
        if page != self.page:
            self.page = page
            self.page_changed.emit(page)

    # Painting

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self._ground)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        dots = self.devicePixelRatioF()
        for number, page, room in self._in_sight():
            painter.fillRect(room, QColor("white"))
            shown = self._images.get(number)
            if shown is not None:
                painter.drawImage(room, shown[2])
            if shown is None or shown[0] is not page or shown[1] != self.scale * dots:
                self._ask(number, page)
            painter.setPen(QPen(QColor(SHADES.rule), 1))
            painter.drawRect(room)
        zone = self.zone
        if zone is not None and self.chosen_part is not None:
            around = zone.room.adjusted(-_AROUND, -_AROUND, _AROUND, _AROUND)
            painter.setPen(QPen(QColor(SHADES.probe), 1.4))
            painter.drawRoundedRect(self._shown(self.chosen_part[0], around), 3, 3)

    def _ask(self, number: int, page: LivePage) -> None:
        asked = page, self.scale * self.devicePixelRatioF()
        if asked not in self._asked:
            self._asked.add(asked)
            self.page_requested.emit(number, asked[1])

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()
        self.chosen.emit()

    # Choosing

    def choose(self, place: tuple[int, int] | None) -> None:
        """Choose the part at ``place`` (page and zone, from 0), and bring it into view."""
        self.chosen_part = place
        zone = self.zone
        self.setAccessibleDescription(fragment_text(zone.part) if zone is not None and zone.part is not None else "")
        self._ground.update()
        self.chosen.emit()

    def first_picture_on(self, number: int) -> tuple[int, int] | None:
        """The place of the first picture on a page (from 0), None where it has none."""
        zones = self.live.pages[number].zones if self.live else ()
        pictured = (at for at, zone in enumerate(zones) if isinstance(zone.part, PictureBlock))
        return next(((number, at) for at in pictured), None)

    def step(self, by: int) -> None:
        """Choose the next part, or the one before."""
        places = [
            (page, zone)
            for page, each in enumerate(self.live.pages if self.live else ())
            for zone in range(len(each.zones))
        ]
        if not places:
            return
        here = places.index(self.chosen_part) if self.chosen_part in places else -1 if by > 0 else 0
        self.choose(places[(here + by) % len(places)])
        room = self.room
        if room.top() < _GAP or room.bottom() > self._ground.height() - _GAP:
            self._bar.setValue(self._bar.value() + room.top() - 3 * _GAP)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self.choose(self._at(event.position()))

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and self._at(event.position()) is not None:
            self.opened.emit()

    def _at(self, at: QPointF) -> tuple[int, int] | None:
        for number, page, _ in self._in_sight():
            for position, zone in enumerate(page.zones):
                if self._shown(number, zone.room.adjusted(-_AROUND, -_AROUND, _AROUND, _AROUND)).contains(at):
                    return number, position
        return None

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        steps = {Qt.Key.Key_Down: 1, Qt.Key.Key_Up: -1}
        if event.key() in steps:
            self.step(steps[Qt.Key(event.key())])
        elif event.key() in (Qt.Key.Key_PageDown, Qt.Key.Key_PageUp):
            self.go_to_page(self.page + (1 if event.key() == Qt.Key.Key_PageDown else -1))
        elif event.key() in (Qt.Key.Key_Home, Qt.Key.Key_End):
            self._bar.setValue(0 if event.key() == Qt.Key.Key_Home else self._bar.maximum())
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.zone is not None:
            self.opened.emit()
        elif event.key() == Qt.Key.Key_Escape and self.chosen_part is not None:
            self.choose(None)
        else:
            super().keyPressEvent(event)

    def sizeHint(self) -> QSize:
        return QSize(700, 600)

    @property
    def _bar(self) -> QScrollBar:
        bar = self.verticalScrollBar()
        assert bar is not None
        return bar

    @property
    def _ground(self) -> QWidget:
        viewport = self.viewport()
        assert viewport is not None
        return viewport
