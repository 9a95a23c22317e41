"""The z-score rule: a value is flagged where |x − mean| / SD passes k (3 by default; 2 and 2.5 are common).

Mean and SD move with the very values the rule looks for: no |z| can exceed (n−1)/√n (Shiffler 1988), so at
small n the rule can never fire, and several large values hide each other.
"""

from math import isfinite, sqrt

from culvix.stats.core.sample import Sample
from culvix.stats.outliers.result import OutlierResult, beyond, cannot_flag, check_limit, distances

__all__ = ["largest_possible_z", "z_score"]


def largest_possible_z(n: int) -> float:
    """The bound (n−1)/√n that no z-score of n values can exceed."""
    return (n - 1) / sqrt(n)


def z_score(sample: Sample, *, k: float = 3.0) -> OutlierResult:
    """Flag values more than ``k`` SDs (n−1) from the mean.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    k
        The limit, in SDs.

    Returns
    -------
    OutlierResult
        Span, flagged rows (from 0) in order of value with their scores, settings and n; a note where it cannot be
        applied.

    Raises
    ------
    StatisticsError
        For a limit that is not above 0.

    References
    ----------
    Shiffler, R. E. 1988: Maximum Z scores and outliers. The American Statistician 42, 79-80.
    """
    check_limit("k", k)
    n, settings = sample.n, {"k": k}
    if n < 2:
        return cannot_flag("z_score", "z", n, dict(settings), "A z-score needs at least two values.")
    centre = sample.moments
    if centre is None or not centre.sd:
        why = "All values are equal." if centre and centre.sd == 0 else "The SD is larger than a number can hold."
        return cannot_flag("z_score", "z", n, dict(settings), why)
    lower, upper = centre.mean - k * centre.sd, centre.mean + k * centre.sd
    if not (isfinite(lower) and isfinite(upper)):
        return cannot_flag("z_score", "z", n, dict(settings), "The span is beyond what a number can hold.")
    values, rows = beyond(sample, lower, upper)
    note = None
    if largest_possible_z(n) <= k:
        note = f"With n = {n} no |z| can pass {largest_possible_z(n):.2f}, so the limit {k:g} is out of reach."
    scores = distances(values, centre.mean, centre.sd)
    return OutlierResult("z_score", lower, upper, rows, scores, "z", n, dict(settings), note)
