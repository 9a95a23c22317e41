"""The tables of a study file, and what is asked of a file before anything in it is believed."""

import sqlite3
from pathlib import Path

from culvix.errors import ReadError
from culvix.files import display_path

__all__ = ["APPLICATION_ID", "FILE_VERSION", "TABLES", "check_file", "create_tables"]

APPLICATION_ID = 0x43564C58
"""Stands in the header of every study file ("CVLX")."""

FILE_VERSION = 1

_MAGIC = b"SQLite format 3\0"
_LONGEST = 1 << 28
"""Bytes that a value in a study file may have."""

TABLES = {
    "about": "CREATE TABLE about (key TEXT PRIMARY KEY NOT NULL, value TEXT NOT NULL) STRICT, WITHOUT ROWID",
    "beginning": "CREATE TABLE beginning (section TEXT PRIMARY KEY NOT NULL, json TEXT NOT NULL) STRICT, WITHOUT ROWID",
    "acts": (
        "CREATE TABLE acts (position INTEGER PRIMARY KEY NOT NULL, label TEXT NOT NULL, made TEXT NOT NULL, "
        "patch TEXT NOT NULL) STRICT"
    ),
    "aside": "CREATE TABLE aside (section TEXT PRIMARY KEY NOT NULL, json TEXT NOT NULL) STRICT, WITHOUT ROWID",
}
"""What each table is made by; a file with anything else in it, a trigger or a view, is none of ours."""


def create_tables(connection: sqlite3.Connection) -> None:
    """Make an empty study file of a new database."""
    connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    connection.execute(f"PRAGMA user_version = {FILE_VERSION}")
    for statement in TABLES.values():
        connection.execute(statement)


def is_study_file(path: Path) -> bool:
    """Whether the file at ``path`` begins as a study file does. Raises ReadError for one that cannot be read."""
    try:
        with open(path, "rb") as file:
            head = file.read(72)
    except OSError as error:
        raise ReadError(
            f"{display_path(path)} cannot be read: {(error.strerror or 'unknown error').lower()}."
        ) from error
    return head.startswith(_MAGIC) and int.from_bytes(head[68:72], "big") == APPLICATION_ID


def check_file(connection: sqlite3.Connection, name: str) -> None:
    """Raise ReadError unless the database holds a study that this program can read, and nothing that would be run."""
    connection.setlimit(sqlite3.SQLITE_LIMIT_LENGTH, _LONGEST)
    connection.setlimit(sqlite3.SQLITE_LIMIT_ATTACHED, 0)
    connection.execute("PRAGMA trusted_schema = OFF")
    connection.execute("PRAGMA cell_size_check = ON")
    if connection.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
        raise ReadError(f"{name} is no study of Culvix.")
    version = connection.execute("PRAGMA user_version").fetchone()[0]
    if version > FILE_VERSION:
        raise ReadError(
            f"{name} was written by a newer Culvix (its file has version {version}, this program reads version "
            f"{FILE_VERSION} and before); nothing in it was touched."
        )
    found = dict(connection.execute("SELECT name, sql FROM sqlite_schema"))
    foreign = [each for each in found if found[each] != TABLES.get(each)]
    missing = [each for each in TABLES if each not in found]
    if foreign or missing:
        raise ReadError(f"{name} is no study that can be read: its tables are not those of a study file.")
