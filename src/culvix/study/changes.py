"""What of a study can change, and what is selected in it."""

from dataclasses import dataclass, field
from enum import Enum, auto

import numpy as np

from culvix.stats.arrays import Ints

__all__ = ["Change", "Selection"]


class Change(Enum):
    """What changed, by finest kind."""

    SELECTION = auto()
    SETTINGS = auto()
    DECISIONS = auto()
    REVIEW = auto()
    MARKS = auto()
    DATA = auto()
    """Cells of a column were settled: its numbers are others now."""


@dataclass(frozen=True, eq=False)
class Selection:
    """Selected rows (from 0, ascending) and how they came to be selected."""

    rows: Ints = field(default_factory=lambda: np.zeros(0, dtype=np.int64))
    origin: str = ""

    def __bool__(self) -> bool:
        return bool(self.rows.size)
