"""How much of the variation of a column lies between groups: of its values, and of its ranks."""

import numpy as np
from scipy.special import chdtrc, fdtrc

from culvix.errors import StatisticsError
from culvix.stats.association.result import Association, no_association
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sums import unit_scaled
from culvix.stats.correlation.pair_sums import average_ranks

__all__ = ["epsilon_squared", "eta_squared"]


def _used(values: Floats, groups: Ints) -> tuple[Floats, Ints, Ints]:
    """Finite values that have a group, their groups from 0 without gaps, and the size of each group."""
    if values.shape != groups.shape or values.ndim != 1:
        raise StatisticsError("Values and groups must have as many rows as each other.")
    used = np.isfinite(values) & (groups >= 0)
    _, codes, sizes = np.unique(groups[used], return_inverse=True, return_counts=True)
    return values[used], codes.astype(np.int64), sizes.astype(np.int64)


def _shares(values: Floats, codes: Ints, sizes: Ints) -> tuple[float, float]:
    """Sums of squares between the groups and within them, in a unit of no meaning."""
    centred = unit_scaled(values - float(values.mean()))
    means = np.bincount(codes, centred) / sizes
    within = centred - means[codes]
    mean = float(centred.mean())
    return float(np.sum(sizes * (means - mean) ** 2)), float(np.sum(within * within))


def eta_squared(values: Floats, groups: Ints) -> Association:
    """Share of the variation of values that lies between groups, the squared correlation ratio.

    p is from F, which takes groups for normal and as wide as each other.

    Parameters
    ----------
    values
        The column, shape ``(rows,)``, in any unit; missing and infinite values are left out.
    groups
        The group of each row, shape ``(rows,)``, whole numbers from 0; rows with a negative one are left out.

    Returns
    -------
    Association
        η², p and n; None with a note below two groups, or where no group has a second value.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Pearson, K. 1905: On the general theory of skew correlation and non-linear regression. London, Dulau.
    Fisher, R. A. 1925: Statistical methods for research workers. Edinburgh, Oliver & Boyd, section 45.
    """
    used, codes, sizes = _used(values, groups)
    n, k = int(used.size), int(sizes.size)
    if k < 2 or n <= k:
        return no_association("eta_squared", n, _too_few(n, k))
    between, within = _shares(used, codes, sizes)
    if not between + within > 0:
        return no_association("eta_squared", n, "All values are equal.")
    value = between / (between + within)
    p = float(fdtrc(k - 1, n - k, between / (k - 1) / (within / (n - k)))) if within > 0 else 0.0
    return Association("eta_squared", value, p, n)


def epsilon_squared(values: Floats, groups: Ints) -> Association:
    """Share of the variation of the ranks of values that lies between groups, from Kruskal and Wallis' H.

    p is from χ² with one degree of freedom fewer than groups.

    Parameters
    ----------
    values
        The column, shape ``(rows,)``, in any unit; missing and infinite values are left out.
    groups
        The group of each row, shape ``(rows,)``, whole numbers from 0; rows with a negative one are left out.

    Returns
    -------
    Association
        ε² = H / (n − 1), ties corrected; p and n. None with a note below two groups, or where no group has a second
        value.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Kruskal, W. H. & Wallis, W. A. 1952: Use of ranks in one-criterion variance analysis. Journal of the American
    Statistical Association 47, 583-621.
    Kelley, T. L. 1935: An unbiased correlation ratio measure. Proceedings of the National Academy of Sciences 21,
    554-559.
    """
    used, codes, sizes = _used(values, groups)
    n, k = int(used.size), int(sizes.size)
    if k < 2 or n <= k:
        return no_association("epsilon_squared", n, _too_few(n, k))
    if used.min() == used.max():
        return no_association("epsilon_squared", n, "All values are equal.")
    between, within = _shares(average_ranks(used), codes, sizes)
    value = between / (between + within)
    return Association("epsilon_squared", value, float(chdtrc(k - 1, value * (n - 1))), n)


def _too_few(n: int, k: int) -> str:
    if k < 2:
        return "Needs values in at least two groups."
    return f"Needs more values than groups; there are {n} in {k}."
