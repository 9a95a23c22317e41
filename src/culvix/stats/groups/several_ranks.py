"""The Kruskal–Wallis test: whether several groups lie equally high by the ranks of their values."""

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from scipy.special import chdtrc

from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.pair_sums import average_ranks
from culvix.stats.groups.result import Effect, GroupTest, no_test
from culvix.stats.groups.several_means import explained_shares

__all__ = ["explained_ranks", "kruskal_wallis", "ranks_of_groups", "tie_correction"]


def kruskal_wallis(groups: Sequence[Sample]) -> GroupTest:
    """The Kruskal–Wallis test of several groups by ranks.

    Parameters
    ----------
    groups
        The values of each group, in one unit; those without values are left out.

    Returns
    -------
    GroupTest
        H with the correction for ties, p by χ² and its degrees of freedom; None with a note for fewer than two groups,
        or where all values are equal.

    References
    ----------
    Kruskal, W. H. & Wallis, W. A. 1952: Use of ranks in one-criterion variance analysis. Journal of the American
    Statistical Association 47, 583-621.
    """
    sizes = tuple(group.n for group in groups)
    used = [group.sorted for group in groups if group.n]
    if len(used) < 2:
        return no_test("kruskal_wallis", sizes, "Needs values in at least two groups.")
    ranks = ranks_of_groups(used)
    n = sum(each.size for each in ranks)
    left = tie_correction(np.concatenate(ranks))
    if not left > 0:
        return no_test("kruskal_wallis", sizes, "All values are equal.")
    middle = (n + 1) / 2
    h = 12 / (n * (n + 1)) * sum(each.size * (float(each.mean()) - middle) ** 2 for each in ranks) / left
    freedom = len(used) - 1
    return GroupTest("kruskal_wallis", h, float(chdtrc(freedom, h)), sizes, (float(freedom),))


def explained_ranks(groups: Sequence[Sample], confidence: float = 0.95) -> Effect:
    """How much of the variation of the ranks lies between the groups: ε² = H / (n − 1).

    Parameters
    ----------
    groups
        The values of each group, in one unit; those without values are left out.
    confidence
        About how often the interval holds the share of the population.

    Returns
    -------
    Effect
        ε², with the interval that a noncentral F has for the ranks taken as values; None with a note as for
        `kruskal_wallis`.

    References
    ----------
    Kelley, T. L. 1935: An unbiased correlation ratio measure. Proceedings of the National Academy of Sciences 21,
    554-559.
    Conover, W. J. & Iman, R. L. 1981: Rank transformations as a bridge between parametric and nonparametric statistics.
    The American Statistician 35, 124-129.
    """
    used = [group.sorted for group in groups if group.n]
    found = explained_shares([Sample.of(ranks) for ranks in ranks_of_groups(used)] if used else [], confidence)[0]
    return replace(found, key="epsilon_squared")


def ranks_of_groups(groups: Sequence[Floats]) -> list[Floats]:
    """The ranks of each group's values among those of all, ties sharing their mean rank; shapes as those given."""
    ranks = average_ranks(np.concatenate(groups))
    return np.split(ranks, np.cumsum([group.size for group in groups])[:-1])


def tie_correction(ranks: Floats) -> float:
    """1 − Σ(t³ − t)/(n³ − n) over runs of equal ``ranks`` (shape ``(n,)``): 0 where all are equal."""
    _, counts = np.unique(ranks, return_counts=True)
    n = float(ranks.size)
    return 1.0 - float(np.sum(counts.astype(np.float64) ** 3 - counts)) / (n**3 - n) if n > 1 else 0.0
