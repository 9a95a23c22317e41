"""A study file: the document at the beginning of the history, every act after it, and what stands aside from undo.

Each act is one transaction. A file is only ever changed by SQLite, whose rollback journal makes sure that it holds the
state before or after an act, whatever happens in between.
"""

import json
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from culvix.errors import ReadError, WriteError
from culvix.files import display_path
from culvix.study.document.document import OUTSIDE_UNDO, Document, changed_sections
from culvix.study.document.document_format import encode_part, plain_section, section_of
from culvix.study.document.history import History
from culvix.study.storage.json_patch import apply_patch, difference
from culvix.study.storage.schema import check_file, create_tables, opened_to_read
from culvix.version import VERSION

__all__ = ["StudyFile", "read_study", "source_checksum"]

_WAIT_SECONDS = 5.0


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
    def create(cls, path: Path, history: History) -> "StudyFile":
        """A new file with ``history``. Raises WriteError where it cannot be written or is there already."""
        if path.exists():
            raise WriteError(f"{display_path(path)} is there already.")
        first = history.documents[0]
        with _telling(path):
            file = cls(path, _connected(path), History((first,)))
            with file._transaction():
                create_tables(file._connection)
                file._put_about({"program": f"Culvix {VERSION}", "created": _now(), "cursor": "0"})
                file._put_sections("beginning", vars(first))
                file._put_aside(history.current, OUTSIDE_UNDO)
        file.record(history)
        return file

    @classmethod
    def open(cls, path: Path, history: History) -> "StudyFile":
        """The file at ``path``, which ``history`` was read from, to be gone on with. Raises WriteError."""
        with _telling(path):
            connection = _connected(path)
            check_file(connection, display_path(Path(path.name)))
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
            self._put_about({"saved": _now(), "cursor": str(history.cursor)})
        self._history = history

    def put_source(self, sha256: str) -> None:
        """Write down the checksum of the file that the study is about. Raises WriteError."""
        with _telling(self.path), self._transaction():
            self._put_about({"source_sha256": sha256})

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


def read_study(path: Path) -> History:
    """The history in the study file at ``path``, which is not changed.

    Raises ReadError for what is no study, is damaged, or was written by a newer program.
    """
    name = display_path(Path(path.name))
    try:
        with opened_to_read(path) as connection:
            check_file(connection, name)
            return _history(connection)
    except (sqlite3.Error, ValueError, RecursionError, OverflowError, OSError) as error:
        raise ReadError(f"{name} is damaged: {str(error)[:120]}.") from error


def source_checksum(path: Path) -> str:
    """The SHA-256 of the source of the study at ``path``, empty where it was never written down. Raises ReadError."""
    try:
        with opened_to_read(path) as connection:
            found = connection.execute("SELECT value FROM about WHERE key = 'source_sha256'").fetchone()
    except (sqlite3.Error, OSError) as error:
        raise ReadError(f"{display_path(Path(path.name))} is damaged: {str(error)[:120]}.") from error
    return "" if found is None else str(found[0])


def _history(connection: sqlite3.Connection) -> History:
    plain = {name: json.loads(text) for name, text in connection.execute("SELECT section, json FROM beginning")}
    document = _document(plain)
    documents, labels = [document], []
    for at, (position, label, patch) in enumerate(
        connection.execute("SELECT position, label, patch FROM acts ORDER BY position")
    ):
        if position != at:
            raise ReadError(f"Act {at + 1} of the history is missing.")
        operations = json.loads(patch)
        plain, document = _after(plain, document, operations)
        documents.append(document)
        labels.append(str(label))
    cursor = int(dict(connection.execute("SELECT key, value FROM about")).get("cursor", len(labels)))
    if not 0 <= cursor <= len(labels):
        raise ReadError(f"The history has {len(labels)} acts, and stands at the {cursor}th.")
    history = History(tuple(documents), tuple(labels), cursor)
    aside = {name: section_of(name, json.loads(text)) for name, text in connection.execute("SELECT * FROM aside")}
    if set(aside) - set(OUTSIDE_UNDO):
        raise ReadError("What stands aside from the history is not known.")
    return history.with_current(replace(history.current, **aside))


def _document(plain: dict[str, Any]) -> Document:
    sections = {name: section_of(name, value) for name, value in plain.items()}
    missing = {"version", "name", "origin"} - set(sections)
    if missing:
        raise ReadError(f"The study is damaged: it has no {' and no '.join(sorted(missing))}.")
    return Document(**sections)


def _after(plain: dict[str, Any], document: Document, patch: Any) -> tuple[dict[str, Any], Document]:
    """The state after an act; only the sections it touches are read."""
    if not isinstance(patch, list):
        raise ReadError("An act of the history is no list of operations.")
    added = [each.get("value") for each in patch if isinstance(each, dict) and each.get("path") == "/decisions/-"]
    if added and len(added) == len(patch):
        # A thousand decisions, one after the other, are not all read again for each.
        plain["decisions"] += added
        return plain, replace(document, decisions=document.decisions.with_more(section_of("decisions", added)))
    plain = apply_patch(plain, patch)
    touched = {str(each["path"]).split("/")[1] for each in patch}
    return plain, replace(document, **{name: section_of(name, plain[name]) for name in touched})


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


def _connected(path: Path) -> sqlite3.Connection:
    return sqlite3.connect(path, timeout=_WAIT_SECONDS, isolation_level=None, check_same_thread=False)


@contextmanager
def _telling(path: Path) -> Iterator[None]:
    try:
        yield
    except sqlite3.Error as error:
        raise WriteError(f"{display_path(path)} cannot be written: {error}.") from error


def _json(part: object) -> str:
    return encode_part(part).decode("utf-8")


def _now() -> str:
    return datetime.now(UTC).isoformat(timespec="milliseconds")
