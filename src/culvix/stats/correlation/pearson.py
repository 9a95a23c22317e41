"""Pearson correlation of two columns and of whole tables, by pairs of present cells.

Matrices come from matrix products of the standardised columns and their presence masks, so that missing cells
cost no loop over pairs; the few pairs where that formula would cancel are worked out directly. p is
from the t test (Student 1908).
"""

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.correlation.pair_sums import CANCELS, NEAR_ONE, p_values, product_moment
from culvix.stats.correlation.result import CorrelationMatrix, PairCorrelation, blank, present_pairs, set_pair

__all__ = ["pearson", "pearson_matrix"]

BLOCK_ROWS = 1 << 15


def pearson(x: Floats, y: Floats) -> PairCorrelation:
    """Product-moment correlation of two columns, with p from the t test.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.

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
    Pearson, K. 1896: Regression, heredity and panmixia. Philosophical Transactions of the Royal Society A 187, 253-318.
    """
    both = present_pairs(x, y)
    return product_moment("pearson", x[both], y[both])


def _fill(column: Floats, row: Floats, present: Floats) -> None:
    """Put ``column`` into ``row``, centred and scaled, with zeros where ``present`` becomes zero too.

    Any centre and scale near the column's own will do: what they leave is taken out of each pair's sums.
    """
    mask = np.isfinite(column)
    np.copyto(present, mask)
    n = int(np.count_nonzero(mask))
    np.copyto(row, column)
    if n < row.size:
        row[~mask] = 0.0
    if not n:
        return
    largest = float(max(row.max(), -row.min()))
    if largest > 1e150 or 0 < largest < 1e-150:
        row /= largest
    row -= float(row.sum()) / n
    if n < row.size:
        row *= present
    reach = float(max(row.max(), -row.min()))
    if reach > 0:
        row /= reach


def _sums_of_pairs(table: Floats, present: Floats) -> tuple[Floats, Floats, Floats, Floats]:
    """For every pair of rows: how many values they share, and over those the products, the first's sums and squares.

    Block by block: what is multiplied stays in the cache, and other threads have their turn in between.
    """
    n, products, sums, squares = (np.zeros((len(table), len(table))) for _ in range(4))
    for start in range(0, table.shape[1], BLOCK_ROWS):
        values, here = table[:, start : start + BLOCK_ROWS], present[:, start : start + BLOCK_ROWS]
        n += here @ here.T
        products += values @ values.T
        sums += values @ here.T
        squares += (values * values) @ here.T
    return n, products, sums, squares


def pearson_matrix(columns: list[Floats]) -> CorrelationMatrix:
    """Pearson's correlation of every pair of columns.

    Parameters
    ----------
    columns
        The columns, each of shape ``(rows,)``; each pair is correlated over the rows where both are present.

    Returns
    -------
    CorrelationMatrix
        Coefficients, p and n of all pairs, each of shape ``(k, k)``; NaN with a note where a pair has none.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Pearson, K. 1896: Regression, heredity and panmixia. Philosophical Transactions of the Royal Society A 187, 253-318.
    """
    k = len(columns)
    if not k:
        return blank("pearson", 0)
    table = np.empty((k, columns[0].size))
    present = np.empty(table.shape)
    for j, column in enumerate(columns):
        present_pairs(column, columns[0])
        _fill(column, table[j], present[j])
    n, products, sums, squares = _sums_of_pairs(table, present)
    with np.errstate(divide="ignore", invalid="ignore"):
        spread = squares - sums * sums / n
        r = (products - sums * sums.T / n) / np.sqrt(spread * spread.T)
        trusted = (n > 2) & (spread > CANCELS * squares) & (squares > 0)
    trusted &= trusted.T
    r = np.clip(r, -1, 1)
    np.fill_diagonal(r, 0.0)
    trusted &= np.abs(r) < NEAR_ONE
    np.fill_diagonal(r, 1.0)
    p = np.full((k, k), np.nan)
    upper = np.triu(trusted)
    p[upper] = p_values(r[upper], n[upper])
    p = np.where(upper, p, p.T)
    matrix = CorrelationMatrix("pearson", np.where(trusted, r, np.nan), p, n.astype(np.int64))
    for i, j in np.argwhere(~trusted):
        if i <= j:
            set_pair(matrix, int(i), int(j), pearson(columns[i], columns[j]))
    return matrix
