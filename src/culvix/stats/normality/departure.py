"""How far a sample departs from a normal, beside how far normal samples of its size do.

The lack 1 − r² of the Q-Q points has a nearly lognormal distribution in normal samples (Royston 1993, fitted up to
n = 5000; simulation shows it to hold within 5 % up to 200 000). The largest gap is that between a value and where the
normal with the sample's mean and SD would have it.
"""

from dataclasses import dataclass
from math import ceil, exp, log, log10, sqrt

import numpy as np
from scipy.special import ndtri

from culvix.stats.core.moments import standard_error_kurtosis, standard_error_skewness
from culvix.stats.core.recorded_steps import recorded_step
from culvix.stats.core.sample import Sample
from culvix.stats.display import correlation, number, signed
from culvix.stats.shape.qq import QQ

__all__ = ["Departure", "correlation_passed", "departure_of", "lack_distribution"]

_COARSE = 2.0
"""Steps of so many SDs by √n are seen by a test: rounding moves its statistic as chance does."""


@dataclass(frozen=True)
class Departure:
    """Sizes of a departure; None where a sample has too few values for one.

    ``passed`` is the Q-Q correlation that 95 % of normal samples of this n pass, ``gap`` the largest gap in SDs and
    ``step`` the step of recording in SDs, where it is coarse enough for a test to see.
    """

    correlation: float
    passed: float | None
    gap: float
    skewness: float | None
    se_skewness: float | None
    excess_kurtosis: float | None
    se_kurtosis: float | None
    step: float | None

    @property
    def text(self) -> str:
        """The sizes in words, each beside what chance gives."""
        if self.passed is None:
            parts = [f"Q-Q correlation {correlation(self.correlation)}"]
        else:
            positions = max(4, ceil(-log10(1 - self.passed)))
            shown, passed = correlation(self.correlation, positions), number(self.passed, positions)
            parts = [f"Q-Q correlation {shown}, where 95 % of normal columns this long pass {passed}"]
        parts.append(f"largest gap {number(self.gap, 2)} SDs")
        shapes = (
            ("skewness", self.skewness, self.se_skewness),
            ("excess kurtosis", self.excess_kurtosis, self.se_kurtosis),
        )
        for name, value, error in shapes:
            if value is not None and error is not None:
                parts.append(f"{name} {signed(value)} (SE {number(error, 2)})")
        return "; ".join(parts)


def lack_distribution(n: int) -> tuple[float, float]:
    """Mean and SD of ln(1 − r²) over normal samples of ``n`` ≥ 5 values (Royston 1993)."""
    u, v = log(n), log(log(n))
    return -1.2725 + 1.0521 * (v - u), 1.0308 - 0.26758 * (v + 2 / u)


def correlation_passed(n: int, share: float = 0.95) -> float:
    """The Q-Q correlation that the given share of normal samples of ``n`` ≥ 5 values passes."""
    mean, sd = lack_distribution(n)
    return sqrt(1 - min(exp(mean + float(ndtri(share)) * sd), 1.0))


def departure_of(sample: Sample, points: QQ | None) -> Departure | None:
    """The departure of ``sample``, whose Q-Q ``points`` are given; None without points."""
    centre, n = sample.moments, sample.n
    if points is None or centre is None or not centre.sd:
        return None
    gaps = (points.value - centre.mean) / centre.sd - points.z
    step = recorded_step(sample)
    coarse = step is not None and step / centre.sd * sqrt(n) > _COARSE
    return Departure(
        points.correlation,
        correlation_passed(n) if n >= 5 else None,
        float(np.abs(gaps).max()),
        centre.skewness,
        standard_error_skewness(n),
        centre.excess_kurtosis,
        standard_error_kurtosis(n),
        step / centre.sd if coarse and step is not None else None,
    )
