"""The tables of a study file, and what is asked of a file before anything in it is believed."""

import sqlite3
from collections.abc import Mapping
from pathlib import Path
from types import MappingProxyType

from culvix.errors import ReadError
from culvix.study.storage.database import rows_of
from culvix.tables.reading.sources import checked_file

__all__ = [
    "APPLICATION_ID",
    "FILE_VERSION",
    "check_file",
    "create_tables",
    "expected_schema",
    "is_study_file",
    "migrate",
    "study_version",
]

APPLICATION_ID = 0x43564C58
"""Stands in the header of every study file ("CVLX")."""

FILE_VERSION = 2

_MAGIC, _HEAD = b"SQLite format 3\0", 72
_MOST_SECTIONS = 100

_FIRST_TABLES = {
    "about": "CREATE TABLE about (key TEXT PRIMARY KEY NOT NULL, value TEXT NOT NULL) STRICT, WITHOUT ROWID",
    "beginning": "CREATE TABLE beginning (section TEXT PRIMARY KEY NOT NULL, json TEXT NOT NULL) STRICT, WITHOUT ROWID",
    "acts": (
        "CREATE TABLE acts (position INTEGER PRIMARY KEY NOT NULL, label TEXT NOT NULL, made TEXT NOT NULL, "
        "patch TEXT NOT NULL) STRICT"
    ),
    "aside": "CREATE TABLE aside (section TEXT PRIMARY KEY NOT NULL, json TEXT NOT NULL) STRICT, WITHOUT ROWID",
}
_LATER_TABLES = {
    "checksums": (
        "CREATE TABLE checksums (kind TEXT NOT NULL, position INTEGER NOT NULL, column TEXT NOT NULL, "
        "packed BLOB NOT NULL, PRIMARY KEY (kind, position)) STRICT, WITHOUT ROWID"
    ),
    "source": "CREATE TABLE source (position INTEGER PRIMARY KEY NOT NULL, packed BLOB NOT NULL) STRICT",
    "sparklines": "CREATE TABLE sparklines (position INTEGER PRIMARY KEY NOT NULL, json TEXT NOT NULL) STRICT",
}
TABLES: Mapping[int, Mapping[str, str]] = MappingProxyType(
    {1: _FIRST_TABLES, 2: MappingProxyType({**_FIRST_TABLES, **_LATER_TABLES})}
)
"""What each table is made by, in each version; a file with anything else in it, a trigger or a view, is none of ours.
"""


def create_tables(connection: sqlite3.Connection) -> None:
    """Make an empty study file of a new database."""
    connection.execute(f"PRAGMA application_id = {APPLICATION_ID}")
    connection.execute(f"PRAGMA user_version = {FILE_VERSION}")
    for statement in TABLES[FILE_VERSION].values():
        connection.execute(statement)


def migrate(connection: sqlite3.Connection, version: int) -> None:
    """Make a study file of an earlier ``version`` one of this version, in one transaction."""
    connection.execute("BEGIN IMMEDIATE")
    for name, statement in TABLES[FILE_VERSION].items():
        if name not in TABLES[version]:
            connection.execute(statement)
    connection.execute(f"PRAGMA user_version = {FILE_VERSION}")
    connection.execute("COMMIT")


def is_study_file(path: Path) -> bool:
    """Whether the file at ``path`` begins as a study file does. Raises ReadError for one that cannot be read."""
    with checked_file(path) as file:
        head = file.read(_HEAD)
    return head.startswith(_MAGIC) and int.from_bytes(head[68:72], "big") == APPLICATION_ID


def check_file(connection: sqlite3.Connection, name: str) -> int:
    """The version of a study file; raises ReadError unless this program can read it, and nothing else is in it."""
    version = study_version(connection, name)
    found = rows_of(connection, "SELECT type, name, tbl_name, sql FROM sqlite_schema ORDER BY name")
    if found != expected_schema(version):
        raise ReadError(f"{name} is no study that can be read: its tables are not those of a study file.")
    for table in ("about", "beginning", "aside"):
        if len(connection.execute(f"SELECT 1 FROM {table} LIMIT ?", (_MOST_SECTIONS + 1,)).fetchall()) > _MOST_SECTIONS:
            raise ReadError(f"{name} is no study that can be read: it has more sections than any study has.")
    return version


def study_version(connection: sqlite3.Connection, name: str) -> int:
    """The version that a file says it has. Raises ReadError for what is no study, or of a newer program."""
    if connection.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
        raise ReadError(f"{name} is no study of Culvix.")
    version = int(connection.execute("PRAGMA user_version").fetchone()[0])
    if version > FILE_VERSION:
        raise ReadError(
            f"{name} was written by a newer Culvix (its file has version {version}, this program reads version "
            f"{FILE_VERSION} and before); nothing in it was touched."
        )
    return version


def expected_schema(version: int) -> list[tuple[str, str, str, str]]:
    """Every row of the schema of a file of ``version``, by name: its tables; none of an unknown one."""
    return sorted(("table", name, name, statement) for name, statement in TABLES.get(version, {}).items())
