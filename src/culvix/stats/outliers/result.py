"""What every one-column outlier method returns, and the steps they share."""

from dataclasses import dataclass, field
from math import isfinite

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.arrays import Floats, Ints
from culvix.stats.sample import Sample

__all__ = ["OutlierResult", "beyond", "cannot_flag", "check_limit", "distances"]

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


def check_limit(name: str, value: float) -> None:
    """Raise StatisticsError unless a limit is a positive finite number."""
    if not (isfinite(value) and value > 0):
        raise StatisticsError(f"The limit {name} must be a positive number, not {value}.")


def cannot_flag(
    method: str, score_name: str, n: int, settings: dict[str, float | int | str], why: str
) -> OutlierResult:
    """Result of a method that cannot be applied to this sample."""
    return OutlierResult(method, None, None, NO_ROWS, NO_SCORES, score_name, n, settings, why)


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
    return np.concatenate((x[:low], x[high:])), np.concatenate((sample.rows[:low], sample.rows[high:]))
