"""Pearson correlation of two columns and of whole tables, by pairs of present cells, and what all kinds share.

Matrices come from matrix products of the standardised columns and their presence masks, so that missing cells
cost no loop over pairs; the few pairs where that formula would cancel are worked out directly. p is
from the t test (Student 1908).
"""

from collections.abc import Callable
from dataclasses import dataclass, field
from math import ldexp, sqrt

import numpy as np
from numpy.typing import NDArray
from scipy.special import betainc, ndtri

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.moments import moments
from culvix.stats.core.ordering import stable_order
from culvix.stats.core.sums import binary_exponent, careful_sum, total, total_product

__all__ = [
    "CorrelationMatrix",
    "PairCorrelation",
    "PairSums",
    "StraightLine",
    "average_ranks",
    "blank",
    "coefficient_of",
    "fisher_interval",
    "matrix_of_pairs",
    "no_coefficient",
    "p_values",
    "pair_sums",
    "pearson",
    "pearson_matrix",
    "present_pairs",
    "product_moment",
    "set_pair",
    "straight_line",
    "z_interval",
]

_CANCELS = 1e-3
_NEAR_ONE = 1 - 1e-6
_HUGE = 1e200
_BLOCK = 1 << 15


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


@dataclass(frozen=True)
class StraightLine:
    """Least-squares line y = intercept + slope · x over n pairs, with the residual SD (n−2)."""

    slope: float
    intercept: float
    residual_sd: float | None
    n: int


def present_pairs(x: Floats, y: Floats) -> NDArray[np.bool_]:
    """Mask of the rows where both columns are finite. Raises StatisticsError where their lengths differ."""
    if x.shape != y.shape or x.ndim != 1:
        raise StatisticsError("Two columns are correlated row by row; these have different lengths.")
    return np.isfinite(x) & np.isfinite(y)


def average_ranks(x: Floats) -> Floats:
    """Ranks of ``x`` (shape ``(n,)``, finite) from 1, ties sharing their mean rank."""
    order = stable_order(x)
    ordered = x[order]
    starts = np.flatnonzero(np.concatenate(([True], ordered[1:] != ordered[:-1])))
    counts = np.diff(np.append(starts, x.size))
    ranks = np.empty(x.size)
    ranks[order] = np.repeat(starts + (counts + 1) / 2, counts)
    return ranks


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


def no_coefficient(kind: str, n: int, why: str) -> PairCorrelation:
    """The result of a pair that has no coefficient."""
    return PairCorrelation(kind, None, None, n, why)


@dataclass(frozen=True, eq=False)
class _Scaled:
    """A column as ``centre`` + ``scale`` × ``values``, the values without a mean and none of them far beyond 1."""

    values: Floats
    centre: float
    scale: float


def _scaled(x: Floats) -> _Scaled | None:
    """``x`` (shape ``(n,)``, finite) on its own scale; None where all values are equal, or as good as."""
    # Made smaller first: sums of extremes and the deviations from their mean stay inside a double.
    factor = 2.0**600 if np.abs(x).max() > _HUGE else 1.0
    half = x / factor if factor > 1 else x
    if half.min() == half.max():
        return None
    mean = total(half) / half.size
    deviation = half - mean
    largest = float(np.abs(deviation).max())
    if not largest:
        return None
    values = deviation / largest
    if not np.isfinite(values).all():
        return None
    # The first mean is a rounding or two off.
    rest = total(values) / values.size
    values -= rest
    return _Scaled(values, factor * (mean + rest * largest), factor * largest)


@dataclass(frozen=True)
class PairSums:
    """What complete pairs of two columns add up to: n, means, SDs (n in the denominator) and Pearson's r."""

    n: int
    means: tuple[float, float]
    sds: tuple[float, float]
    r: float


def pair_sums(x: Floats, y: Floats) -> PairSums | None:
    """The sums that a product-moment coefficient is made of, so that rows can be taken out of them.

    Parameters
    ----------
    x, y
        Two columns without gaps, both of shape ``(n,)`` with n ≥ 2, in any units.

    Returns
    -------
    PairSums or None
        None where one of the columns is all equal.

    References
    ----------
    Chan, T. F., Golub, G. H. & LeVeque, R. J. 1983: Algorithms for computing the sample variance. The American
    Statistician 37, 242-247.
    """
    a, b = (_scaled(x), _scaled(y)) if x.size > 1 else (None, None)
    if a is None or b is None:
        return None
    spreads = total_product(a.values, a.values), total_product(b.values, b.values)
    r = total_product(a.values, b.values) / (sqrt(spreads[0]) * sqrt(spreads[1]))
    if abs(r) > _NEAR_ONE:
        # Half the squared distance of the two directions has the digits that the quotient rounds away.
        apart = a.values / sqrt(spreads[0]) - np.sign(r) * b.values / sqrt(spreads[1])
        r = float(np.sign(r)) * (1 - total_product(apart, apart) / 2)
    n = int(x.size)
    sds = a.scale * sqrt(spreads[0] / n), b.scale * sqrt(spreads[1] / n)
    return PairSums(n, (a.centre, b.centre), sds, min(max(r, -1.0), 1.0))


