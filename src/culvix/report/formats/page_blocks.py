"""What stands on the pages of a printed report: blocks that know their height and draw themselves; all in points."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QByteArray, QPointF, QRectF
from PyQt6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPen, QTextDocument, QTextOption
from PyQt6.QtSvg import QSvgRenderer

from culvix.charts.palette import LIGHT
from culvix.report.formats.rich_text import clean, rich
from culvix.report.parts import (
    Listing,
    Numbers,
    Paragraph,
    Part,
    PictureBlock,
    Sheet,
    TableBlock,
    plain,
    sheet_place,
)

__all__ = ["MM", "PAGE", "Block", "blocks_of", "column_widths", "font", "heading"]

MM = 72 / 25.4
PAGE = (297 - 16 - 18) * MM
"""Room for blocks on one page, from above."""

_BODY, _SMALL = 9, 8
_GAP = 8.0
"""Between two columns of a table."""
_ROW_GAP = 2.5
_RULE = 0.5
_NARROWEST = 24.0
_INDENT = 10.0

_BARS = {"open": LIGHT.caution, "grave": LIGHT.flagged, "settled": LIGHT.resolved, "own": LIGHT.rule}
"""The colour of the line beside paragraphs of a kind."""


@dataclass
class Block:
    """Something of ``height`` that ``draw`` draws at its left upper corner.

    ``keep``: it stands on the same page as the block after it. ``head`` is drawn first at the top of a new page when
    the block goes on there. ``anchor`` and ``level`` make an entry of the contents.
    """

    height: float
    draw: Callable[[QPainter], None]
    before: float = 0.0
    keep: bool = False
    head: "Block | None" = None
    anchor: str = ""
    level: int = 0
    part: Part | None = None
    """What it belongs to: a table has a block for each row."""
    after: str = ""
    """The section or the sheet it belongs to, as own texts name it."""


def font(size: int, *, bold: bool = False) -> QFont:
    """The letters of the report, ``size`` points high: what is drawn is in points, which are its pixels."""
    made = QFont("DejaVu Sans")
    made.setPixelSize(size)
    made.setBold(bold)
    return made


def _laid_out(html: str, width: float, size: int, colour: str, *, right: bool = False) -> QTextDocument:
    """``html`` in lines of ``width``."""
    document = QTextDocument()
    document.setDocumentMargin(0)
    document.setDefaultFont(font(size))
    option = QTextOption()
    # Figures stay in one line, whatever blanks are in them.
    option.setWrapMode(QTextOption.WrapMode.NoWrap if right else QTextOption.WrapMode.WordWrap)
    document.setDefaultTextOption(option)
    align = ' align="right"' if right else ""
    document.setHtml(f'<div style="color:{colour}"{align}>{html}</div>')
    document.setTextWidth(width)
    if document.idealWidth() > width + 0.5 and not right:
        # One word is longer than the line: it goes on in the next rather than off the paper.
        option.setWrapMode(QTextOption.WrapMode.WrapAtWordBoundaryOrAnywhere)
        document.setDefaultTextOption(option)
        document.setTextWidth(width)
    return document


def _drawn_at(document: QTextDocument, x: float = 0.0, y: float = 0.0) -> Callable[[QPainter], None]:
    def draw(painter: QPainter) -> None:
        painter.save()
        painter.translate(x, y)
        document.drawContents(painter)
        painter.restore()

    return draw


def _text(html: str, width: float, *, size: int = _BODY, colour: str = LIGHT.ink, before: float = 3.0) -> Block:
    document = _laid_out(html, width, size, colour)
    return Block(document.size().height(), _drawn_at(document), before)


def heading(title: str, width: float, level: int, *, beside: str = "", anchor: str = "") -> Block:
    """A heading of ``level`` 0 (the title) to 2, with quiet words ``beside`` it."""
    size = (18, 13, 11)[level]
    quiet = f'<span style="color:{LIGHT.muted}; font-size:8px">{rich((beside,))}</span>'
    document = _laid_out(f"<b>{rich((title,))}</b> {quiet if beside else ''}", width, size, LIGHT.ink)
    return Block(
        document.size().height(),
        _drawn_at(document),
        (0.0, 16.0, 11.0)[level],
        keep=True,
        anchor=anchor or title,
        level=level,
    )


def blocks_of(
    parts: Sequence[Part], width: float, draw: Callable[[PictureBlock], str], *, after: str = ""
) -> Iterator[Block]:
    """The blocks of ``parts`` in lines of ``width``; ``draw`` gives a picture as SVG. All belong to ``after``."""
    for part in parts:
        for block in _blocks(part, width, draw):
            block.part = block.part or part
            block.after = block.after or after
            yield block


def _blocks(part: Part, width: float, draw: Callable[[PictureBlock], str]) -> Iterator[Block]:
    match part:
        case Paragraph(text=text, kind=kind):
            block = _paragraph(rich(text, kind), kind, width)
            # What only leads to what follows does not end a page.
            block.keep = plain(text).endswith(":")
            yield block
        case Listing(items=items):
            yield from (_item(rich(item), width) for item in items)
        case Numbers():
            yield from _numbers(part, width)
        case TableBlock():
            yield from _table(part, width)
        case PictureBlock():
            yield _picture(part, width, draw)
        case Sheet(title=title, beside=beside, parts=inner):
            head = heading(clean(title), width, 2, beside=clean(beside))
            head.after = sheet_place(part)
            yield from _unsplit([head, *blocks_of(inner, width, draw, after=sheet_place(part))])


def _unsplit(blocks: list[Block]) -> list[Block]:
    """``blocks`` on one page, where they are not more than that."""
    if sum(block.before + block.height for block in blocks) <= PAGE:
        for block in blocks[:-1]:
            block.keep = True
    return blocks


def _paragraph(html: str, kind: str, width: float) -> Block:
    if kind == "quiet":
        return _text(html, width, size=_SMALL, colour=LIGHT.muted)
    bar = _BARS.get(kind)
    if bar is None:
        return _text(html, width)
    block = _text(html, width - _INDENT)

    def draw(painter: QPainter) -> None:
        painter.fillRect(QRectF(0, 0, 1.5, block.height), QColor(bar))
        painter.save()
        painter.translate(_INDENT, 0)
        block.draw(painter)
        painter.restore()

    return Block(block.height, draw, 4.0)


def _item(html: str, width: float) -> Block:
    document = _laid_out(html, width - _INDENT, _BODY, LIGHT.ink)

    def draw(painter: QPainter) -> None:
        painter.setPen(QPen(QColor(LIGHT.ink)))
        painter.setFont(font(_BODY))
        painter.drawText(QPointF(1.0, QFontMetricsF(font(_BODY)).ascent()), "•")
        _drawn_at(document, _INDENT)(painter)

    return Block(document.size().height(), draw, 2.5)


def _picture(part: PictureBlock, width: float, draw: Callable[[PictureBlock], str]) -> Block:
    across = min(part.width * MM, width)
    down = across * part.height / part.width
    svg = QSvgRenderer(QByteArray(draw(part).encode()))

    def put(painter: QPainter) -> None:
        painter.save()
        painter.setClipRect(QRectF(0, 0, across, down))
        svg.render(painter, QRectF(0, 0, across, down))
        painter.restore()

    return Block(down, put, 4.0)


def _numbers(part: Numbers, width: float) -> Iterator[Block]:
    """Names and figures, two beside each other where they are short."""
    pairs = part.beside
    columns = max(map(len, pairs), default=1)
    each = (width - (columns - 1) * 3 * _GAP) / columns
    names = min(max((_width(name) for name, _ in part.lines), default=0.0) + _GAP, 0.55 * each)
    for number, lines in enumerate(pairs):
        cells = []
        for index, (name, text) in enumerate(lines):
            x = index * (each + 3 * _GAP)
            cells.append((_laid_out(rich((name,)), names - _GAP, _SMALL, LIGHT.muted), x))
            cells.append((_laid_out(rich(text), each - names, _SMALL, LIGHT.ink), x + names))
        yield _row(cells, width, ruled=True, before=0.0 if number else _ROW_GAP)


def _width(text: str, *, bold: bool = False) -> float:
    return QFontMetricsF(font(_SMALL, bold=bold)).horizontalAdvance(clean(text))


def _row(cells: Sequence[tuple[QTextDocument, float]], width: float, *, ruled: bool, before: float = 0.0) -> Block:
    height = max((document.size().height() for document, _ in cells), default=0.0) + 2 * _ROW_GAP

    def draw(painter: QPainter) -> None:
        for document, x in cells:
            _drawn_at(document, x, _ROW_GAP)(painter)
        if ruled:
            painter.fillRect(QRectF(0, height - _RULE, width, _RULE), QColor(LIGHT.rule))

    return Block(height, draw, before)


def _table(part: TableBlock, width: float) -> Iterator[Block]:
    """The name and the head, kept together with the first row, then the rows, none of them split."""
    widths = column_widths(part, width)
    starts = [sum(widths[:column]) for column in range(len(widths))]
    numeric = [head.numeric for head in part.heads]
    name = _text(f"<b>{rich((part.name,))}</b>", width, size=_SMALL, before=8.0)
    name.keep = True
    yield name
    head = _row(
        [
            (_laid_out(rich((head.text,)), wide - _GAP, _SMALL, LIGHT.muted, right=head.numeric), start)
            for head, wide, start in zip(part.heads, widths, starts, strict=True)
        ],
        width,
        ruled=True,
    )
    head.keep = True
    yield head
    for texts in part.rows:
        cells = [
            (_laid_out(rich(text), wide - _GAP, _SMALL, LIGHT.ink, right=right), start)
            for text, wide, start, right in zip(texts, widths, starts, numeric, strict=True)
        ]
        row = _row(cells, width, ruled=True)
        row.head = head
        yield row
    if part.caption:
        yield _text(rich((part.caption,)), width, size=_SMALL, colour=LIGHT.muted)


def column_widths(part: TableBlock, width: float) -> list[float]:
    """Room for each column: what its words need where that fits, the rest for those that hold sentences."""
    natural, least = [], []
    for column, head in enumerate(part.heads):
        texts = [head.text, *(plain(row[column]) for row in part.rows)]
        words = [word for text in texts for word in text.split(" ")] or [""]
        natural.append(max(map(_width, texts)) + _GAP)
        least.append(max(max(map(_width, words)) + _GAP, _NARROWEST))
    if sum(natural) <= width:
        return natural
    least = [min(each, 0.4 * width) for each in least]
    left = width - sum(least)
    if left <= 0:
        return [each * width / sum(least) for each in least]
    wanting = [max(want - need, 0.0) for want, need in zip(natural, least, strict=True)]
    # Columns of sentences share what is left by how long these are, the longest not taking everything.
    wide = [column in part.wide or not part.wide for column in range(len(natural))]
    shares = [each**0.6 if grows else 0.0 for each, grows in zip(wanting, wide, strict=True)]
    return [need + left * share / (sum(shares) or 1.0) for need, share in zip(least, shares, strict=True)]
