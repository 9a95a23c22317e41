"""Distances of rows over several columns: Mahalanobis, classical and robust, and what each column adds to them.

The robust centre and scatter are the reweighted minimum covariance determinant (Rousseeuw & Van Driessen 1999, the
fast algorithm): the half of the rows whose covariance has the smallest determinant, found from seeded random starts
by steps that never raise it, made consistent for the normal and then reweighted with the rows inside the 97.5 % point
(Croux & Haesbroeck 1999). Squared distances are compared with χ².
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import chdtr, chdtri

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.arrays import Bools, Floats, Ints
from culvix.stats.simulate import SEED

__all__ = ["RowDistances", "minimum_covariance_determinant", "row_distances"]

_STARTS = 300
_KEPT = 10
_SUBSET = 1500
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
    spread = np.median(np.abs(x - np.median(x, axis=0)), axis=0)
    if not (spread > 0).all():
        raise StatisticsError("In one of the columns more than half of the values are equal; leave it out.")
    x = (x - np.median(x, axis=0)) / spread
    classical = _squared(x, x.mean(axis=0), _covariance(x))
    centre, scatter = minimum_covariance_determinant(x, seed=seed, progress=progress)
    deviations = x - centre
    leaning = np.linalg.solve(scatter, deviations.T).T
    contributions = deviations * leaning
    robust = contributions.sum(axis=1)
    cutoff = float(chdtri(p, 1 - level))
    flagged = rows[robust > cutoff]
    return RowDistances(
        rows, np.sqrt(classical), np.sqrt(np.maximum(robust, 0)), contributions, cutoff**0.5, flagged, centre, scatter
    )


def _covariance(x: Floats) -> Floats:
    return np.atleast_2d(np.cov(x, rowvar=False))


def _squared(x: Floats, centre: Floats, scatter: Floats) -> Floats:
    deviations = x - centre
    try:
        return np.asarray((deviations * np.linalg.solve(scatter, deviations.T).T).sum(axis=1))
    except np.linalg.LinAlgError:
        raise StatisticsError("One of the columns follows from the others; leave it out.") from None


def minimum_covariance_determinant(
    x: Floats, *, seed: int = SEED, progress: Progress = silent
) -> tuple[Floats, Floats]:
    """Robust centre (shape ``(p,)``) and scatter (``(p, p)``) of ``x`` (shape ``(n, p)``, n ≥ 5p).

    Raises StatisticsError where half of the rows lie in a plane, and whatever ``progress`` raises.
    """
    n, p = x.shape
    draw = np.random.Generator(np.random.PCG64(seed))
    part = x if n <= _SUBSET else x[np.sort(draw.choice(n, _SUBSET, replace=False))]
    starts = []
    for turn in range(_STARTS):
        if turn % 20 == 0:
            progress(0.8 * turn / _STARTS, "searching the tightest half of the rows")
        found = _concentrate(part, part[draw.choice(len(part), p + 1, replace=False)], 2)
        if found is not None:
            starts.append(found)
    if not starts:
        raise StatisticsError("Half of the rows lie in a plane: one of the columns follows from the others.")
    starts.sort(key=lambda found: found[0])
    best = None
    for log_determinant, centre, scatter in starts[:_KEPT]:
        progress(0.9, "refining the tightest half")
        nearest = x[_nearest(x, centre, scatter)]
        found = _concentrate(x, nearest, 100) or (log_determinant, centre, scatter)
        best = found if best is None or found[0] < best[0] else best
    assert best is not None
    return _reweighted(x, best[1], best[2])


def _half(n: int, p: int) -> int:
    return (n + p + 1) // 2


def _nearest(x: Floats, centre: Floats, scatter: Floats) -> Ints:
    half = _half(*x.shape)
    return np.argpartition(_squared(x, centre, scatter), half - 1)[:half]


def _concentrate(x: Floats, start: Floats, steps: int) -> tuple[float, Floats, Floats] | None:
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
        subset = x[_nearest(x, centre, scatter)]
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
    scatter = scatter * (float(np.median(squared)) / float(chdtri(p, 0.5)))
    inside: Bools = _squared(x, centre, scatter) <= float(chdtri(p, 1 - _INSIDE))
    kept = x[inside]
    return kept.mean(axis=0), _covariance(kept) * _consistency(_INSIDE, p)
