"""Distance correlation (Székely, Rizzo & Bakirov 2007): 0 only where two columns are independent, whatever the shape.

The sums over all pairs of distances are worked out from sorted orders in O(n log n) (Huo & Székely 2016), so that no
matrix of distances is made. Its p value comes from seeded permutations, in long columns of a random sample of 600 rows:
against 499 orders it can hardly tell more from more rows, and the work would grow with them.
"""

from dataclasses import dataclass
from math import sqrt

import numpy as np

from culvix.progress import Progress, silent
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.correlation.result import PairCorrelation, present_pairs
from culvix.stats.resampling.simulation import SEED, permutation_p

__all__ = ["distance_correlation"]

_USED = 30_000
_PERMUTED = 600


def distance_correlation(
    x: Floats, y: Floats, *, repeats: int = 499, seed: int = SEED, progress: Progress = silent
) -> PairCorrelation:
    """Distance correlation of two columns, 0 only where they are independent, with a permutation p.

    Parameters
    ----------
    x, y
        Two columns, both of shape ``(rows,)``, in any units; rows where either is missing or infinite are left out.
    repeats, seed
        How many orders are drawn for p, and what they begin from.
    progress
        Told how far the work is; whatever it raises ends it.

    Returns
    -------
    PairCorrelation
        Coefficient, two-sided p and n; both None with a note where there is none.

    Raises
    ------
    StatisticsError
        For columns of different lengths and fewer than one repeat.

    References
    ----------
    Székely, G. J., Rizzo, M. L. & Bakirov, N. K. 2007: Measuring and testing dependence by correlation of distances.
    Annals of Statistics 35, 2769-2794.
    """
    both = np.flatnonzero(present_pairs(x, y))
    n = int(both.size)
    draw = np.random.Generator(np.random.PCG64(seed))
    order = draw.permutation(both) if n > _PERMUTED else both
    used, permuted = np.sort(order[:_USED]), np.sort(order[:_PERMUTED])
    ready, few = _Ready.of(x[used], y[used]), _Ready.of(x[permuted], y[permuted])
    if n < 2 or ready is None or few is None:
        why = f"Needs at least 2 complete pairs; n is {n}." if n < 2 else "One of the columns has one value throughout."
        return PairCorrelation("distance", None, None, n, why)
    p = permutation_p(few.statistic, few.y, repeats=repeats, seed=seed, progress=progress).p
    return PairCorrelation("distance", ready.coefficient, p, n, _note(n))


def _note(n: int) -> str | None:
    if n <= _PERMUTED:
        return None
    coefficient = f" The coefficient is that of {_USED} rows." if n > _USED else ""
    return f"p is from permuting a random sample of {_PERMUTED} of the {n} rows.{coefficient}"


@dataclass(frozen=True, eq=False)
class _Ready:
    """Two columns on the unit range, the first in order, with what permutations of the second leave as it is."""

    x: Floats
    y: Floats
    x_sums: Floats

    @classmethod
    def of(cls, x: Floats, y: Floats) -> "_Ready | None":
        a, b = _unit(x), _unit(y)
        if a is None or b is None:
            return None
        order = np.argsort(a, kind="stable")
        return cls(a[order], b[order], _row_sums(a[order]))

    def statistic(self, y: Floats) -> float:
        return max(_covariance(self.x, self.x_sums, y), 0.0)

    @property
    def coefficient(self) -> float:
        y = np.sort(self.y)
        spread = self.statistic(self.x) * max(_covariance(y, _row_sums(y), y), 0.0)
        return sqrt(min(self.statistic(self.y) / sqrt(spread), 1.0)) if spread > 0 else 0.0


def _unit(x: Floats) -> Floats | None:
    """``x`` on the unit range; None without a range that a number can hold."""
    if not x.size:
        return None
    half = x / 2
    low, high = float(half.min()), float(half.max())
    return (half - low) / (high - low) if 0 < high - low < np.inf else None


def _row_sums(x: Floats) -> Floats:
    """For each of the ascending ``x`` the sum of its distances to all of them."""
    n = x.size
    before = np.cumsum(x) - x
    position = np.arange(n)
    return np.asarray(x * (2 * position - n + 1) - before + (before[-1] + x[-1] - before - x))


def _covariance(x: Floats, x_sums: Floats, y: Floats) -> float:
    """Squared sample distance covariance (the V-statistic) of ascending ``x`` with ``y``."""
    n = x.size
    order = np.argsort(y, kind="stable")
    y_sums = np.empty(n)
    y_sums[order] = _row_sums(y[order])
    products = _distance_products(x, y, order)
    total = products / n**2 - 2 * float(x_sums @ y_sums) / n**3 + float(x_sums.sum()) * float(y_sums.sum()) / n**4
    return float(total)


def _distance_products(x: Floats, y: Floats, order: Ints) -> float:
    """Σ |x_i − x_j|·|y_i − y_j| over all ordered pairs, ``x`` ascending and ``order`` sorting ``y``.

    |y_i − y_j| is y_i − y_j where j stands before i in y's order, and its negative where it stands after. Sums over
    the j that come before i in both orders are what the binary digits of the ranks give, digit by digit.
    """
    n = x.size
    ranks = np.empty(n, dtype=np.int64)
    ranks[order] = np.arange(n)
    ones = np.ones(n)
    lower = [_sums_before(ranks, values) for values in (ones, x, y, x * y)]
    before = [np.cumsum(values) - values for values in (ones, x, y, x * y)]
    # For i over all j < i in x: x_i − x_j ≥ 0; the sign of y_i − y_j is that of the ranks.
    signed = [2 * low - all_before for low, all_before in zip(lower, before, strict=True)]
    count, sum_x, sum_y, sum_xy = signed
    half = x * y * count - y * sum_x - x * sum_y + sum_xy
    return 2 * float(half.sum())


def _sums_before(ranks: Ints, values: Floats) -> Floats:
    """For each place the sum of ``values`` over earlier places with a lower rank (ranks from 0, all different)."""
    result = np.zeros(ranks.size)
    position = np.arange(ranks.size)
    current = ranks.copy()
    group = np.zeros(ranks.size, dtype=np.int64)
    for digit in range(int(ranks.size - 1).bit_length() - 1, -1, -1):
        ones = ((current >> digit) & 1).astype(bool)
        carried = np.where(ones, 0.0, values[position])
        running = np.cumsum(carried)
        starts = np.flatnonzero(np.concatenate(([True], group[1:] != group[:-1])))
        lengths = np.diff(np.append(starts, current.size))
        offset = np.repeat(running[starts] - carried[starts], lengths)
        result[position[ones]] += (running - offset)[ones]
        split = np.argsort(current >> digit, kind="stable")
        current, position = current[split], position[split]
        group = current >> digit
    return result
