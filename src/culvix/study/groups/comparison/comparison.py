"""Groups of a column compared: the test that fits with the way to it, sizes of differences, and which differ."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from math import sqrt

import numpy as np
from scipy.special import stdtrit

from culvix.caching import cached_property
from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.core.sample import Sample
from culvix.stats.groups.follow_ups import PairOfGroups, dunn, games_howell
from culvix.stats.groups.hedges import hedges_g
from culvix.stats.groups.mann_whitney import cliff_delta, hodges_lehmann_shift
from culvix.stats.groups.result import Effect, GroupTest
from culvix.stats.groups.several_means import explained_shares
from culvix.stats.groups.several_ranks import explained_ranks
from culvix.stats.groups.signed_rank import paired_shift
from culvix.stats.groups.two_means import mean_difference, mean_of_differences, paired_differences, welch_t
from culvix.stats.registry import GROUP_TESTS
from culvix.study.groups.comparison.chosen_test import ChosenTest, choose_test

__all__ = ["MOST_FOLLOWED_UP", "GroupComparison", "compare_groups", "compare_pairs"]

MOST_FOLLOWED_UP = 20
"""Of more groups than this the pairs are too many to be read, and take long."""
_POWER = 0.8


@dataclass(frozen=True, eq=False)
class GroupComparison:
    """The groups ``names`` with their ``samples``, those without values left out; ``result`` is of the ``chosen`` test.

    What takes long is worked out when it is first asked for.
    """

    names: tuple[str, ...]
    samples: tuple[Sample, ...]
    chosen: ChosenTest
    result: GroupTest
    alpha: float
    confidence: float
    columns: tuple[Floats, Floats] | None = None
    """Of pairs the two columns, shape ``(rows,)``."""

    @property
    def pairs(self) -> int:
        """How many pairs of values are compared; 0 where groups are."""
        return 0 if self.columns is None else paired_differences(*self.columns).size

    @property
    def compares(self) -> str:
        """What the test compares: means, ranks, spreads or shapes."""
        return GROUP_TESTS[self.chosen.key].compares

    @property
    def fitting(self) -> tuple[str, ...]:
        """The keys of all tests for so many groups, the chosen one among them."""
        paired, many = self.columns is not None, len(self.samples)
        return tuple(key for key, kind in GROUP_TESTS.items() if kind.fits(many, paired=paired))

    @cached_property
    def others(self) -> dict[str, GroupTest]:
        """The results of all other tests for so many groups, by key."""
        tested = self.columns or self.samples
        return {key: GROUP_TESTS[key].run(tested) for key in self.fitting if key != self.chosen.key}

    @cached_property
    def effects(self) -> tuple[Effect, ...]:
        """How large the difference is, the plainest measure first."""
        if self.columns is not None:
            return self._of_pairs(*self.columns)
        if len(self.samples) > 2:
            if self.compares == "ranks":
                return (explained_ranks(self.samples, self.confidence),)
            return explained_shares(self.samples, self.confidence)
        x, y = self.samples
        if self.compares == "means":
            pooled = self.chosen.key == "student_t"
            return mean_difference(x, y, self.confidence, equal_spread=pooled), hedges_g(x, y, self.confidence)
        return hodges_lehmann_shift(x, y, self.confidence), cliff_delta(x, y, self.confidence)

    def _of_pairs(self, x: Floats, y: Floats) -> tuple[Effect, ...]:
        """The centre of the differences, and what the test is about first."""
        mean = mean_of_differences(x, y, self.confidence)
        shift = paired_shift(x, y, self.confidence)
        return (mean, shift) if self.compares == "means" else (shift, mean)

    @cached_property
    def follow_ups(self) -> tuple[PairOfGroups, ...]:
        """All pairs of groups, adjusted for all of them; nothing for two groups, or for too many."""
        if not 2 < len(self.samples) <= MOST_FOLLOWED_UP:
            return ()
        return dunn(self.samples) if self.compares == "ranks" else games_howell(self.samples, self.confidence)

    @cached_property
    def detectable(self) -> float | None:
        """The difference of two means that groups of these sizes and spreads show with a power of 80 %.

        Of several groups it is that of the two smallest ones, in the values' unit; None without a spread.
        """
        if self.columns is not None:
            return self._detectable_in_pairs(*self.columns)
        x, y = sorted(self.samples, key=lambda sample: sample.n)[:2]
        found, a, b = welch_t(x, y), x.moments, y.moments
        if found.p is None or a is None or b is None or a.sd is None or b.sd is None:
            return None
        error = sqrt(a.sd**2 / a.n + b.sd**2 / b.n)
        return float(stdtrit(found.freedom[0], 1 - self.alpha / 2) + stdtrit(found.freedom[0], _POWER)) * error

    def _detectable_in_pairs(self, x: Floats, y: Floats) -> float | None:
        differences = Sample.of(paired_differences(x, y)).moments
        if differences is None or not differences.sd:
            return None
        freedom, error = differences.n - 1, differences.sd / sqrt(differences.n)
        return float(stdtrit(freedom, 1 - self.alpha / 2) + stdtrit(freedom, _POWER)) * error


def compare_groups(
    groups: Mapping[str, Sample],
    *,
    alpha: float = 0.05,
    confidence: float = 0.95,
    ordered: bool = False,
    answers: Mapping[str, bool] | None = None,
    test: str | None = None,
) -> GroupComparison:
    """Compare ``groups`` by name, in one unit, with the test that fits, or the ``test`` named by its key.

    ``ordered`` and ``answers`` are those of `choose_test`. Raises StatisticsError for fewer than two groups with
    values, and for a test that is none for so many.
    """
    used = {name: sample for name, sample in groups.items() if sample.n}
    samples: Sequence[Sample] = tuple(used.values())
    chosen = choose_test(samples, alpha=alpha, ordered=ordered, answers=answers)
    chosen = _as_asked(chosen, test, len(samples), paired=False)
    result = GROUP_TESTS[chosen.key].run(samples)
    return GroupComparison(tuple(used), tuple(samples), chosen, result, alpha, confidence)


def compare_pairs(
    names: tuple[str, str],
    x: Floats,
    y: Floats,
    *,
    alpha: float = 0.05,
    confidence: float = 0.95,
    ordered: bool = False,
    answers: Mapping[str, bool] | None = None,
    test: str | None = None,
) -> GroupComparison:
    """Compare two columns of the same rows (both of shape ``(rows,)``, in one unit) by their differences.

    Rows without one of both values are left out. Raises StatisticsError where no pair is left, and for a ``test`` that
    is none for pairs.
    """
    both = np.isfinite(x) & np.isfinite(y)
    chosen = choose_test(
        [Sample.of(paired_differences(x, y))], alpha=alpha, paired=True, ordered=ordered, answers=answers
    )
    chosen = _as_asked(chosen, test, 2, paired=True)
    samples = Sample.of(x[both]), Sample.of(y[both])
    result = GROUP_TESTS[chosen.key].run((x, y))
    return GroupComparison(names, samples, chosen, result, alpha, confidence, (x, y))


def _as_asked(chosen: ChosenTest, test: str | None, groups: int, *, paired: bool) -> ChosenTest:
    """``chosen``, or the ``test`` asked for instead."""
    if test is None or test == chosen.key:
        return chosen
    if test not in GROUP_TESTS or not GROUP_TESTS[test].fits(groups, paired=paired):
        raise StatisticsError(f"{test} is no test of {'pairs' if paired else f'{groups} groups'}.")
    name, fitting = GROUP_TESTS[test].name, GROUP_TESTS[chosen.key].name
    return ChosenTest(test, chosen.steps, f"{name}, as chosen; {fitting} would fit.")
