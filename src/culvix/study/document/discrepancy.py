"""What a person has to look at where a table is not like the one that a recipe or a study was made with."""

from dataclasses import dataclass

import numpy as np

from culvix.stats.core.arrays import Ints

__all__ = ["Discrepancy", "with_rows"]

_MOST_ROWS = 1000


@dataclass(frozen=True)
class Discrepancy:
    """A ``sentence`` about ``column``, or about the table where that is empty, with up to 1 000 ``rows`` (from 0)."""

    kind: str
    sentence: str
    column: str = ""
    rows: tuple[int, ...] = ()

    @property
    def row_array(self) -> Ints:
        return np.array(self.rows, dtype=np.int64)


def with_rows(kind: str, sentence: str, column: str, rows: Ints) -> Discrepancy:
    """A discrepancy that stands in ``rows`` (from 0, ascending) of ``column``."""
    return Discrepancy(kind, sentence, column, tuple(rows[:_MOST_ROWS].tolist()))
