"""Drafts: studies without a place of their own; they live in the platform's folder for the state of programs."""

import json
import re
import sqlite3
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

import platformdirs

from culvix.errors import WriteError
from culvix.files import display_path
from culvix.study.storage.schema import APPLICATION_ID, opened_to_read

__all__ = ["SUFFIX", "Draft", "draft_folder", "drafts", "new_draft"]

SUFFIX = ".culvix"
_UNSAFE = re.compile(r"[^\w.-]+")
_LONGEST = 60


@dataclass(frozen=True)
class Draft:
    """What is told of a study before it is opened: name, source, when it was written last, and how much is in it."""

    path: Path
    name: str
    source: str
    saved: datetime
    acts: int


def draft_folder() -> Path:
    """The folder that drafts live in. Raises WriteError where it cannot be made."""
    folder = platformdirs.user_state_path("culvix", appauthor=False) / "drafts"
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise WriteError(f"{display_path(folder)} cannot be made: {(error.strerror or '').lower()}.") from error
    return folder


def new_draft(name: str) -> Path:
    """A place for a draft of the study called ``name`` that is not taken. Raises WriteError as `draft_folder`."""
    folder, plain = draft_folder(), _UNSAFE.sub("_", name)[:_LONGEST] or "study"
    stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
    places = (folder / f"{plain}-{stamp}{'' if not again else f'-{again}'}{SUFFIX}" for again in range(1000))
    return next(place for place in places if not place.exists())


def drafts() -> list[Draft]:
    """The drafts there are, the latest first; what cannot be read is left out. Raises WriteError as `draft_folder`."""
    found = list(_readable(draft_folder().glob(f"*{SUFFIX}")))
    return sorted(found, key=lambda draft: draft.saved, reverse=True)


def _readable(paths: Iterator[Path]) -> Iterator[Draft]:
    for path in paths:
        try:
            with opened_to_read(path) as connection:
                draft = _summary(path, connection)
        except (sqlite3.Error, ValueError, KeyError, TypeError, OSError):
            continue
        if draft is not None:
            yield draft


def _summary(path: Path, connection: sqlite3.Connection) -> Draft | None:
    if connection.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
        return None
    about = dict(connection.execute("SELECT key, value FROM about"))
    aside = dict(connection.execute("SELECT section, json FROM aside WHERE section = 'name'"))
    beginning = dict(connection.execute("SELECT section, json FROM beginning WHERE section = 'origin'"))
    (acts,) = connection.execute("SELECT count(*) FROM acts").fetchone()
    source = str(json.loads(beginning["origin"])["uri"])
    return Draft(path, str(json.loads(aside["name"])), source, datetime.fromisoformat(about["saved"]), int(acts))
