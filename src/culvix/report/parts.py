"""What a report is made of, whatever it is written as: sections of paragraphs, tables and pictures.

Every figure in it has a key and its exact value beside the text that is printed, so that a written report can be
compared with what is computed anew.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field

from culvix.study.pictures.bars import BarsPicture
from culvix.study.pictures.column_pictures import ShapePicture
from culvix.study.pictures.groups.group_rows import GroupsPicture
from culvix.study.pictures.matrix_pictures import MatrixPicture
from culvix.study.pictures.missing_picture import MissingPicture
from culvix.study.pictures.pair_pictures import PairPicture

__all__ = [
    "Cell",
    "Figure",
    "Head",
    "Listing",
    "Numbers",
    "Paragraph",
    "Part",
    "PictureBlock",
    "Report",
    "Section",
    "Sheet",
    "TableBlock",
    "Text",
    "figures_in",
    "joined",
    "plain",
    "sheet_place",
]


@dataclass(frozen=True)
class Figure:
    """A printed number: ``key`` says of what, ``value`` is exact, ``text`` is what stands on paper."""

    key: str
    value: float | int | None
    text: str


_LONG = 40
"""Letters of a figure with all that stands beside it, beyond which it has a line of its own."""

Text = tuple[str | Figure, ...]
"""A line of words and figures."""

Cell = Text
"""What stands in a cell of a table."""


def plain(text: Text) -> str:
    """The words of ``text`` as they are read."""
    return "".join(part if isinstance(part, str) else part.text for part in text)


def joined(texts: Iterable[Text], between: str = ", ") -> Text:
    """All of ``texts`` in one line."""
    parts: list[str | Figure] = []
    for position, text in enumerate(texts):
        parts += [between, *text] if position else text
    return tuple(parts)


@dataclass(frozen=True)
class Paragraph:
    """A paragraph; ``kind`` is plain, quiet, verdict, open, grave, settled or own."""

    text: Text
    kind: str = "plain"


@dataclass(frozen=True)
class Listing:
    """Short paragraphs, each with a mark before it."""

    items: tuple[Text, ...]


@dataclass(frozen=True)
class Numbers:
    """Names with what they come to."""

    lines: tuple[tuple[str, Text], ...]

    @property
    def beside(self) -> list[tuple[tuple[str, Text], ...]]:
        """Two of the lines beside each other where all are short, read downwards; each by itself where one is long."""
        if any(len(plain(text)) > _LONG for _, text in self.lines):
            return [(line,) for line in self.lines]
        lines = self.lines if len(self.lines) % 2 == 0 else (*self.lines, ("", ()))
        half = len(lines) // 2
        return [lines[k::half] for k in range(half)]


@dataclass(frozen=True)
class Head:
    """The head of a column; figures are aligned at its right."""

    text: str
    numeric: bool = False


@dataclass(frozen=True)
class TableBlock:
    """A table with a name of its own; ``wide`` says which columns take the room that is left."""

    name: str
    heads: tuple[Head, ...]
    rows: tuple[tuple[Cell, ...], ...]
    caption: str = ""
    wide: tuple[int, ...] = ()


Picture = ShapePicture | PairPicture | BarsPicture | MissingPicture | MatrixPicture | GroupsPicture


@dataclass(frozen=True, eq=False)
class PictureBlock:
    """A picture, what it shows in a sentence, and its size in millimetres."""

    name: str
    picture: Picture
    sentence: str
    width: float = 170.0
    height: float = 62.0
    lanes: tuple[str, ...] = ()


@dataclass(frozen=True, eq=False)
class Sheet:
    """The parts that belong to one column, under its name."""

    anchor: str
    title: str
    beside: str
    parts: "tuple[Part, ...]"


def sheet_place(sheet: Sheet) -> str:
    """What own texts call the end of a sheet."""
    return f"column/{sheet.anchor}"


Part = Paragraph | Listing | Numbers | TableBlock | PictureBlock | Sheet


@dataclass(frozen=True, eq=False)
class Section:
    """One section under its heading."""

    key: str
    title: str
    parts: tuple[Part, ...]


@dataclass(frozen=True, eq=False)
class Report:
    """A whole report; ``about`` are the lines under its title."""

    title: str
    about: tuple[str, ...]
    sections: tuple[Section, ...]
    language: str = "en"
    metadata: dict[str, str] = field(default_factory=dict)

    @property
    def figures(self) -> list[Figure]:
        """Every figure that is printed, in order."""
        return [figure for section in self.sections for figure in figures_in(section.parts)]


def figures_in(parts: Sequence[Part]) -> Iterator[Figure]:
    """The figures of ``parts`` in the order in which they stand."""
    for text in texts_in(parts):
        yield from (part for part in text if isinstance(part, Figure))


def texts_in(parts: Sequence[Part]) -> Iterator[Text]:
    """All lines of ``parts``, in order."""
    for part in parts:
        match part:
            case Paragraph(text=text):
                yield text
            case Listing(items=items):
                yield from items
            case Numbers(lines=lines):
                yield from (text for _, text in lines)
            case TableBlock(rows=rows):
                yield from (cell for row in rows for cell in row)
            case Sheet(parts=inner):
                yield from texts_in(inner)
