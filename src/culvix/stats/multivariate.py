"""Distances of rows over several columns: Mahalanobis, classical and robust, and what each column adds to them.

The robust centre and scatter are the reweighted minimum covariance determinant (Rousseeuw & Van Driessen 1999, the
fast algorithm): the half of the rows whose covariance has the smallest determinant, found from seeded random starts
by steps that never raise it (in long tables first among 1500 rows, then among 10 000, the best among all), made
consistent for the normal and then reweighted with the rows inside the 97.5 % point (Croux & Haesbroeck 1999). Squared
distances are compared with χ².
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import chdtr, chdtri

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.arrays import Bools, Floats, Ints
from culvix.stats.simulate import SEED
from culvix.stats.sums import unit_scaled

__all__ = ["RowDistances", "minimum_covariance_determinant", "row_distances"]

_STARTS = 300
_KEPT = 10
_SUBSET = 1500
_MIDDLE = 10_000
_LAST_STEPS = 2
_INSIDE = 0.975


@dataclass(frozen=True, eq=False)
class RowDistances:
    """Distances of the complete rows (``rows``, from 0, shape ``(n,)``) over p columns.

    ``classical`` and ``robust`` are distances (not squared), ``cutoff`` the square root of the χ² point, ``flagged``
    the rows whose robust distance passes it. ``contributions`` (shape ``(n, p)``) add up to each row's squared robust
    distance.
    """

    rows: Ints
    classical: Floats
    robust: Floats
    contributions: Floats
    cutoff: float
    flagged: Ints
    centre: Floats
    scatter: Floats


def row_distances(
    columns: list[Floats], *, level: float = _INSIDE, seed: int = SEED, progress: Progress = silent
) -> RowDistances:
    """Distances over ``columns`` (each shape ``(rows,)``), of the rows where all are finite.

    Raises StatisticsError for fewer than two columns, too few complete rows (five for each column), or columns of
    which one follows from the others; and whatever ``progress`` raises.
    """
    if len(columns) < 2:
        raise StatisticsError("Distances over several columns need at least two of them.")
    if not 0.5 < level < 1:
        raise StatisticsError(f"The level of the cut-off lies between 0.5 and 1, not at {level}.")
    table = np.column_stack(columns)
    rows = np.flatnonzero(np.isfinite(table).all(axis=1))
    x, p = table[rows], table.shape[1]
    if rows.size < 5 * p:
        raise StatisticsError(f"{p} columns need at least {5 * p} complete rows; there are {rows.size}.")
    x = np.column_stack([unit_scaled(column) for column in x.T])
    x -= np.median(x, axis=0)
    spread = np.median(np.abs(x), axis=0)
    # Beside the farthest values, which lie about 1 away, a spread far below rounding is none.
    if not (spread > _NO_SPREAD).all():
        raise StatisticsError("In one of the columns more than half of the values are equal; leave it out.")
    x /= spread
    classical = _squared(x, x.mean(axis=0), _covariance(x))
    centre, scatter = minimum_covariance_determinant(x, seed=seed, progress=progress)
    deviations = x - centre
    contributions = deviations * (deviations @ _inverse(scatter))
    robust = contributions.sum(axis=1)
    cutoff = float(chdtri(p, 1 - level))
    flagged = rows[robust > cutoff]
    return RowDistances(
        rows, np.sqrt(classical), np.sqrt(np.maximum(robust, 0)), contributions, cutoff**0.5, flagged, centre, scatter
    )


def _covariance(x: Floats) -> Floats:
    return np.atleast_2d(np.cov(x, rowvar=False))


def _inverse(matrix: np.ndarray) -> np.ndarray:
    try:
        return np.linalg.inv(matrix)
    except np.linalg.LinAlgError:
        raise StatisticsError(_FLAT) from None


def _squared(x: Floats, centre: Floats, scatter: Floats) -> Floats:
    try:
        root = np.linalg.cholesky(scatter)
    except np.linalg.LinAlgError:
        raise StatisticsError(_FLAT) from None
    spread = (x - centre) @ _inverse(root).T
    return np.asarray(np.einsum("ij,ij->i", spread, spread))


def minimum_covariance_determinant(
    x: Floats, *, seed: int = SEED, progress: Progress = silent
) -> tuple[Floats, Floats]:
    """Robust centre (shape ``(p,)``) and scatter (``(p, p)``) of ``x`` (shape ``(n, p)``, n ≥ 5p).

    Raises StatisticsError where half of the rows lie in a plane, and whatever ``progress`` raises.
    """
    n = x.shape[0]
    draw = np.random.Generator(np.random.PCG64(seed))
    order = draw.permutation(n)
    few, more = (x if n <= size else x[np.sort(order[:size])] for size in (_SUBSET, _MIDDLE))
    starts = _starts(few, draw, progress)
    refined = []
    for place, start in enumerate(starts[:_KEPT]):
        progress(0.6 + 0.2 * place / _KEPT, "refining the tightest half")
        refined.append(_concentrate(more, more[_nearest(more, *start[1:])], 100) or start)
    best = min(refined, key=lambda found: found[0])
    if more is not x:
        progress(0.8, "refining the tightest half of all rows")
        best = _concentrate(x, x[_nearest(x, *best[1:])], _LAST_STEPS) or best
    return _reweighted(x, best[1], best[2])


_NO_SPREAD = 1e-100

_FLAT = "One of the columns follows from the others; leave it out."

_Start = tuple[float, Floats, Floats]
"""Logarithm of the determinant, centre and scatter of a half of the rows."""


def _starts(x: Floats, draw: np.random.Generator, progress: Progress) -> list[_Start]:
    """Halves of ``x`` grown from random starts by two steps, tightest first."""
    found = []
    for turn in range(_STARTS):
        if turn % 20 == 0:
            progress(0.6 * turn / _STARTS, "searching the tightest half of the rows")
        start = _concentrate(x, x[draw.choice(len(x), x.shape[1] + 1, replace=False)], 2)
        if start is not None:
            found.append(start)
    if not found:
        raise StatisticsError("Half of the rows lie in a plane: one of the columns follows from the others.")
    return sorted(found, key=lambda start: start[0])


def _half(n: int, p: int) -> int:
    return (n + p + 1) // 2


def _nearest(x: Floats, centre: Floats, scatter: Floats) -> Ints:
    half = _half(*x.shape)
    return np.argpartition(_squared(x, centre, scatter), half - 1)[:half]


def _concentrate(x: Floats, start: Floats, steps: int) -> _Start | None:
    """Repeat: centre and scatter of a subset, then the half of ``x`` nearest to them. None where it becomes flat."""
    subset, last = start, np.inf
    for _ in range(steps):
        centre, scatter = subset.mean(axis=0), _covariance(subset)
        sign, log_determinant = np.linalg.slogdet(scatter)
        if sign <= 0 or not np.isfinite(log_determinant) or log_determinant < -60:
            return None
        if log_determinant >= last - 1e-12:
            break
        last = log_determinant
        try:
            subset = x[_nearest(x, centre, scatter)]
        except StatisticsError:
            return None
    centre, scatter = subset.mean(axis=0), _covariance(subset)
    sign, log_determinant = np.linalg.slogdet(scatter)
    return (float(log_determinant), centre, scatter) if sign > 0 else None


def _consistency(share: float, p: int) -> float:
    """Factor that makes the scatter of the inner ``share`` of a normal estimate that of the whole."""
    bound = float(chdtri(p, 1 - share))
    return share / float(chdtr(p + 2, bound))


def _reweighted(x: Floats, centre: Floats, scatter: Floats) -> tuple[Floats, Floats]:
    n, p = x.shape
    scatter = scatter * _consistency(_half(n, p) / n, p)
    squared = _squared(x, centre, scatter)
    # The median distance settles what the consistency factor leaves at small n.
    squared *= float(chdtri(p, 0.5)) / float(np.median(squared))
    inside: Bools = squared <= float(chdtri(p, 1 - _INSIDE))
    kept = x[inside]
    return kept.mean(axis=0), _covariance(kept) * _consistency(_INSIDE, p)
