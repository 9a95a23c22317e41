"""Dixon's ratio test for one outlier among 3 to 30 values (Dixon 1951): the gap at one end over the range.

r10 for n up to 7, r11 up to 10, r21 up to 13 and r22 beyond, so that a second far value hides the first less. Both ends
are tested, two-sided; the critical values come from four million normal samples for each n, good to 0.0005, and agree
with the corrected tables of Rorabacher 1991.
"""

from math import log

import numpy as np

from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.outliers.result import OutlierResult, by_test, cannot_flag, check_level

__all__ = ["dixon", "dixon_bound"]

_LEVELS = (0.2, 0.1, 0.05, 0.02, 0.01, 0.005)

_CRITICAL = {
    3: (0.8854, 0.9412, 0.9702, 0.9880, 0.9939, 0.9970),
    4: (0.6786, 0.7656, 0.8298, 0.8895, 0.9205, 0.9433),
    5: (0.5581, 0.6425, 0.7105, 0.7809, 0.8232, 0.8571),
    6: (0.4841, 0.5627, 0.6275, 0.6985, 0.7429, 0.7805),
    7: (0.4339, 0.5072, 0.5690, 0.6375, 0.6817, 0.7203),
    8: (0.4631, 0.5437, 0.6081, 0.6760, 0.7186, 0.7553),
    9: (0.4263, 0.5027, 0.5644, 0.6304, 0.6724, 0.7091),
    10: (0.3974, 0.4705, 0.5297, 0.5942, 0.6353, 0.6709),
    11: (0.5112, 0.5719, 0.6206, 0.6736, 0.7075, 0.7365),
    12: (0.4840, 0.5430, 0.5905, 0.6426, 0.6761, 0.7055),
    13: (0.4612, 0.5184, 0.5653, 0.6164, 0.6493, 0.6783),
    14: (0.4787, 0.5384, 0.5860, 0.6376, 0.6704, 0.6988),
    15: (0.4593, 0.5177, 0.5644, 0.6153, 0.6472, 0.6758),
    16: (0.4425, 0.4996, 0.5457, 0.5958, 0.6276, 0.6560),
    17: (0.4280, 0.4840, 0.5290, 0.5782, 0.6103, 0.6384),
    18: (0.4147, 0.4696, 0.5141, 0.5625, 0.5937, 0.6214),
    19: (0.4030, 0.4570, 0.5007, 0.5487, 0.5795, 0.6070),
    20: (0.3926, 0.4457, 0.4891, 0.5365, 0.5672, 0.5944),
    21: (0.3833, 0.4355, 0.4780, 0.5250, 0.5552, 0.5820),
    22: (0.3745, 0.4261, 0.4682, 0.5146, 0.5448, 0.5717),
    23: (0.3665, 0.4174, 0.4590, 0.5049, 0.5348, 0.5615),
    24: (0.3592, 0.4095, 0.4508, 0.4962, 0.5255, 0.5516),
    25: (0.3526, 0.4023, 0.4430, 0.4881, 0.5172, 0.5431),
    26: (0.3464, 0.3954, 0.4358, 0.4803, 0.5093, 0.5350),
    27: (0.3409, 0.3894, 0.4293, 0.4733, 0.5022, 0.5281),
    28: (0.3353, 0.3834, 0.4230, 0.4669, 0.4957, 0.5210),
    29: (0.3302, 0.3779, 0.4170, 0.4608, 0.4891, 0.5145),
    30: (0.3254, 0.3725, 0.4115, 0.4548, 0.4830, 0.5082),
}


def dixon_bound(n: int, alpha: float) -> float:
    """Critical ratio of n values (3 to 30) at the two-sided level ``alpha`` (0.005 to 0.2)."""
    levels = [log(level) for level in reversed(_LEVELS)]
    return float(np.interp(log(alpha), levels, list(reversed(_CRITICAL[n]))))


def dixon(sample: Sample, *, alpha: float = 0.05) -> OutlierResult:
    """Flag the end value with the wider gap where its ratio passes the bound; the score is the ratio.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    alpha
        The level of the test, between 0 and 1.

    Returns
    -------
    OutlierResult
        Span, flagged rows (from 0) in order of value with their scores, settings and n; a note where it cannot be
        applied.

    Raises
    ------
    StatisticsError
        For an α that does not lie between 0 and 1.

    References
    ----------
    Dixon, W. J. 1951: Ratios involving extreme values. Annals of Mathematical Statistics 22, 68-78.
    """
    check_level("alpha", alpha)
    n, x = sample.n, sample.sorted
    settings: dict[str, float | int | str] = {"alpha": alpha}
    if n not in _CRITICAL:
        return cannot_flag("dixon", "ratio", n, settings, f"Made for 3 to 30 values; n is {n}.")
    if not _LEVELS[-1] <= alpha <= _LEVELS[0]:
        why = f"Critical values are known for levels from {_LEVELS[-1]:g} to {_LEVELS[0]:g}."
        return cannot_flag("dixon", "ratio", n, settings, why)
    half = x / 2  # differences of halves stay inside a double
    low, high = _ratio(half), _ratio(-half[::-1])
    if low is None or high is None:
        return cannot_flag("dixon", "ratio", n, settings, "Too many values are equal for a ratio of gaps.")
    bound = dixon_bound(n, alpha)
    settings |= {"statistic": max(low, high), "critical": bound}
    note = "A test for one outlier only: several may hide each other."
    if max(low, high) <= bound:
        return by_test("dixon", "ratio", n, settings, note)
    row = int(sample.outer_rows(*((1, 0) if low > high else (0, 1)))[0])
    return by_test("dixon", "ratio", n, settings, note, rows=[row], scores=[max(low, high)])


def _ratio(x: Floats) -> float | None:
    """The ratio at the lower end of ascending ``x``; None where its range is 0."""
    n = x.size
    gap = 1 if n <= 10 else 2
    left_out = 0 if n <= 7 else 1 if n <= 13 else 2
    reach = float(x[n - 1 - left_out] - x[0])
    return float(x[gap] - x[0]) / reach if reach > 0 else None
