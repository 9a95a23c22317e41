"""A study file: the document at the beginning of the history, every act after it, and what stands aside from undo.

Each act is one transaction. A file is only ever changed by SQLite, whose rollback journal makes sure that it holds the
state before or after an act, whatever happens in between.
"""

import os
import sqlite3
from collections.abc import Iterator, Sequence
from contextlib import closing, contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from culvix.errors import WriteError
from culvix.files import display_path, write_by
from culvix.study.carrying.fingerprint import Fingerprint
from culvix.study.document.document import OUTSIDE_UNDO, Document, changed_sections
from culvix.study.document.document_format import encode_part, plain_section
from culvix.study.document.history.history import History
from culvix.study.storage.database import connected_to_write, opened_to_read
from culvix.study.storage.json_patch import difference
from culvix.study.storage.schema import FILE_VERSION, check_file, create_tables, migrate
from culvix.study.storage.source_record import put_fingerprint, put_source_bytes
from culvix.study.storage.study_reading import Reading
from culvix.version import VERSION

__all__ = ["StudyFile", "write_study_copy"]


class StudyFile:
    """Keeps the file at ``path`` like the history it was given last; to be used by one thread at a time."""

    def __init__(self, path: Path, connection: sqlite3.Connection, history: History) -> None:
        """The file at ``path``, which holds ``history`` already; made by `create` and `open`."""
        self.path, self._connection, self._history = path, connection, history
        self._seen = self._version()

    def _version(self) -> int:
        """What another connection changes when it writes."""
        return int(self._connection.execute("PRAGMA data_version").fetchone()[0])

    @classmethod
    def create(cls, path: Path, history: History, *, over_empty: bool = False, private: bool = False) -> "StudyFile":
        """A new file with ``history``, which others can read unless it is ``private``.

        ``over_empty``: in place of an empty one that is moved to its place when it is whole, and needs no journal,
        which would be left after a kill.

        Raises WriteError where it cannot be written or is there already.
        """
        first = history.documents[0]
        with _telling(path):
            if not over_empty:
                _make_empty(path, 0o600 if private else 0o666)
            file = cls(path, connected_to_write(path, journal=not over_empty), History((first,)))
            with file._transaction():
                create_tables(file._connection)
                file._put_about({"program": f"Culvix {VERSION}", "created": _now(), "cursor": "0"})
                file._put_sections("beginning", vars(first))
                file._put_aside(history.current, OUTSIDE_UNDO)
        file.record(history)
        return file

    @classmethod
    def open(cls, path: Path, history: History) -> "StudyFile":
        """The file at ``path``, which ``history`` was read from, to be gone on with. Raises WriteError.

        One of an earlier version is made one of this version in a copy, which then takes its place.
        """
        with _telling(path):
            connection = connected_to_write(path)
            version = check_file(connection, display_path(Path(path.name)))
            if version < FILE_VERSION:
                connection.close()
                _migrate_copy(path, version)
                connection = connected_to_write(path)
            return cls(path, connection, history)

    def record(self, history: History) -> None:
        """Write what is other in ``history`` than in the file.

        Raises WriteError where that cannot be written, or somebody else has written to the file meanwhile.
        """
        before = self._history
        same = _acts_in_common(before, history)
        aside = changed_sections(before.current, history.current) & set(OUTSIDE_UNDO)
        with _telling(self.path), self._transaction():
            if self._version() != self._seen:
                raise WriteError(
                    f"{display_path(self.path)} was changed from elsewhere; nothing more is written to it."
                )
            if same < len(before.labels):
                self._connection.execute("DELETE FROM acts WHERE position >= ?", (same,))
            for position in range(same, len(history.labels)):
                patch = _patch(*history.documents[position : position + 2])
                row = (position, history.labels[position], _now(), _json(patch))
                self._connection.execute("INSERT INTO acts VALUES (?, ?, ?, ?)", row)
            self._put_aside(history.current, aside)
            decisions = str(len(history.current.decisions))
            self._put_about({"saved": _now(), "cursor": str(history.cursor), "decisions": decisions})
            if history.current.dictionary is not before.current.dictionary or not before.labels:
                self._put_about({"reading": _json(Reading(history.current.origin, history.current.dictionary))})
        self._history = history

    def put_source(self, sha256: str, fingerprint: Fingerprint | None = None) -> None:
        """Write down the checksum of the file that the study is about, and of the table in it. Raises WriteError."""
        with _telling(self.path), self._transaction():
            self._put_about({"source_sha256": sha256})
            if fingerprint is not None:
                put_fingerprint(self._connection, fingerprint)

    def put_place(self, source: Path) -> None:
        """Write down where the source is by now, where that is not where it was. Raises WriteError."""
        with _telling(self.path), self._transaction():
            self._put_about({"source_place": source.absolute().as_uri()})

    def put_source_bytes(self, source: Path) -> None:
        """Write the whole file that the study is about into this one, packed. Raises WriteError."""
        with _telling(self.path), self._transaction():
            put_source_bytes(self._connection, source)

    def put_sparklines(self, sparklines: Sequence[str]) -> None:
        """Write down the pictures, as JSON, by which the study is known again in a list. Raises WriteError."""
        with _telling(self.path), self._transaction():
            self._connection.execute("DELETE FROM sparklines")
            self._connection.executemany("INSERT INTO sparklines VALUES (?, ?)", enumerate(sparklines))

    def close(self) -> None:
        """Let go of the file, which is complete at any time."""
        self._connection.close()

    @contextmanager
    def _transaction(self) -> Iterator[None]:
        self._connection.execute("BEGIN IMMEDIATE")
        try:
            yield
        except BaseException:
            self._connection.execute("ROLLBACK")
            raise
        self._connection.execute("COMMIT")

    def _put_about(self, values: dict[str, str]) -> None:
        self._connection.executemany("INSERT OR REPLACE INTO about VALUES (?, ?)", values.items())

    def _put_aside(self, document: Document, names: Any) -> None:
        self._put_sections("aside", {name: getattr(document, name) for name in names})

    def _put_sections(self, table: str, sections: dict[str, Any]) -> None:
        rows = [(name, _json(section)) for name, section in sections.items()]
        self._connection.executemany(f"INSERT OR REPLACE INTO {table} VALUES (?, ?)", rows)


