"""Tests of tables of counts: Pearson's χ², Fisher's exact test and McNemar's, and ratios of odds and risks."""

from collections.abc import Callable
from dataclasses import dataclass
from math import exp, inf, sqrt

import numpy as np
from scipy.special import bdtr, chdtrc, gammaln, ndtri

from culvix.errors import StatisticsError
from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.roots import root_between
from culvix.stats.resampling.simulation import SEED

__all__ = ["CountTest", "Ratio", "chi_square", "fisher_exact", "mcnemar", "odds_ratio", "risk_ratio"]

_SAME = 1e-7
"""Tables as probable as the one seen but for rounding count as such."""
_BLOCK = 500


@dataclass(frozen=True)
class CountTest:
    """The ``statistic``, ``p`` and degrees of ``freedom`` of a test of counts; None with a note where it has none.

    ``residuals`` and ``expected`` have the shape of the table, for χ² only: residuals are standard normal about where
    rows and columns have nothing to do with each other.
    """

    key: str
    statistic: float | None
    p: float | None
    n: int
    freedom: int | None = None
    expected: Floats | None = None
    residuals: Floats | None = None
    note: str | None = None
    p_by: str | None = None


@dataclass(frozen=True)
class Ratio:
    """A ratio of odds or risks with its interval; None with a note where there is none."""

    key: str
    value: float | None
    low: float | None
    high: float | None
    confidence: float
    note: str | None = None


def chi_square(counts: Ints) -> CountTest:
    """Pearson's χ² of a table of counts, without a correction for continuity.

    Parameters
    ----------
    counts
        How many rows have each pair of categories, shape ``(r, c)``; empty rows and columns count as not there.

    Returns
    -------
    CountTest
        χ², p, expected counts and standardised residuals (of the table as given, 0 in what is empty); None with a note
        for fewer than two categories of either.

    Raises
    ------
    StatisticsError
        For what is no table of counts.

    References
    ----------
    Pearson, K. 1900: On the criterion that a given system of deviations ... is such that it can be reasonably supposed
    to have arisen from random sampling. Philosophical Magazine 50, 157-175.
    Haberman, S. J. 1973: The analysis of residuals in cross-classified tables. Biometrics 29, 205-220.
    """
    n = _checked(counts)
    rows, columns = counts.sum(axis=1), counts.sum(axis=0)
    r, c = int(np.count_nonzero(rows)), int(np.count_nonzero(columns))
    if r < 2 or c < 2:
        return CountTest("chi_square", None, None, n, note="Needs rows in at least two categories of either column.")
    expected = np.outer(rows, columns / n)
    there = expected > 0
    off = np.where(there, counts - expected, 0.0)
    statistic = float(np.sum(off[there] ** 2 / expected[there]))
    left = np.outer(1 - rows / n, 1 - columns / n)
    with np.errstate(divide="ignore", invalid="ignore"):
        residuals = np.where(there & (left > 0), off / np.sqrt(expected * left), 0.0)
    freedom = (r - 1) * (c - 1)
    return CountTest("chi_square", statistic, float(chdtrc(freedom, statistic)), n, freedom, expected, residuals)


