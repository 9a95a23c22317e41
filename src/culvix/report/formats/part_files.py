"""One picture or table of a report as a file of its own."""

from collections.abc import Callable

from culvix.errors import WriteError
from culvix.report.formats.raster import png_of
from culvix.report.formats.workbook import table_file
from culvix.report.parts import PictureBlock, TableBlock

__all__ = ["part_file", "part_kinds"]

_PICTURES = {".svg": "Vector picture", ".png": "Picture of 300 dpi"}
_TABLES = {".csv": "Delimited text", ".xlsx": "Spreadsheet"}


def part_kinds(part: PictureBlock | TableBlock) -> dict[str, str]:
    """What ``part`` can be written as, by the ending of its file."""
    return _PICTURES if isinstance(part, PictureBlock) else _TABLES


def part_file(part: PictureBlock | TableBlock, suffix: str, draw: Callable[[PictureBlock], str]) -> bytes:
    """``part`` as a file. Raises WriteError for a ``suffix`` that is none of its kinds, and what ``draw`` raises."""
    if suffix.lower() not in part_kinds(part):
        raise WriteError(f"It is written as {' or '.join(part_kinds(part))}, not {suffix or 'without an ending'}.")
    if isinstance(part, TableBlock):
        return table_file(part, suffix)
    svg = draw(part)
    if suffix.lower() == ".svg":
        return svg.encode()
    return png_of(svg, part.width, part.height)
