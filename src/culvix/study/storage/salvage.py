"""What can still be read of a damaged study file: its beginning, and the acts up to the first that cannot be."""

import json
import sqlite3
from contextlib import closing, suppress
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from culvix.errors import CulvixError, ReadError
from culvix.files import display_path
from culvix.study.document.document import OUTSIDE_UNDO
from culvix.study.document.document_format import section_of
from culvix.study.document.history.history import History
from culvix.study.storage.schema import check_file, opened_to_read
from culvix.study.storage.study_reading import DAMAGE, document_of, state_after

__all__ = ["Salvaged", "salvage"]


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
            check_file(connection, name)
            history, acts = _history(connection)
            sha256 = dict(_rows(connection, "SELECT key, value FROM about")).get("source_sha256", "")
    except DAMAGE as error:
        raise ReadError(f"{name} is damaged beyond reading: {str(error)[:120]}.") from error
    read = len(history.labels)
    known = f"{read} of {acts}" if acts is not None and acts > read else str(read)
    return Salvaged(history, str(sha256), f"{name} is damaged. {known} acts could be read; the file stays as it is.")


def _rows(connection: sqlite3.Connection, query: str) -> list[tuple[Any, ...]]:
    """The rows of a query, up to the first that cannot be read."""
    found: list[tuple[Any, ...]] = []
    with suppress(sqlite3.Error), closing(connection.execute(query)) as cursor:
        while (row := cursor.fetchone()) is not None:
            found.append(row)
    return found


def _history(connection: sqlite3.Connection) -> tuple[History, int | None]:
    """The history up to the first act that cannot be read, and how many acts there were, as far as that is known."""
    plain = {}
    for section, text in _rows(connection, "SELECT section, json FROM beginning"):
        with suppress(*DAMAGE):
            plain[section] = json.loads(text)
    sections = {name: value for name, value in plain.items() if _makes_sense(name, value)}
    document = document_of(sections)
    documents, labels = [document], []
    state = sections
    for at, (position, label, patch) in enumerate(_rows(connection, "SELECT position, label, patch FROM acts")):
        try:
            if position != at:
                break
            state, document = state_after(state, document, json.loads(patch))
        except (*DAMAGE, CulvixError):
            break
        documents.append(document)
        labels.append(str(label))
    cursor = _cursor(connection, len(labels))
    history = History(tuple(documents), tuple(labels), cursor)
    aside = {
        name: section_of(name, json.loads(text))
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
        return _makes_sense(name, json.loads(text))
    return False


def _makes_sense(name: str, plain: Any) -> bool:
    try:
        section_of(name, plain)
    except (*DAMAGE, CulvixError):
        return False
    return True
