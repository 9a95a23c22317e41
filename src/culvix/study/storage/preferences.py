"""What new studies begin with: conventions and initials, in a JSON file of the user's configuration.

A study that exists is never changed by them, and neither is what the command line writes.
"""

import os
from dataclasses import dataclass, field, replace
from pathlib import Path

import msgspec

from culvix.errors import CulvixError, ReadError, WriteError
from culvix.files import display_path, read_whole, write_private
from culvix.places import config_folder
from culvix.study.document.choices.settings import Settings
from culvix.study.document.document_format import encode_part, from_plain

__all__ = ["Preferences", "load_preferences", "reset_preferences", "save_preferences"]


_LARGEST = 1 << 24


@dataclass(frozen=True)
class Preferences:
    """``settings`` without choices for single columns, and whose ``initials`` stand under decisions."""

    settings: Settings = field(default_factory=Settings)
    initials: str = ""

    @classmethod
    def of(cls, settings: Settings, initials: str) -> "Preferences":
        """Those of a study, for others: what is about its own columns is left out."""
        return cls(replace(settings, columns={}), initials)


def _file() -> Path:
    return config_folder() / "preferences.json"


def load_preferences() -> Preferences:
    """What was set down; the usual conventions where nothing was. Raises ReadError for a file that makes no sense."""
    path = _file()
    if not os.path.lexists(path):
        return Preferences()
    data = read_whole(path, _LARGEST)
    try:
        return from_plain(msgspec.json.decode(data), Preferences)
    except (msgspec.DecodeError, msgspec.ValidationError, CulvixError, OverflowError, RecursionError) as error:
        raise ReadError(
            f"{display_path(path)} makes no sense ({str(error)[:120]}); the usual conventions are used."
        ) from error


def save_preferences(preferences: Preferences) -> None:
    """Set ``preferences`` down for new studies. Raises WriteError."""
    write_private(_file(), msgspec.json.format(encode_part(preferences), indent=1) + b"\n")


def reset_preferences() -> None:
    """Let new studies begin with the usual conventions again. Raises WriteError."""
    path = _file()
    try:
        path.unlink(missing_ok=True)
    except OSError as error:
        raise WriteError(f"{display_path(path)} cannot be removed: {(error.strerror or '').lower()}.") from error
