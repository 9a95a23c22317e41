"""A column's values, sorted once.

Quantiles, ranks, fences, medians, distinct values, modes, histogram counts and Q-Q points are all read
from this one order. Missing and non-finite values are counted apart. A column of whole numbers keeps them
exactly, beside the doubles the other statistics use.
"""

from collections.abc import Callable
from dataclasses import dataclass
from functools import wraps

import numpy as np
from numpy.typing import ArrayLike

from culvix.caching import cached_property
from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.edf import EdfDistances, edf_distances
from culvix.stats.core.moments import Moments, moments, standardise
from culvix.stats.core.normal_scores import ScoreSums, score_sums
from culvix.stats.core.ordering import stable_order
from culvix.stats.core.row_moments import moments_by_rows
from culvix.stats.core.row_sums import RowSums, row_sums
from culvix.stats.core.sums import SHORT, plain_dot, whole_sum

__all__ = ["Sample", "kth_distance", "median_of_sorted", "once"]

Figure = Callable[["Sample"], float | None]


def once(figure: Figure) -> Figure:
    """Decorates a figure that costs much, so that it is worked out once for a sample whoever asks for it."""

    @wraps(figure)
    def known(sample: "Sample") -> float | None:
        name = figure.__name__
        if name not in sample.figures:
            sample.figures[name] = figure(sample)
        return sample.figures[name]

    return known


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
        return self._ordered[self._bounds[0] : self._bounds[1]]

    @cached_property
    def _ordered(self) -> Floats:
        """All cells in ascending order: −∞, the finite values, +∞, and the missing ones last."""
        return np.sort(self.values)

    @cached_property
    def _bounds(self) -> tuple[int, int, int]:
        """Places in ``_ordered`` where the finite values begin and end, and where the missing cells begin."""
        low = int(np.searchsorted(self._ordered, -np.inf, side="right"))
        high, missing = np.searchsorted(self._ordered, (np.inf, np.nan), side="left").tolist()
        return low, high, missing

    @property
    def all_finite(self) -> bool:
        return self.n == self.values.size

    @cached_property
    def rows(self) -> Ints:
        """Index of the row of each value of ``sorted``; ties stand in row order."""
        if self.all_finite:
            return stable_order(self.values, self.sorted)
        finite = np.flatnonzero(np.isfinite(self.values))
        return finite[stable_order(self.values[finite], self.sorted)]

    def in_same_order(self, values: Floats, ordered: Floats) -> "Sample":
        """A sample of other ``values`` whose order is that of these: ``ordered`` are its finite ones, ascending.

        Both have the shapes of ``values`` and ``sorted`` here; nothing is sorted again.
        """
        made = Sample(values)
        made.__dict__["sorted"], made.__dict__["rows"] = ordered, self.rows
        return made

    @property
    def n(self) -> int:
        return int(self.sorted.size)

    @property
    def missing(self) -> int:
        return int(self.values.size) - self._bounds[2]

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
        # A few values settle it for most columns of measurements.
        x = self.sorted
        return self.integers is not None or all(bool((part == np.floor(part)).all()) for part in (x[:100], x))

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
    def figures(self) -> dict[str, float | None]:
        """Figures of this sample that are worked out elsewhere, by name."""
        return {}

    @cached_property
    def moments(self) -> Moments | None:
        """Mean, spread and shape of the finite values; None for an empty sample."""
        if not self.n:
            return None
        if self.row_sums is None:
            return moments(self.sorted, self.whole_sum)
        return moments_by_rows(self.sorted, self.row_sums, self.whole_sum)

    @cached_property
    def row_sums(self) -> RowSums | None:
        """Sums over rows of neighbours, which moments and tests of long columns are made of; None for short ones."""
        return row_sums(self.sorted)

    @cached_property
    def whole_sum(self) -> int | None:
        """The exact sum, where every finite value is a whole number."""
        if not self.is_whole:
            return None
        return whole_sum(self.sorted if self.exact is None else self.exact)

    @cached_property
    def edf(self) -> EdfDistances:
        """Distances from the fitted normal; for samples with a spread, as are the sums of normal scores."""
        return edf_distances(self.sorted, *self.fit, self.row_sums)

    @cached_property
    def scores(self) -> ScoreSums:
        """Sums of Blom's normal scores with the standardised values."""
        return score_sums(self.sorted, self.fit[1], rows=self.row_sums)

    @property
    def fit(self) -> tuple[float, float]:
        """Mean and SD of the normal that fits. Raises StatisticsError for a sample without a spread."""
        centre = self.moments
        if centre is None or not centre.sd:
            raise StatisticsError("Without a spread there is no normal to compare with.")
        return centre.mean, centre.sd

    @cached_property
    def sum_of_squares(self) -> float:
        """Σ y² of the standardised values: n−1 by their definition, summed only where rounding could show."""
        if self.n > SHORT:
            return self.n - 1.0
        y = standardise(self.sorted, *self.fit)
        return plain_dot(y, y)

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

    def outer_rows(self, low: int, high: int) -> Ints:
        """Rows of the ``low`` smallest and the ``high`` largest values, in order of value; ties stand in row order.

        Most questions about rows are about a few at either end; finding those is much less work than ordering all.
        """
        if low + high > self.n // 4 or self.n < 1000 or "rows" in self.__dict__:
            return np.concatenate((self.rows[:low], self.rows[self.n - high :]))
        return np.concatenate((self._tail(0, low), self._tail(1, high)[::-1]))

    def _tail(self, side: int, count: int) -> Ints:
        """Rows of the ``count`` outermost values of one side, from the end inwards; what was found before is kept."""
        known = self._tails[side]
        if known.size < count:
            # The next question is likely to reach a little farther.
            reach = min(max(count + count // 4, self.n // 100), self.n // 2)
            known = self._tails[side] = np.concatenate((known, self._next_inwards(side, known.size, reach)))
        return known[:count]

    @cached_property
    def _tails(self) -> list[Ints]:
        return [np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64)]

    def _next_inwards(self, side: int, known: int, reach: int) -> Ints:
        """Rows of the outermost values of one side up to the ``reach``-th, but for the ``known`` outermost.

        Equal values are found together, so that the known ones end where another value begins.
        """
        x, n = self.sorted, self.n
        inside = self.values >= x[n - reach] if side else self.values <= x[reach - 1]
        if known:
            inside &= self.values < x[n - known] if side else self.values > x[known - 1]
        if self.non_finite:
            inside &= np.isfinite(self.values)
        outer = np.flatnonzero(inside)
        values = self.values[outer]
        order = np.argsort(values)
        ranked = values[order]
        if bool((ranked[1:] == ranked[:-1]).any()):
            order = np.argsort(values, kind="stable")  # the faster sort may leave ties out of row order
        ordered = outer[order]
        return ordered[::-1] if side else ordered

    def without(self, rows: Ints) -> "Sample":
        """The same sample with the values of ``rows`` missing."""
        values = self.values.copy()
        values[rows] = np.nan
        rest = Sample(values, self.integers)
        gone = np.sort(self.values[rows])
        if self.n > SHORT and np.isfinite(gone).all():
            # Equal values are taken from the front of their run one by one, so that the order need not be made again.
            first = np.searchsorted(gone, gone, side="left")
            positions = self._bounds[0] + np.searchsorted(self.sorted, gone) + np.arange(gone.size) - first
            remaining = np.delete(self._ordered, positions)
            rest.__dict__["_ordered"] = np.concatenate((remaining, np.full(gone.size, np.nan)))
        return rest
