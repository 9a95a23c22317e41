"""Files opened lately, tables and studies, with pictures of columns: a JSON file in the program's state folder."""

import json
import logging
import os
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

from culvix.errors import CulvixError, WriteError
from culvix.files import read_whole, write_private
from culvix.json_text import plain_json
from culvix.places import state_folder

__all__ = ["Recent", "forget", "recents", "remember", "replace_recents"]

_MOST, _LARGEST = 12, 1 << 24
_log = logging.getLogger(__name__)


@dataclass(frozen=True)
class Recent:
    """The file at ``path``, when it was ``opened`` last, and pictures of some columns, as JSON."""

    path: Path
    opened: datetime
    sparklines: tuple[str, ...] = ()


def _file() -> Path:
    return state_folder() / "recent.json"


def recents() -> list[Recent]:
    """Files opened lately that are there still, the latest first; none where the list cannot be read."""
    try:
        listed = plain_json(read_whole(_file(), _LARGEST)) if os.path.lexists(_file()) else []
    except (CulvixError, ValueError, RecursionError):
        _log.warning("the list of files opened lately cannot be read", exc_info=True)
        return []
    found = [_recent(each) for each in listed] if isinstance(listed, list) else []
    return [each for each in found if each is not None and os.path.isfile(each.path)]


def _recent(plain: Any) -> Recent | None:
    """An entry of the list; None for one that makes no sense, which is left out by itself."""
    try:
        opened = datetime.fromisoformat(plain["opened"])
        if opened.tzinfo is None:
            opened = opened.replace(tzinfo=UTC)
        # As late or early as a clock can show, it could not be told in local time.
        opened.astimezone()
        pictures = tuple(str(each) for each in plain.get("sparklines", ()))
        return Recent(Path(plain["path"]), opened, pictures)
    except (LookupError, TypeError, ValueError, AttributeError, OverflowError, OSError):
        _log.warning("an entry of the list of files opened lately makes no sense")
        return None


def remember(path: Path, sparklines: Sequence[str] = ()) -> None:
    """Put ``path`` first among the files opened lately; what cannot be written down is not."""
    absolute = path.absolute()
    others = [each for each in recents() if each.path != absolute]
    _write([Recent(absolute, datetime.now(UTC), tuple(sparklines)), *others][:_MOST])


def forget(path: Path) -> None:
    """Take ``path`` off the list."""
    _write([each for each in recents() if each.path != path])


def replace_recents(listed: Sequence[Recent]) -> None:
    """Let the list be ``listed``."""
    _write(listed)


def _write(listed: Sequence[Recent]) -> None:
    plain = [
        {"path": str(each.path), "opened": each.opened.isoformat(), "sparklines": list(each.sparklines)}
        for each in listed
    ]
    # A list for convenience: where the state folder cannot be written there is none.
    with suppress(WriteError, UnicodeEncodeError):
        write_private(_file(), json.dumps(plain).encode("utf-8"))
