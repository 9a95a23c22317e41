"""Robust correlation of two columns: biweight midcorrelation and winsorised correlation.

Biweight: Wilcox 2012, weights (1 − u²)² with u = (x − median)/(9·MAD), values beyond 9 MAD left out. Winsorised:
Wilcox 2012, a fifth of the values pulled in at each end of each column, p from t with h−2 degrees of freedom, h the
number not pulled in.
"""

from math import sqrt

import numpy as np
from scipy.special import betainc

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.core.sums import plain_sum
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import CorrelationMatrix, PairCorrelation, matrix_of_pairs, present_pairs

__all__ = ["biweight", "biweight_matrix", "winsorized", "winsorized_matrix"]

_SHARE = 0.2


def biweight(x: Floats, y: Floats) -> PairCorrelation:
    """Biweight midcorrelation of two columns: values beyond 9 MADs have no weight.

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
    Wilcox, R. R. 2012: Introduction to Robust Estimation and Hypothesis Testing. Amsterdam, Academic Press.
    """
    both = present_pairs(x, y)
    n = int(both.sum())
    if n < 3:
        return PairCorrelation("biweight", None, None, n, f"Needs at least 3 complete pairs; n is {n}.")
    a, b = _weighed(x[both]), _weighed(y[both])
    if a is None or b is None:
        why = "The MAD of one of the columns is 0: more than half of its values are equal."
        return PairCorrelation("biweight", None, None, n, why)
    r = min(max(plain_sum(a * b), -1.0), 1.0)
    return PairCorrelation("biweight", r, _p_value(r, n - 2), n)


def _weighed(x: Floats) -> Floats | None:
    """Weighted deviations from the median, scaled to a sum of squares of 1; None where the MAD is 0."""
    sample = Sample(x)
    if not (0 < sample.mad < np.inf):
        return None
    with np.errstate(over="ignore"):
        u = (x - sample.median) / sample.mad / 9
    u[np.abs(u) >= 1] = 0.0
    deviations = u * (1 - u * u) ** 2
    size = sqrt(plain_sum(deviations * deviations))
    return deviations / size if size > 0 else None


def winsorized(x: Floats, y: Floats) -> PairCorrelation:
    """Correlation of two columns after a fifth of each one's values is pulled in at either end.

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
    Wilcox, R. R. 2012: Introduction to Robust Estimation and Hypothesis Testing. Amsterdam, Academic Press.
    """
    both = present_pairs(x, y)
    n = int(both.sum())
    cut = int(_SHARE * n)
    if n - 2 * cut < 3:
        return PairCorrelation("winsorized", None, None, n, f"Needs at least 3 complete pairs; n is {n}.")
    plain = pearson(_pulled_in(x[both], cut), _pulled_in(y[both], cut))
    if plain.r is None:
        why = "One of the columns has the same value in all pairs that are not pulled in."
        return PairCorrelation("winsorized", None, None, n, why)
    return PairCorrelation("winsorized", plain.r, _p_value(plain.r, n - 2 * cut - 2), n)


def _pulled_in(x: Floats, cut: int) -> Floats:
    ordered = np.sort(x)
    return np.asarray(np.clip(x, ordered[cut], ordered[x.size - 1 - cut]))


def _p_value(r: float, freedom: int) -> float:
    return float(betainc(freedom / 2, 0.5, (1 - r) * (1 + r)))


def biweight_matrix(columns: list[Floats], progress: Progress = silent) -> CorrelationMatrix:
    """Biweight midcorrelation of every pair of columns.

    Parameters
    ----------
    columns
        The columns, each of shape ``(rows,)``; each pair is correlated over the rows where both are present.
    progress
        Told how far the work is; whatever it raises ends it.

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
    Wilcox, R. R. 2012: Introduction to Robust Estimation and Hypothesis Testing. Amsterdam, Academic Press.
    """
    return matrix_of_pairs("biweight", columns, biweight, progress)


def winsorized_matrix(columns: list[Floats], progress: Progress = silent) -> CorrelationMatrix:
    """Winsorised correlation of every pair of columns.

    Parameters
    ----------
    columns
        The columns, each of shape ``(rows,)``; each pair is correlated over the rows where both are present.
    progress
        Told how far the work is; whatever it raises ends it.

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
    Wilcox, R. R. 2012: Introduction to Robust Estimation and Hypothesis Testing. Amsterdam, Academic Press.
    """
    return matrix_of_pairs("winsorized", columns, winsorized, progress)
