"""A column's values, sorted once.

Quantiles, ranks, fences, medians, distinct values, modes, histogram counts and Q-Q points are all read
from this one order. Missing and non-finite values are counted apart. A column of whole numbers keeps them
exactly, beside the doubles the other statistics use.
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import ArrayLike
from scipy.special import ndtr

from culvix.errors import StatisticsError
from culvix.stats.arrays import Floats, Ints
from culvix.stats.moments import Moments, moments

__all__ = ["Sample", "kth_distance", "median_of_sorted"]


def median_of_sorted(x: Floats) -> float:
    """Median of ``x`` (shape ``(n,)``, ascending, n ≥ 1)."""
    middle = x.size // 2
    if x.size % 2:
        return float(x[middle])
    low, high = float(x[middle - 1]), float(x[middle])
    centre = (low + high) / 2
    return centre if np.isfinite(centre) else low / 2 + high / 2


def kth_distance(x: Floats, centre: float, k: int) -> float:
    """The ``k``-th smallest distance (k from 1) of the ascending ``x`` (shape ``(n,)``) from ``centre``.

    The nearest k values stand side by side; bisection finds where.
    """
    low, high = 0, x.size - k

    def reach(start: int) -> float:
        return max(float(x[start + k - 1]) - centre, centre - float(x[start]))

    while low < high:
        middle = (low + high) // 2
        if float(x[middle + k - 1]) - centre >= centre - float(x[middle]):
            high = middle
        else:
            low = middle + 1
    return min(reach(low), reach(low - 1)) if low else reach(low)


@dataclass(frozen=True, eq=False)
class Sample:
    """The values of one column, as imported or as decided, with their one sorted order.

    ``values`` has shape ``(rows,)``; a missing cell is NaN. Where the column holds whole numbers,
    ``integers`` has the same shape and the exact values (anything where ``values`` is NaN).
    """

    values: Floats
    integers: Ints | None = None

    @classmethod
    def of(cls, values: ArrayLike, integers: Ints | None = None) -> "Sample":
        """Sample of anything that converts to a one-dimensional array of doubles.

        Raises StatisticsError where it does not.
        """
        try:
            array = np.asarray(values, dtype=np.float64)
        except (TypeError, ValueError) as error:
            raise StatisticsError(f"These values are not all numbers: {error}.") from error
        if array.ndim != 1:
            raise StatisticsError(f"A sample has one dimension, not {array.ndim}.")
        if integers is not None and integers.shape != array.shape:
            raise StatisticsError("The exact whole numbers must stand beside the values one by one.")
        return cls(array, integers)

    @cached_property
    def sorted(self) -> Floats:
        """The finite values in ascending order, shape ``(n,)``."""
        finite = self.values if self.all_finite else self.values[np.isfinite(self.values)]
        return np.sort(finite)

    @cached_property
    def all_finite(self) -> bool:
        return bool(np.isfinite(self.values).all())

    @cached_property
    def rows(self) -> Ints:
        """Index of the row of each value of ``sorted``; ties stand in row order."""
        if self.all_finite:
            return np.argsort(self.values, kind="stable")
        finite = np.flatnonzero(np.isfinite(self.values))
        return finite[np.argsort(self.values[finite], kind="stable")]

    @property
    def n(self) -> int:
        return int(self.sorted.size)

    @cached_property
    def missing(self) -> int:
        return int(np.isnan(self.values).sum())

    @property
    def non_finite(self) -> int:
        """Number of infinite values."""
        return int(self.values.size) - self.n - self.missing

    @cached_property
    def exact(self) -> Ints | None:
        """The whole numbers in ascending order, where the column has them."""
        if self.integers is None:
            return None
        return np.sort(self.integers[np.isfinite(self.values)])

    @cached_property
    def is_whole(self) -> bool:
        """Whether every finite value is a whole number."""
        return self.integers is not None or bool((self.sorted == np.floor(self.sorted)).all())

    @cached_property
    def runs(self) -> tuple[Floats | Ints, Ints]:
        """Distinct values ascending and how often each occurs; exact for whole numbers."""
        ordered: Floats | Ints = self.sorted if self.exact is None else self.exact
        if not ordered.size:
            return ordered, np.zeros(0, dtype=np.int64)
        starts = np.flatnonzero(np.concatenate(([True], ordered[1:] != ordered[:-1])))
        return ordered[starts], np.diff(np.append(starts, ordered.size))

    @cached_property
    def distinct(self) -> int:
        ordered: Floats | Ints = self.sorted if self.exact is None else self.exact
        return int(np.count_nonzero(ordered[1:] != ordered[:-1])) + 1 if ordered.size else 0

    @cached_property
    def standardised(self) -> Floats:
        """``sorted`` less its mean, over its SD; for samples with a spread. Bulky: see `release`."""
        centre = self.moments
        if centre is None or not centre.sd:
            return np.zeros(self.n)
        if abs(centre.mean) + centre.sd > 1e300:
            # Halves keep the differences inside a double.
            return np.asarray((self.sorted / 2 - centre.mean / 2) / (centre.sd / 2))
        return np.asarray((self.sorted - centre.mean) / centre.sd)

    @cached_property
    def normal_shares(self) -> Floats:
        """Φ of ``standardised``: the share of a normal with this mean and SD below each value. Bulky: see `release`."""
        return np.asarray(ndtr(self.standardised))

    @cached_property
    def normal_gaps(self) -> Floats:
        """``normal_shares`` less (i − ½)/n, the middle of each step of the cumulative distribution. Bulky too."""
        steps = np.arange(0.5, self.n)
        steps /= self.n
        return np.asarray(np.subtract(self.normal_shares, steps, out=steps))

    def release(self) -> None:
        """Let go of the bulky arrays that the tests of normality share; they are made anew when asked for."""
        for name in ("standardised", "normal_shares", "normal_gaps"):
            self.__dict__.pop(name, None)

    @cached_property
    def moments(self) -> Moments | None:
        """Mean, spread and shape of the finite values; None for an empty sample."""
        return moments(self.sorted) if self.n else None

    @cached_property
    def median(self) -> float:
        """Median; NaN for an empty sample, which callers never show."""
        return median_of_sorted(self.sorted) if self.n else float("nan")

    @cached_property
    def mad(self) -> float:
        """Median absolute deviation from the median, unscaled; infinite beyond the range of a double."""
        if not self.n:
            return float("nan")
        middle = [kth_distance(self.sorted, self.median, k) for k in {(self.n + 1) // 2, self.n // 2 + 1}]
        return sum(value / len(middle) for value in middle)

    def below(self, value: float) -> int:
        """Number of finite values strictly below ``value``."""
        return int(np.searchsorted(self.sorted, value, side="left"))

    def above(self, value: float) -> int:
        """Number of finite values strictly above ``value``."""
        return self.n - int(np.searchsorted(self.sorted, value, side="right"))

    @cached_property
    def _tails(self) -> tuple[int, int, Ints]:
        """Numbers of the smallest and of the largest values whose rows are known, and those rows in order of value.

        A twentieth at each end: most questions about rows are about those, and finding them is much less work than
        ordering all rows.
        """
        x, share = self.sorted, self.n // 20
        if self.n < 1000 or x[share] == x[self.n - 1 - share]:
            return self.n, 0, self.rows
        with np.errstate(invalid="ignore"):
            outer = np.flatnonzero((self.values < x[share]) | (self.values > x[self.n - 1 - share]))
        if not self.all_finite:
            outer = outer[np.isfinite(self.values[outer])]
        values = self.values[outer]
        order = np.argsort(values)
        ranked = values[order]
        if bool((ranked[1:] == ranked[:-1]).any()):
            order = np.argsort(values, kind="stable")  # the faster sort may leave ties out of row order
        ordered = outer[order]
        low = self.below(float(x[share]))
        return low, int(ordered.size) - low, ordered

    def outer_rows(self, low: int, high: int) -> Ints:
        """Rows of the ``low`` smallest and the ``high`` largest values, in order of value; ties stand in row order."""
        known_low, known_high, rows = self._tails
        if low > known_low or high > known_high or "rows" in self.__dict__:
            rows = self.rows
        return np.concatenate((rows[:low], rows[rows.size - high :]))

    def without(self, rows: Ints) -> "Sample":
        """The same sample with the values of ``rows`` missing."""
        values = self.values.copy()
        values[rows] = np.nan
        return Sample(values, self.integers)
