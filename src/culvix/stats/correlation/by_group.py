"""Correlation by group, and whether the pooled sign turns within the groups (Simpson 1951)."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sums import unit_scaled
from culvix.stats.correlation.result import PairCorrelation

__all__ = ["GroupedCorrelation", "correlation_by_group"]


@dataclass(frozen=True)
class GroupedCorrelation:
    """The pooled coefficient, that of each group, and the pooled one with each group's mean taken out of both columns.

    ``reverses`` is True where pooled and within-group coefficients differ in sign and both are significant at α.
    """

    pooled: PairCorrelation
    groups: dict[str, PairCorrelation]
    within: PairCorrelation
    reverses: bool


def correlation_by_group(
    x: Floats,
    y: Floats,
    labels: Sequence[str | None],
    run: Callable[[Floats, Floats], PairCorrelation],
    *,
    alpha: float = 0.05,
) -> GroupedCorrelation:
    """Correlate two columns over all rows, in each group of them, and within groups.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.
    labels
        The group of each row; rows whose label is None are left out of all of it.
    run
        The coefficient.
    alpha
        The level at which a reversal of sign is told.

    Returns
    -------
    GroupedCorrelation
        The coefficients, and whether the sign within groups is the other one.

    Raises
    ------
    StatisticsError
        For columns or labels of different lengths.

    References
    ----------
    Simpson, E. H. 1951: The interpretation of interaction in contingency tables. Journal of the Royal Statistical
    Society B 13, 238-241.
    """
    if not x.shape == y.shape == (len(labels),):
        raise StatisticsError("Two columns and the groups must have as many rows as each other.")
    names = np.array(["" if label is None else label for label in labels], dtype=object)
    used = np.array([label is not None for label in labels], dtype=bool) & np.isfinite(x) & np.isfinite(y)
    a, b, names = x[used], y[used], names[used]
    groups = {}
    left_a, left_b = unit_scaled(a), unit_scaled(b)
    for name in sorted(set(names.tolist())):
        members = names == name
        groups[name] = run(a[members], b[members])
        left_a[members] -= left_a[members].mean()
        left_b[members] -= left_b[members].mean()
    pooled, within = run(a, b), run(left_a, left_b)
    return GroupedCorrelation(pooled, groups, within, _reverses(pooled, within, alpha))


def _reverses(pooled: PairCorrelation, within: PairCorrelation, alpha: float) -> bool:
    if pooled.r is None or within.r is None or pooled.p is None or within.p is None:
        return False
    return pooled.r * within.r < 0 and max(pooled.p, within.p) < alpha
