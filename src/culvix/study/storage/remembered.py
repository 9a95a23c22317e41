"""What the program remembers of its user's work: drafts, lists, pasted tables, copies of sources; seen and erased."""

import os
import stat
from collections.abc import Collection, Sequence
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from culvix.errors import WriteError
from culvix.files import display_path
from culvix.places import cache_folder, data_folder, state_folder
from culvix.study.storage.drafts import SUFFIX
from culvix.study.storage.recents import recents, replace_recents
from culvix.study.storage.study_lock import StudyLock

__all__ = ["KINDS", "Remembered", "erase", "remembered"]

KINDS = {
    "drafts": "drafts: studies without a place of their own",
    "recent": "list of files opened lately, with small pictures of columns",
    "pasted": "tables that were pasted",
    "samples": "samples drawn from servers and large tables",
    "sources": "tables unpacked from studies",
    "log": "log of faults and remarks",
}
"""Each kind of thing that is remembered, and what it is in words."""


@dataclass(frozen=True)
class Remembered:
    """So ``many`` things of a ``kind``, which take ``size`` bytes; None for the ``oldest`` where there are none."""

    kind: str
    many: int
    size: int
    oldest: datetime | None


def remembered() -> tuple[Remembered, ...]:
    """What is remembered, a row for each of `KINDS`."""
    rows = []
    for kind in KINDS:
        found = _files(kind)
        times = [each.opened for each in recents()] if kind == "recent" else [_when(path) for path in found]
        rows.append(Remembered(kind, len(times), sum(_size(path) for path in found), min(times, default=None)))
    return tuple(rows)


def erase(kinds: Collection[str], older_than: timedelta | None = None, *, keep: Collection[Path] = ()) -> int:
    """Erase what is remembered of ``kinds``, or only what is ``older_than`` that; how many things went.

    A study that is open in a window and the files to ``keep`` stay. Raises WriteError where something cannot be erased.
    """
    before = None if older_than is None else datetime.now(UTC) - older_than
    kept = {os.path.realpath(path) for path in keep}
    gone = 0
    for kind in kinds:
        if kind == "recent":
            known = recents()
            left = [each for each in known if before is not None and each.opened >= before]
            replace_recents(left)
            gone += len(known) - len(left)
            continue
        for path in _files(kind):
            is_old = before is None or _when(path) < before
            if is_old and os.path.realpath(path) not in kept and not (kind == "drafts" and not StudyLock.is_free(path)):
                _remove(path)
                gone += 1
    return gone


def _files(kind: str) -> Sequence[Path]:
    """The files of a kind; what is no regular file is none of ours."""
    patterns = {
        "drafts": (state_folder() / "drafts", f"*{SUFFIX}"),
        "recent": (state_folder(), "recent.json"),
        "pasted": (data_folder() / "pasted", "*"),
        "samples": (data_folder() / "samples", "*"),
        "sources": (cache_folder() / "sources", "**/*"),
        "log": (state_folder(), "*.log*"),
    }
    folder, pattern = patterns[kind]
    found = []
    for path in sorted(folder.glob(pattern)):
        with suppress(OSError):
            if stat.S_ISREG(os.lstat(path).st_mode):
                found.append(path)
    return found


def _when(path: Path) -> datetime:
    """When a file was changed last; as early as can be where it is gone by now."""
    try:
        return datetime.fromtimestamp(os.lstat(path).st_mtime, UTC)
    except (OSError, OverflowError, ValueError):
        return datetime.min.replace(tzinfo=UTC)


def _size(path: Path) -> int:
    try:
        return os.lstat(path).st_size
    except OSError:
        return 0


def _remove(path: Path) -> None:
    try:
        for beside in (path, path.with_name(f"{path.name}-journal")):
            beside.unlink(missing_ok=True)
    except OSError as error:
        raise WriteError(f"{display_path(path)} cannot be erased: {(error.strerror or '').lower()}.") from error
    with suppress(OSError):
        # The folder that was made for it alone.
        if path.parent.parent == cache_folder() / "sources":
            path.parent.rmdir()
