"""Tables that come with columns of their own: spreadsheets, Parquet, Arrow, JSON, SQLite.

Every cell is taken as the text it would be written as, so that the same judgement applies whatever the file.
"""

import io
import json
from collections.abc import Callable
from dataclasses import replace

import polars as pl

from culvix.errors import ReadError
from culvix.progress import Progress, silent
from culvix.stats.display import count
from culvix.tables.model.options.read_options import PLAIN, ReadOptions
from culvix.tables.model.raw_table import RawTable, raw_columns
from culvix.tables.reading.databases import read_database
from culvix.tables.reading.json_tables import json_frame
from culvix.tables.reading.samples import sample_in
from culvix.tables.reading.sources import Content
from culvix.tables.reading.spreadsheets import read_spreadsheet
from culvix.tables.text.delimited import MOST_COLUMNS
from culvix.tables.text.lines import unique_names
from culvix.tables.text.ragged import leave_last_note

__all__ = ["read_structured"]

_MOST_CELLS, _CELLS_PER_BYTE = 10_000_000, 10
_MOST_LETTERS, _LETTERS_PER_BYTE = 150_000_000, 30
"""More cells or letters than this, and more than so many for each byte of the file, are no table but a trap."""


def read_structured(content: Content, options: ReadOptions = PLAIN, progress: Progress = silent) -> RawTable:
    """Read ``content`` by its kind; ``options`` name the sheet or table, and the range of a sheet.

    Raises ReadError where it is damaged, empty, of an unknown kind, or the part or range does not exist, and what
    ``progress`` raises.
    """
    if content.kind == "zip":
        return read_spreadsheet(content, options, progress)
    if content.kind == "sqlite":
        return read_database(content, options, progress)
    if content.kind == "json":
        frame, notes = json_frame(content, progress, MOST_COLUMNS)
        return _as_raw(frame, "JSON records", options, notes)
    if content.kind == "parquet":
        return _columnar(content, options, pl.scan_parquet, pl.read_parquet, "Parquet")
    if content.kind == "arrow":
        return _columnar(content, options, pl.scan_ipc, pl.read_ipc, "Arrow")
    what = {"old office": "an old binary office file; save it as an open spreadsheet", "pdf": "a PDF, not a table"}
    raise ReadError(f"{content.path.name} is {what.get(content.kind, 'of a kind that cannot be read')}.")


def _as_raw(frame: pl.DataFrame, kind: str, options: ReadOptions, notes: tuple[str, ...] = ()) -> RawTable:
    if options.leave_last:
        frame = frame.head(max(frame.height - options.leave_last, 0))
        notes = (*notes, *leave_last_note(options.leave_last))
    if not frame.width or not frame.height:
        raise ReadError(f"There are no rows to read in this {kind}.")
    if frame.width > MOST_COLUMNS:
        raise ReadError(f"There are {count(frame.width)} columns; at most {count(MOST_COLUMNS)} are read.")
    header = unique_names([name.strip() for name in frame.columns])
    texts, remarks = [], []
    for position, series in enumerate(frame.get_columns()):
        text, note = _texts(series)
        texts.append(text.alias(str(position)))
        remarks += [f"{header.names[position]}: {note}"] if note else []
    columns = raw_columns(pl.DataFrame(texts))
    return RawTable(header.names, columns, kind, notes=(*notes, *header.notes, *remarks))


def _texts(series: pl.Series) -> tuple[pl.Series, str]:
    """The cells of ``series`` as text, and what was done with those of a rarer type."""
    kind = series.dtype
    if kind == pl.Boolean:
        return series.replace_strict([True, False], ["true", "false"], default=None, return_dtype=pl.String), ""
    if isinstance(kind, pl.Duration):
        # A whole number of the unit's parts is exact; seconds are what a duration is measured in.
        per_second = {"ns": 10**9, "us": 10**6, "ms": 10**3}[str(kind.time_unit or "us")]
        parts = series.to_physical().to_list()
        seconds = [None if each is None else repr(each / per_second) for each in parts]
        return pl.Series(seconds, dtype=pl.String), "durations are read in seconds."
    if kind == pl.Binary:
        sizes = series.bin.size().to_list()
        cells = [None if size is None else f"({count(size)} bytes)" for size in sizes]
        return pl.Series(cells, dtype=pl.String), "raw bytes, of which only the number is shown."
    if kind.is_nested() or kind == pl.Object:
        cells = [None if value is None else _spelled(value) for value in series.to_list()]
        return pl.Series(cells, dtype=pl.String), ""
    try:
        return series.cast(pl.String), ""
    except pl.exceptions.PolarsError:
        return pl.Series([None if value is None else str(value) for value in series.to_list()], dtype=pl.String), ""


def _spelled(value: object) -> str:
    if isinstance(value, pl.Series):
        value = value.to_list()
    return json.dumps(value, default=str, ensure_ascii=False)


def _columnar(
    content: Content,
    options: ReadOptions,
    scan: Callable[..., pl.LazyFrame],
    read: Callable[..., pl.DataFrame],
    name: str,
) -> RawTable:
    try:
        lazy = scan(io.BytesIO(content.data))
        schema = lazy.collect_schema()
        columns, rows = len(schema), int(lazy.select(pl.len()).collect().item())
        cells = rows * columns
        if cells > max(_MOST_CELLS, _CELLS_PER_BYTE * content.size):
            raise ReadError(
                f"{content.path.name} holds {count(rows)} rows and {count(columns)} columns in "
                f"{count(content.size)} bytes; no table does, so it is not opened."
            )
        _check_letters(content, lazy, [name for name, kind in schema.items() if kind == pl.String])
        frame = read(io.BytesIO(content.data))
    except (pl.exceptions.PolarsError, OSError, ValueError, MemoryError) as error:
        raise ReadError(f"{content.path.name} is cut off or damaged: it cannot be read as {name}.") from error
    sample = sample_in(content.data) if name == "Parquet" else None
    suffix = "" if sample is None else f", {sample.words}"
    return replace(_as_raw(frame, f"{name} file{suffix}", options), sample=sample)


def _check_letters(content: Content, lazy: pl.LazyFrame, texts: list[str]) -> None:
    """Raise ReadError where a short file writes its texts so often that they would fill the memory."""
    most = max(_MOST_LETTERS, _LETTERS_PER_BYTE * content.size)
    letters = 0
    for name in texts:
        # Bit by bit, as all of it may be too much.
        total = lazy.select(pl.col(name).str.len_bytes().cast(pl.Int64).sum()).collect(engine="streaming").item()
        letters += int(total or 0)
        if letters > most:
            raise ReadError(
                f"{content.path.name} holds over {letters >> 20} megabytes of text in {count(content.size)} bytes; "
                "no table does, so it is not opened."
            )
