"""Tables that come with columns of their own: spreadsheets, Parquet, Arrow, JSON records, SQLite.

Every cell is taken as the text it would be written as, so that the same judgement applies whatever the file.
"""

import io
import re
import sqlite3
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import polars as pl

from culvix.errors import ReadError
from culvix.stats.arrays import Bools
from culvix.stats.display import count, plural
from culvix.tables.delimited import MOST_COLUMNS
from culvix.tables.lines import unique_names
from culvix.tables.raw import RawTable, raw_columns
from culvix.tables.sources import Content, refuse_zip_bomb

__all__ = ["read_structured"]


def read_structured(content: Content, *, part: str | None = None, cells: str | None = None) -> RawTable:
    """Read ``content`` by its kind; ``part`` names the sheet or table, ``cells`` a range of a sheet such as B3:F200.

    Raises ReadError where it is damaged, empty, of an unknown kind, or the part or range does not exist.
    """
    readers = {"parquet": _parquet, "arrow": _arrow, "json": _json}
    if content.kind == "zip":
        return _spreadsheet(content, part, cells)
    if content.kind == "sqlite":
        return _sqlite(content, part)
    if content.kind in readers:
        return readers[content.kind](content)
    what = {"old office": "an old binary office file; save it as an open spreadsheet", "pdf": "a PDF, not a table"}
    raise ReadError(f"{content.path.name} is {what.get(content.kind, 'of a kind that cannot be read')}.")


def _as_raw(frame: pl.DataFrame, kind: str, *, parts: tuple[str, ...] = (), part: str = "") -> RawTable:
    if not frame.width or not frame.height:
        raise ReadError(f"There are no rows to read in this {kind}.")
    if frame.width > MOST_COLUMNS:
        raise ReadError(f"There are {count(frame.width)} columns; at most {count(MOST_COLUMNS)} are read.")
    header = unique_names([name.strip() for name in frame.columns])
    texts = [_texts(series).alias(str(place)) for place, series in enumerate(frame.get_columns())]
    return RawTable(header.names, raw_columns(pl.DataFrame(texts)), kind, notes=header.notes, parts=parts, part=part)


def _texts(series: pl.Series) -> pl.Series:
    if series.dtype == pl.Boolean:
        return series.replace_strict([True, False], ["true", "false"], default=None, return_dtype=pl.String)
    if series.dtype.is_nested() or series.dtype == pl.Object:
        return pl.Series([None if value is None else str(value) for value in series.to_list()], dtype=pl.String)
    if series.dtype == pl.Binary:
        raise ReadError(f"The column {series.name} holds raw bytes, which are no cells of a table.")
    return series.cast(pl.String)


def _parquet(content: Content) -> RawTable:
    return _columnar(content, pl.read_parquet, "Parquet")


def _arrow(content: Content) -> RawTable:
    return _columnar(content, pl.read_ipc, "Arrow")


def _columnar(content: Content, read: Callable[[io.BytesIO], pl.DataFrame], name: str) -> RawTable:
    try:
        frame = read(io.BytesIO(content.data))
    except (pl.exceptions.PolarsError, OSError, ValueError) as error:
        raise ReadError(f"{content.path.name} is cut off or damaged: it cannot be read as {name}.") from error
    return _as_raw(frame, f"{name} file")


def _json(content: Content) -> RawTable:
    """An array of records, or one record a line."""
    whole = content.data.lstrip()[:1] == b"["
    try:
        if whole:
            frame = pl.read_json(io.BytesIO(content.data), infer_schema_length=None)
        else:
            frame = pl.read_ndjson(io.BytesIO(content.data), infer_schema_length=None)
    except (pl.exceptions.PolarsError, OSError, ValueError) as error:
        raise ReadError(f"{content.path.name} does not hold records of one kind: {_first_line(error)}") from error
    return _as_raw(frame, "JSON records")


def _first_line(error: Exception) -> str:
    return (str(error).strip().splitlines() or ["it is damaged"])[0][:200].rstrip(".") + "."


def _sqlite(content: Content, part: str | None) -> RawTable:
    try:
        with sqlite3.connect(":memory:") as database:
            database.deserialize(content.data)
            listed = database.execute(
                "select name from sqlite_schema where type in ('table', 'view') "
                "and name not like 'sqlite_%' order by name"
            )
            parts = tuple(name for (name,) in listed)
            chosen = _chosen(content.path, parts, part, "table")
            quoted = chosen.replace('"', '""')
            found = database.execute(f'select * from "{quoted}"')
            names = [each[0] for each in found.description]
            rows = found.fetchall()
    except sqlite3.Error as error:
        raise ReadError(f"{content.path.name} is damaged or no database: {error}.") from error
    columns = {str(place): [_cell(row[place]) for row in rows] for place in range(len(names))}
    frame = pl.DataFrame(columns, schema=dict.fromkeys(columns, pl.String))
    if not frame.height:
        raise ReadError(f"The table {chosen} has no rows.")
    header = unique_names([name.strip() for name in names])
    return RawTable(header.names, raw_columns(frame), "SQLite table", notes=header.notes, parts=parts, part=chosen)


