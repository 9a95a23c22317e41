"""A part of a report by itself, as rich text and as plain text, so that it pastes well into other programs."""

import base64
from collections.abc import Callable, Iterator

import jinja2

from culvix.report.formats.html import shown
from culvix.report.formats.rich_text import clean
from culvix.report.parts import (
    Cell,
    Figure,
    Listing,
    Numbers,
    Paragraph,
    Part,
    PictureBlock,
    Section,
    Sheet,
    TableBlock,
    Text,
    plain,
)

__all__ = ["exact_cell", "fragment_html", "fragment_text"]

_READABLE = str.maketrans({"−": "-", "\u202f": "", "\u2009": ""})
"""What a spreadsheet does not read in a number."""


def fragment_html(part: Part | Section, png: Callable[[PictureBlock], bytes]) -> str:
    """``part`` as HTML; ``png`` gives a picture. Numbers are written as a spreadsheet reads them."""

    def source(block: PictureBlock) -> str:
        return f"data:image/png;base64,{base64.b64encode(png(block)).decode()}"

    environment = jinja2.Environment(
        loader=jinja2.PackageLoader("culvix.report"),
        autoescape=True,
        finalize=shown,
        trim_blocks=True,
        lstrip_blocks=True,
    )
    environment.filters.update(
        kind=lambda each: type(each).__name__, words=lambda text: clean(plain(text)), cell=_readable, source=source
    )
    return environment.get_template("fragment.html.j2").render(part=part).strip()


def fragment_text(part: Part | Section) -> str:
    """``part`` as lines of text; the cells of tables stand between tabs, their figures in full precision."""
    return "\n".join(_lines(part))


def exact_cell(cell: Cell) -> float | int | str:
    """What a cell holds: the exact value of a figure that stands by itself, else its words."""
    if len(cell) == 1 and isinstance(cell[0], Figure) and cell[0].value is not None:
        return cell[0].value
    return clean(plain(cell))


def _readable(cell: Text) -> str:
    words = clean(plain(cell))
    return words.translate(_READABLE) if len(cell) == 1 and isinstance(cell[0], Figure) else words


def _lines(part: Part | Section) -> Iterator[str]:
    match part:
        case Paragraph(text=text):
            yield clean(plain(text))
        case Listing(items=items):
            yield from (f"• {clean(plain(item))}" for item in items)
        case Numbers(lines=lines):
            yield from (f"{clean(name)}\t{_tabbed(text)}" for name, text in lines)
        case TableBlock(heads=heads, rows=rows):
            yield "\t".join(clean(head.text) for head in heads)
            yield from ("\t".join(map(_tabbed, row)) for row in rows)
        case PictureBlock(sentence=sentence):
            yield clean(sentence)
        case Sheet(title=title, parts=parts) | Section(title=title, parts=parts):
            yield clean(title)
            for inner in parts:
                yield from _lines(inner)


def _tabbed(cell: Cell) -> str:
    value = exact_cell(cell)
    return value.replace("\t", " ").replace("\n", " ") if isinstance(value, str) else repr(value)
