"""What is asked about a column whose role rests on a guess, and what each answer says of it."""

from collections.abc import Mapping
from dataclasses import dataclass, field, replace
from types import MappingProxyType
from typing import Any

from culvix.tables.cells.dates import DAY_FIRST, MONTH_FIRST
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.role_inference import CODES_OR_AMOUNTS, DAY_OR_MONTH
from culvix.tables.model.table import Role

__all__ = ["QUESTIONS_OF_COLUMNS", "Answer", "ColumnQuestion"]


@dataclass(frozen=True)
class Answer:
    """One answer: what it is called, and the fields of the column's entry that it sets."""

    label: str
    says: Mapping[str, Any] = field(default_factory=dict, hash=False)

    def applied(self, entry: ColumnEntry) -> ColumnEntry:
        """``entry`` with this answer."""
        return replace(entry, **self.says)


@dataclass(frozen=True)
class ColumnQuestion:
    """A question, in words, and its answers."""

    sentence: str
    answers: tuple[Answer, ...]


QUESTIONS_OF_COLUMNS: Mapping[str, ColumnQuestion] = MappingProxyType(
    {
        CODES_OR_AMOUNTS: ColumnQuestion(
            "Are these codes of categories, or amounts?",
            (
                Answer("Ordered codes", {"role": Role.ORDERED}),
                Answer("Categories", {"role": Role.CATEGORY}),
                Answer("Counts", {"role": Role.COUNT}),
                Answer("Measures", {"role": Role.MEASURE}),
            ),
        ),
        DAY_OR_MONTH: ColumnQuestion(
            "Does the day or the month stand first in these dates?",
            (Answer("Day first", {"date_order": DAY_FIRST}), Answer("Month first", {"date_order": MONTH_FIRST})),
        ),
    }
)
"""By what a column asks."""
