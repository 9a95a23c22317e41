"""What every one-column outlier method returns, and the steps they share."""

from collections.abc import Sequence
from dataclasses import dataclass, field
from math import isfinite

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample

__all__ = [
    "OutlierResult",
    "around",
    "beyond",
    "by_test",
    "cannot_flag",
    "check_level",
    "check_limit",
    "distances",
    "extreme",
]

NO_ROWS: Ints = np.zeros(0, dtype=np.int64)
NO_SCORES: Floats = np.zeros(0)


@dataclass(frozen=True)
class OutlierResult:
    """The span a method accepts and what lies outside it.

    ``lower`` and ``upper`` are in the column's unit, None where the method gives none. ``rows`` (shape ``(k,)``,
    counted from 0, in order of value) are flagged with the ``scores`` (same shape) that ``score_name`` names. ``note``
    says why
    nothing could be flagged, or what to beware of.
    """

    method: str
    lower: float | None
    upper: float | None
    rows: Ints
    scores: Floats
    score_name: str
    n: int
    settings: dict[str, float | int | str] = field(default_factory=dict)
    note: str | None = None
    applies: bool = True
    """Whether the method could be applied to the sample at all."""
    groups: dict[str, "OutlierResult"] = field(default_factory=dict, compare=False)
    """The results of the groups by name, where values were judged within groups."""


def check_limit(name: str, value: float) -> None:
    """Raise StatisticsError unless a limit is a positive finite number."""
    if not (isfinite(value) and value > 0):
        raise StatisticsError(f"The limit {name} must be a positive number, not {value}.")


def cannot_flag(
    method: str, score_name: str, n: int, settings: dict[str, float | int | str], why: str
) -> OutlierResult:
    """Result of a method that cannot be applied to this sample."""
    return OutlierResult(method, None, None, NO_ROWS, NO_SCORES, score_name, n, settings, why, applies=False)


def check_level(name: str, value: float) -> None:
    """Raise StatisticsError unless a level or rate lies between 0 and 1."""
    if not 0 < value < 1:
        raise StatisticsError(f"The level {name} lies between 0 and 1, not at {value}.")


def by_test(
    method: str,
    score_name: str,
    n: int,
    settings: dict[str, float | int | str],
    note: str | None,
    *,
    rows: Sequence[int] | Ints = (),
    scores: Sequence[float] | Floats = (),
) -> OutlierResult:
    """Result of a test, which flags the ``rows`` it names (none by default) and gives no span."""
    found = np.array(rows, dtype=np.int64), np.array(scores, dtype=np.float64)
    return OutlierResult(method, None, None, *found, score_name, n, settings, note)


def extreme(sample: Sample, centre: float, scale: float) -> tuple[int, float]:
    """Row and score of the value farthest from ``centre`` in units of ``scale``; the higher one of two as far."""
    low, high = distances(sample.sorted[[0, -1]], centre, scale).tolist()
    if high >= -low:
        return int(sample.outer_rows(0, 1)[0]), high
    return int(sample.outer_rows(1, 0)[0]), low


def around(
    method: str,
    sample: Sample,
    centre: float,
    scales: tuple[float, float],
    k: float,
    score_name: str,
    settings: dict[str, float | int | str],
    no_width: str,
) -> OutlierResult:
    """Flag what lies more than ``k`` scales below or above ``centre``, each side by its own scale."""
    check_limit("k", k)
    n, (down, up) = sample.n, scales
    if not n:
        return cannot_flag(method, score_name, n, settings, "There are no values.")
    if not (down > 0 and up > 0):
        return cannot_flag(method, score_name, n, settings, no_width)
    lower, upper = centre - k * down, centre + k * up
    if not (isfinite(lower) and isfinite(upper)):
        return cannot_flag(method, score_name, n, settings, "The span is beyond what a number can hold.")
    values, rows = beyond(sample, lower, upper)
    scores = np.where(values < centre, distances(values, centre, down), distances(values, centre, up))
    return OutlierResult(method, lower, upper, rows, scores, score_name, n, settings)


def distances(values: Floats, centre: float, scale: float) -> Floats:
    """(values − centre) / scale, held at the largest double where it would pass it."""
    with np.errstate(over="ignore"):
        return np.nan_to_num((values - centre) / scale)


def beyond(sample: Sample, lower: float, upper: float) -> tuple[Floats, Ints]:
    """Values outside ``lower`` to ``upper`` and their rows, both in order of value."""
    x = sample.sorted
    low = int(np.searchsorted(x, lower, side="left"))
    high = int(np.searchsorted(x, upper, side="right"))
    if low == 0 and high == x.size:
        return NO_SCORES, NO_ROWS
    return np.concatenate((x[:low], x[high:])), sample.outer_rows(low, x.size - high)
