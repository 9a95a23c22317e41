"""Tests of two means, by Student's and Welch's t, of two groups or of pairs, and the difference with its interval."""

from math import sqrt

import numpy as np
from scipy.special import stdtr, stdtrit

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.moments import Moments
from culvix.stats.core.sample import Sample
from culvix.stats.groups.result import Effect, GroupTest, no_effect, no_test

__all__ = ["mean_difference", "mean_of_differences", "paired_differences", "paired_t", "student_t", "welch_t"]


def student_t(x: Sample, y: Sample) -> GroupTest:
    """Student's t test of two means, which takes both groups for as wide as each other.

    Parameters
    ----------
    x, y
        The values of either group, in one unit.

    Returns
    -------
    GroupTest
        t = (mean of x − mean of y) / its standard error, p and the degrees of freedom n + m − 2; None with a note where
        the groups have fewer than three values, or no spread.

    References
    ----------
    Student 1908: The probable error of a mean. Biometrika 6, 1-25.
    """
    return _tested("student_t", x, y, equal_spread=True)


def welch_t(x: Sample, y: Sample) -> GroupTest:
    """Welch's t test of two means, of groups that may be of different widths.

    Parameters
    ----------
    x, y
        The values of either group, in one unit.

    Returns
    -------
    GroupTest
        t, p and Satterthwaite's degrees of freedom; None with a note where a group has fewer than two values, or
        neither has a spread.

    References
    ----------
    Welch, B. L. 1947: The generalization of "Student's" problem when several different population variances are
    involved. Biometrika 34, 28-35.
    """
    return _tested("welch_t", x, y, equal_spread=False)


def paired_t(x: Floats, y: Floats) -> GroupTest:
    """Student's t test of the mean of differences, for two columns that are measured on the same rows.

    Parameters
    ----------
    x, y
        Two columns of shape ``(rows,)``, in one unit; rows where either is missing or infinite are left out.

    Returns
    -------
    GroupTest
        t of x − y, p and the degrees of freedom n − 1; None with a note for fewer than two pairs, or where all
        differences are equal.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Student 1908: The probable error of a mean. Biometrika 6, 1-25.
    """
    differences = Sample(paired_differences(x, y))
    n, sizes = differences.n, (differences.n,)
    if n < 2:
        return no_test("paired_t", sizes, f"Needs at least two pairs; there {_are(n)}.")
    centre = differences.moments
    if centre is None or not centre.sd:
        return no_test("paired_t", sizes, "All differences are equal.")
    t = centre.mean / (centre.sd / sqrt(n))
    return GroupTest("paired_t", t, _two_sided(t, n - 1), sizes, (n - 1.0,))


def paired_differences(x: Floats, y: Floats) -> Floats:
    """``x`` − ``y`` of the rows that have both, shape ``(pairs,)``; a difference beyond a double is left out.

    Raises StatisticsError for columns of different lengths.
    """
    if x.shape != y.shape or x.ndim != 1:
        raise StatisticsError("Pairs are compared row by row; these columns have different lengths.")
    with np.errstate(over="ignore", invalid="ignore"):
        differences = x - y
    return differences[np.isfinite(differences)]


def mean_of_differences(x: Floats, y: Floats, confidence: float = 0.95) -> Effect:
    """Mean of the differences ``x`` − ``y`` of two columns measured on the same rows, with the interval of paired t.

    Parameters
    ----------
    x, y
        Two columns of shape ``(rows,)``, in one unit; rows where either is missing or infinite are left out.
    confidence
        How often the interval holds the mean, as a share.

    Returns
    -------
    Effect
        The mean; without ends for one pair, None with a note for none.

    References
    ----------
    Student 1908: The probable error of a mean. Biometrika 6, 1-25.
    """
    centre = Sample.of(paired_differences(x, y)).moments
    if centre is None:
        return no_effect("mean_of_differences", confidence, "There are no pairs.")
    if centre.sd is None:
        return Effect("mean_of_differences", centre.mean, None, None, confidence, "One pair has no spread.")
    reach = float(stdtrit(centre.n - 1, 0.5 + confidence / 2)) * centre.sd / sqrt(centre.n)
    return Effect("mean_of_differences", centre.mean, centre.mean - reach, centre.mean + reach, confidence)


def mean_difference(x: Sample, y: Sample, confidence: float = 0.95, *, equal_spread: bool = False) -> Effect:
    """Mean of ``x`` less mean of ``y`` with its interval, in the values' unit.

    Parameters
    ----------
    x, y
        The values of either group, in one unit.
    confidence
        How often the interval holds the difference, as a share.
    equal_spread
        Whether the groups are taken for as wide as each other (Student), or not (Welch).

    Returns
    -------
    Effect
        The difference; without ends where there is no spread to tell them by.

    References
    ----------
    Welch, B. L. 1938: The significance of the difference between two means when the population variances are unequal.
    Biometrika 29, 350-362.
    """
    a, b = x.moments, y.moments
    if a is None or b is None:
        return no_effect("mean_difference", confidence, "One of the groups has no values.")
    difference = a.mean - b.mean
    error = _error(a, b, equal_spread=equal_spread)
    if error is None:
        return Effect(
            "mean_difference", difference, None, None, confidence, "There is no spread to tell an interval by."
        )
    size, freedom = error
    reach = float(stdtrit(freedom, 0.5 + confidence / 2)) * size
    return Effect("mean_difference", difference, difference - reach, difference + reach, confidence)


def _tested(key: str, x: Sample, y: Sample, *, equal_spread: bool) -> GroupTest:
    sizes = x.n, y.n
    a, b = x.moments, y.moments
    if a is None or b is None:
        return no_test(key, sizes, "One of the groups has no values.")
    error = _error(a, b, equal_spread=equal_spread)
    if error is None:
        few = min(sizes) < 2 if not equal_spread else sum(sizes) < 3
        return no_test(key, sizes, "The groups have too few values." if few else "Neither group has a spread.")
    size, freedom = error
    t = (a.mean - b.mean) / size
    return GroupTest(key, t, _two_sided(t, freedom), sizes, (freedom,))


def _error(a: Moments, b: Moments, *, equal_spread: bool) -> tuple[float, float] | None:
    """The standard error of the difference of two means, and its degrees of freedom; None where there is none."""
    # In units of the larger SD, so that squares of very large or small numbers stay inside a double.
    unit = max(a.sd or 0.0, b.sd or 0.0)
    if not 0 < unit < np.inf:
        return None
    first, second = ((each.sd or 0.0) / unit for each in (a, b))
    if equal_spread:
        freedom = float(a.n + b.n - 2)
        if freedom < 1:
            return None
        pooled = ((a.n - 1) * first**2 + (b.n - 1) * second**2) / freedom
        return unit * sqrt(pooled * (1 / a.n + 1 / b.n)), freedom
    if min(a.n, b.n) < 2:
        return None
    parts = first**2 / a.n, second**2 / b.n
    freedom = sum(parts) ** 2 / (parts[0] ** 2 / (a.n - 1) + parts[1] ** 2 / (b.n - 1))
    return unit * sqrt(sum(parts)), freedom


def _two_sided(t: float, freedom: float) -> float:
    return float(2 * stdtr(freedom, -abs(t)))


def _are(n: int) -> str:
    return {0: "is none", 1: "is one"}.get(n, f"are {n}")
