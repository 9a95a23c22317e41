"""Reading a file into a `Table`: bytes, text, cells, and then columns by what the dictionary says and the cells show.

Every cell is kept as text and numbers are read from it, so that each cell that is not a number is known by its row.
"""

from collections.abc import Collection
from dataclasses import replace
from pathlib import Path

import numpy as np

from culvix.errors import ReadError
from culvix.progress import Progress, silent
from culvix.stats.arrays import Ints
from culvix.tables.cells import plain_numbers
from culvix.tables.columns import make_column
from culvix.tables.delimited import read_delimited
from culvix.tables.dialect import Dialect
from culvix.tables.dictionary import Dictionary
from culvix.tables.raw import RawTable
from culvix.tables.sources import Content, as_text, read_content
from culvix.tables.structured import read_structured
from culvix.tables.table import Source, Table

__all__ = ["make_table", "read_raw", "read_table"]


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
        raw = read_delimited(text.utf8, dialect, encoding=text.encoding)
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
    progress(0.4, "reading numbers")
    numbers = plain_numbers(raw.frame)
    columns = []
    for place, name in enumerate(raw.names):
        progress(0.5 + 0.4 * place / len(raw.names), f"reading {name}")
        text = raw.frame.to_series(place).alias(name)
        columns.append(make_column(name, text, dictionary.of(name), missing_codes, decimal, numbers[:, place]))
    progress(0.9, "looking for repeated rows")
    source = Source(
        path=content.path,
        sha256=content.sha256,
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
    return Table(tuple(columns), raw.frame.height, source, _repeated_rows(raw))


def _repeated_rows(raw: RawTable) -> Ints:
    # Rows are compared in full only where their hashes agree.
    alike = np.flatnonzero(raw.frame.hash_rows().is_duplicated().to_numpy())
    if not alike.size:
        return alike
    again = ~raw.frame[alike].to_struct("row").is_first_distinct().to_numpy()
    return np.asarray(alike[again], dtype=np.int64)
