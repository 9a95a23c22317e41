"""A look at the XML of a spreadsheet before a library loads it: how far it reaches, and which cells hold errors.

A sheet of a few bytes may name a cell at its farthest corner; loaded as a rectangle it would take hundreds of
gigabytes. Cells are counted here while the archive is unpacked piece by piece, whatever its headers say.
"""

import re
import zipfile
from collections.abc import Iterator
from dataclasses import dataclass, field
from posixpath import join, normpath
from xml.etree import ElementTree

from culvix.errors import ReadError
from culvix.progress import Progress
from culvix.stats.display import count

__all__ = ["SheetScan", "scan_open_document", "scan_workbook", "sheet_members"]

_CHUNK = 1 << 20
_MOST_BYTES, _MOST_RATIO = 1 << 28, 30
"""Nobody's sheet unpacks to more than this many bytes and this many times its packed size."""

_MOST_DIGITS = 30
_SPARSE_FROM, _EMPTY_CELLS = 2_000_000, 50
"""A rectangle of more cells than this, with fewer than one in so many filled, is no table."""

_MOST_CELLS, _CELLS_PER_BYTE = 1_000_000, 4
"""More cells than this, and more than so many for each byte of the file, are repeated ones."""

_MOST_STRINGS = 10_000_000
_LAST_ROW, _LAST_COLUMN = 1 << 24, 1 << 14
"""The farthest cell that any program for spreadsheets has."""

_MOST_BLANKS = 1 << 25
"""Blanks that are written by their number, in all cells together."""
_ROW = re.compile(rb"<(?:\w+:)?row\b([^>]*?)(?:/>|>(.*?)</(?:\w+:)?row\s*>)", re.S)
_CELL = re.compile(rb"<(?:\w+:)?c(\s[^>]*?)?(?:/>|>(.*?)</(?:\w+:)?c\s*>)", re.S)
_REFERENCE = re.compile(rb"""\br\s*=\s*["']\s*([A-Za-z]{1,9})(\d{1,30})\s*["']""")
_ROW_NUMBER = re.compile(rb"""\br\s*=\s*["']\s*(\d{1,30})\s*["']""")
_DIMENSION = re.compile(rb"""<(?:\w+:)?dimension\b[^>]*\bref\s*=\s*["']([^"']*)["']""")
_CORNER = re.compile(rb"([A-Za-z]{1,9})(\d{1,30})")
_ERROR = re.compile(rb"""\bt\s*=\s*["']e["']""")
_VALUE = re.compile(rb"<(?:\w+:)?v\b[^>]*>([^<]*)<")


@dataclass
class SheetScan:
    """Rows and columns (from 1) between which cells are filled, how many are, and the errors by row and column."""

    first_row: int = 0
    last_row: int = 0
    first_column: int = 0
    last_column: int = 0
    cells: int = 0
    errors: dict[tuple[int, int], str] = field(default_factory=dict)

    @property
    def area(self) -> int:
        return (self.last_row - self.first_row + 1) * (self.last_column - self.first_column + 1)

    def add(self, row: int, first: int, last: int, cells: int) -> None:
        """Count ``cells`` filled cells of ``row`` between two columns."""
        if not self.cells:
            self.first_row, self.first_column = row, first
        self.first_row, self.last_row = min(self.first_row, row), max(self.last_row, row)
        self.first_column, self.last_column = min(self.first_column, first), max(self.last_column, last)
        self.cells += cells

    def check(self, name: str, packed: int) -> None:
        """Raise ReadError where the rectangle around the filled cells is no table of a file of ``packed`` bytes."""
        if self.cells > max(_MOST_CELLS, _CELLS_PER_BYTE * packed):
            raise ReadError(f"{name} repeats cells until there are {count(self.cells)}; no table does.")
        sparse = self.area > _SPARSE_FROM and self.area > _EMPTY_CELLS * self.cells
        if sparse:
            raise ReadError(
                f"{name} has {count(self.cells)} filled cells, spread over {count(self.last_row - self.first_row + 1)} "
                f"rows and {count(self.last_column - self.first_column + 1)} columns; no table does. Delete what "
                "stands far outside, or save the table as delimited text."
            )


