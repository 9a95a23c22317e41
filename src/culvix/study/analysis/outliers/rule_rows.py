"""The rows of a column that a rule means, found anew wherever the rule is applied."""

import numpy as np

from culvix.errors import DecisionError
from culvix.stats.core.arrays import Ints
from culvix.stats.core.sample import Sample
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.analysis.outliers.flags import Flags
from culvix.study.document.rules import Rule

__all__ = ["rows_of"]


def rows_of(rule: Rule, flags: Flags, sample: Sample) -> Ints:
    """The rows (from 0, ascending) that ``rule`` means in a column with these ``flags`` and values.

    Raises DecisionError where its method is not among those that were applied.
    """
    if rule.kind == "flagged":
        if rule.method not in flags.results:
            name = OUTLIER_METHODS[rule.method or ""].name
            raise DecisionError(f"{name} is not among the chosen methods; choose it first.")
        return np.sort(flags.results[rule.method].rows)
    if rule.kind == "agreed":
        return np.asarray(flags.rows[flags.agreement >= rule.least])
    low, high = (-np.inf if rule.low is None else rule.low), (np.inf if rule.high is None else rule.high)
    with np.errstate(invalid="ignore"):
        inside = (sample.values >= low) & (sample.values <= high) & np.isfinite(sample.values)
    return np.flatnonzero(inside)
