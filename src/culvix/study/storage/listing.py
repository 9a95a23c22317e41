"""What is told of a study before it is opened: its name, its table, how much is in it, and pictures of columns."""

import sqlite3
from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path

from culvix.errors import CulvixError
from culvix.json_text import plain_json
from culvix.study.storage.database import opened_to_read, rows_of
from culvix.study.storage.schema import APPLICATION_ID
from culvix.study.storage.study_reading import DAMAGE

__all__ = ["MOST_SPARKLINES", "StudySummary", "study_summaries"]

MOST_SPARKLINES = 5
"""So many columns of a study are pictured in a list."""


@dataclass(frozen=True)
class StudySummary:
    """The study at ``path``: its ``name``, the URI of its ``source``, when it was ``saved``, and how much is in it.

    ``sparklines`` are pictures of some columns, as JSON.
    """

    path: Path
    name: str
    source: str
    saved: datetime
    acts: int
    decisions: int
    sparklines: tuple[str, ...] = ()


def study_summaries(paths: Iterable[Path]) -> Iterator[StudySummary]:
    """What is told of the studies at ``paths``; those that cannot be read are left out."""
    for path in paths:
        try:
            with opened_to_read(path) as connection:
                found = _summary(path, connection)
        except (*DAMAGE, CulvixError):
            continue
        if found is not None:
            yield found


def _summary(path: Path, connection: sqlite3.Connection) -> StudySummary | None:
    if connection.execute("PRAGMA application_id").fetchone()[0] != APPLICATION_ID:
        return None
    about = dict(rows_of(connection, "SELECT key, value FROM about"))
    aside = dict(rows_of(connection, "SELECT section, json FROM aside WHERE section = 'name'"))
    beginning = dict(rows_of(connection, "SELECT section, json FROM beginning WHERE section = 'origin'"))
    (last,) = connection.execute("SELECT max(position) FROM acts").fetchone()
    saved = datetime.fromisoformat(about["saved"])
    pictures = "SELECT json FROM sparklines ORDER BY position LIMIT ?"
    later = connection.execute("PRAGMA user_version").fetchone()[0] > 1
    return StudySummary(
        path=path,
        name=str(plain_json(aside["name"])),
        source=str(plain_json(beginning["origin"])["uri"]),
        saved=saved if saved.tzinfo is not None else saved.replace(tzinfo=UTC),
        acts=0 if last is None else int(last) + 1,
        decisions=int(about.get("decisions", 0)),
        sparklines=tuple(str(row[0]) for row in connection.execute(pictures, (MOST_SPARKLINES,))) if later else (),
    )
