"""Tests of whether several groups are equally wide: Brown–Forsythe's and Fligner–Killeen's."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from scipy.special import chdtrc, ndtri

from culvix.stats.core.sample import Sample
from culvix.stats.correlation.pair_sums import average_ranks
from culvix.stats.groups.result import GroupTest, no_test
from culvix.stats.groups.several_means import one_way

__all__ = ["brown_forsythe", "fligner_killeen"]


def brown_forsythe(groups: Sequence[Sample]) -> GroupTest:
    """Whether groups are equally wide, by an analysis of variance of the distances from their medians.

    Parameters
    ----------
    groups
        The values of each group, in one unit; those without values are left out.

    Returns
    -------
    GroupTest
        F, p and the two degrees of freedom; None with a note for fewer than two groups, no more values than groups, or
        where no distances differ within a group.

    References
    ----------
    Brown, M. B. & Forsythe, A. B. 1974: Robust tests for the equality of variances. Journal of the American Statistical
    Association 69, 364-367.
    """
    with np.errstate(over="ignore"):
        found = one_way([Sample(np.abs(group.sorted - group.median)) for group in groups])
    sizes = tuple(group.n for group in groups)
    return replace(found, key="brown_forsythe", sizes=sizes)


def fligner_killeen(groups: Sequence[Sample]) -> GroupTest:
    """Whether groups are equally wide, by normal scores of the ranks of the distances from their medians.

    Parameters
    ----------
    groups
        The values of each group, in one unit; those without values are left out.

    Returns
    -------
    GroupTest
        χ², p and its degrees of freedom; None with a note for fewer than two groups, or where all distances are equal.

    References
    ----------
    Fligner, M. A. & Killeen, T. J. 1976: Distribution-free two-sample tests for scale. Journal of the American
    Statistical Association 71, 210-213.
    Conover, W. J., Johnson, M. E. & Johnson, M. M. 1981: A comparative study of tests for homogeneity of variances.
    Technometrics 23, 351-361.
    """
    sizes = tuple(group.n for group in groups)
    used = [group for group in groups if group.n]
    if len(used) < 2:
        return no_test("fligner_killeen", sizes, "Needs values in at least two groups.")
    with np.errstate(over="ignore"):
        distances = np.concatenate([np.abs(group.sorted - group.median) for group in used])
    n = distances.size
    scores = ndtri(0.5 + average_ranks(distances) / (2 * (n + 1)))
    centre = float(scores.mean())
    variance = float(np.sum((scores - centre) ** 2)) / (n - 1) if n > 1 else 0.0
    if not variance > 0:
        return no_test("fligner_killeen", sizes, "All distances from the medians are equal.")
    parts = np.split(scores, np.cumsum([group.n for group in used])[:-1])
    statistic = sum(part.size * (float(part.mean()) - centre) ** 2 for part in parts) / variance
    freedom = len(used) - 1
    return GroupTest("fligner_killeen", statistic, float(chdtrc(freedom, statistic)), sizes, (float(freedom),))
