"""What the reader cannot know and asks: each question with the readings it could be, and what each would give."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from types import MappingProxyType
from typing import Any

__all__ = ["Choice", "ReadingQuestion"]


@dataclass(frozen=True)
class Choice:
    """One answer: what it is called, what it gives, and what it changes in the reading.

    ``change`` names parts of a `Dialect` or of `ReadOptions` with their values.
    """

    label: str
    gives: str
    change: Mapping[str, Any] = field(default_factory=lambda: MappingProxyType({}), hash=False)
    in_force: bool = False
    """Whether the file was read so."""


@dataclass(frozen=True)
class ReadingQuestion:
    """Something about a file that can be read in more than one way; one choice is in force until another is made."""

    kind: str
    sentence: str
    choices: tuple[Choice, ...] = ()
    columns: tuple[str, ...] = ()
