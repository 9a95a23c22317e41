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
from docx.text.paragraph import Paragraph as WordParagraph

from culvix.charts.palette import LIGHT
from culvix.progress import Progress, silent
from culvix.report.carried import SEAL
from culvix.report.formats.page_blocks import MM, column_widths
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
_LETTERS = "DejaVu Sans"
_WIDTH = 210 - 2 * 18
"""Millimetres between the margins."""
_LARGER, _BESIDE = 1.18, 5.0
"""How many times as wide words are as on the pages of a PDF, and points of room beside them."""

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
    style.font.name, style.font.size = _LETTERS, Pt(9.5)
    style.paragraph_format.space_after = Pt(4)
    for name, size in (("Title", 20), ("Heading 1", 14), ("Heading 2", 11.5)):
        heading = document.styles[name]
        heading.font.size, heading.font.color.rgb = Pt(size), RGBColor.from_string(LIGHT.ink.lstrip("#"))
        # The template has letters and lines of its own for headings.
        fonts = heading.element.get_or_add_rPr().get_or_add_rFonts()
        for which in list(fonts.attrib):
            del fonts.attrib[which]
        heading.font.name = _LETTERS
        for line in heading.element.xpath("./w:pPr/w:pBdr"):
            line.getparent().remove(line)
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
        case Numbers():
            _numbers(document, part)
        case TableBlock():
            _table(document, part)
        case PictureBlock():
            _picture(document, part, draw)
        case Sheet(title=title, beside=beside, parts=parts):
            document.add_heading(clean(title), 2)
            _quiet(document, beside).paragraph_format.keep_with_next = True
            for inner in parts:
                _add(document, inner, draw)


def _quiet(document: WordDocument, text: str) -> WordParagraph:
    paragraph = document.add_paragraph()
    paragraph.add_run(clean(text)).font.color.rgb = RGBColor.from_string(LIGHT.muted.lstrip("#"))
    return paragraph


def _paragraph(document: WordDocument, text: Text, kind: str) -> None:
    if kind == "quiet":
        _quiet(document, plain(text))
        return
    paragraph = document.add_paragraph()
    if kind in MARKS:
        paragraph.add_run(f"{MARKS[kind]} ").bold = True
    paragraph.add_run(clean(plain(text)))


def _numbers(document: WordDocument, numbers: Numbers) -> None:
    """Names and figures, two beside each other where they are short."""
    pairs = numbers.beside
    columns = 2 * max(map(len, pairs), default=1)
    table = document.add_table(rows=0, cols=columns)
    for lines in pairs:
        row = table.add_row()
        _keep_whole(row)
        for index, (name, text) in enumerate(lines):
            _fill(row.cells[2 * index], name, muted=True)
            _fill(row.cells[2 * index + 1], plain(text))
    _set_widths(table, [_WIDTH / columns * (1.0 if columns > 2 else share) for share in (0.5, 1.5, 1, 1)[:columns]])
    _rule(table)
    document.add_paragraph()


def _set_widths(table: Table, widths: list[float]) -> None:
    """Widths in millimetres, on which all word processors agree only where every cell has them."""
    table.autofit = False
    for column, width in zip(table.columns, widths, strict=True):
        column.width = Mm(width)
    for row in table.rows:
        for cell, width in zip(row.cells, widths, strict=True):
            cell.width = Mm(width)


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
    # Cells have room beside their words here, and words are somewhat larger and bolder.
    room = _BESIDE * len(block.heads)
    across = column_widths(block, (_WIDTH * MM - room) / _LARGER)
    _set_widths(table, [(width * _LARGER + _BESIDE) / MM for width in across])
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
    document.paragraphs[-1].paragraph_format.keep_with_next = True
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
