"""A report for a word processor: real headings, lists and tables, pictures with a text in their place."""

import io
import zipfile
from collections.abc import Callable
from xml.sax.saxutils import escape

import docx
from docx.document import Document as WordDocument
from docx.enum.text import WD_ALIGN_PARAGRAPH
from docx.opc.constants import RELATIONSHIP_TYPE
from docx.opc.packuri import PackURI
from docx.opc.part import Part as PackagePart
from docx.oxml import OxmlElement
from docx.oxml.ns import qn
from docx.shared import Mm, Pt, RGBColor
from docx.table import Table, _Row

from culvix.charts.palette import LIGHT
from culvix.progress import Progress, silent
from culvix.report.carried import SEAL
from culvix.report.formats.raster import png_of
from culvix.report.formats.rich_text import MARKS, clean
from culvix.report.parts import (
    Listing,
    Numbers,
    Paragraph,
    Part,
    PictureBlock,
    Report,
    Sheet,
    TableBlock,
    Text,
    plain,
)

__all__ = ["CARRIED_PART", "report_docx"]

CARRIED_PART = "customXml/culvix-report.xml"
"""Where in the file the data are with which it can be computed anew."""

_NAMESPACE = "urn:culvix:report"
_DPI = 300
_EPOCH = (1980, 1, 1, 0, 0, 0)


def report_docx(
    report: Report, draw: Callable[[PictureBlock], str], *, carried: str = "", progress: Progress = silent
) -> bytes:
    """``report`` as the bytes of a DOCX file (ISO/IEC 29500); the same report gives the same bytes."""
    document = docx.Document()
    _set_page(document, report)
    document.add_heading(clean(report.title), 0)
    for line in report.about:
        _quiet(document, line)
    for position, section in enumerate(report.sections):
        progress(0.9 + 0.1 * position / len(report.sections), f"writing {section.title}")
        if section.title:
            document.add_heading(clean(section.title), 1)
        for part in section.parts:
            _add(document, part, draw)
    if carried:
        _carry(document, carried)
    buffer = io.BytesIO()
    document.save(buffer)
    return _without_time(buffer.getvalue())


def _set_page(document: WordDocument, report: Report) -> None:
    page = document.sections[0]
    page.page_width, page.page_height = Mm(210), Mm(297)
    page.left_margin = page.right_margin = Mm(18)
    page.top_margin = page.bottom_margin = Mm(18)
    style = document.styles["Normal"]
    style.font.size = Pt(9.5)
    style.paragraph_format.space_after = Pt(4)
    about = document.core_properties
    about.title, about.author = clean(report.title), clean(report.metadata.get("author", ""))
    about.comments = ""


def _add(document: WordDocument, part: Part, draw: Callable[[PictureBlock], str]) -> None:
    match part:
        case Paragraph(text=text, kind=kind):
            _paragraph(document, text, kind)
        case Listing(items=items):
            for item in items:
                document.add_paragraph(clean(plain(item)), style="List Bullet")
        case Numbers(lines=lines):
            _numbers(document, lines)
        case TableBlock():
            _table(document, part)
        case PictureBlock():
            _picture(document, part, draw)
        case Sheet(title=title, beside=beside, parts=parts):
            document.add_heading(clean(title), 2)
            _quiet(document, beside)
            for inner in parts:
                _add(document, inner, draw)


def _quiet(document: WordDocument, text: str) -> None:
    run = document.add_paragraph().add_run(clean(text))
    run.font.color.rgb = RGBColor.from_string(LIGHT.muted.lstrip("#"))


def _paragraph(document: WordDocument, text: Text, kind: str) -> None:
    if kind == "quiet":
        _quiet(document, plain(text))
        return
    paragraph = document.add_paragraph()
    if kind in MARKS:
        paragraph.add_run(f"{MARKS[kind]} ").bold = True
    paragraph.add_run(clean(plain(text)))


