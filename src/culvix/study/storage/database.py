"""The database of a study opened so that nothing in it is run, and nothing beside it is followed or believed.

SQLite takes what lies beside a file for a part of it: a journal is rolled back, may name another file that is deleted
then, and is followed where it is a link. What lies there is looked at first; what has to be taken back is taken back
in a copy. The schema is not trusted, and an authorizer refuses whatever is not a plain question to a table.
"""

import os
import shutil
import sqlite3
import stat
import sys
from collections.abc import Callable, Iterator
from contextlib import ExitStack, closing, contextmanager
from pathlib import Path
from typing import Any

from culvix.errors import ReadError
from culvix.files import display_path, open_regular
from culvix.places import scratch_folder

__all__ = ["connected_to_write", "is_kept_with_a_log", "opened_to_read", "rows_of"]

_WAIT_SECONDS = 5.0
_LONGEST = 1 << 28
"""Bytes that a value in a study file may have."""

_HEAD = 100
_JOURNAL_MARK = b"\xd9\xd5\x05\xf9\x20\xa1\x63\xd7"
"""With which a journal begins, and ends where it names a journal of several databases."""
_JOURNAL_RATIO, _JOURNAL_MORE = 2, 1 << 20
"""A journal holds pages of its database, each once: it is no longer than so many times that, and so many bytes."""

_ASKING = frozenset({sqlite3.SQLITE_SELECT, sqlite3.SQLITE_READ, sqlite3.SQLITE_FUNCTION, sqlite3.SQLITE_PRAGMA})
_FUNCTIONS = frozenset({"max", "length"})
_NEVER = frozenset(
    {
        *(sqlite3.SQLITE_ATTACH, sqlite3.SQLITE_DETACH, sqlite3.SQLITE_FUNCTION, sqlite3.SQLITE_RECURSIVE),
        *(sqlite3.SQLITE_CREATE_TRIGGER, sqlite3.SQLITE_CREATE_VIEW, sqlite3.SQLITE_CREATE_VTABLE),
        *(sqlite3.SQLITE_CREATE_TEMP_TRIGGER, sqlite3.SQLITE_CREATE_TEMP_VIEW, sqlite3.SQLITE_DROP_TABLE),
    }
)

_Authorizer = Callable[[int, str | None, str | None, str | None, str | None], int]


@contextmanager
def opened_to_read(path: Path) -> Iterator[sqlite3.Connection]:
    """The database at ``path``, which is not changed, and beside which nothing is left, while the context lasts.

    Raises ReadError where it, or what lies beside it as a part of it, is no regular file; sqlite3.Error and OSError.
    """
    path = Path(os.path.realpath(path))
    with_log = is_kept_with_a_log(path)
    journal = _companion(path, "-journal")
    with ExitStack() as stack:
        copy = with_log or bool(_companion(path, "-wal"))
        if not copy:
            connection = _connected(path, "ro", _authorized_to_read)
            stack.callback(connection.close)
            copy = bool(journal) and not _can_be_read(connection)
        if copy:
            folder = stack.enter_context(scratch_folder())
            _copy(path, folder / "study")
            connection = _connected(folder / "study", "rw", _authorized_to_read)
            stack.callback(connection.close)
        yield connection


def connected_to_write(path: Path, *, journal: bool = True) -> sqlite3.Connection:
    """A connection to the database at ``path``, which may be empty still, to be gone on with from any thread.

    Without a ``journal`` an act that is broken off leaves nothing that could be taken back.
    Raises ReadError where what lies beside it is no regular file, or a journal of more than this file; sqlite3.Error.
    """
    path = Path(os.path.realpath(path))
    for ending in ("-journal", "-wal", "-shm"):
        _companion(path, ending)
    _check_journal(path)
    connection = _connected(path, "rw", _authorized_to_write, check_same_thread=False)
    connection.isolation_level = None
    connection.execute(f"PRAGMA journal_mode = {'DELETE' if journal else 'OFF'}").fetchone()
    return connection


def is_kept_with_a_log(path: Path) -> bool:
    """Whether the database at ``path`` says that it is written by a write-ahead log. Raises ReadError and OSError."""
    with open_regular(path) as file:
        return file.read(_HEAD)[18:20] == b"\x02\x02"


def _companion(path: Path, ending: str) -> int:
    """The size of the file that lies beside ``path`` as a part of it, 0 where there is none.

    Raises ReadError where it is a link or no file: whatever it leads to, SQLite would follow it.
    """
    beside = path.with_name(path.name + ending)
    try:
        found = os.lstat(beside)
    except (FileNotFoundError, NotADirectoryError):
        return 0
    if not stat.S_ISREG(found.st_mode):
        raise ReadError(
            f"{display_path(Path(beside.name))}, which lies beside the study, is a link, a folder or a device and no "
            "part of it; take it away, and open the study again."
        )
    return found.st_size


