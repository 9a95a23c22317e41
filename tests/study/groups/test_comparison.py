"""Groups compared: the test and its result, sizes of differences, which differ, and what could have been seen."""

import numpy as np
import pytest
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core.normal_scores import normal_scores
from culvix.stats.core.sample import Sample
from culvix.study.groups.comparison.comparison import MOST_FOLLOWED_UP, compare_groups

LOW, HIGH = 10 + normal_scores(20), 11 + 2 * normal_scores(30)


def test_two_groups_have_the_difference_in_their_unit_and_without_one() -> None:
    found = compare_groups({"a": Sample(LOW), "empty": Sample(np.zeros(0)), "b": Sample(HIGH)})
    assert found.names == ("a", "b") and found.chosen.key == "welch_t"
    assert found.result.p == pytest.approx(oracle.ttest_ind(LOW, HIGH, equal_var=False).pvalue)
    difference, g = found.effects
    assert difference.value == pytest.approx(-1) and difference.low < -1 < difference.high and g.value < 0
    assert not found.follow_ups and set(found.others) >= {"student_t", "mann_whitney", "kolmogorov_smirnov"}


def test_groups_by_ranks_have_a_shift_and_follow_ups_by_ranks() -> None:
    skewed = {name: Sample(np.exp(1.3 * normal_scores(25)) + at) for at, name in enumerate("abc")}
    found = compare_groups(skewed)
    assert found.chosen.key == "kruskal_wallis" and len(found.follow_ups) == 3
    assert all(pair.low is None and pair.p is not None for pair in found.follow_ups)
    two = compare_groups({name: skewed[name] for name in "ac"})
    assert [effect.key for effect in two.effects] == ["hodges_lehmann_shift", "cliff_delta"]


def test_another_test_can_be_asked_for_and_says_what_would_fit() -> None:
    groups = {"a": Sample(LOW), "b": Sample(HIGH)}
    found = compare_groups(groups, test="student_t")
    assert found.result.p == pytest.approx(oracle.ttest_ind(LOW, HIGH).pvalue)
    assert found.chosen.reason == "Student's t, as chosen; Welch's t would fit."
    for wrong in ("paired_t", "none"):
        with pytest.raises(StatisticsError, match="no test of 2 groups"):
            compare_groups(groups, test=wrong)
    with pytest.raises(StatisticsError):
        compare_groups({**groups, "c": Sample(LOW)}, test="welch_t")


def test_what_could_have_been_seen_is_seen_four_times_in_five() -> None:
    draw = np.random.default_rng(9)
    difference = compare_groups({"a": Sample(LOW), "b": Sample(HIGH)}).detectable
    seen = [
        oracle.ttest_ind(draw.normal(0, 1, 20), draw.normal(difference, 2, 30), equal_var=False).pvalue < 0.05
        for _ in range(2000)
    ]
    assert np.mean(seen) == pytest.approx(0.8, abs=0.04)


def test_very_many_groups_are_not_followed_up_pair_by_pair() -> None:
    groups = {f"g{at}": Sample(LOW + at) for at in range(MOST_FOLLOWED_UP + 1)}
    assert compare_groups(groups).follow_ups == () and compare_groups(groups).result.p < 1e-9
