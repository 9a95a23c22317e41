"""The pages of a report as they are looked at: each recorded as a drawing, with what stands where on it."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPicture

from culvix.progress import Progress, silent
from culvix.report.formats.pages import SIDE, WIDTH, Page, pages_of, paint_page
from culvix.report.parts import Part, PictureBlock, Report

__all__ = ["LivePage", "LiveReport", "Zone", "live_report"]


@dataclass(frozen=True, eq=False)
class Zone:
    """Where ``part`` stands on its page, in points. ``after``: its section or sheet, as own texts name it."""

    room: QRectF
    part: Part | None
    after: str
    heads: bool = False
    """Whether it is the heading of that section or sheet."""


@dataclass(frozen=True, eq=False)
class LivePage:
    """One page, to be painted on any thread by a painter whose unit is a point."""

    drawing: QPicture
    zones: tuple[Zone, ...]


@dataclass(frozen=True, eq=False)
class LiveReport:
    """``report`` and its ``pages``."""

    report: Report
    pages: tuple[LivePage, ...]

    def place_of(self, after: str) -> tuple[int, float] | None:
        """Page (from 0) and height (points) at which a section or a sheet begins, None where it is left out."""
        for number, page in enumerate(self.pages):
            for zone in page.zones:
                if zone.heads and zone.after == after:
                    return number, zone.room.top()
        return None


def live_report(report: Report, draw: Callable[[PictureBlock], str], *, progress: Progress = silent) -> LiveReport:
    """The pages of ``report``, which may be made on any thread. Raises what ``draw`` and ``progress`` raise."""
    pages = pages_of(report, draw, progress=progress)
    return LiveReport(
        report,
        tuple(
            LivePage(_recorded(page, number, report.title), tuple(_zones(page)))
            for number, page in enumerate(pages, start=1)
        ),
    )


def _recorded(page: Page, number: int, title: str) -> QPicture:
    drawing = QPicture()
    painter = QPainter(drawing)
    paint_page(painter, page, number, title)
    painter.end()
    return drawing


def _zones(page: Page) -> Iterator[Zone]:
    """One for each part on the page, however many blocks it has there."""
    room, last = QRectF(), None
    for placed in page:
        if placed.repeated:
            continue
        block = placed.block
        here = QRectF(SIDE, placed.y, WIDTH - 2 * SIDE, block.height)
        if last is not None and last.part is block.part and block.part is not None and not block.anchor:
            room = room.united(here)
            continue
        if last is not None:
            yield Zone(room, last.part, last.after, bool(last.anchor))
        room, last = here, block
    if last is not None:
        yield Zone(room, last.part, last.after, bool(last.anchor))