def _check_journal(path: Path) -> None:
    """Raise ReadError where the journal beside ``path`` is none of a study: too long, or one of several databases."""
    size = _companion(path, "-journal")
    if not size:
        return
    name = display_path(Path(f"{path.name}-journal"))
    database = os.stat(path).st_size if os.path.isfile(path) else 0
    if size > _JOURNAL_RATIO * database + _JOURNAL_MORE:
        raise ReadError(
            f"{name} is longer than a journal of this study can be; take it away, and open the study again."
        )
    with open_regular(path.with_name(path.name + "-journal"), follow_links=False) as file:
        file.seek(max(size - len(_JOURNAL_MARK), 0))
        if file.read() == _JOURNAL_MARK:
            raise ReadError(f"{name} names other files to be changed; take it away, and open the study again.")


def _copy(path: Path, copy: Path) -> None:
    """A copy of the database with what its journal or log has of it."""
    _check_journal(path)
    size = os.stat(path).st_size
    for ending in ("", "-journal", "-wal"):
        if ending and not _companion(path, ending):
            continue
        with open_regular(path.with_name(path.name + ending), follow_links=False) as file:
            if os.fstat(file.fileno()).st_size > _JOURNAL_RATIO * size + _JOURNAL_MORE:
                raise ReadError(f"{display_path(Path(path.name + ending))} is longer than it can be for this study.")
            with open(copy.with_name(copy.name + ending), "xb") as target:
                shutil.copyfileobj(file, target)


def _connected(path: Path, mode: str, authorizer: _Authorizer, *, check_same_thread: bool = True) -> sqlite3.Connection:
    connection = sqlite3.connect(
        f"{path.absolute().as_uri()}?mode={mode}", uri=True, timeout=_WAIT_SECONDS, check_same_thread=check_same_thread
    )
    try:
        connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, _LONGEST)
        connection.setlimit(sqlite3.SQLITE_LIMIT_ATTACHED, 0)
        if sys.version_info >= (3, 12):
            connection.setconfig(sqlite3.SQLITE_DBCONFIG_DEFENSIVE, True)
            connection.setconfig(sqlite3.SQLITE_DBCONFIG_ENABLE_TRIGGER, False)
            connection.setconfig(sqlite3.SQLITE_DBCONFIG_ENABLE_VIEW, False)
        for setting in ("trusted_schema = OFF", "cell_size_check = ON", "temp_store = MEMORY", "mmap_size = 0"):
            connection.execute(f"PRAGMA {setting}")
        connection.set_authorizer(authorizer)
    except BaseException:
        connection.close()
        raise
    return connection


def _authorized_to_read(
    action: int, first: str | None, second: str | None, database: str | None, source: str | None
) -> int:
    """Only questions to tables, none of them by way of a view or a trigger (``source``)."""
    if source is not None or action not in _ASKING:
        return sqlite3.SQLITE_DENY
    if action == sqlite3.SQLITE_FUNCTION and second not in _FUNCTIONS:
        return sqlite3.SQLITE_DENY
    if action == sqlite3.SQLITE_PRAGMA and second is not None:
        return sqlite3.SQLITE_DENY
    return sqlite3.SQLITE_OK


def _authorized_to_write(
    action: int, first: str | None, second: str | None, database: str | None, source: str | None
) -> int:
    """What writing a study takes; nothing by way of a view or a trigger (``source``)."""
    return sqlite3.SQLITE_DENY if source is not None or action in _NEVER else sqlite3.SQLITE_OK


def _can_be_read(connection: sqlite3.Connection) -> bool:
    """Whether no journal is left that has to be taken back first."""
    try:
        connection.execute("SELECT name FROM sqlite_schema LIMIT 1").fetchone()
    except sqlite3.OperationalError as error:
        return error.sqlite_errorcode not in (sqlite3.SQLITE_READONLY_ROLLBACK, sqlite3.SQLITE_READONLY)
    return True


def rows_of(connection: sqlite3.Connection, query: str, *, up_to_damage: bool = False) -> list[tuple[Any, ...]]:
    """All rows of a query on one table at once: one that is left in the middle would hold a lock on the file.

    Each byte stands in a file once; where pages are named again and again until there are more, that is damage. Raises
    ReadError there, and sqlite3.Error, unless the rows ``up_to_damage`` are wanted.
    """
    pages, size = (connection.execute(f"PRAGMA {name}").fetchone()[0] for name in ("page_count", "page_size"))
    left = 2 * pages * size + _JOURNAL_MORE
    found: list[tuple[Any, ...]] = []
    try:
        with closing(connection.execute(query)) as cursor:
            while (row := cursor.fetchone()) is not None:
                left -= 4 + sum(len(each) for each in row if isinstance(each, str | bytes))
                if left < 0:
                    raise ReadError("The file is damaged: it gives more than stands in it.")
                found.append(row)
    except (sqlite3.Error, ReadError):
        if not up_to_damage:
            raise
    return found