def _cell(value: object) -> str | None:
    if value is None:
        return None
    if isinstance(value, bytes):
        raise ReadError("The table holds raw bytes, which are no cells of a table.")
    return repr(value) if isinstance(value, float) else str(value)


def _chosen(path: Path, parts: tuple[str, ...], part: str | None, what: str) -> str:
    if not parts:
        raise ReadError(f"There is no {what} in {path.name}.")
    if part is None:
        return parts[0]
    if part not in parts:
        raise ReadError(f"There is no {what} called {part!r} in {path.name}; there are {', '.join(parts)}.")
    return part


def _spreadsheet(content: Content, part: str | None, cells: str | None) -> RawTable:
    _check_archive(content)
    import fastexcel

    try:
        book = fastexcel.read_excel(content.data)
        parts = tuple(book.sheet_names)
        chosen = _chosen(content.path, parts, part, "sheet")
        texts, numbers = (
            book.load_sheet(chosen, header_row=None, dtypes=kind).to_polars() for kind in ("string", "float")
        )
        sheet = _in_full(texts, numbers)
    except fastexcel.FastExcelError as error:
        raise ReadError(f"{content.path.name} is damaged or no spreadsheet: {_first_line(error)}") from error
    frame = _range(sheet, cells)
    frame, notes = _without_margins(frame)
    if frame.height < 2:
        raise ReadError(f"The sheet {chosen} has a line of names at most, and no rows below it.")
    names = unique_names(["" if name is None else str(name).strip() for name in frame.row(0)])
    body = frame.slice(1)
    body.columns = [str(place) for place in range(body.width)]
    said = (*notes, *names.notes)
    if len(parts) > 1 and part is None:
        said = (*said, f"The first of {plural(len(parts), 'sheet')} is read: {chosen}.")
    return RawTable(names.names, raw_columns(body), "spreadsheet", notes=said, parts=parts, part=chosen)


def _in_full(texts: pl.DataFrame, numbers: pl.DataFrame) -> pl.DataFrame:
    """The cells as text, with those that hold a number written in full: their text is rounded."""
    columns = []
    for name in texts.columns:
        text, number = texts[name], numbers[name]
        rounded = (number.is_not_null() & (text.cast(pl.Float64, strict=False) != number)).fill_null(False)
        columns.append(pl.select(pl.when(rounded).then(number.cast(pl.String)).otherwise(text).alias(name)).to_series())
    return pl.DataFrame(columns)


def _check_archive(content: Content) -> None:
    try:
        with zipfile.ZipFile(io.BytesIO(content.data)) as archive:
            members = archive.infolist()
    except (zipfile.BadZipFile, OSError, ValueError) as error:
        raise ReadError(
            f"{content.path.name} is packed (zip), but cut off or damaged: it cannot be unpacked."
        ) from error
    refuse_zip_bomb(content.path, sum(member.file_size for member in members), content.size)
    names = {member.filename for member in members}
    if not any(name.startswith(("xl/", "content.xml")) for name in names):
        raise ReadError(f"{content.path.name} is a zip archive, not a spreadsheet; unpack it and open the table in it.")


def _without_margins(frame: pl.DataFrame) -> tuple[pl.DataFrame, tuple[str, ...]]:
    """``frame`` without empty rows above and below, empty columns beside, and lines above the table."""
    filled: Bools = frame.select(pl.all().is_not_null() & (pl.all().str.strip_chars() != "")).to_numpy()
    rows, columns = (np.flatnonzero(np.any(filled, axis=axis)) for axis in (1, 0))
    if not rows.size:
        raise ReadError("The sheet is empty.")
    first_row, last_row, first, last = int(rows[0]), int(rows[-1]), int(columns[0]), int(columns[-1])
    width = last - first + 1
    counts = filled[first_row : last_row + 1].sum(axis=1)
    head = next(place for place, number in enumerate(counts.tolist()) if 2 * number >= width)
    notes = (f"{plural(head, 'line')} above the table left out.",) if head else ()
    names = frame.columns[first : last + 1]
    return frame.select(names).slice(first_row + head, last_row - first_row - head + 1), notes


def _range(sheet: pl.DataFrame, cells: str | None) -> pl.DataFrame:
    """The part of ``sheet`` that a range such as B3:F200 names."""
    if cells is None:
        return sheet

    found = re.fullmatch(r"\s*([A-Za-z]{1,3})(\d{1,7})\s*:\s*([A-Za-z]{1,3})(\d{1,7})\s*", cells)
    if found is None:
        raise ReadError(f"A range of cells is written like B3:F200, not {cells!r}.")
    left, top, right, bottom = _letters(found[1]), int(found[2]), _letters(found[3]), int(found[4])
    if not (1 <= top <= bottom and left <= right) or top > sheet.height or left > sheet.width:
        raise ReadError(f"The range {cells} lies outside the sheet, which has {sheet.height} rows.")
    return sheet.select(sheet.columns[left - 1 : right]).slice(top - 1, bottom - top + 1)


def _letters(text: str) -> int:
    place = 0
    for letter in text.upper():
        place = 26 * place + ord(letter) - 64
    return place
