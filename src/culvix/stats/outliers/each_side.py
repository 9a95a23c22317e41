"""A method with one limit below and another above: its span on each side, put together."""

from dataclasses import replace

import numpy as np

from culvix.stats.core.sample import Sample
from culvix.stats.outliers.result import OutlierResult

__all__ = ["each_side"]


def each_side(sample: Sample, below: OutlierResult, above: OutlierResult) -> OutlierResult:
    """The lower end of ``below`` and the upper end of ``above``, both results of one method on ``sample``.

    Where the method gives no span there are no sides, and ``below`` stands for both.
    """
    ends = below.lower, above.upper
    if ends[0] is None or ends[1] is None:
        return below
    low, high = sample.below(ends[0]), sample.above(ends[1])
    # Rows are in order of value: those beyond the lower end come first, those beyond the upper one last.
    first, last = slice(0, low), slice(above.rows.size - high, None)
    settings = dict(below.settings)
    settings |= {f"{key} above": value for key, value in above.settings.items() if settings.get(key) != value}
    return replace(
        below,
        upper=ends[1],
        rows=np.concatenate((below.rows[first], above.rows[last])),
        scores=np.concatenate((below.scores[first], above.scores[last])),
        settings=settings,
    )
