"""Any outlier method within groups, or on a transformed scale with its span mapped back.

Within groups a value is judged among its own kind: ordinary overall, it may be far within its tank. On a transformed
scale a method made for symmetric columns can serve a skewed one.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from culvix.errors import StatisticsError
from culvix.stats.arrays import Floats, Ints
from culvix.stats.outliers.result import OutlierResult
from culvix.stats.sample import Sample
from culvix.stats.transform import TRANSFORMS, transform

__all__ = ["GroupedResult", "on_scale", "within_codes", "within_groups"]

Run = Callable[[Sample], OutlierResult]


@dataclass(frozen=True, eq=False)
class GroupedResult:
    """Results by group, and the rows (from 0, ascending) flagged within their own group with their scores there."""

    groups: dict[str, OutlierResult]
    rows: Ints
    scores: Floats


def within_groups(sample: Sample, labels: Sequence[str | None], run: Run) -> GroupedResult:
    """Apply ``run`` to each group of rows by itself; rows whose label is None belong to no group.

    Raises StatisticsError where there are not as many labels as rows.
    """
    if len(labels) != sample.values.size:
        raise StatisticsError(f"{sample.values.size} rows need as many group labels, not {len(labels)}.")
    names = sorted({label for label in labels if label is not None})
    places = {name: place for place, name in enumerate(names)}
    codes = np.array([-1 if label is None else places[label] for label in labels], dtype=np.int64)
    return within_codes(sample, codes, names, run)


def within_codes(sample: Sample, codes: Ints, names: Sequence[str], run: Run) -> GroupedResult:
    """As `within_groups`; ``codes`` (shape ``(rows,)``) index ``names``, −1 where a row belongs to no group."""
    order = np.argsort(codes, kind="stable")
    ends = np.searchsorted(codes[order], np.arange(len(names) + 1))
    found: dict[str, OutlierResult] = {}
    for place, name in enumerate(names):
        members = order[ends[place] : ends[place + 1]]
        result = run(Sample(sample.values[members]))
        found[name] = replace(result, rows=members[result.rows])
    rows = np.concatenate([r.rows for r in found.values()]) if found else np.zeros(0, dtype=np.int64)
    scores = np.concatenate([r.scores for r in found.values()]) if found else np.zeros(0)
    order = np.argsort(rows)
    return GroupedResult(found, rows[order], scores[order])


def on_scale(sample: Sample, key: str, run: Run) -> OutlierResult:
    """Apply ``run`` to ``sample`` transformed by ``key``; the span comes back in the column's own unit.

    Scores stay those of the transformed scale, which the settings name. Raises StatisticsError where a value lies
    outside the transformation's domain, or the transformation is unknown or cannot be undone.
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
    low, high = (end if np.isfinite(end) else float(x[place]) for end, place in zip(ends, (0, -1), strict=True))
    return replace(result, lower=min(low, high), upper=max(low, high), settings=settings)
