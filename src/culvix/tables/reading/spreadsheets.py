"""Sheets of open spreadsheets: cells as the text they would be written as, errors included."""

import io
import re
import zipfile
import zlib

import numpy as np
import polars as pl

from culvix.errors import ReadError
from culvix.progress import Progress
from culvix.stats.core.arrays import Bools
from culvix.stats.display import plural
from culvix.tables.model.options.read_options import ReadOptions
from culvix.tables.model.options.reading_questions import ReadingQuestion
from culvix.tables.model.raw_table import RawTable, raw_columns
from culvix.tables.reading.sheet_process import loaded_sheet
from culvix.tables.reading.sheet_scan import SheetScan, scan_open_document, scan_workbook, sheet_members
from culvix.tables.reading.sources import Content
from culvix.tables.text.header import infer_header
from culvix.tables.text.lines import unique_names
from culvix.tables.text.ragged import leave_last_note

__all__ = ["choose_part", "read_spreadsheet"]

_HEAD_ROWS = 100


def read_spreadsheet(content: Content, options: ReadOptions, progress: Progress) -> RawTable:
    """The sheet of ``content`` that ``options`` name, the first where they name none.

    Raises ReadError where it is damaged or empty, or reaches farther than any table.
    """
    parts, scan, chosen = _scan(content, options, progress)
    sheet = _loaded(content, chosen, scan, progress)
    frame = _range(sheet, options.cells)
    frame, notes = _without_margins(frame, chosen, [part for part in parts if part != chosen])
    names, body, questions, remarks = _named(frame, options)
    if options.leave_last:
        if body.height <= options.leave_last:
            raise ReadError(f"There are no more than {plural(options.leave_last, 'row')}, so none would be left.")
        body = body.head(body.height - options.leave_last)
        remarks = (*remarks, *leave_last_note(options.leave_last))
    if not body.height:
        raise ReadError(f"The sheet {chosen} has a line of names at most, and no rows below it.")
    body.columns = [str(position) for position in range(body.width)]
    remarks = (*notes, *remarks)
    if len(parts) > 1 and options.part is None:
        remarks = (*remarks, f"The first of {plural(len(parts), 'sheet')} is read: {chosen}.")
    return RawTable(
        names, raw_columns(body), "spreadsheet", notes=remarks, parts=parts, part=chosen, questions=questions
    )


def _scan(content: Content, options: ReadOptions, progress: Progress) -> tuple[tuple[str, ...], SheetScan, str]:
    """The names of the sheets, and how far the chosen one reaches."""
    name = content.path.name
    try:
        with zipfile.ZipFile(io.BytesIO(content.data)) as archive:
            members = set(archive.namelist())
            if "content.xml" in members:
                scans = scan_open_document(archive, content.size, name, progress)
                chosen = choose_part(name, tuple(scans), options.part, "sheet")
                return tuple(scans), scans[chosen], chosen
            if "xl/workbook.bin" in members:
                raise ReadError(f"{name} is a binary spreadsheet; save it in an open format.")
            if not any(member.startswith("xl/") for member in members):
                raise ReadError(f"{name} is a zip archive, not a spreadsheet; unpack it and open the table in it.")
            sheets = sheet_members(archive, content.size, name, progress)
            chosen = choose_part(name, tuple(sheets), options.part, "sheet")
            return tuple(sheets), scan_workbook(archive, sheets[chosen], content.size, name, progress), chosen
    except (zipfile.BadZipFile, OSError, ValueError, EOFError, RuntimeError, zlib.error) as error:
        raise ReadError(f"{name} is packed (zip), but cut off or damaged: it cannot be unpacked.") from error


def choose_part(name: str, parts: tuple[str, ...], part: str | None, what: str) -> str:
    """The sheet or table called ``part``, the first where it is None. Raises ReadError where there is none of them."""
    if not parts:
        raise ReadError(f"There is no {what} in {name}.")
    if part is None:
        return parts[0]
    if part not in parts:
        raise ReadError(f"There is no {what} called {part!r} in {name}; there are {', '.join(parts[:20])}.")
    return part


def _loaded(content: Content, chosen: str, scan: SheetScan, progress: Progress) -> pl.DataFrame:
    """The cells of a sheet from its cell A1 on, numbers written in full and errors by their names."""
    texts, numbers = loaded_sheet(content.data, chosen, content.path.name, progress)
    if scan.first_column > 1 and texts.width <= scan.last_column - scan.first_column + 1:
        empty = [None] * texts.height
        beside = [pl.Series(f"beside {k}", empty, dtype=pl.String) for k in range(scan.first_column - 1)]
        texts = pl.DataFrame([*beside, *texts.get_columns()])
        numbers = pl.DataFrame([*(each.cast(pl.Float64) for each in beside), *numbers.get_columns()])
    return _in_full(texts, numbers, scan)


