"""In which order the lines of a survey stand: as in the table, worst first, by a statistic or by its size."""

from collections.abc import Iterable
from dataclasses import dataclass
from typing import Any

from culvix.study.analysis.survey.survey import SurveyRow, survey_fields

__all__ = ["BY_NAME", "BY_WORST", "SurveyOrder", "ordered", "signed_fields"]

BY_NAME, BY_WORST = "column", "worst"
"""Keys that are no statistic: the names of the columns, and how much is wrong with them."""


@dataclass(frozen=True)
class SurveyOrder:
    """Lines by the statistic ``key``, or by `BY_NAME` or `BY_WORST`; an empty key leaves them as in the table.

    ``by_size``: by the absolute value.
    """

    key: str = ""
    descending: bool = False
    by_size: bool = False


def signed_fields() -> tuple[str, ...]:
    """Keys of the statistics about zero, of which −3 is as remarkable as 3."""
    return tuple(key for key, field in survey_fields().items() if field.signed)


def _badness(row: SurveyRow) -> tuple[int, int, float]:
    """Probable errors first, then how much is open, then the share of values that some method flags."""
    analysis = row.analysis
    share = analysis.flags.rows.size / analysis.sample.n if analysis is not None and analysis.sample.n else 0.0
    return row.grave, len(row.findings), share


def ordered(rows: Iterable[SurveyRow], order: SurveyOrder) -> list[SurveyRow]:
    """The lines in ``order``; those without the statistic come last, equal ones keep their places."""
    lines = list(rows)
    if not order.key:
        return lines
    if order.key == BY_WORST:
        return sorted(lines, key=_badness, reverse=True)
    field = survey_fields().get(order.key)

    def key(row: SurveyRow) -> Any:
        if field is None:
            return row.column.name.lower()
        raw = field.raw(row)
        return abs(raw) if order.by_size and isinstance(raw, int | float) else raw

    known = [row for row in lines if key(row) is not None]
    known.sort(key=key, reverse=order.descending)
    return known + [row for row in lines if key(row) is None]
