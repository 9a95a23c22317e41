"""A document held against the table it is about: what it says of rows has to be of rows that there are."""

from collections.abc import Sequence

from culvix.errors import ReadError
from culvix.stats.display import count
from culvix.study.document.decisions import Decision
from culvix.study.document.document import Document

__all__ = ["check_rows"]


def check_rows(documents: Sequence[Document], rows: int) -> None:
    """Raise ReadError where one of ``documents`` decides on a row beyond the ``rows`` of its table."""
    before: Sequence[Decision] = ()
    for document in documents:
        decisions = document.decisions
        known = len(before) if before and decisions.starts_with(before) else 0  # type: ignore[arg-type]
        for decision in decisions[known:]:
            if decision.rows.size and int(decision.rows.max()) >= rows:
                raise ReadError(
                    f"It decides on row {count(int(decision.rows.max()) + 1)} of a table of {count(rows)} rows."
                )
        before = decisions
