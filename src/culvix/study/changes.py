"""What of a study can change."""

from enum import Enum, auto

__all__ = ["Change"]


class Change(Enum):
    """What changed, by finest kind."""

    SELECTION = auto()
    SETTINGS = auto()
    DECISIONS = auto()
    REVIEW = auto()
    MARKS = auto()
    DATA = auto()
    """Cells of a column were settled: its numbers are others now."""
