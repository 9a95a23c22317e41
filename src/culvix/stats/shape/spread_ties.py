"""Rounded values spread over the step they were rounded to, so that on another scale the steps are no shape."""

import numpy as np

from culvix.stats.core.sample import Sample

__all__ = ["spread_ties"]


def spread_ties(sample: Sample) -> Sample:
    """Equal values of a ``sample`` evenly between those that would have been rounded to them; itself if few are equal.

    Values of shape ``(n,)``, ascending, in the same unit. The step is the usual distance between different values, and
    where two are nearer to each other, half of that belongs to each.
    """
    values, counts = (np.asarray(each, dtype=np.float64) for each in sample.runs)
    if values.size < 3 or 2 * values.size >= sample.n:
        return sample
    gaps = np.diff(values)
    half = np.minimum(gaps, np.median(gaps)) / 2
    low = values - np.concatenate((half[:1], half))
    high = values + np.concatenate((half, half[-1:]))
    # Nothing is spread beyond 0 where all values are on one side of it: there may be no place for it.
    if values[0] >= 0:
        low[0] = max(low[0], values[0] / 2)
    if values[-1] <= 0:
        high[-1] = min(high[-1], values[-1] / 2)
    times = counts.astype(np.int64)
    within = np.arange(times.sum()) - np.repeat(np.cumsum(times) - times, times)
    share = (within + 0.5) / np.repeat(counts, times)
    return Sample.of(np.repeat(low, times) + share * np.repeat(high - low, times))