def fisher_exact(counts: Ints, *, repeats: int = 9999, seed: int = SEED, progress: Progress = silent) -> CountTest:
    """Fisher's exact test: how probable a table with these sums is that is no more probable than the one seen.

    Of two by two all tables are gone through; of larger ones ``repeats`` seeded random ones are drawn.

    Parameters
    ----------
    counts
        How many rows have each pair of categories, shape ``(r, c)``.
    repeats, seed
        How many tables are drawn, and what they begin from.
    progress
        Told how far the work is; whatever it raises ends it.

    Returns
    -------
    CountTest
        p, and which way it was found; None with a note for fewer than two categories of either.

    Raises
    ------
    StatisticsError
        For what is no table of counts, and fewer than one repeat.

    References
    ----------
    Fisher, R. A. 1934: Statistical methods for research workers. 5th ed., Edinburgh, Oliver & Boyd, section 21.02.
    Freeman, G. H. & Halton, J. H. 1951: Note on an exact treatment of contingency, goodness of fit and other problems
    of significance. Biometrika 38, 141-149.
    """
    n = _checked(counts)
    if repeats < 1:
        raise StatisticsError("A simulation needs at least one repeat.")
    table = counts[counts.sum(axis=1) > 0][:, counts.sum(axis=0) > 0]
    if min(table.shape) < 2:
        return CountTest("fisher_exact", None, None, n, note="Needs rows in at least two categories of either column.")
    if table.shape == (2, 2):
        return CountTest("fisher_exact", None, _two_by_two(table), n, p_by="all tables with these sums")
    at_most = _logs(table[None])[0] + _SAME
    draw = np.random.Generator(np.random.PCG64(seed))
    hits, (r, c) = 0, table.shape
    down, across = np.repeat(np.arange(r), table.sum(axis=1)), np.repeat(np.arange(c), table.sum(axis=0))
    for start in range(0, repeats, _BLOCK):
        progress(start / repeats, "drawing tables")
        many = min(_BLOCK, repeats - start)
        drawn = np.stack(
            [np.bincount(down * c + draw.permutation(across), minlength=r * c) for _ in range(many)]
        ).reshape(many, r, c)
        hits += int(np.count_nonzero(_logs(drawn) <= at_most))
    by = f"{repeats} seeded random tables with these sums"
    return CountTest("fisher_exact", None, (hits + 1) / (repeats + 1), n, p_by=by)


def mcnemar(counts: Ints) -> CountTest:
    """McNemar's exact test: whether yes turns to no as often as no to yes, in pairs of answers of the same rows.

    Parameters
    ----------
    counts
        Rows by first and second answer, shape ``(2, 2)``.

    Returns
    -------
    CountTest
        The number of the rarer change, and its exact two-sided p; None with a note where nothing changed.

    Raises
    ------
    StatisticsError
        For another shape.

    References
    ----------
    McNemar, Q. 1947: Note on the sampling error of the difference between correlated proportions or percentages.
    Psychometrika 12, 153-157.
    """
    n = _checked(counts)
    if counts.shape != (2, 2):
        raise StatisticsError("Changes are counted in a table of two by two.")
    rarer, changed = int(min(counts[0, 1], counts[1, 0])), int(counts[0, 1] + counts[1, 0])
    if not changed:
        return CountTest("mcnemar", None, None, n, note="Nothing changed.")
    p = min(2 * float(bdtr(rarer, changed, 0.5)), 1.0)
    return CountTest("mcnemar", float(rarer), p, n, p_by="the binomial of all changes")


def odds_ratio(counts: Ints, confidence: float = 0.95) -> Ratio:
    """The ratio of the odds of the first column in both rows: the conditional estimate with its exact interval.

    Parameters
    ----------
    counts
        Shape ``(2, 2)``.
    confidence
        At least so often, as a share, the interval holds the ratio.

    Returns
    -------
    Ratio
        The ratio, 0 or infinite where a cell that makes it so is empty; None with a note where a sum is 0.

    Raises
    ------
    StatisticsError
        For another shape.

    References
    ----------
    Cornfield, J. 1956: A statistical problem arising from retrospective studies. Proceedings of the Third Berkeley
    Symposium 4, 135-148.
    """
    _checked(counts)
    if counts.shape != (2, 2):
        raise StatisticsError("A ratio of odds needs a table of two by two.")
    if not (counts.sum(axis=0).all() and counts.sum(axis=1).all()):
        return Ratio("odds_ratio", None, None, None, confidence, "A row or a column has no counts.")
    tail, law = (1 - confidence) / 2, _Hypergeometric.of(counts)
    seen = int(counts[0, 0])
    at_low, at_high = seen == law.low, seen == law.high
    value = 0.0 if at_low else inf if at_high else law.odds_where(lambda log_odds: law.mean(log_odds) - seen)
    low = 0.0 if at_low else law.odds_where(lambda log_odds: law.from_on(seen, log_odds) - tail)
    high = inf if at_high else law.odds_where(lambda log_odds: tail - law.up_to(seen, log_odds))
    return Ratio("odds_ratio", value, low, high, confidence)


