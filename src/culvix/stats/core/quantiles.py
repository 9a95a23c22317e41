"""The nine sample quantiles of Hyndman & Fan 1996, and Tukey's hinges.

Type 7 interpolates between the smallest and the largest value ("inclusive"), type 6 between the ends of
the sampled population ("exclusive"). Types 1 to 3 are steps: they always give a value that occurs.
"""

from dataclasses import dataclass
from fractions import Fraction

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample, median_of_sorted

__all__ = [
    "PERCENTILES",
    "QUANTILE_TYPES",
    "PercentileOfValue",
    "hinges",
    "interpolated",
    "percentile_of",
    "quantile",
    "quantile_ranks",
]

PERCENTILES = (1, 5, 10, 25, 50, 75, 90, 95, 99)

QUANTILE_TYPES: dict[int, str] = {
    1: "inverse of the cumulative distribution (type 1)",
    2: "inverse of the cumulative distribution, averaged at steps (type 2)",
    3: "nearest even observation (type 3)",
    4: "linear interpolation of the cumulative distribution (type 4)",
    5: "mid-step interpolation, Hazen (type 5)",
    6: "exclusive, (n+1)p (type 6)",
    7: "inclusive, (n−1)p+1 (type 7)",
    8: "median-unbiased (type 8)",
    9: "unbiased for normal data (type 9)",
}

_ALPHA_BETA: dict[int, tuple[Fraction, Fraction]] = {
    4: (Fraction(0), Fraction(1)),
    5: (Fraction(1, 2), Fraction(1, 2)),
    6: (Fraction(0), Fraction(0)),
    7: (Fraction(1), Fraction(1)),
    8: (Fraction(1, 3), Fraction(1, 3)),
    9: (Fraction(3, 8), Fraction(3, 8)),
}


def quantile(x: Floats, p: float | Fraction, kind: int = 7) -> float:
    """A quantile by one of the nine definitions in use.

    The position is worked out in exact arithmetic from the shortest decimal form of ``p``, so that 0.1 means a tenth
    and no position slips over a whole number by rounding.

    Parameters
    ----------
    x
        The values, ascending, shape ``(n,)``, in any unit.
    p
        The share of the values below the quantile, from 0 to 1.
    kind
        The definition, 1 to 9.

    Returns
    -------
    float
        The quantile, in the unit of ``x``.

    Raises
    ------
    StatisticsError
        For an unknown definition, a share outside 0 to 1 or no values.

    References
    ----------
    Hyndman, R. J. & Fan, Y. 1996: Sample quantiles in statistical packages. The American Statistician 50, 361-365.
    """
    low, high, weight = quantile_ranks(int(x.size), p, kind)
    return interpolated(float(x[low - 1]), float(x[high - 1]), weight)


def quantile_ranks(n: int, p: float | Fraction, kind: int = 7) -> tuple[int, int, float]:
    """Between which two of ``n`` ordered values a quantile lies (ranks from 1), and how far from the first of them.

    Raises StatisticsError as `quantile`.
    """
    if kind not in QUANTILE_TYPES:
        raise StatisticsError(f"There is no quantile type {kind}; the types are 1 to 9.")
    if not 0 <= p <= 1:
        raise StatisticsError(f"A probability lies between 0 and 1, not at {p}.")
    if not n:
        raise StatisticsError("An empty sample has no quantiles.")
    exact = p if isinstance(p, Fraction) else Fraction(repr(float(p)))
    if kind <= 3:
        whole, weight = _step(n, exact, kind)
    else:
        a, b = _ALPHA_BETA[kind]
        position = a + exact * (n + 1 - a - b)
        whole = position.numerator // position.denominator
        weight = float(position - whole)
    return min(max(whole, 1), n), min(max(whole + 1, 1), n), weight


def _step(n: int, p: Fraction, kind: int) -> tuple[int, float]:
    position = n * p if kind < 3 else n * p - Fraction(1, 2)
    whole = position.numerator // position.denominator
    on_step = position == whole
    if kind == 1:
        weight = 0.0 if on_step else 1.0
    elif kind == 2:
        weight = 0.5 if on_step else 1.0
    else:
        weight = 0.0 if on_step and whole % 2 == 0 else 1.0
    return whole, weight


def interpolated(low: float, high: float, weight: float) -> float:
    """``weight`` of the way from ``low`` to ``high``, never beyond either."""
    if weight == 0 or low == high:
        return low
    if weight == 1:
        return high
    if weight == 0.5:
        # Halves of equal weight must not depend on the direction in which they are taken.
        return low / 2 + high / 2 if abs(low) > 1e300 or abs(high) > 1e300 else (low + high) / 2
    gap = high - low
    if gap == float("inf"):
        return low * (1 - weight) + high * weight
    return min(max(low + weight * gap, low), high)


def hinges(x: Floats) -> tuple[float, float]:
    """Tukey's hinges: the medians of the lower and the upper half, each with the median where n is odd.

    Parameters
    ----------
    x
        The values, ascending, shape ``(n,)`` with n ≥ 1, in any unit.

    Returns
    -------
    (float, float)
        The lower and the upper hinge, in the unit of ``x``.

    Raises
    ------
    StatisticsError
        Without values.

    References
    ----------
    Tukey, J. W. 1977: Exploratory Data Analysis. Reading, Addison-Wesley.
    """
    if not x.size:
        raise StatisticsError("An empty sample has no hinges.")
    half = (x.size + 1) // 2
    return median_of_sorted(x[:half]), median_of_sorted(x[x.size - half :])


@dataclass(frozen=True)
class PercentileOfValue:
    """Where a value stands in a sample of n, in per cent."""

    below: float
    at_or_below: float
    n: int

    @property
    def mean(self) -> float:
        """The mean of both shares, the mid-distribution form, which is the default."""
        return (self.below + self.at_or_below) / 2


def percentile_of(sample: Sample, value: float) -> PercentileOfValue:
    """Where a value stands among those of a sample.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    value
        The value, in the sample's unit; it need not occur.

    Returns
    -------
    PercentileOfValue
        The share below it, the share at or below it, and their mean.

    Raises
    ------
    StatisticsError
        For a sample without values.

    References
    ----------
    Hyndman, R. J. & Fan, Y. 1996: Sample quantiles in statistical packages. The American Statistician 50, 361-365.
    """
    if not sample.n:
        raise StatisticsError("An empty sample has no percentiles.")
    below, above = sample.below(value), sample.above(value)
    return PercentileOfValue(100 * below / sample.n, 100 * (sample.n - above) / sample.n, sample.n)
