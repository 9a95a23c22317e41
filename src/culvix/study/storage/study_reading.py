"""A study file read: its history, how its table is read, and what comes to light where it is damaged."""

import re
import sqlite3
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import msgspec

from culvix.errors import CulvixError, ReadError
from culvix.files import display_path
from culvix.json_text import plain_json
from culvix.study.document.document import OUTSIDE_UNDO, Document, Origin
from culvix.study.document.document_format import from_plain, section_of
from culvix.study.document.history.history import History
from culvix.study.storage.database import opened_to_read, rows_of
from culvix.study.storage.json_patch import apply_patch
from culvix.study.storage.schema import check_file
from culvix.tables.model.dictionary import Dictionary

__all__ = [
    "DAMAGE",
    "DamagedStudy",
    "Reading",
    "document_of",
    "opened_study",
    "read_place",
    "read_reading",
    "read_source_checksum",
    "read_study",
    "state_after",
]

_SHA256 = re.compile("[0-9a-f]{64}")

DAMAGE = (
    sqlite3.Error,
    ValueError,
    LookupError,
    TypeError,
    AttributeError,
    RecursionError,
    OverflowError,
    OSError,
    zlib.error,
)
"""What comes to light where a file is not as it was written."""


class DamagedStudy(ReadError):
    """A study file of this program that cannot be read as a whole; a part of it may be."""


def read_study(path: Path) -> History:
    """The history in the study file at ``path``, which is not changed.

    Raises ReadError for what is no study, is damaged, or was written by a newer program.
    """
    with opened_study(path) as (connection, _):
        try:
            return _history(connection)
        except ReadError as error:
            raise DamagedStudy(error.sentence) from error


@contextmanager
def opened_study(path: Path) -> Iterator[tuple[sqlite3.Connection, int]]:
    """The study file at ``path``, which is not changed, and its version, for as long as the context lasts.

    Raises ReadError for what is no study, is damaged, or was written by a newer program; also where something that is
    damaged comes to light while the context lasts.
    """
    name = display_path(Path(path.name))
    try:
        with opened_to_read(path) as connection:
            yield connection, check_file(connection, name)
    except DAMAGE as error:
        raise DamagedStudy(f"{name} is damaged: {str(error)[:120]}.") from error


@dataclass(frozen=True)
class Reading:
    """How the table of a study is read now: what of the document is needed before anything else of it."""

    origin: Origin
    dictionary: Dictionary


def read_reading(connection: sqlite3.Connection) -> Reading | None:
    """How the table of the study is read, None where that is found from its history only."""
    found = connection.execute("SELECT value FROM about WHERE key = 'reading'").fetchone()
    try:
        return None if found is None else from_plain(plain_json(found[0]), Reading)
    except (msgspec.ValidationError, CulvixError) as error:
        raise ReadError(f"How the table is read is not known: {str(error)[:120]}.") from error


def read_place(connection: sqlite3.Connection) -> Path | None:
    """Where the source was found last, None where that is not known, or was where it is recorded."""
    found = connection.execute("SELECT value FROM about WHERE key = 'source_place'").fetchone()
    return None if found is None else Origin(str(found[0]), 0).path


def read_source_checksum(connection: sqlite3.Connection) -> str:
    """The SHA-256 of the source of a study, empty where it was never written down. Raises ReadError for none."""
    found = connection.execute("SELECT value FROM about WHERE key = 'source_sha256'").fetchone()
    checksum = "" if found is None else str(found[0])
    if checksum and not _SHA256.fullmatch(checksum):
        raise ReadError("The checksum of the source is none: it is not 64 hexadecimal digits.")
    return checksum


def _history(connection: sqlite3.Connection) -> History:
    plain = {name: plain_json(text) for name, text in rows_of(connection, "SELECT section, json FROM beginning")}
    document = document_of(plain)
    documents, labels = [document], []
    for at, (position, label, patch) in enumerate(
        rows_of(connection, "SELECT position, label, patch FROM acts ORDER BY position")
    ):
        if position != at:
            raise ReadError(f"Act {at + 1} of the history is missing.")
        operations = plain_json(patch)
        plain, document = state_after(plain, document, operations)
        documents.append(document)
        labels.append(str(label))
    cursor = int(dict(rows_of(connection, "SELECT key, value FROM about")).get("cursor", len(labels)))
    if not 0 <= cursor <= len(labels):
        raise ReadError(f"The history has {len(labels)} acts, and stands at the {cursor}th.")
    history = History(tuple(documents), tuple(labels), cursor)
    written = rows_of(connection, "SELECT section, json FROM aside")
    aside = {name: section_of(name, plain_json(text)) for name, text in written}
    if set(aside) - set(OUTSIDE_UNDO):
        raise ReadError("What stands aside from the history is not known.")
    return history.with_current(replace(history.current, **aside))


def document_of(plain: dict[str, Any]) -> Document:
    """The document of plain sections. Raises ReadError where one makes no sense, or what is needed is not there."""
    sections = {name: section_of(name, value) for name, value in plain.items()}
    missing = {"version", "name", "origin"} - set(sections)
    if missing:
        raise ReadError(f"The study is damaged: it has no {' and no '.join(sorted(missing))}.")
    return Document(**sections)


def state_after(plain: dict[str, Any], document: Document, patch: Any) -> tuple[dict[str, Any], Document]:
    """The state after an act, plain and read; only the sections it touches are read. Raises ReadError."""
    if not isinstance(patch, list):
        raise ReadError("An act of the history is no list of operations.")
    added = [each.get("value") for each in patch if isinstance(each, dict) and each.get("path") == "/decisions/-"]
    if added and len(added) == len(patch):
        # A thousand decisions, one after the other, are not all read again for each.
        plain["decisions"] += added
        longer = document.decisions.with_more(section_of("decisions", added))
        return plain, _with_sections(document, {"decisions": longer})
    touched = {_section_named(each) for each in patch}
    plain = apply_patch(plain, patch)
    missing = touched - set(plain)
    if missing:
        raise ReadError(f"An act of the history takes the section {min(missing)[:40]!r} away.")
    return plain, _with_sections(document, {name: section_of(name, plain[name]) for name in touched})


def _section_named(operation: Any) -> str:
    """The section that an operation of a patch is about. Raises ReadError where it is about none."""
    path = operation.get("path") if isinstance(operation, dict) else None
    if not isinstance(path, str) or not path.startswith("/"):
        raise ReadError("An act of the history names nothing that it changes.")
    return path.split("/")[1]


def _with_sections(document: Document, sections: dict[str, Any]) -> Document:
    """``document`` with other sections, as `dataclasses.replace` makes it, in a tenth of its time: acts are many."""
    made = object.__new__(Document)
    made.__dict__.update(vars(document) | sections)
    return made
