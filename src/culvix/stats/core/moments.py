"""Mean, spread, skewness and kurtosis from central sums that survive large offsets and extreme scales.

Values are scaled by a power of two before anything is squared, deviations are taken from a first
mean, and their own small mean is removed again (the corrected two-pass algorithm: Chan, Golub &
LeVeque 1983). Skewness and kurtosis are named as in Joanes & Gill 1998.
"""

from dataclasses import dataclass, replace
from math import fsum, isfinite, ldexp, sqrt

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.sums import SHORT, binary_exponent, blocks, careful_sum, plain_dot, plain_sum, summed

__all__ = [
    "Moments",
    "about_the_mean",
    "accurate_mean",
    "central_sums",
    "moments",
    "standard_error_kurtosis",
    "standard_error_skewness",
    "standardise",
]

_CANCELS = 1e-3
"""A mean this small beside the largest value is the rest of a cancellation, which asks for a careful sum."""

_SMALL_SHIFT = 1e-4
"""SDs between the first mean and the mean of the deviations from it up to which sums about the first serve."""

_SAFE_EXPONENT = 200
"""Fourth powers of values below 2**200 and above 2**-200 stay well inside a double."""


@dataclass(frozen=True)
class Moments:
    """Central moments of n values. A field is None where n or the spread does not allow it."""

    n: int
    sum: float | int | None
    mean: float
    sd: float | None
    sd_n: float | None
    """Standard deviation with n in the denominator."""
    g1: float | None
    g2: float | None

    @property
    def skewness(self) -> float | None:
        """G1, the adjusted coefficient of skewness; needs n ≥ 3."""
        if self.g1 is None or self.n < 3:
            return None
        return self.g1 * sqrt(self.n * (self.n - 1)) / (self.n - 2)

    @property
    def excess_kurtosis(self) -> float | None:
        """G2, the adjusted coefficient of excess kurtosis; needs n ≥ 4."""
        n = self.n
        if self.g2 is None or n < 4:
            return None
        return (n - 1) / ((n - 2) * (n - 3)) * ((n + 1) * self.g2 + 6)


def _scaled(x: Floats) -> tuple[Floats, int, float, float]:
    """``x`` divided by a power of two where its size asks for it, the exponent, and the extremes after that."""
    low, high = float(x.min()), float(x.max())
    exponent = binary_exponent(low, high)
    if abs(exponent) <= _SAFE_EXPONENT:
        return x, 0, low, high
    return np.ldexp(x, -exponent), exponent, ldexp(low, -exponent), ldexp(high, -exponent)


def _ldexp(value: float, exponent: int) -> float | None:
    try:
        return ldexp(value, exponent)
    except OverflowError:
        return None


def standardise(x: Floats, mean: float, sd: float) -> Floats:
    """``x`` less ``mean``, over ``sd`` > 0."""
    if abs(mean) + sd > 1e300:
        # Halves keep the differences inside a double.
        return np.asarray((x / 2 - mean / 2) / (sd / 2))
    y = x - mean
    y /= sd
    return np.asarray(y)


def accurate_mean(x: Floats) -> float:
    """Mean of ``x`` (shape ``(n,)``, finite, n ≥ 1), first roughly and then by its deviations."""
    scaled, exponent, low, high = _scaled(x)
    total, exact = _total(scaled, low, high)
    centre = total / x.size
    if not exact:
        centre += summed(scaled, lambda part: part - centre) / x.size
    return ldexp(centre, exponent)


def _total(x: Floats, low: float, high: float) -> tuple[float, bool]:
    """Sum of ``x``, whose extremes are ``low`` and ``high``, and whether it is as good as exact.

    Deviations from the mean have nothing to add to an exact one.
    """
    total = plain_sum(x)
    if x.size <= SHORT:
        return total, True
    if abs(total) < _CANCELS * x.size * max(-low, high):
        return careful_sum(x), True
    return total, False


