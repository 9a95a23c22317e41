"""What can still be read of a damaged study file: its beginning, and the acts up to the first that cannot be."""

import sqlite3
from contextlib import suppress
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from culvix.errors import CulvixError, ReadError
from culvix.files import display_path
from culvix.json_text import plain_json
from culvix.study.document.document import OUTSIDE_UNDO
from culvix.study.document.document_format import section_of
from culvix.study.document.history.history import History
from culvix.study.storage.database import opened_to_read, rows_of
from culvix.study.storage.schema import expected_schema, study_version
from culvix.study.storage.study_reading import DAMAGE, document_of, read_source_checksum, state_after

__all__ = ["Salvaged", "salvage"]

_LONGEST, _MOST = 40, 3


@dataclass(frozen=True, eq=False)
class Salvaged:
    """The ``history`` that is left, the checksum of its source if that is known, and a ``sentence`` on the rest."""

    history: History
    sha256: str
    sentence: str


def salvage(path: Path) -> Salvaged:
    """What can be read of the study in the file at ``path``, which is not changed.

    Raises ReadError where not even its beginning can be, or the file holds what no study does.
    """
    name = display_path(Path(path.name))
    try:
        with opened_to_read(path) as connection:
            more = _check_tables(connection, name)
            history, acts = _history(connection)
            sha256 = read_source_checksum(connection)
    except DAMAGE as error:
        raise ReadError(f"{name} is damaged beyond reading: {str(error)[:120]}.") from error
    read = len(history.labels)
    known = f"{read} of {acts}" if acts is not None and acts > read else str(read)
    besides = f" It holds what no study has ({more}), which was left alone." if more else ""
    sentence = f"{name} is damaged. {known} acts could be read; the file stays as it is.{besides}"
    return Salvaged(history, sha256, sentence)


def _check_tables(connection: sqlite3.Connection, name: str) -> str:
    """What is in the file besides the tables of a study, in words. Raises ReadError where one of these is not as it is
    made: what has its name is asked for nothing.
    """
    version = study_version(connection, name)
    found = _rows(connection, "SELECT type, name, tbl_name, sql FROM sqlite_schema")
    expected = expected_schema(version)
    if not expected or any(each not in found for each in expected):
        raise ReadError(f"{name} is no study that can be read: its tables are not those of a study file.")
    more = [f"{kind} {what}"[:_LONGEST] for kind, what, *rest in found if (kind, what, *rest) not in expected]
    return ", ".join(more[:_MOST])


def _rows(connection: sqlite3.Connection, query: str) -> list[tuple[Any, ...]]:
    return rows_of(connection, query, up_to_damage=True)


def _history(connection: sqlite3.Connection) -> tuple[History, int | None]:
    """The history up to the first act that cannot be read, and how many acts there were, as far as that is known."""
    plain = {}
    for section, text in _rows(connection, "SELECT section, json FROM beginning"):
        with suppress(*DAMAGE):
            plain[section] = plain_json(text)
    sections = {name: value for name, value in plain.items() if _makes_sense(name, value)}
    document = document_of(sections)
    documents, labels = [document], []
    state = sections
    for at, (position, label, patch) in enumerate(_rows(connection, "SELECT position, label, patch FROM acts")):
        try:
            if position != at:
                break
            state, document = state_after(state, document, plain_json(patch))
        except (*DAMAGE, CulvixError):
            break
        documents.append(document)
        labels.append(str(label))
    cursor = _cursor(connection, len(labels))
    history = History(tuple(documents), tuple(labels), cursor)
    aside = {
        name: section_of(name, plain_json(text))
        for name, text in _rows(connection, "SELECT section, json FROM aside")
        if name in OUTSIDE_UNDO and _reads(name, text)
    }
    counted = next(iter(_rows(connection, "SELECT max(position) + 1 FROM acts")), (None,))[0]
    return history.with_current(replace(history.current, **aside)), counted if isinstance(counted, int) else None


def _cursor(connection: sqlite3.Connection, acts: int) -> int:
    """Where the history stood, as far as its acts reach."""
    found = dict(_rows(connection, "SELECT key, value FROM about")).get("cursor", acts)
    with suppress(ValueError, TypeError):
        return min(max(int(found), 0), acts)
    return acts


def _reads(name: str, text: Any) -> bool:
    with suppress(*DAMAGE):
        return _makes_sense(name, plain_json(text))
    return False


def _makes_sense(name: str, plain: Any) -> bool:
    try:
        section_of(name, plain)
    except (*DAMAGE, CulvixError):
        return False
    return True