def _numbers(document: WordDocument, lines: tuple[tuple[str, Text], ...]) -> None:
    table = document.add_table(rows=0, cols=2)
    for name, text in lines:
        row = table.add_row()
        _keep_whole(row)
        _fill(row.cells[0], name, muted=True)
        _fill(row.cells[1], plain(text))
    document.add_paragraph()


def _table(document: WordDocument, block: TableBlock) -> None:
    name = document.add_paragraph()
    name.add_run(clean(block.name)).bold = True
    name.paragraph_format.keep_with_next = True
    table = document.add_table(rows=1, cols=len(block.heads))
    _repeat_head(table.rows[0])
    for cell, head in zip(table.rows[0].cells, block.heads, strict=True):
        _fill(cell, head.text, numeric=head.numeric, bold=True)
    for texts in block.rows:
        row = table.add_row()
        _keep_whole(row)
        for cell, text, head in zip(row.cells, texts, block.heads, strict=True):
            _fill(cell, plain(text), numeric=head.numeric)
    _rule(table)
    if block.caption:
        _quiet(document, block.caption)
    document.add_paragraph()


def _fill(cell: object, text: str, *, numeric: bool = False, bold: bool = False, muted: bool = False) -> None:
    paragraph = cell.paragraphs[0]  # type: ignore[attr-defined]
    paragraph.paragraph_format.space_after = Pt(1)
    run = paragraph.add_run(clean(text))
    run.font.size, run.bold = Pt(8.5), bold
    if muted:
        run.font.color.rgb = RGBColor.from_string(LIGHT.muted.lstrip("#"))
    if numeric:
        paragraph.alignment = WD_ALIGN_PARAGRAPH.RIGHT


def _keep_whole(row: _Row) -> None:
    """No page ends within the row."""
    row._tr.get_or_add_trPr().append(OxmlElement("w:cantSplit"))


def _repeat_head(row: _Row) -> None:
    """The row stands again on each page that the table goes on to."""
    _keep_whole(row)
    row._tr.get_or_add_trPr().append(OxmlElement("w:tblHeader"))


def _rule(table: Table) -> None:
    """A thin line under each row."""
    borders = OxmlElement("w:tblBorders")
    for side in ("bottom", "insideH"):
        line = OxmlElement(f"w:{side}")
        for name, value in (("val", "single"), ("sz", "4"), ("color", LIGHT.rule.lstrip("#"))):
            line.set(qn(f"w:{name}"), value)
        borders.append(line)
    table._tbl.tblPr.append(borders)


def _picture(document: WordDocument, block: PictureBlock, draw: Callable[[PictureBlock], str]) -> None:
    png = png_of(draw(block), block.width, block.height, _DPI)
    shape = document.add_picture(io.BytesIO(png), width=Mm(block.width))
    about = shape._inline.docPr
    about.set("descr", clean(block.sentence))
    about.set("name", clean(block.name))


def _carry(document: WordDocument, carried: str) -> None:
    """Put ``carried`` into a part of its own, which word processors leave as it is."""
    text = f'<report xmlns="{_NAMESPACE}">{escape(carried)}</report>'
    package = document.part.package
    part = PackagePart(PackURI(f"/{CARRIED_PART}"), "application/xml", text.encode(), package)
    document.part.relate_to(part, RELATIONSHIP_TYPE.CUSTOM_XML)


def _without_time(data: bytes) -> bytes:
    """The same archive with no time in it, so that the same report is the same file, and room for its seal."""
    buffer = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data)) as old, zipfile.ZipFile(buffer, "w", zipfile.ZIP_DEFLATED) as new:
        for entry in old.infolist():
            plain_entry = zipfile.ZipInfo(entry.filename, _EPOCH)
            plain_entry.compress_type = zipfile.ZIP_DEFLATED
            new.writestr(plain_entry, old.read(entry))
        new.comment = SEAL.encode()
    return buffer.getvalue()