def risk_ratio(counts: Ints, confidence: float = 0.95) -> Ratio:
    """The ratio of the shares of the first column in both rows, with the interval of its logarithm.

    Parameters
    ----------
    counts
        Shape ``(2, 2)``.
    confidence
        How often the interval holds the ratio, as a share.

    Returns
    -------
    Ratio
        The ratio; without ends where a cell of the first column is empty, None with a note where that column or a row
        is.

    Raises
    ------
    StatisticsError
        For another shape.

    References
    ----------
    Katz, D., Baptista, J., Azen, S. P. & Pike, M. C. 1978: Obtaining confidence intervals for the risk ratio in cohort
    studies. Biometrics 34, 469-474.
    """
    _checked(counts)
    if counts.shape != (2, 2):
        raise StatisticsError("A ratio of risks needs a table of two by two.")
    sums, yes = counts.sum(axis=1), counts[:, 0]
    if not sums.all() or not yes.any():
        return Ratio("risk_ratio", None, None, None, confidence, "A row, or the first column, has no counts.")
    if not yes.all():
        value = 0.0 if not yes[0] else inf
        return Ratio("risk_ratio", value, None, None, confidence, "A cell is empty, and tells no interval.")
    ratio = float(yes[0] / sums[0] / (yes[1] / sums[1]))
    error = sqrt(float(np.sum(1 / yes - 1 / sums)))
    reach = -float(ndtri((1 - confidence) / 2)) * error
    return Ratio("risk_ratio", ratio, ratio * exp(-reach), ratio * exp(reach), confidence)


def _checked(counts: Ints) -> int:
    """The sum of a table of counts. Raises StatisticsError for what is none."""
    if counts.ndim != 2 or (counts.size and counts.min() < 0):
        raise StatisticsError("Counts stand in a table, and none is below 0.")
    return int(counts.sum())


def _logs(tables: Ints) -> Floats:
    """−Σ log(cell!) of each of ``tables`` (shape ``(many, r, c)``), which orders those of equal sums by probability."""
    return np.asarray(-gammaln(tables + 1.0).sum(axis=(1, 2)))


def _two_by_two(table: Ints) -> float:
    law = _Hypergeometric.of(table)
    shares = law.shares(0.0)
    seen = shares[int(table[0, 0]) - law.low]
    return float(min(shares[shares <= seen * (1 + _SAME)].sum(), 1.0))


@dataclass(frozen=True, eq=False)
class _Hypergeometric:
    """The first cell of a table of two by two with fixed sums, from ``low`` to ``high``; ``logs`` of its ways."""

    low: int
    high: int
    logs: Floats

    @classmethod
    def of(cls, table: Ints) -> "_Hypergeometric":
        row, other, column = int(table[0].sum()), int(table[1].sum()), int(table[:, 0].sum())
        low, high = max(0, column - other), min(row, column)
        at = np.arange(low, high + 1, dtype=np.float64)
        cells = (at, row - at, column - at, other - column + at)
        return cls(low, high, np.asarray(-sum(gammaln(cell + 1) for cell in cells)))

    def shares(self, log_odds: float) -> Floats:
        """How probable each value is where the odds are so many times as high in the first row."""
        logs = self.logs + log_odds * np.arange(self.low, self.high + 1)
        ways = np.exp(logs - logs.max())
        return np.asarray(ways / ways.sum())

    def mean(self, log_odds: float) -> float:
        return float(self.shares(log_odds) @ np.arange(self.low, self.high + 1))

    def from_on(self, seen: int, log_odds: float) -> float:
        return float(self.shares(log_odds)[seen - self.low :].sum())

    def up_to(self, seen: int, log_odds: float) -> float:
        return float(self.shares(log_odds)[: seen - self.low + 1].sum())

    def odds_where(self, rising: Callable[[float], float]) -> float:
        """The odds ratio at which a ``rising`` function of its logarithm is 0."""
        reach = 1.0
        while rising(-reach) > 0 or rising(reach) < 0:
            reach *= 2
        return exp(root_between(rising, -reach, reach, 1e-12))