def product_moment(kind: str, x: Floats, y: Floats) -> PairCorrelation:
    """Product-moment correlation of complete columns (both shape ``(n,)``), named ``kind``."""
    n = int(x.size)
    if n < 2:
        return no_coefficient(kind, n, f"Needs at least 2 complete pairs; there {'is' if n == 1 else 'are'} {n}.")
    return coefficient_of(kind, n, pair_sums(x, y))


def coefficient_of(kind: str, n: int, sums: PairSums | None) -> PairCorrelation:
    """The coefficient that ``sums`` of ``n`` pairs (2 at least) hold."""
    if sums is None:
        return no_coefficient(kind, n, "One of the columns has the same value in all complete pairs.")
    if n < 3:
        return PairCorrelation(kind, sums.r, None, n, "Two pairs always lie on a line; a p value needs n ≥ 3.")
    return PairCorrelation(kind, sums.r, float(p_values(np.array(sums.r), np.array(float(n)))), n)


def p_values(r: Floats, n: Floats) -> Floats:
    """Two-sided p of the t test with n−2 degrees of freedom, as the incomplete beta function of 1−r²."""
    return np.asarray(betainc((n - 2) / 2, 0.5, (1 - r) * (1 + r)))


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
    kind: str, columns: list[Floats], run: Callable[[Floats, Floats], PairCorrelation]
) -> CorrelationMatrix:
    """Matrix of a coefficient that has no shorter way than pair by pair."""
    matrix = blank(kind, len(columns))
    for i in range(len(columns)):
        for j in range(i, len(columns)):
            set_pair(matrix, i, j, run(columns[i], columns[j]))
    return matrix


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
    for start in range(0, table.shape[1], _BLOCK):
        values, here = table[:, start : start + _BLOCK], present[:, start : start + _BLOCK]
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
        trusted = (n > 2) & (spread > _CANCELS * squares) & (squares > 0)
    trusted &= trusted.T
    r = np.clip(r, -1, 1)
    np.fill_diagonal(r, 0.0)
    trusted &= np.abs(r) < _NEAR_ONE
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


def z_interval(r: float, variance: float, confidence: float) -> tuple[float, float] | None:
    """Interval of a coefficient whose arctanh has about the given variance; None for r = ±1.

    Raises StatisticsError for a confidence outside 0 to 1.
    """
    if not 0 < confidence < 1:
        raise StatisticsError(f"A confidence level lies between 0 and 1, not at {confidence}.")
    if abs(r) >= 1:
        return None
    reach = float(ndtri((1 + confidence) / 2)) * sqrt(variance)
    return float(np.tanh(np.arctanh(r) - reach)), float(np.tanh(np.arctanh(r) + reach))


def fisher_interval(r: float, n: int, confidence: float = 0.95) -> tuple[float, float] | None:
    """Interval of Pearson's coefficient by Fisher's z.

    Parameters
    ----------
    r
        The coefficient.
    n
        How many pairs it is of.
    confidence
        How often, as a share, such an interval holds what it is for.

    Returns
    -------
    (float, float) or None
        Both ends; None below n = 4 and for r = ±1.

    Raises
    ------
    StatisticsError
        For a confidence that does not lie between 0 and 1.

    References
    ----------
    Fisher, R. A. 1921: On the probable error of a coefficient of correlation deduced from a small sample. Metron 1,
    3-32.
    """
    return z_interval(r, 1 / (n - 3), confidence) if n > 3 else None


def straight_line(x: Floats, y: Floats) -> StraightLine | None:
    """Least-squares line of one column on another.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.

    Returns
    -------
    StraightLine or None
        Slope, intercept and residual SD (n−2); None without a spread in ``x``.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Legendre, A. M. 1805: Nouvelles méthodes pour la détermination des orbites des comètes. Paris, Didot, appendix.
    """
    both = present_pairs(x, y)
    a, b = x[both], y[both]
    n = int(a.size)
    if n < 2 or a.min() == a.max():
        return None
    # Powers of two take out the size of the values, so that no square can overflow.
    size_x, size_y = (binary_exponent(float(c.min()), float(c.max())) for c in (a, b))
    a, b = np.ldexp(a, -size_x), np.ldexp(b, -size_y)
    mean_x, mean_y = moments(a).mean, moments(b).mean
    dx, dy = a - mean_x, b - mean_y
    reach = float(np.abs(dx).max())
    dx = dx / reach
    slope = careful_sum(dx * dy) / careful_sum(dx * dx)
    residual = dy - slope * dx
    spread = sqrt(careful_sum(residual * residual) / (n - 2)) if n > 2 else None
    try:
        steep = ldexp(slope / reach, size_y - size_x)
        foot = ldexp(mean_y - slope / reach * mean_x, size_y)
        return StraightLine(steep, foot, None if spread is None else ldexp(spread, size_y), n)
    except (OverflowError, ZeroDivisionError):
        return None
