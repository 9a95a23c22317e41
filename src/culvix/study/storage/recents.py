"""Files opened lately, tables and studies, with pictures of columns: a JSON file in the program's state folder."""

import json
import os
from collections.abc import Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import platformdirs

__all__ = ["Recent", "forget", "recents", "remember"]

_MOST = 12


@dataclass(frozen=True)
class Recent:
    """The file at ``path``, when it was ``opened`` last, and pictures of some columns, as JSON."""

    path: Path
    opened: datetime
    sparklines: tuple[str, ...] = ()


def _file() -> Path:
    return platformdirs.user_state_path("culvix", appauthor=False) / "recent.json"


def recents() -> list[Recent]:
    """Files opened lately that are there still, the latest first; none where the list cannot be read."""
    try:
        listed = json.loads(_file().read_bytes())
        found = [_recent(each) for each in listed]
    except (OSError, ValueError, TypeError, KeyError, AttributeError):
        return []
    return [each for each in found if each.path.is_file()]


def _recent(plain: dict[str, Any]) -> Recent:
    opened = datetime.fromisoformat(plain["opened"])
    if opened.tzinfo is None:
        opened = opened.replace(tzinfo=UTC)
    return Recent(Path(plain["path"]), opened, tuple(str(each) for each in plain.get("sparklines", ())))


def remember(path: Path, sparklines: Sequence[str] = ()) -> None:
    """Put ``path`` first among the files opened lately; what cannot be written down is not."""
    absolute = path.absolute()
    others = [each for each in recents() if each.path != absolute]
    _write([Recent(absolute, datetime.now(UTC), tuple(sparklines)), *others][:_MOST])


def forget(path: Path) -> None:
    """Take ``path`` off the list."""
    _write([each for each in recents() if each.path != path])


def _write(listed: Sequence[Recent]) -> None:
    plain = [
        {"path": str(each.path), "opened": each.opened.isoformat(), "sparklines": list(each.sparklines)}
        for each in listed
    ]
    # A list for convenience: where the state folder cannot be written there is none.
    with suppress(OSError, UnicodeEncodeError):
        target = _file()
        target.parent.mkdir(parents=True, exist_ok=True)
        unfinished = target.with_name(f"{target.name}.{os.getpid()}.part")
        unfinished.write_bytes(json.dumps(plain).encode("utf-8"))
        unfinished.replace(target)
