"""Partial correlation: what is left between two columns once others are accounted for by straight lines (Yule 1907)."""

import numpy as np
from scipy.special import betainc

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sums import unit_scaled
from culvix.stats.correlation.pair_sums import average_ranks
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import PairCorrelation

__all__ = ["partial_correlation"]


def partial_correlation(x: Floats, y: Floats, given: list[Floats], *, ranks: bool = False) -> PairCorrelation:
    """Correlation of two columns once others are accounted for by straight lines.

    p is from t with n − 2 − k degrees of freedom for k given columns.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.
    given
        The columns that are held fixed, each of shape ``(rows,)``.
    ranks
        Whether every column is replaced by its ranks, which gives Spearman's partial coefficient.

    Returns
    -------
    PairCorrelation
        Coefficient, two-sided p and n; both None with a note where there is none.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Yule, G. U. 1907: On the theory of correlation for any number of variables. Proceedings of the Royal Society A 79,
    182-193.
    """
    kind = "partial_spearman" if ranks else "partial_pearson"
    if any(column.shape != x.shape for column in (y, *given)):
        raise StatisticsError("Columns are correlated row by row; these have different lengths.")
    table = np.column_stack((x, y, *given))
    table = table[np.isfinite(table).all(axis=1)]
    n, freedom = table.shape[0], table.shape[0] - 2 - len(given)
    if freedom < 1:
        why = f"Needs at least {3 + len(given)} rows with a value in every column; there are {n}."
        return PairCorrelation(kind, None, None, n, why)
    if ranks:
        table = np.column_stack([average_ranks(column) for column in table.T])
    table = _comparable(table)
    controls = np.column_stack((np.ones(n), table[:, 2:]))
    fitted, *_ = np.linalg.lstsq(controls, table[:, :2], rcond=None)
    left = table[:, :2] - controls @ fitted
    if (np.abs(left).max(axis=0) < 1e-10).any():
        return PairCorrelation(
            kind, None, None, n, "One of the two columns follows from the given ones; nothing is left."
        )
    plain = pearson(np.ascontiguousarray(left[:, 0]), np.ascontiguousarray(left[:, 1]))
    if plain.r is None:
        return PairCorrelation(kind, None, None, n, plain.note)
    return PairCorrelation(kind, plain.r, float(betainc(freedom / 2, 0.5, (1 - plain.r) * (1 + plain.r))), n)


def _comparable(table: Floats) -> Floats:
    """Columns centred and scaled to the unit range, so that none drowns another."""
    scaled = np.column_stack([unit_scaled(column) for column in table.T])
    centred = scaled - scaled.mean(axis=0)
    reach = np.abs(centred).max(axis=0)
    return np.asarray(centred / np.where(reach > 0, reach, 1.0))