def _pieces(archive: zipfile.ZipFile, member: str, packed: int, name: str, progress: Progress) -> Iterator[bytes]:
    """A member of the archive piece by piece. Raises ReadError where it unpacks to more than any table does."""
    total = 0
    with archive.open(member) as stream:
        while piece := stream.read(_CHUNK):
            total += len(piece)
            if total == len(piece) and b"<!DOCTYPE" in piece[:4096]:
                raise ReadError(f"{name} is damaged or no spreadsheet: it declares a document type of its own.")
            if total > max(_MOST_BYTES, _MOST_RATIO * packed):
                raise ReadError(f"{name} unpacks to over {total >> 20} megabytes; no table does, so it is not opened.")
            progress(0.3, f"looking through {name}")
            yield piece


def sheet_members(archive: zipfile.ZipFile, packed: int, name: str, progress: Progress) -> dict[str, str]:
    """The members that hold the sheets of a workbook, by name of the sheet; its strings are counted on the way."""
    members = set(archive.namelist())
    for member in members:
        if member.endswith("sharedStrings.xml"):
            strings = sum(piece.count(b"<si") for piece in _pieces(archive, member, packed, name, progress))
            if strings > _MOST_STRINGS:
                raise ReadError(f"{name} lists {count(strings)} texts; no table does, so it is not opened.")
        elif member.endswith((".xml", ".rels")) and "worksheets/" not in member:
            for _ in _pieces(archive, member, packed, name, progress):
                pass
    try:
        book = ElementTree.fromstring(archive.read("xl/workbook.xml"))
        relations = ElementTree.fromstring(archive.read("xl/_rels/workbook.xml.rels"))
    except (KeyError, ElementTree.ParseError) as error:
        raise ReadError(f"{name} is damaged or no spreadsheet: its list of sheets cannot be read.") from error
    targets = {each.get("Id"): each.get("Target", "") for each in relations}
    found = {}
    for each in book.iter():
        if each.tag.endswith("}sheet") or each.tag == "sheet":
            identity = next((value for key, value in each.attrib.items() if key.endswith("}id")), None)
            target = targets.get(identity, "")
            member = normpath(target.lstrip("/") if target.startswith("/") else join("xl", target))
            if member in members:
                found[each.get("name", "")] = member
    return found


def scan_workbook(archive: zipfile.ZipFile, member: str, packed: int, name: str, progress: Progress) -> SheetScan:
    """Look through one sheet of a workbook. Raises ReadError where it reaches farther than any table."""
    scan = SheetScan()
    left, row = b"", 0
    for piece in _pieces(archive, member, packed, name, progress):
        left += piece
        for declared in _DIMENSION.finditer(left):
            for corner in _CORNER.finditer(declared[1]):
                _check_reach(name, int(corner[2]), _letters(corner[1]))
        end = 0
        for found in _ROW.finditer(left):
            end = found.end()
            number = _ROW_NUMBER.search(found[1])
            row = int(number[1]) if number is not None else row + 1
            _check_reach(name, row, 1)
            if found[2]:
                _scan_row(scan, row, found[2], name)
        left = left[end:]
        if len(left) > _MOST_BYTES:
            raise ReadError(f"{name} has a row of over {len(left) >> 20} megabytes; no table does.")
    scan.check(name, packed)
    return scan


def _check_reach(name: str, row: int, column: int) -> None:
    """Raise ReadError for a cell where no sheet has one."""
    if row > _LAST_ROW or column > _LAST_COLUMN:
        raise ReadError(f"{name} names a cell in row {count(row)}, column {count(column)}; no sheet reaches so far.")