def moments(x: Floats, whole: int | None = None) -> Moments:
    """Mean, spread, skewness and kurtosis of values in any order.

    Parameters
    ----------
    x
        The values, finite, shape ``(n,)`` with n ≥ 1, in any unit.
    whole
        The exact sum of whole numbers, where it is known: the mean is then that over n, rounded once.

    Returns
    -------
    Moments
        ``sd`` with n−1 in its denominator; ``g1`` and ``g2`` are None where all values are equal.

    References
    ----------
    Chan, T. F., Golub, G. H. & LeVeque, R. J. 1983: Algorithms for computing the sample variance. The American
    Statistician 37, 242-247.
    """
    found = _moments(x)
    if whole is None:
        return found
    # Division of integers rounds once.
    return replace(found, sum=whole if abs(whole) <= _LARGEST else None, mean=whole / found.n)


_LARGEST = int(np.finfo(np.float64).max)


def _moments(x: Floats) -> Moments:
    n = int(x.size)
    scaled, exponent, low, high = _scaled(x)
    total, exact = _total(scaled, low, high)
    centre = total / n
    if low == high:
        # Summing equal values may round; their mean and spread are known without it.
        return Moments(n, _ldexp(total, exponent), float(x[0]), 0.0 if n > 1 else None, 0.0, None, None)
    reach = max(high - centre, centre - low)
    spread_exponent = binary_exponent(-reach, reach)
    if abs(spread_exponent) <= _SAFE_EXPONENT:
        spread_exponent = 0
    offset, sums = 0.0, central_sums(scaled, centre, spread_exponent, 0.0)
    rest = sums[0]
    if (rest / n) ** 2 > _SMALL_SHIFT**2 * sums[1] / n:
        offset = rest / n
        sums = central_sums(scaled, centre, spread_exponent, offset)
    if not exact:
        # What a plain sum left over; beside an exact one it would only be the rounding of the deviations.
        left_over = ldexp(rest, spread_exponent)
        centre, total = centre + left_over / n, total + left_over
    mean = ldexp(centre, exponent)
    m2, m3, m4 = about_the_mean(n, sums)
    shift = exponent + spread_exponent
    sd = _ldexp(sqrt(m2 * n / (n - 1)), shift) if n > 1 else None
    g1, g2 = m3 / (m2 * sqrt(m2)), m4 / (m2 * m2) - 3
    return Moments(n, _ldexp(total, exponent), mean, sd, _ldexp(sqrt(m2), shift), g1, g2)


_Sums = tuple[float, float, float, float]


def central_sums(x: Floats, centre: float, exponent: int = 0, offset: float = 0.0) -> _Sums:
    """Sums of the first four powers of (x − centre) / 2**exponent − offset, block by block."""
    powers: list[_Sums] = [(0.0, 0.0, 0.0, 0.0)]
    for part in blocks(x.size):
        deviations = x[part] - centre
        if exponent:
            deviations = np.ldexp(deviations, -exponent)
        if offset:
            deviations -= offset
        squares = deviations * deviations
        total, second = plain_sum(deviations), plain_sum(squares)
        powers.append((total, second, plain_dot(deviations, squares), plain_dot(squares, squares)))
    one, two, three, four = (fsum(column) for column in zip(*powers, strict=True))
    return one, two, three, four


def about_the_mean(n: int, sums: _Sums) -> tuple[float, float, float]:
    """Second to fourth central moments from sums about a point so near the mean that nothing cancels."""
    d, s2, s3, s4 = (value / n for value in sums)
    return s2 - d * d, s3 - 3 * d * s2 + 2 * d**3, s4 - 4 * d * s3 + 6 * d * d * s2 - 3 * d**4


def standard_error_skewness(n: int) -> float | None:
    """Standard error of G1 under normality; None below n = 3."""
    if n < 3:
        return None
    return sqrt(6 * n * (n - 1) / ((n - 2) * (n + 1) * (n + 3)))


def standard_error_kurtosis(n: int) -> float | None:
    """Standard error of G2 under normality; None below n = 4."""
    skewness = standard_error_skewness(n)
    if n < 4 or skewness is None:
        return None
    value = 2 * skewness * sqrt((n * n - 1) / ((n - 3) * (n + 5)))
    return value if isfinite(value) else None
