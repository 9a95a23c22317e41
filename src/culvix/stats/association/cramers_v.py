"""How far two sets of categories go together."""

from math import sqrt

import numpy as np
from scipy.special import chdtrc

from culvix.errors import StatisticsError
from culvix.stats.association.result import Association, no_association
from culvix.stats.core.arrays import Ints

__all__ = ["contingency", "cramers_v"]


def contingency(one: Ints, other: Ints) -> Ints:
    """How many rows have each pair of categories.

    Parameters
    ----------
    one, other
        The category of each row in two columns, both of shape ``(rows,)``, whole numbers from 0; rows where either is
        negative are left out.

    Returns
    -------
    array
        Counts, shape ``(categories of one, categories of the other)``, without categories that have no rows.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Pearson, K. 1904: On the theory of contingency and its relation to association and normal correlation. London,
    Dulau.
    """
    if one.shape != other.shape or one.ndim != 1:
        raise StatisticsError("Two columns of categories must have as many rows as each other.")
    used = (one >= 0) & (other >= 0)
    (rows, a), (columns, b) = (np.unique(codes[used], return_inverse=True) for codes in (one, other))
    counts = np.bincount(a * columns.size + b, minlength=rows.size * columns.size)
    return counts.reshape(rows.size, columns.size).astype(np.int64)


def cramers_v(one: Ints, other: Ints) -> Association:
    """Cramér's V with its bias taken out, from χ² of two columns of categories.

    Uncorrected, V of independent columns is well above 0 where there are many categories and few rows.

    Parameters
    ----------
    one, other
        The category of each row in two columns, both of shape ``(rows,)``, whole numbers from 0; rows where either is
        negative are left out.

    Returns
    -------
    Association
        V from 0 to 1, p by χ² without a correction for continuity, and n; None with a note where either column has
        fewer than two categories in use.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Bergsma, W. 2013: A bias-correction for Cramér's V and Tschuprow's T. Journal of the Korean Statistical Society 42,
    323-328.
    """
    counts = contingency(one, other)
    n, (r, c) = int(counts.sum()), counts.shape
    if r < 2 or c < 2:
        return no_association("cramers_v", n, "Needs rows in at least two categories of either column.")
    expected = counts.sum(axis=1, keepdims=True) * (counts.sum(axis=0, keepdims=True) / n)
    chi_square = float(np.sum((counts - expected) ** 2 / expected))
    p = float(chdtrc((r - 1) * (c - 1), chi_square))
    left = max(0.0, chi_square / n - (r - 1) * (c - 1) / (n - 1))
    most = min(r - (r - 1) ** 2 / (n - 1), c - (c - 1) ** 2 / (n - 1)) - 1
    if not most > 0:
        return no_association("cramers_v", n, f"{n} rows are too few for {r} × {c} categories.")
    return Association("cramers_v", min(sqrt(left / most), 1.0), p, n)