def _scan_row(scan: SheetScan, row: int, content: bytes, name: str) -> None:
    column = first = last = cells = 0
    for found in _CELL.finditer(content):
        attributes = found[1] or b""
        reference = _REFERENCE.search(attributes)
        column = _letters(reference[1]) if reference is not None else column + 1
        at = int(reference[2]) if reference is not None else row
        _check_reach(name, at, column)
        if not found[2] or b"<" not in found[2]:
            continue
        if at != row:
            scan.add(at, column, column, 1)
        first, last, cells = first or column, max(column, last), cells + 1
        first = min(first, column)
        if _ERROR.search(attributes):
            value = _VALUE.search(found[2])
            scan.errors[at, column] = value[1].decode("utf-8", "replace") if value is not None else "#VALUE!"
    if cells:
        scan.add(row, first, last, cells)


def _letters(text: bytes) -> int:
    position = 0
    for letter in text.upper():
        position = 26 * position + letter - 64
    return position


def scan_open_document(archive: zipfile.ZipFile, packed: int, name: str, progress: Progress) -> dict[str, SheetScan]:
    """Look through the sheets of an OpenDocument spreadsheet. Raises ReadError as `scan_workbook`."""
    parser: ElementTree.XMLPullParser[ElementTree.Element] = ElementTree.XMLPullParser(("start", "end"))
    found: dict[str, SheetScan] = {}
    scan, row, column, repeat, filled, blanks = SheetScan(), 0, 0, 1, 0, 0
    first = last = 0
    column_times = 1
    try:
        for piece in _pieces(archive, "content.xml", packed, name, progress):
            parser.feed(piece)
            for event, element in _events(parser):
                tag = element.tag.rpartition("}")[2]
                if event == "start" and tag == "table":
                    scan = found[_attribute(element, "name")] = SheetScan()
                    row = 0
                elif event == "start" and tag == "table-row":
                    repeat, column, filled, first, last = _repeated(element, "rows"), 0, 0, 0, 0
                elif event == "end" and tag == "s":
                    blanks += _number(element, "c") * column_times
                    if blanks > _MOST_BLANKS:
                        raise ReadError(f"{name} has cells of more blanks than any table; it is not opened.")
                elif event == "start" and tag in ("table-cell", "covered-table-cell"):
                    column_times = _repeated(element, "columns") * repeat
                elif event == "end" and tag in ("table-cell", "covered-table-cell"):
                    times = _repeated(element, "columns")
                    _check_reach(name, row + 1, column + times)
                    if _attribute(element, "value-type") or len(element):
                        first, last = first or column + 1, column + times
                        filled += times
                    column += times
                elif event == "end" and tag == "table-row":
                    if filled:
                        scan.add(row + 1, first, last, filled)
                        scan.add(row + repeat, first, last, filled * (repeat - 1))
                    row += repeat
                    _check_reach(name, row, 1)
                    element.clear()
    except (KeyError, ElementTree.ParseError) as error:
        raise ReadError(f"{name} is damaged or no spreadsheet: its content cannot be read.") from error
    for each in found.values():
        each.check(name, packed)
    return found


def _events(parser: "ElementTree.XMLPullParser[ElementTree.Element]") -> Iterator[tuple[str, ElementTree.Element]]:
    """Beginnings and ends of elements; of no other event the parser was asked to tell."""
    yield from parser.read_events()  # type: ignore[misc]


def _attribute(element: ElementTree.Element, name: str) -> str:
    return next((value for key, value in element.attrib.items() if key.rpartition("}")[2] == name), "")


def _repeated(element: ElementTree.Element, what: str) -> int:
    return _number(element, f"number-{what}-repeated")


def _number(element: ElementTree.Element, name: str) -> int:
    """What an attribute says of how often something stands there, 1 where it says nothing."""
    text = _attribute(element, name).strip()
    return max(int(text), 1) if text.isdecimal() and len(text) < _MOST_DIGITS else 1
