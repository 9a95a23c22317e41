"""Drafts: studies without a place of their own; they live in the platform's folder for the state of programs."""

import os
import re
from contextlib import suppress
from datetime import UTC, datetime, timedelta
from pathlib import Path

from culvix.errors import WriteError
from culvix.files import display_path
from culvix.places import make_private, state_folder
from culvix.study.storage.listing import StudySummary, study_summaries

__all__ = ["SUFFIX", "draft_folder", "drafts", "is_draft", "new_draft", "remove_draft", "remove_empty_drafts"]

SUFFIX = ".culvix"
_UNSAFE = re.compile(r"[^\w.-]+")
_LONGEST = 60
_EMPTY_DAYS = 14
"""A draft without an act is kept for so many days."""


def draft_folder() -> Path:
    """The folder that drafts live in. Raises WriteError where it cannot be made."""
    folder = state_folder() / "drafts"
    try:
        make_private(folder)
    except OSError as error:
        raise WriteError(f"{display_path(folder)} cannot be made: {(error.strerror or '').lower()}.") from error
    return folder


def is_draft(path: Path) -> bool:
    """Whether the study at ``path`` has no place of its own."""
    try:
        return path.parent == draft_folder()
    except WriteError:
        return False


def new_draft(name: str) -> Path:
    """A place for a draft of the study called ``name`` that is not taken. Raises WriteError as `draft_folder`."""
    folder, plain = draft_folder(), _UNSAFE.sub("_", name)[:_LONGEST] or "study"
    stamp = datetime.now(UTC).strftime("%Y%m%d-%H%M%S")
    paths = (folder / f"{plain}-{stamp}{'' if not again else f'-{again}'}{SUFFIX}" for again in range(1000))
    return next(path for path in paths if not os.path.lexists(path))


def drafts() -> list[StudySummary]:
    """The drafts there are, the latest first; what cannot be read is left out. Raises WriteError as `draft_folder`."""
    found = list(study_summaries(draft_folder().glob(f"*{SUFFIX}")))
    return sorted(found, key=lambda draft: draft.saved, reverse=True)


def remove_draft(path: Path) -> None:
    """Take the draft at ``path`` away. Raises WriteError for what is no draft, or cannot be removed."""
    if not is_draft(path):
        raise WriteError(f"{display_path(path)} is no draft; only drafts are taken away.")
    try:
        path.unlink()
    except OSError as error:
        raise WriteError(f"{display_path(path)} cannot be removed: {(error.strerror or '').lower()}.") from error


def remove_empty_drafts(now: datetime) -> int:
    """Take away drafts without an act that are old by ``now``; how many there were. Raises WriteError."""
    old = [each for each in drafts() if not each.acts and now - each.saved > timedelta(days=_EMPTY_DAYS)]
    for each in old:
        with suppress(WriteError):
            remove_draft(each.path)
    return len(old)