def write_study_copy(
    path: Path, history: History, sha256: str, fingerprint: Fingerprint, source: Path | None = None
) -> None:
    """Write a study file of its own to ``path``, whole or not at all, with the file ``source`` in it if given.

    What stood at ``path`` before goes. Raises WriteError.
    """

    def fill(unfinished: Path) -> None:
        file = StudyFile.create(unfinished, history, over_empty=True)
        try:
            file.put_source(sha256, fingerprint)
            if source is not None:
                file.put_source_bytes(source)
        finally:
            file.close()

    write_by(path, fill)


def _make_empty(path: Path, mode: int) -> None:
    """An empty file at ``path``. Raises WriteError where something is there already, be it a link to nowhere."""
    try:
        os.close(os.open(path, os.O_WRONLY | os.O_CREAT | os.O_EXCL | os.O_CLOEXEC | os.O_NOFOLLOW, mode))
    except FileExistsError as error:
        raise WriteError(f"{display_path(path)} is there already.") from error
    except OSError as error:
        raise _refusal(path, error) from error


def _migrate_copy(path: Path, version: int) -> None:
    """Put a copy of the file at ``path``, made one of this version, in its place."""

    def fill(unfinished: Path) -> None:
        # Through SQLite, which takes into account what a journal beside the file says.
        with opened_to_read(path) as before, closing(connected_to_write(unfinished, journal=False)) as after:
            before.backup(after)
            migrate(after, version)

    write_by(path, fill)


def _patch(before: Document, after: Document) -> list[dict[str, Any]]:
    """What leads from one document to the other, but for what stands aside from undo."""
    patch = []
    for name in sorted(changed_sections(before, after) - set(OUTSIDE_UNDO)):
        if name == "decisions" and after.decisions.starts_with(before.decisions):
            more = after.decisions[len(before.decisions) :]
            patch += [{"op": "add", "path": "/decisions/-", "value": each} for each in more]
        else:
            patch += difference(plain_section(getattr(before, name)), plain_section(getattr(after, name)), f"/{name}")
    return patch


def _acts_in_common(before: History, after: History) -> int:
    """How many acts at the beginning of both histories are the same."""
    same = 0
    for old, new in zip(before.documents[1:], after.documents[1:], strict=False):
        if old is not new and changed_sections(old, new) - set(OUTSIDE_UNDO):
            break
        same += 1
    return same


def _refusal(path: Path, error: OSError) -> WriteError:
    return WriteError(f"{display_path(path)} cannot be written: {(error.strerror or str(error)).lower()}.")


@contextmanager
def _telling(path: Path) -> Iterator[None]:
    try:
        yield
    except (sqlite3.Error, UnicodeError) as error:
        raise WriteError(f"{display_path(path)} cannot be written: {error}.") from error


def _json(part: object) -> str:
    return encode_part(part).decode("utf-8")


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")
