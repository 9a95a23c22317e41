"""A report on pages: vector pictures, text to be selected, bookmarks, page numbers, and its data as an attachment."""

import io
from collections.abc import Callable, Sequence

import pypdf
from pypdf.generic import IndirectObject
from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF
from PyQt6.QtGui import QPageSize, QPainter, QPdfWriter

from culvix.progress import Progress, silent
from culvix.report.formats.pages import Page, pages_of, paint_page
from culvix.report.formats.rich_text import clean
from culvix.report.parts import PictureBlock, Report

__all__ = ["ATTACHMENT", "report_pdf"]

ATTACHMENT = "culvix-report.json"
"""The name of the data with which the report can be computed anew."""

_DOTS = 1200
"""Steps of the writer on an inch."""


def report_pdf(
    report: Report, draw: Callable[[PictureBlock], str], *, carried: str = "", progress: Progress = silent
) -> bytes:
    """``report`` as the bytes of a PDF file (ISO 32000) on A4; the same report gives the same bytes."""
    pages = pages_of(report, draw, progress=progress)
    contents = [
        (placed.block.anchor, placed.block.level, number)
        for number, page in enumerate(pages)
        for placed in page
        if placed.block.anchor
    ]
    return _finished(_painted(pages, clean(report.title)), contents, report, carried)


def _painted(pages: Sequence[Page], title: str) -> bytes:
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setPageSize(QPageSize(QPageSize.PageSizeId.A4))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0))
    writer.setResolution(_DOTS)
    writer.setTitle(title)
    painter = QPainter(writer)
    painter.scale(_DOTS / 72, _DOTS / 72)
    for number, page in enumerate(pages, start=1):
        if number > 1:
            writer.newPage()
        paint_page(painter, page, number, title)
    painter.end()
    return bytes(buffer.data().data())


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
