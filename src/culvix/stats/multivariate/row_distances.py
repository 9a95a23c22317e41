"""Distances of rows over several columns: Mahalanobis, classical and robust, and what each column adds to them.

The robust centre and scatter are the reweighted minimum covariance determinant; its squared distances are compared with
χ², stretched as short tables ask for (`row_cutoffs`). Squared classical ones have n/(n−1)² times a Beta
distribution in a normal table (Gnanadesikan & Kettenring 1972).
"""

from dataclasses import dataclass

import numpy as np
from scipy.special import betaincinv

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sums import unit_scaled
from culvix.stats.multivariate.minimum_covariance import (
    covariance,
    inverse,
    minimum_covariance_determinant,
    squared_distances,
)
from culvix.stats.multivariate.row_cutoffs import row_cutoff
from culvix.stats.resampling.simulation import SEED

__all__ = ["RowDistances", "row_distances"]

_INSIDE = 0.975
_NO_SPREAD = 1e-100


@dataclass(frozen=True, eq=False)
class RowDistances:
    """Distances of the complete rows (``rows``, from 0, shape ``(n,)``) over p columns.

    ``classical`` and ``robust`` are distances (not squared), ``classical_cutoff`` and ``cutoff`` what so many normal
    rows as the level says do not pass, ``flagged`` the rows whose robust distance does. ``contributions`` (shape
    ``(n, p)``) add up to each row's squared robust distance.
    """

    rows: Ints
    classical: Floats
    robust: Floats
    contributions: Floats
    cutoff: float
    classical_cutoff: float
    flagged: Ints
    centre: Floats
    scatter: Floats


def row_distances(
    columns: list[Floats], *, level: float = _INSIDE, seed: int = SEED, progress: Progress = silent
) -> RowDistances:
    """How far each row lies from the middle of several columns, classically and robustly.

    Robustly: by the reweighted minimum covariance determinant.

    Parameters
    ----------
    columns
        The columns, each of shape ``(rows,)``, in any units; rows where one is missing or infinite are left out.
    level
        The share of normal rows within the cut-offs.
    seed
        What the random starts of the search begin from.
    progress
        Told how far the work is; whatever it raises ends it.

    Returns
    -------
    RowDistances
        Distances with their cut-offs, the flagged rows (from 0), and how much each column adds.

    Raises
    ------
    StatisticsError
        For fewer than two columns, too few complete rows (five for each column, and 25 for each of more than ten), and
        columns of which one follows from the others.

    References
    ----------
    Rousseeuw, P. J. & Van Driessen, K. 1999: A fast algorithm for the minimum covariance determinant estimator.
    Technometrics 41, 212-223.
    """
    if len(columns) < 2:
        raise StatisticsError("Distances over several columns need at least two of them.")
    table = np.column_stack(columns)
    rows = np.flatnonzero(np.isfinite(table).all(axis=1))
    x, p = table[rows], table.shape[1]
    if rows.size < 5 * p:
        raise StatisticsError(f"{p} columns need at least {5 * p} complete rows; there are {rows.size}.")
    n, bound = rows.size, row_cutoff(rows.size, p, level)
    x = np.column_stack([unit_scaled(column) for column in x.T])
    x -= np.median(x, axis=0)
    spread = np.median(np.abs(x), axis=0)
    # Beside the farthest values, which lie about 1 away, a spread far below rounding is none.
    if not (spread > _NO_SPREAD).all():
        raise StatisticsError("In one of the columns more than half of the values are equal; leave it out.")
    x /= spread
    classical = squared_distances(x, x.mean(axis=0), covariance(x))
    centre, scatter = minimum_covariance_determinant(x, seed=seed, progress=progress)
    deviations = x - centre
    contributions = deviations * (deviations @ inverse(scatter))
    robust = contributions.sum(axis=1)
    classical_bound = (n - 1) ** 2 / n * float(betaincinv(p / 2, (n - p - 1) / 2, level))
    return RowDistances(
        rows=rows,
        classical=np.sqrt(classical),
        robust=np.sqrt(np.maximum(robust, 0)),
        contributions=contributions,
        cutoff=bound**0.5,
        classical_cutoff=classical_bound**0.5,
        flagged=rows[robust > bound],
        centre=centre,
        scatter=scatter,
    )
