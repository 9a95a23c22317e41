"""Outliers by false discovery rate: robust location and scale, t-tail p values, and Benjamini & Hochberg 1995.

Each value's distance from the median in scaled MADs gets a two-sided p value from Student's t with n−1 degrees of
freedom; at rate Q (1 % by default) about that share of the flagged values is expected to be flagged wrongly, if the
rest is normal.
"""

import numpy as np
from scipy.special import stdtr, stdtrit

from culvix.stats.outliers.modified_z import robust_scale
from culvix.stats.outliers.result import OutlierResult, beyond, by_test, cannot_flag, check_level, distances
from culvix.stats.sample import Sample

__all__ = ["fdr"]


def fdr(sample: Sample, *, q: float = 0.01) -> OutlierResult:
    """Flag any number of values at false discovery rate ``q``. Raises StatisticsError for a rate outside 0 to 1."""
    check_level("q", q)
    n = sample.n
    settings: dict[str, float | int | str] = {"q": q}
    with np.errstate(over="ignore"):
        scale, note = robust_scale(sample)
    if n < 3 or not scale or not np.isfinite(scale):
        return cannot_flag("fdr", "robust t", n, settings, note or "Needs at least 3 values with a spread.")
    # p cannot pass its share of the rate before it passes the rate itself, so only the tails are looked at.
    reach = float(stdtrit(n - 1, 1 - q / 2)) * scale
    values, rows = beyond(sample, sample.median - reach, sample.median + reach)
    scores = distances(values, sample.median, scale)
    order = np.argsort(-np.abs(scores), kind="stable")
    p = 2 * stdtr(n - 1, -np.abs(scores[order]))
    passed = np.flatnonzero(p <= q * np.arange(1, p.size + 1) / n)
    found = np.sort(order[: int(passed[-1]) + 1 if passed.size else 0])
    return by_test("fdr", "robust t", n, settings, note, rows=rows[found], scores=scores[found])
