"""Outliers by false discovery rate: robust location and scale, t-tail p values, and Benjamini & Hochberg 1995.

Each value's distance from the median in scaled MADs gets a two-sided p value from Student's t; at rate Q (1 % by
default) about that share of the flagged values is expected to be flagged wrongly, if the rest is normal. The MAD is
brought to the SD by n/(n−0.8) (Croux & Rousseeuw 1992), and varies as an SD of half as many values would: n/2 degrees
of freedom hold the rate at every n (simulated; docs/calibration.md).
"""

import numpy as np
from scipy.special import stdtr, stdtrit

from culvix.stats.core.sample import Sample
from culvix.stats.outliers.modified_z import robust_scale
from culvix.stats.outliers.result import OutlierResult, beyond, by_test, cannot_flag, check_level, distances

__all__ = ["fdr"]

_ROUGH = 20


def fdr(sample: Sample, *, q: float = 0.01) -> OutlierResult:
    """Flag any number of values while holding the share of wrong flags.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    q
        The share of the flagged values that may be flagged wrongly, on average.

    Returns
    -------
    OutlierResult
        Span, flagged rows (from 0) in order of value with their scores, settings and n; a note where it cannot be
        applied. ``settings`` hold the t of the farthest value, the one beyond which values are flagged, and p of the
        farthest.

    Raises
    ------
    StatisticsError
        For a rate that does not lie between 0 and 1.

    References
    ----------
    Benjamini, Y. & Hochberg, Y. 1995: Controlling the false discovery rate. Journal of the Royal Statistical Society B
    57, 289-300.
    """
    check_level("q", q)
    n = sample.n
    settings: dict[str, float | int | str] = {"q": q}
    with np.errstate(over="ignore"):
        scale, note = robust_scale(sample)
        scale = scale and scale * n / (n - 0.8)
    if n < 3 or not scale or not np.isfinite(scale):
        return cannot_flag("fdr", "robust t", n, settings, note or "Needs at least 3 values with a spread.")
    reach = _reach(sample, q, scale)
    farthest = float(np.abs(distances(sample.sorted[[0, -1]], sample.median, scale)).max())
    needed = -float(stdtrit(n / 2, q / (2 * n))) if reach is None else reach / scale
    p = 2 * float(stdtr(n / 2, -farthest))
    if n < _ROUGH:
        note = " ".join(part for part in (note, f"With n = {n} the rate is held only roughly.") if part)
    settings |= {"statistic": farthest, "critical": needed, "p": p}
    if reach is None:
        return by_test("fdr", "robust t", n, settings, note)
    values, rows = beyond(sample, sample.median - reach, sample.median + reach)
    scores = distances(values, sample.median, scale)
    return by_test("fdr", "robust t", n, settings, note, rows=rows, scores=scores)


def _reach(sample: Sample, q: float, scale: float) -> float | None:
    """Distance from the median beyond which values are flagged; None where none is.

    The step-up rule takes the largest k for which k values lie beyond the distance whose p value is q·k/n. Starting
    from all n, the count beyond the distance for the last count falls until it agrees with itself: at that k.
    """
    n, centre = sample.n, sample.median
    k = n
    while k:
        reach = -float(stdtrit(n / 2, q * k / (2 * n))) * scale
        found = sample.below(centre - reach) + sample.above(centre + reach)
        if found >= k:
            return reach
        k = found
    return None
