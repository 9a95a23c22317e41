"""The pages of a report on A4, whatever they are painted on: which block stands where. All in points."""

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF
from PyQt6.QtGui import QColor, QFontMetricsF, QPainter, QPen

from culvix.charts.palette import LIGHT
from culvix.progress import Progress, silent
from culvix.report.formats.page_blocks import MM, PAGE, Block, blocks_of, font, heading
from culvix.report.formats.rich_text import clean
from culvix.report.parts import Paragraph, PictureBlock, Report

__all__ = ["HEIGHT", "SIDE", "WIDTH", "Page", "Placed", "pages_of", "paint_page"]

WIDTH, HEIGHT = 210 * MM, 297 * MM
SIDE = 18 * MM
_TOP, _BOTTOM = 16 * MM, 18 * MM
_FOOT = 7


@dataclass(frozen=True)
class Placed:
    """A block whose upper edge stands at ``y``; a ``repeated`` one is the head of a table that goes on."""

    block: Block
    y: float
    repeated: bool = False


Page = tuple[Placed, ...]


def pages_of(report: Report, draw: Callable[[PictureBlock], str], *, progress: Progress = silent) -> tuple[Page, ...]:
    """``report`` put on pages. Raises what ``draw`` and ``progress`` raise."""
    width = WIDTH - 2 * SIDE
    blocks = [heading(clean(report.title), width, 0)]
    blocks += blocks_of([Paragraph((line,), "quiet") for line in report.about], width, draw)
    for position, section in enumerate(report.sections):
        progress(0.9 + 0.1 * position / len(report.sections), f"writing {section.title}")
        if section.title:
            head = heading(section.title, width, 1)
            head.after = section.key
            blocks.append(head)
        blocks += blocks_of(section.parts, width, draw, after=section.key)
    return tuple(map(tuple, _placed(blocks)))


def _placed(blocks: Sequence[Block]) -> Iterator[list[Placed]]:
    """``blocks`` one under the other; those that are kept together begin a new page together."""
    page: list[Placed] = []
    end, y, position = _TOP + PAGE, _TOP, 0

    def put(block: Block, *, repeated: bool = False) -> None:
        nonlocal y
        y += block.before if y > _TOP else 0.0
        page.append(Placed(block, y, repeated))
        y += block.height

    while position < len(blocks):
        last = position
        while blocks[last].keep and last + 1 < len(blocks):
            last += 1
        together = blocks[position : last + 1]
        if y > _TOP and y + sum(block.before + block.height for block in together) > end:
            yield page
            page, y = [], _TOP
            if (head := together[0].head) is not None:
                put(head, repeated=True)
        for block in together:
            put(block)
        position = last + 1
    yield page


def paint_page(painter: QPainter, page: Page, number: int, title: str) -> None:
    """Paint ``page``, with ``title`` and its ``number`` at the foot, on a painter whose unit is a point."""
    painter.setFont(font(_FOOT))
    painter.setPen(QPen(QColor(LIGHT.muted)))
    across = QFontMetricsF(font(_FOOT)).horizontalAdvance(str(number))
    base = HEIGHT - _BOTTOM / 2
    painter.drawText(QPointF(SIDE, base), clean(title)[:90])
    painter.drawText(QPointF(WIDTH - SIDE - across, base), str(number))
    for placed in page:
        painter.save()
        painter.translate(SIDE, placed.y)
        placed.block.draw(painter)
        painter.restore()
