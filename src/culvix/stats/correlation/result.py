"""What a correlation returns, for one pair and for all pairs of many columns."""

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints

__all__ = [
    "CorrelationMatrix",
    "PairCorrelation",
    "blank",
    "matrix_of_pairs",
    "no_coefficient",
    "present_pairs",
    "set_pair",
]


@dataclass(frozen=True)
class PairCorrelation:
    """Coefficient of two columns over the ``n`` rows where both are present; None with a note where it has none.

    ``p_by`` says how p was found, where more than one way is in use.
    """

    kind: str
    r: float | None
    p: float | None
    n: int
    note: str | None = None
    p_by: str | None = None


@dataclass(frozen=True)
class CorrelationMatrix:
    """Coefficients of all pairs of k columns, each array of shape ``(k, k)``.

    ``r`` and ``p`` are NaN where a pair has none; ``notes`` then has the reason under (i, j) with i ≤ j.
    """

    kind: str
    r: Floats
    p: Floats
    n: Ints
    notes: dict[tuple[int, int], str] = field(default_factory=dict)


def present_pairs(x: Floats, y: Floats) -> NDArray[np.bool_]:
    """Mask of the rows where both columns are finite. Raises StatisticsError where their lengths differ."""
    if x.shape != y.shape or x.ndim != 1:
        raise StatisticsError("Two columns are correlated row by row; these have different lengths.")
    return np.isfinite(x) & np.isfinite(y)


def no_coefficient(kind: str, n: int, why: str) -> PairCorrelation:
    """The result of a pair that has no coefficient."""
    return PairCorrelation(kind, None, None, n, why)


def blank(kind: str, k: int) -> CorrelationMatrix:
    """A matrix of k columns without any coefficient yet."""
    return CorrelationMatrix(kind, np.full((k, k), np.nan), np.full((k, k), np.nan), np.zeros((k, k), np.int64))


def set_pair(matrix: CorrelationMatrix, i: int, j: int, pair: PairCorrelation) -> None:
    """Put the result of one pair into ``matrix``, on both sides of the diagonal."""
    matrix.n[i, j] = matrix.n[j, i] = pair.n
    matrix.r[i, j] = matrix.r[j, i] = np.nan if pair.r is None else pair.r
    matrix.p[i, j] = matrix.p[j, i] = np.nan if pair.p is None else pair.p
    if pair.note:
        matrix.notes[min(i, j), max(i, j)] = pair.note


def matrix_of_pairs(
    kind: str, columns: list[Floats], run: Callable[[Floats, Floats], PairCorrelation], progress: Progress = silent
) -> CorrelationMatrix:
    """Matrix of a coefficient that has no shorter way than pair by pair. Raises what ``progress`` raises."""
    matrix, k = blank(kind, len(columns)), len(columns)
    done, pairs = 0, k * (k + 1) // 2
    for i in range(k):
        for j in range(i, k):
            progress(done / pairs, "correlating pair by pair")
            set_pair(matrix, i, j, run(columns[i], columns[j]))
            done += 1
    return matrix
