"""A report on pages: vector pictures, text to be selected, bookmarks, page numbers, and its data as an attachment."""

import io
from collections.abc import Callable, Sequence

import pypdf
from pypdf.generic import IndirectObject
from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QPointF
from PyQt6.QtGui import QColor, QFontMetricsF, QPageSize, QPainter, QPdfWriter, QPen

from culvix.charts.palette import LIGHT
from culvix.progress import Progress, silent
from culvix.report.formats.page_blocks import MM, PAGE, Block, blocks_of, font, heading
from culvix.report.formats.rich_text import clean
from culvix.report.parts import Paragraph, PictureBlock, Report

__all__ = ["ATTACHMENT", "report_pdf"]

ATTACHMENT = "culvix-report.json"
"""The name of the data with which the report can be computed anew."""

_WIDTH, _HEIGHT = 210 * MM, 297 * MM
_SIDE, _TOP, _BOTTOM = 18 * MM, 16 * MM, 18 * MM
_DOTS = 1200
_FOOT = 7


def report_pdf(
    report: Report, draw: Callable[[PictureBlock], str], *, carried: str = "", progress: Progress = silent
) -> bytes:
    """``report`` as the bytes of a PDF file (ISO 32000) on A4; the same report gives the same bytes."""
    pages = _Pages(report)
    width = _WIDTH - 2 * _SIDE
    blocks = [heading(clean(report.title), width, 0)]
    blocks += blocks_of([Paragraph((line,), "quiet") for line in report.about], width, draw)
    for position, section in enumerate(report.sections):
        progress(0.9 + 0.1 * position / len(report.sections), f"writing {section.title}")
        if section.title:
            blocks.append(heading(section.title, width, 1))
        blocks += blocks_of(section.parts, width, draw)
    pages.place(blocks)
    return _finished(pages.data(), pages.contents, report, carried)


class _Pages:
    """The pages of one report; ``contents`` has title, level and page (from 0) of each heading."""

    def __init__(self, report: Report) -> None:
        self._buffer = QBuffer()
        self._buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        self._writer = QPdfWriter(self._buffer)
        self._writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
        self._writer.setPageMargins(QMarginsF(0, 0, 0, 0))
        self._writer.setResolution(_DOTS)
        self._writer.setTitle(clean(report.title))
        self._painter = QPainter(self._writer)
        self._painter.scale(_DOTS / 72, _DOTS / 72)
        self._title, self._page, self._y = clean(report.title), 0, _TOP
        self.contents: list[tuple[str, int, int]] = []
        self._foot()

    def place(self, blocks: Sequence[Block]) -> None:
        """Put ``blocks`` one under the other; those that are kept together begin a new page together."""
        end = _TOP + PAGE
        position = 0
        while position < len(blocks):
            last = position
            while blocks[last].keep and last + 1 < len(blocks):
                last += 1
            together = blocks[position : last + 1]
            needed = sum(block.before + block.height for block in together)
            if self._y + needed > end and self._y > _TOP:
                self._next_page()
                if (head := together[0].head) is not None:
                    self._put(head)
            for block in together:
                self._put(block)
            position = last + 1

    def _put(self, block: Block) -> None:
        self._y += block.before if self._y > _TOP else 0.0
        if block.anchor:
            self.contents.append((block.anchor, block.level, self._page))
        self._painter.save()
        self._painter.translate(_SIDE, self._y)
        block.draw(self._painter)
        self._painter.restore()
        self._y += block.height

    def _next_page(self) -> None:
        self._writer.newPage()
        self._page, self._y = self._page + 1, _TOP
        self._foot()

    def _foot(self) -> None:
        """The title at the left and the number of the page at the right."""
        self._painter.setFont(font(_FOOT))
        self._painter.setPen(QPen(QColor(LIGHT.muted)))
        number = str(self._page + 1)
        across = QFontMetricsF(font(_FOOT)).horizontalAdvance(number)
        base = _HEIGHT - _BOTTOM / 2
        self._painter.drawText(QPointF(_SIDE, base), self._title[:90])
        self._painter.drawText(QPointF(_WIDTH - _SIDE - across, base), number)

    def data(self) -> bytes:
        self._painter.end()
        return bytes(self._buffer.data().data())


def _finished(data: bytes, contents: Sequence[tuple[str, int, int]], report: Report, carried: str) -> bytes:
    """The pages with bookmarks and the attachment, and without the time at which they were made."""
    writer = pypdf.PdfWriter()
    # Only the pages: what Qt says of the file has the time in it.
    writer.append(io.BytesIO(data), import_outline=False)
    entries: dict[int, IndirectObject] = {}
    for title, level, page in contents:
        entries[level] = writer.add_outline_item(title=title, page_number=page, parent=entries.get(level - 1))
        entries = {each: entry for each, entry in entries.items() if each <= level}
    writer.metadata = {
        "/Title": clean(report.title),
        "/Author": clean(report.metadata.get("author", "")),
        "/Producer": "Culvix",
    }
    if carried:
        writer.add_attachment(ATTACHMENT, carried.encode())
    buffer = io.BytesIO()
    writer.write(buffer)
    return buffer.getvalue()
