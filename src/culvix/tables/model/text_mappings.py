"""From texts to numbers by the analyst's word: by rank, or by an end or the middle of the range a text names.

Either takes for granted that the steps between the texts are as they are made here; whatever shows such a column says
so.
"""

import re
from collections.abc import Iterable, Sequence
from enum import StrEnum

__all__ = ["CAUTION", "RangeEnd", "by_range", "by_rank", "in_order"]

CAUTION = "Numbers given to texts: equal steps are assumed, so means, SDs and correlations rest on this choice."

_NUMBER = r"[+\-−]?\d+(?:[.,]\d+)?"
_BETWEEN = re.compile(rf"({_NUMBER})\s*(?:-|–|—|to|until|\.\.|…)\s*({_NUMBER})", re.I)
_ABOVE = re.compile(
    rf"(?:>|≥|over|above|from|at least)\s*=?\s*({_NUMBER})|({_NUMBER})\s*(?:\+|(?:and|or) (?:more|over|above))", re.I
)
_BELOW = re.compile(
    rf"(?:<|≤|under|below|up to|at most)\s*=?\s*({_NUMBER})|({_NUMBER})\s*(?:and|or) (?:less|under|below)", re.I
)
_ALONE = re.compile(_NUMBER)


class RangeEnd(StrEnum):
    """Which number of a range such as "10 to 20" stands for it."""

    LOW = "low end"
    MIDDLE = "middle"
    HIGH = "high end"


def by_rank(order: Sequence[str]) -> dict[str, float]:
    """1, 2, 3 … for the texts of ``order``, from lowest to highest."""
    return {text: float(rank) for rank, text in enumerate(order, start=1)}


def by_range(texts: Iterable[str], end: RangeEnd) -> dict[str, float]:
    """The number that stands for each of ``texts`` that names a range; an open range has its only end."""
    found = {text: _bounds(text) for text in texts}
    return {text: _value(*bounds, end) for text, bounds in found.items() if bounds is not None}


def in_order(texts: Iterable[str]) -> list[str]:
    """``texts`` from lowest to highest where they name ranges or numbers, else by the alphabet."""

    def position(text: str) -> tuple[int, float, str]:
        bounds = _bounds(text)
        if bounds is None:
            return 1, 0.0, text.lower()
        # "under 10" stands before "10 to 20".
        return 0, sum(bounds) / 2 - (1e-9 if _BELOW.search(text) else 0.0), text.lower()

    return sorted(texts, key=position)


def _bounds(text: str) -> tuple[float, float] | None:
    between = _BETWEEN.search(text)
    if between is not None:
        low, high = _float(between[1]), _float(between[2])
        return (low, high) if low <= high else (high, low)
    for pattern in (_BELOW, _ABOVE):
        found = pattern.search(text)
        if found is not None:
            value = _float(found[1] or found[2])
            return value, value
    alone = _ALONE.findall(text)
    return (_float(alone[0]), _float(alone[0])) if len(alone) == 1 else None


def _float(digits: str) -> float:
    return float(digits.replace("−", "-").replace(",", "."))


def _value(low: float, high: float, end: RangeEnd) -> float:
    return {RangeEnd.LOW: low, RangeEnd.MIDDLE: (low + high) / 2, RangeEnd.HIGH: high}[end]
