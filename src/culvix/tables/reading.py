"""Reading a file into a `Table`: bytes, text, cells, and then columns by what the dictionary says and the cells show.

Every cell is kept as text and numbers are read from it, so that each cell that is not a number is known by its row.
"""

import os
from collections.abc import Collection
from concurrent.futures import ThreadPoolExecutor
from dataclasses import replace
from functools import partial
from pathlib import Path

from culvix.errors import ReadError
from culvix.progress import Progress, silent
from culvix.tables.cell_texts import RawColumn
from culvix.tables.columns import make_column
from culvix.tables.delimited import read_delimited
from culvix.tables.dialect import Dialect
from culvix.tables.dictionary import Dictionary
from culvix.tables.raw import RawTable
from culvix.tables.sources import Content, as_text, read_content
from culvix.tables.structured import read_structured
from culvix.tables.table import Column, Source, Table

__all__ = ["make_table", "read_raw", "read_table"]

_WORKERS = min(os.cpu_count() or 1, 8)


def read_table(
    path: Path | str,
    *,
    missing_codes: Collection[str] = (),
    dictionary: Dictionary | None = None,
    dialect: Dialect | None = None,
    part: str | None = None,
    cells: str | None = None,
    progress: Progress = silent,
) -> Table:
    """Read the file at ``path``; cells equal to one of ``missing_codes`` count as missing in every column.

    ``dialect`` stands in for the guess; ``part`` names a sheet or table, ``cells`` a range of a sheet. Raises ReadError
    with a sentence on what is wrong where the file is no readable table with at least one data row, and whatever
    ``progress`` raises to stop the work.
    """
    path = Path(path)
    content = read_content(path, progress)
    raw = read_raw(content, dialect=dialect, part=part, cells=cells, progress=progress)
    content = content.without_data()
    return make_table(raw, content, dictionary or Dictionary(), missing_codes=missing_codes, progress=progress)


def read_raw(
    content: Content,
    *,
    dialect: Dialect | None = None,
    part: str | None = None,
    cells: str | None = None,
    progress: Progress = silent,
) -> RawTable:
    """The cells of ``content`` as text. Raises ReadError, and whatever ``progress`` raises."""
    progress(0.3, "finding the columns")
    if content.kind != "text":
        return read_structured(content, part=part, cells=cells)
    text = as_text(content.path, content.data)
    try:
        raw = read_delimited(text.utf8, dialect, encoding=text.encoding, progress=progress)
    except ReadError as error:
        raise ReadError(f"{content.path.name}: {error}") from error.__cause__
    return replace(raw, notes=(*text.notes, *raw.notes))


def make_table(
    raw: RawTable,
    content: Content,
    dictionary: Dictionary,
    *,
    missing_codes: Collection[str] = (),
    progress: Progress = silent,
) -> Table:
    """Judge the cells of ``raw`` under ``dictionary``. Raises whatever ``progress`` raises."""
    decimal = raw.dialect.decimal if raw.dialect is not None else "."
    columns = []
    with ThreadPoolExecutor(_WORKERS, "judging") as pool:
        judge = partial(_judged, dictionary, missing_codes, decimal)
        try:
            for place, column in enumerate(pool.map(judge, raw.names, raw.columns)):
                progress(0.7 + 0.2 * place / len(raw.names), f"judging {raw.names[place]}")
                columns.append(column)
        except BaseException:
            pool.shutdown(wait=True, cancel_futures=True)
            raise
    progress(0.9, "looking for repeated rows")
    source = Source(
        path=content.path,
        checksum=content.checksum,
        size=content.size,
        encoding=raw.encoding,
        delimiter=raw.dialect.delimiter_name if raw.dialect is not None else "",
        notes=raw.notes,
        kind=raw.kind,
        dialect=raw.dialect,
        parts=raw.parts,
        part=raw.part,
        provenance=dictionary.provenance,
    )
    table = Table(tuple(columns), raw.rows, source, raw.repeated_rows)
    content.checksum.start()
    return table


def _judged(dictionary: Dictionary, codes: Collection[str], decimal: str, name: str, raw: RawColumn) -> Column:
    return make_column(name, raw, dictionary.of(name), codes, decimal)
