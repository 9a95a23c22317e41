"""Tests of the means of several groups: one-way analysis of variance, Welch's kind of it, and the shares explained."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
from scipy.special import fdtrc, ncfdtr

from culvix.stats.core.arrays import Floats
from culvix.stats.core.moments import Moments
from culvix.stats.core.roots import root_between
from culvix.stats.core.sample import Sample
from culvix.stats.groups.result import Effect, GroupTest, no_effect, no_test

__all__ = ["explained_shares", "one_way", "welch_one_way"]

_LARGEST_F = 1e7
"""Beyond it an interval of a share is all but 1 at either end."""


def one_way(groups: Sequence[Sample]) -> GroupTest:
    """One-way analysis of variance: whether several means are equal, of groups as wide as each other.

    Parameters
    ----------
    groups
        The values of each group, in one unit; those without values are left out.

    Returns
    -------
    GroupTest
        F, p and the two degrees of freedom; None with a note for fewer than two groups, no more values than groups, or
        no spread within any.

    References
    ----------
    Fisher, R. A. 1925: Statistical methods for research workers. Edinburgh, Oliver & Boyd, chapter 7.
    """
    table = _Table.of(groups)
    if table is None or table.f is None:
        return no_test("one_way", tuple(group.n for group in groups), _why(groups))
    p = float(fdtrc(*table.freedom, table.f))
    return GroupTest("one_way", table.f, p, tuple(group.n for group in groups), table.freedom)


def welch_one_way(groups: Sequence[Sample]) -> GroupTest:
    """Welch's analysis of variance, of groups that may be of different widths.

    Parameters
    ----------
    groups
        The values of each group, in one unit; those without values are left out.

    Returns
    -------
    GroupTest
        F, p and the two degrees of freedom, the second one Welch's; None with a note where a group has fewer than two
        values or no spread.

    References
    ----------
    Welch, B. L. 1951: On the comparison of several mean values: an alternative approach. Biometrika 38, 330-336.
    """
    sizes = tuple(group.n for group in groups)
    used = [group.moments for group in groups if group.moments is not None]
    if len(used) < 2 or min(each.n for each in used) < 2:
        return no_test("welch_one_way", sizes, _why(groups) if len(used) < 2 else "A group has a single value.")
    if not all(each.sd and np.isfinite(each.sd) for each in used):
        return no_test("welch_one_way", sizes, "A group has no spread.")
    unit, n = max(each.sd or 0.0 for each in used), np.array([each.n for each in used], dtype=np.float64)
    weights = n / np.array([(each.sd or 0.0) / unit for each in used]) ** 2
    centres = _centred(used) / unit
    share = weights / weights.sum()
    k = n.size
    between = float(np.sum(weights * (centres - float(share @ centres)) ** 2)) / (k - 1)
    lack = float(np.sum((1 - share) ** 2 / (n - 1)))
    f = between / (1 + 2 * (k - 2) / (k * k - 1) * lack)
    freedom = k - 1.0, (k * k - 1) / (3 * lack)
    return GroupTest("welch_one_way", f, float(fdtrc(*freedom, f)), sizes, freedom)


def explained_shares(groups: Sequence[Sample], confidence: float = 0.95) -> tuple[Effect, Effect]:
    """How much of all variation lies between the groups: η², and ω², which has the part of chance taken out.

    Parameters
    ----------
    groups
        The values of each group, in one unit; those without values are left out.
    confidence
        How often the interval of η² holds the share of the population, which both estimate.

    Returns
    -------
    (Effect, Effect)
        η² and ω², both with the one interval, from the noncentral F; None with a note as for `one_way`.

    References
    ----------
    Steiger, J. H. 2004: Beyond the F test: effect size confidence intervals and tests of close fit in the analysis of
    variance and contrast analysis. Psychological Methods 9, 164-182.
    Hays, W. L. 1963: Statistics for psychologists. New York, Holt.
    """
    table = _Table.of(groups)
    if table is None or table.f is None:
        why = _why(groups)
        return no_effect("eta_squared", confidence, why), no_effect("omega_squared", confidence, why)
    between, within = table.between, table.within
    error = within / table.freedom[1]
    eta = between / (between + within)
    omega = max((between - table.freedom[0] * error) / (between + within + error), 0.0)
    low, high = (_share_at(table, (1 + side * confidence) / 2) for side in (1, -1))
    # Groups more alike than chance has them leave no share at either end.
    high = max(high, eta)
    return (
        Effect("eta_squared", eta, low, high, confidence),
        Effect("omega_squared", omega, low, high, confidence),
    )


def _share_at(table: "_Table", below: float) -> float:
    """The share of the population at which an F as small as this one has the probability ``below``."""
    assert table.f is not None
    if fdtrc(*table.freedom, table.f) >= 1 - below:
        return 0.0
    if table.f > _LARGEST_F:
        return 1.0
    f, high = table.f, max(4 * table.f * table.freedom[0], 20.0)
    while ncfdtr(*table.freedom, high, f) > below:
        high *= 2
    found = root_between(lambda parameter: float(ncfdtr(*table.freedom, parameter, f)) - below, 0.0, high, 1e-10)
    return found / (found + table.n)


@dataclass(frozen=True)
class _Table:
    """Sums of squares ``between`` and ``within`` groups of ``n`` values, in a unit of no meaning."""

    between: float
    within: float
    freedom: tuple[float, float]
    n: int

    @property
    def f(self) -> float | None:
        if not self.within > 0:
            return None
        return self.between / self.freedom[0] / (self.within / self.freedom[1])

    @classmethod
    def of(cls, groups: Sequence[Sample]) -> "_Table | None":
        used = [group.moments for group in groups if group.moments is not None]
        n, k = sum(each.n for each in used), len(used)
        if k < 2 or n <= k:
            return None
        centres = _centred(used)
        unit = max(float(np.abs(centres).max()), *(each.sd or 0.0 for each in used))
        if not 0 < unit < np.inf:
            return None
        sizes = np.array([each.n for each in used], dtype=np.float64)
        spreads = np.array([(each.sd or 0.0) / unit for each in used])
        centres = centres / unit
        grand = float(sizes @ centres) / n
        between = float(np.sum(sizes * (centres - grand) ** 2))
        return cls(between, float(np.sum((sizes - 1) * spreads**2)), (k - 1.0, float(n - k)), n)


def _centred(groups: Sequence[Moments]) -> Floats:
    """The means of ``groups`` from the middle between the outermost, so that an offset costs no digits."""
    means = np.array([each.mean for each in groups])
    return np.asarray(means - (means.min() / 2 + means.max() / 2))


def _why(groups: Sequence[Sample]) -> str:
    used = [group for group in groups if group.n]
    if len(used) < 2:
        return "Needs values in at least two groups."
    if sum(group.n for group in used) <= len(used):
        return "No group has a second value."
    return "No group has a spread."