def _in_full(texts: pl.DataFrame, numbers: pl.DataFrame, scan: SheetScan) -> pl.DataFrame:
    """The cells as text, with those that hold a number written in full: their text is rounded."""
    errors: dict[int, dict[int, str]] = {}
    for (row, column), text in scan.errors.items():
        errors.setdefault(column - 1, {})[row - 1] = text
    columns = []
    for position, name in enumerate(texts.columns):
        written, number = texts[name], numbers[name]
        rounded = (number.is_not_null() & (written.cast(pl.Float64, strict=False) != number)).fill_null(False)
        series = pl.select(pl.when(rounded).then(number.cast(pl.String)).otherwise(written).alias(name)).to_series()
        here = {row: error for row, error in errors.get(position, {}).items() if row < len(series)}
        if here:
            series = series.scatter(list(here), list(here.values()))
        columns.append(series)
    return pl.DataFrame(columns)


def _without_margins(frame: pl.DataFrame, sheet: str, others: list[str]) -> tuple[pl.DataFrame, tuple[str, ...]]:
    """``frame`` without empty rows above and below, empty columns beside, and lines above the table."""
    filled: Bools = frame.select(pl.all().is_not_null() & (pl.all().str.strip_chars() != "")).to_numpy()
    rows, columns = (np.flatnonzero(np.any(filled, axis=axis)) for axis in (1, 0))
    if not rows.size:
        more = f"; there are also {', '.join(others[:20])}" if others else ""
        raise ReadError(f"The sheet {sheet} is empty{more}.")
    first_row, last_row, first, last = int(rows[0]), int(rows[-1]), int(columns[0]), int(columns[-1])
    width = last - first + 1
    counts = filled[first_row : last_row + 1].sum(axis=1)
    head = next((position for position, number in enumerate(counts.tolist()) if 2 * number >= width), 0)
    notes = (f"{plural(head, 'line')} above the table left out.",) if head else ()
    names = frame.columns[first : last + 1]
    return frame.select(names).slice(first_row + head, last_row - first_row - head + 1), notes


def _named(
    frame: pl.DataFrame, options: ReadOptions
) -> tuple[tuple[str, ...], pl.DataFrame, tuple[ReadingQuestion, ...], tuple[str, ...]]:
    """The names of the columns, the rows below, what is to be asked about them, and what was decided."""
    top = [[(cell or "").strip() for cell in row] for row in frame.head(_HEAD_ROWS).rows()]
    inferred = infer_header(top)
    rows = inferred.rows if options.header_rows is None else options.header_rows
    rows = min(rows, frame.height)
    if rows:
        raw = [" ".join(cell for cell in column if cell) for column in zip(*top[:rows], strict=True)]
    else:
        raw = [f"column {position}" for position in range(1, frame.width + 1)]
    header = unique_names(raw)
    notes = header.notes
    if options.header_rows is None and inferred.rows != 1:
        notes = (*notes, f"Names stand in {plural(rows, 'line')}: {inferred.reason}.")
    questions = inferred.questions if options.header_rows is None else ()
    return header.names, frame.slice(rows), questions, notes


def _range(sheet: pl.DataFrame, cells: str | None) -> pl.DataFrame:
    """The part of ``sheet`` that a range such as B3:F200 names."""
    if cells is None:
        return sheet
    found = re.fullmatch(r"\s*([A-Za-z]{1,3})(\d{1,7})\s*:\s*([A-Za-z]{1,3})(\d{1,7})\s*", cells)
    if found is None:
        raise ReadError(f"A range of cells is written like B3:F200, not {cells[:40]!r}.")
    left, top, right, bottom = _letters(found[1]), int(found[2]), _letters(found[3]), int(found[4])
    if not (1 <= top <= bottom and left <= right) or top > sheet.height or left > sheet.width:
        raise ReadError(f"The range {cells} lies outside the sheet, which has {sheet.height} rows.")
    return sheet.select(sheet.columns[left - 1 : right]).slice(top - 1, bottom - top + 1)


def _letters(text: str) -> int:
    position = 0
    for letter in text.upper():
        position = 26 * position + ord(letter) - 64
    return position
