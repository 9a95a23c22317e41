"""Any outlier method within groups, or on a transformed scale with its span mapped back.

Within groups a value is judged among its own kind: ordinary overall, it may be far within its tank. On a transformed
scale a method made for symmetric columns can serve a skewed one.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.core.sample import Sample
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.shape.transform import TRANSFORMS, transform

__all__ = ["GroupedResult", "on_scale", "within_codes", "within_groups"]

Run = Callable[[Sample], OutlierResult]


@dataclass(frozen=True, eq=False)
class GroupedResult:
    """Results by group, and the rows (from 0, ascending) flagged within their own group with their scores there."""

    groups: dict[str, OutlierResult]
    rows: Ints
    scores: Floats


def within_groups(sample: Sample, labels: Sequence[str | None], run: Run) -> GroupedResult:
    """Apply an outlier method to each group of rows by itself.

    Parameters
    ----------
    sample
        The values of all rows, in any unit.
    labels
        The group of each row; a row whose label is None belongs to no group.
    run
        The method, applied to each group's values.

    Returns
    -------
    GroupedResult
        The results by group, and the flagged rows of all of them.

    Raises
    ------
    StatisticsError
        Where there are not as many labels as rows.

    References
    ----------
    Barnett, V. & Lewis, T. 1994: Outliers in Statistical Data. Chichester, Wiley, section 2.
    """
    if len(labels) != sample.values.size:
        raise StatisticsError(f"{sample.values.size} rows need as many group labels, not {len(labels)}.")
    names = sorted({label for label in labels if label is not None})
    positions = {name: position for position, name in enumerate(names)}
    codes = np.array([-1 if label is None else positions[label] for label in labels], dtype=np.int64)
    return within_codes(sample, codes, names, run)


def within_codes(sample: Sample, codes: Ints, names: Sequence[str], run: Run) -> GroupedResult:
    """As `within_groups`; ``codes`` (shape ``(rows,)``) index ``names``, −1 where a row belongs to no group."""
    order = np.argsort(codes, kind="stable")
    ends = np.searchsorted(codes[order], np.arange(len(names) + 1))
    found: dict[str, OutlierResult] = {}
    for position, name in enumerate(names):
        members = order[ends[position] : ends[position + 1]]
        result = run(Sample(sample.values[members]))
        found[name] = replace(result, rows=members[result.rows])
    rows = np.concatenate([r.rows for r in found.values()]) if found else np.zeros(0, dtype=np.int64)
    scores = np.concatenate([r.scores for r in found.values()]) if found else np.zeros(0)
    order = np.argsort(rows)
    return GroupedResult(found, rows[order], scores[order])


def on_scale(sample: Sample, key: str, run: Run) -> OutlierResult:
    """Apply an outlier method to the values on another scale; the span comes back in the column's own unit.

    Parameters
    ----------
    sample
        The values, in any unit; missing and infinite ones are left out.
    key
        The scale, by its name in `TRANSFORMS`.
    run
        The method, applied to the transformed values.

    Returns
    -------
    OutlierResult
        Its scores stay those of the scale, which the settings name.

    Raises
    ------
    StatisticsError
        Where a value has no place on the scale, and for a scale that is unknown or cannot be undone.

    References
    ----------
    Box, G. E. P. & Cox, D. R. 1964: An analysis of transformations. Journal of the Royal Statistical Society B 26,
    211-252.
    """
    if key in TRANSFORMS and TRANSFORMS[key].inverse is None:
        raise StatisticsError(f"A span on the scale {TRANSFORMS[key].name} cannot be mapped back.")
    result = run(Sample(transform(sample, key)))
    inverse = TRANSFORMS[key].inverse
    assert inverse is not None
    settings = {**result.settings, "scale": key}
    if result.lower is None or result.upper is None:
        return replace(result, settings=settings)
    with np.errstate(all="ignore"):
        ends = [float(inverse(np.array(end))) for end in (result.lower, result.upper)]
    # A limit beyond the reach of the scale is no limit on that side, for which the outermost value stands.
    x = sample.sorted
    low, high = (end if np.isfinite(end) else float(x[position]) for end, position in zip(ends, (0, -1), strict=True))
    return replace(result, lower=min(low, high), upper=max(low, high), settings=settings)
