"""Rosner's generalised extreme Studentised deviate test (Rosner 1983) for up to k outliers.

The farthest value is taken out k times, each deviate compared with its own bound; the number of outliers is the last
step at which the deviate passes its bound, so that masking does not end the search early. The bounds are too low for
the later steps in short samples: there fewer outliers are looked for, so that the level holds (docs/calibration.md).
"""

from math import sqrt

import numpy as np
from scipy.special import stdtrit

from culvix.stats.core.sample import Sample
from culvix.stats.display import plural
from culvix.stats.outliers.result import OutlierResult, by_test, cannot_flag, check_level, distances

__all__ = ["esd_bound", "generalized_esd"]

_FEWER = ((12, 1), (20, 2), (29, 3))
"""Up to each n, how many outliers are looked for at the most."""


def esd_bound(n: int, step: int, alpha: float) -> float:
    """Critical value λ of the ``step``-th deviate (from 1) of n values."""
    left = n - step
    t = float(stdtrit(left - 1, 1 - alpha / (2 * (left + 1))))
    return left * t / sqrt((left - 1 + t * t) * (left + 1))


def generalized_esd(sample: Sample, *, alpha: float = 0.05, k: int = 10) -> OutlierResult:
    """Flag up to ``k`` outliers at once; the score is the deviate at which each was taken out.

    In samples below n = 30 no more than 3 are looked for, to n = 20 no more than 2 and to n = 12 one.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    alpha
        The level of the test, between 0 and 1.
    k
        How many outliers are looked for at the most.

    Returns
    -------
    OutlierResult
        Span, flagged rows (from 0) in order of value with their scores, settings and n; a note where it cannot be
        applied. ``settings`` hold statistic and critical value of the step that decided: the last that passed its
        bound, or else the first.

    Raises
    ------
    StatisticsError
        For an α that does not lie between 0 and 1, and a ``k`` below 1.

    References
    ----------
    Rosner, B. 1983: Percentage points for a generalized ESD many-outlier procedure. Technometrics 25, 165-172.
    """
    check_level("alpha", alpha)
    n = sample.n
    most = min(int(k), (n - 1) // 2, next((few for end, few in _FEWER if n <= end), n))
    settings: dict[str, float | int | str] = {"alpha": alpha, "k": most}
    if n < 5 or sample.moments is None or not sample.moments.sd:
        why = "Needs at least 5 values that are not all equal, with a spread a number can hold."
        return cannot_flag("generalized_esd", "deviate", n, settings, why)
    deviates, order = _deviates(sample, most)
    passed = [step for step, d in enumerate(deviates, start=1) if d > esd_bound(n, step, alpha)]
    found = passed[-1] if passed else 0
    if deviates:
        step = max(found, 1)
        settings |= {"statistic": deviates[step - 1], "critical": esd_bound(n, step, alpha), "step": step}
    note = f"With n = {n} no more than {plural(most, 'outlier')} can be looked for." if most < k else None
    low = sum(position < n // 2 for position in order[:found])
    outer = dict(zip(sorted(order[:found]), sample.outer_rows(low, found - low).tolist(), strict=True))
    rows = [outer[position] for position in order[:found]]
    return by_test("generalized_esd", "deviate", n, settings, note, rows=rows, scores=deviates[:found])


def _deviates(sample: Sample, most: int) -> tuple[list[float], list[int]]:
    """The deviates of up to ``most`` steps and the places (in order of value) taken out.

    Sums of the standardised values are kept up as values are taken out; where little is left of them, they are
    worked out anew.
    """
    x, centre = sample.sorted, sample.moments
    assert centre is not None and centre.sd
    edge = min(most, x.size // 2)
    ends = np.concatenate((x[:edge], x[x.size - edge :]))
    low_end, high_end = np.split(distances(ends, centre.mean, centre.sd), 2)
    low = high = 0
    n, total, squares = x.size, 0.0, float(x.size - 1)
    deviates: list[float] = []
    order: list[int] = []
    for _ in range(edge):
        mean, variance = total / n, (squares - total * total / n) / (n - 1)
        if not variance > 1e-6:
            inner = distances(x[low : x.size - high], centre.mean, centre.sd)
            total, squares = float(inner.sum()), float((inner * inner).sum())
            mean, variance = float(inner.mean()), float(inner.var(ddof=1))
        if not variance > 0:
            break
        take_low = mean - low_end[low] > high_end[edge - 1 - high] - mean
        value = float(low_end[low] if take_low else high_end[edge - 1 - high])
        deviates.append(abs(value - mean) / sqrt(variance))
        order.append(low if take_low else x.size - 1 - high)
        low, high = (low + 1, high) if take_low else (low, high + 1)
        n, total, squares = n - 1, total - value, squares - value * value
    return deviates, order
