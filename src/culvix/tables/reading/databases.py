"""Tables and views of SQLite databases, read from a copy, with limits on what a view may ask for."""

import shutil
import sqlite3
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

import polars as pl

from culvix.errors import ReadError
from culvix.places import scratch_folder
from culvix.progress import Progress
from culvix.stats.display import count
from culvix.tables.model.options.read_options import ReadOptions
from culvix.tables.model.raw_table import RawTable, raw_columns
from culvix.tables.reading.sources import Content
from culvix.tables.reading.spreadsheets import choose_part
from culvix.tables.text.lines import unique_names

__all__ = ["read_database"]

_STEPS = 100_000
"""Instructions of the database's machine between two looks at whether the work should stop."""

_ROWS_AT_ONCE = 20_000
_LONGEST_CELL = 1 << 24
_CELL_BYTES = 40
_LEAST, _MOST_RATIO = 1 << 28, 100
"""What is read may take this many bytes, or this many times the size of the file."""


def read_database(content: Content, options: ReadOptions, progress: Progress) -> RawTable:
    """The table or view of ``content`` that ``options`` name, the first where they name none.

    Raises ReadError where the file is damaged, or a view gives more than a table holds, and what ``progress`` raises.
    """
    stopped: list[BaseException] = []
    try:
        with _opened(content) as database:
            database.set_progress_handler(_watch(progress, content.path.name, stopped), _STEPS)
            _give_readable_names(database)
            database.text_factory = _text
            database.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, _LONGEST_CELL)
            parts = _parts(database)
            chosen = choose_part(content.path.name, parts, options.part, "table")
            names, frame = _rows(database, chosen, content, progress)
    except (sqlite3.Error, OSError, UnicodeEncodeError, OverflowError) as error:
        if stopped:
            raise stopped[0] from None
        raise ReadError(f"{content.path.name} is damaged or no database: {error}.") from error
    if options.leave_last:
        frame = frame.head(max(frame.height - options.leave_last, 0))
    if not frame.height:
        raise ReadError(f"The table {chosen} has no rows.")
    header = unique_names([name.strip() for name in names])
    return RawTable(header.names, raw_columns(frame), "SQLite table", notes=header.notes, parts=parts, part=chosen)


@contextmanager
def _opened(content: Content) -> Iterator[sqlite3.Connection]:
    """A copy of the database; what its write-ahead log still holds belongs to it."""
    log = Path(f"{content.path}-wal")
    if log.is_file() and log.stat().st_size and content.data[18:20] == b"\x02\x02" and not content.packing:
        with scratch_folder() as folder:
            copy = folder / "copy.sqlite"
            copy.write_bytes(content.data)
            shutil.copyfile(log, f"{copy}-wal")
            database = sqlite3.connect(copy)
            try:
                yield database
            finally:
                database.close()
        return
    database = sqlite3.connect(":memory:")
    try:
        # A database kept with a write-ahead log says so in two bytes, and cannot be held in memory until they do not.
        database.deserialize(content.data[:18] + b"\x01\x01" + content.data[20:])
        yield database
    finally:
        database.close()


def _give_readable_names(database: sqlite3.Connection) -> None:
    """Write names that are no UTF-8 anew in the copy; as they are nothing could be asked by them."""
    database.text_factory = bytes
    listed = database.execute("select rowid, name, tbl_name, sql from sqlite_schema").fetchall()
    wrong = [row for row in listed if not all(_is_utf8(part) for part in row[1:])]
    if not wrong:
        return
    database.execute("pragma writable_schema = on")
    for identity, *parts in wrong:
        readable = [None if part is None else _text(part) for part in parts]
        database.execute(
            "update sqlite_schema set name = ?, tbl_name = ?, sql = ? where rowid = ?", (*readable, identity)
        )
    database.commit()
    database.execute("pragma writable_schema = reset")


def _is_utf8(data: bytes | None) -> bool:
    try:
        return data is None or data.decode("utf-8") is not None
    except UnicodeDecodeError:
        return False


def _watch(progress: Progress, name: str, stopped: list[BaseException]) -> Callable[[], int]:
    """Called by the database between steps; stops it where the work should stop."""

    def step() -> int:
        try:
            progress(0.4, f"reading {name}")
        except BaseException as error:  # it is raised again once the database has stopped
            stopped.append(error)
            return 1
        return 0

    return step


def _text(data: bytes) -> str:
    """Text as it should be, or else as Windows-1252 has it."""
    try:
        return data.decode("utf-8")
    except UnicodeDecodeError:
        return data.decode("cp1252", errors="replace")


def _parts(database: sqlite3.Connection) -> tuple[str, ...]:
    listed = database.execute(
        "select name from sqlite_schema where type in ('table', 'view') and name not like 'sqlite_%' order by name"
    )
    return tuple(str(name) for (name,) in listed)


def _rows(
    database: sqlite3.Connection, chosen: str, content: Content, progress: Progress
) -> tuple[list[str], pl.DataFrame]:
    quoted = chosen.replace('"', '""')
    found = database.execute(f'select * from "{quoted}"')
    names = [str(each[0]) for each in found.description]
    most = max(_LEAST, _MOST_RATIO * len(content.data))
    frames, taken = [], 0
    schema = {str(position): pl.String for position in range(len(names))}
    while rows := found.fetchmany(max(_ROWS_AT_ONCE // max(len(names) // 10, 1), 1)):
        cells = {str(position): [_cell(row[position]) for row in rows] for position in range(len(names))}
        frames.append(pl.DataFrame(cells, schema=schema))
        taken += len(rows) * len(names) * _CELL_BYTES
        taken += sum(len(text) for column in cells.values() for text in column if text)
        progress(0.5, f"reading {chosen}: {count(sum(frame.height for frame in frames))} rows")
        if taken > most:
            raise ReadError(
                f"{chosen} gives more than {taken >> 20} megabytes of rows; no table of this file holds them."
            )
    return names, pl.concat(frames) if frames else pl.DataFrame(schema=schema)


def _cell(value: object) -> str | None:
    if value is None:
        return None
    if isinstance(value, bytes):
        return f"({count(len(value))} bytes)"
    return repr(value) if isinstance(value, float) else str(value)
