"""Wilcoxon's signed-rank test of pairs: whether differences lie as far above nothing as below it."""

from math import sqrt

import numpy as np
from scipy.special import ndtr

from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.pair_sums import average_ranks
from culvix.stats.describe.hodges_lehmann import hodges_lehmann, hodges_lehmann_interval, signed_rank_shares
from culvix.stats.groups.result import Effect, GroupTest, no_effect, no_test
from culvix.stats.groups.two_means import paired_differences

__all__ = ["paired_shift", "signed_rank"]

_MOST_EXACT = 50


def signed_rank(x: Floats, y: Floats) -> GroupTest:
    """Wilcoxon's test of the differences of two columns measured on the same rows; rows without one are left out.

    Parameters
    ----------
    x, y
        Two columns of shape ``(rows,)``, in one unit; rows where either is missing or infinite are left out.

    Returns
    -------
    GroupTest
        T⁺, the sum of the ranks of the positive differences x − y, p exact for up to 50 different ones, else by the
        normal with the correction for ties and for continuity: ``p_by`` says which. None with a note where no pair
        differs. ``sizes`` counts the pairs that differ.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Wilcoxon, F. 1945: Individual comparisons by ranking methods. Biometrics Bulletin 1, 80-83.
    """
    differences = paired_differences(x, y)
    differences = differences[differences != 0]
    n = int(differences.size)
    if not n:
        return no_test("signed_rank", (0,), "No pair differs.")
    ranks = average_ranks(np.abs(differences))
    positive = float(ranks[differences > 0].sum())
    _, counts = np.unique(ranks, return_counts=True)
    ties = float(np.sum(counts.astype(np.float64) ** 3 - counts))
    if not ties and n <= _MOST_EXACT:
        below = signed_rank_shares(n)
        least = round(min(positive, n * (n + 1) / 2 - positive))
        return GroupTest("signed_rank", positive, float(min(2 * below[least], 1.0)), (n,), p_by="all signs")
    variance = n * (n + 1) * (2 * n + 1) / 24 - ties / 48
    z = max(abs(positive - n * (n + 1) / 4) - 0.5, 0.0) / sqrt(variance)
    by = "the normal, corrected for ties and continuity" if ties else "the normal, corrected for continuity"
    return GroupTest("signed_rank", positive, float(2 * ndtr(-z)), (n,), p_by=by)


def paired_shift(x: Floats, y: Floats, confidence: float = 0.95) -> Effect:
    """The Hodges–Lehmann centre of the differences x − y, with the interval of the signed-rank test.

    Parameters
    ----------
    x, y
        Two columns of shape ``(rows,)``, in one unit; rows where either is missing or infinite are left out.
    confidence
        At least so often, as a share, the interval holds the centre of symmetric differences.

    Returns
    -------
    Effect
        The shift, in the values' unit; without ends where there are too few pairs.

    Raises
    ------
    StatisticsError
        For columns of different lengths.

    References
    ----------
    Hodges, J. L. & Lehmann, E. L. 1963: Estimates of location based on rank tests. Annals of Mathematical Statistics
    34, 598-611.
    """
    sample = Sample(paired_differences(x, y))
    shift, ends = hodges_lehmann(sample), hodges_lehmann_interval(sample, confidence)
    if shift is None:
        return no_effect("paired_shift", confidence, "There are no pairs.")
    if ends is None:
        note = "There are too few pairs for an interval of this confidence."
        return Effect("paired_shift", shift, None, None, confidence, note)
    return Effect("paired_shift", shift, *ends, confidence)
