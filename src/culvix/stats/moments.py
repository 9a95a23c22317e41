"""Mean, spread, skewness and kurtosis from central sums that survive large offsets and extreme scales.

Values are scaled by a power of two before anything is squared, deviations are taken from a first
mean, and their own small mean is removed again (the corrected two-pass algorithm: Chan, Golub &
LeVeque 1983). Skewness and kurtosis are named as in Joanes & Gill 1998.
"""

from dataclasses import dataclass
from math import isfinite, ldexp, sqrt

import numpy as np

from culvix.stats.arrays import Floats
from culvix.stats.sums import SHORT, binary_exponent, careful_sum, plain_sum

__all__ = ["Moments", "accurate_mean", "moments", "standard_error_kurtosis", "standard_error_skewness"]

_CANCELS = 1e-3
"""A mean this small beside the largest value is the rest of a cancellation, which asks for a careful sum."""

_SAFE_EXPONENT = 200
"""Fourth powers of values below 2**200 and above 2**-200 stay well inside a double."""


@dataclass(frozen=True)
class Moments:
    """Central moments of n values. A field is None where n or the spread does not allow it."""

    n: int
    sum: float | None
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


def _scaled(x: Floats) -> tuple[Floats, int]:
    """``x`` divided by a power of two where its size asks for it, and the exponent."""
    exponent = binary_exponent(x)
    if abs(exponent) <= _SAFE_EXPONENT:
        return x, 0
    return np.ldexp(x, -exponent), exponent


def _ldexp(value: float, exponent: int) -> float | None:
    try:
        return ldexp(value, exponent)
    except OverflowError:
        return None


def accurate_mean(x: Floats) -> float:
    """Mean of ``x`` (shape ``(n,)``, finite, n ≥ 1), first roughly and then by its deviations."""
    scaled, exponent = _scaled(x)
    total, exact = _total(scaled)
    centre = total / x.size
    return ldexp(centre if exact else centre + plain_sum(scaled - centre) / x.size, exponent)


def _total(x: Floats) -> tuple[float, bool]:
    """Sum of ``x``, and whether it is as good as exact, so that deviations from the mean have nothing to add to it."""
    total = plain_sum(x)
    if x.size <= SHORT:
        return total, True
    if abs(total) < _CANCELS * x.size * max(-float(x.min()), float(x.max())):
        return careful_sum(x), True
    return total, False


def moments(x: Floats) -> Moments:
    """Moments of ``x`` (shape ``(n,)``, finite, n ≥ 1), in any order.

    ``sd`` has n−1 in its denominator. ``g1`` and ``g2`` are None where all values are equal.
    """
    n = int(x.size)
    scaled, exponent = _scaled(x)
    low, high = float(scaled.min()), float(scaled.max())
    total, exact = _total(scaled)
    centre = total / n
    if low == high:
        # Summing equal values may round; their mean and spread are known without it.
        return Moments(n, _ldexp(total, exponent), float(x[0]), 0.0 if n > 1 else None, 0.0, None, None)
    deviations, spread_exponent = _scaled(scaled - centre)
    rest = plain_sum(deviations)
    deviations -= rest / n
    if not exact:
        # What a plain sum left over; beside an exact one it would only be the rounding of the deviations.
        left_over = ldexp(rest, spread_exponent)
        centre, total = centre + left_over / n, total + left_over
    mean = ldexp(centre, exponent)
    squares = deviations * deviations
    m2 = plain_sum(squares) / n
    cubes = np.multiply(squares, deviations, out=deviations)
    g1 = plain_sum(cubes) / n / (m2 * sqrt(m2))
    g2 = plain_sum(np.multiply(squares, squares, out=squares)) / n / (m2 * m2) - 3
    shift = exponent + spread_exponent
    sd = _ldexp(sqrt(m2 * n / (n - 1)), shift) if n > 1 else None
    return Moments(n, _ldexp(total, exponent), mean, sd, _ldexp(sqrt(m2), shift), g1, g2)


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
