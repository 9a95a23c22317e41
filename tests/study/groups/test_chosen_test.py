"""The way to a test: what each step rests on, where it leads, and what may be answered otherwise."""

import numpy as np
import pytest

from culvix.errors import StatisticsError
from culvix.stats.core.normal_scores import normal_scores
from culvix.stats.core.sample import Sample
from culvix.stats.registry import GROUP_TESTS
from culvix.study.groups.comparison.chosen_test import STEPS, choose_test


def normal(n: int, sd: float = 1.0) -> Sample:
    return Sample(10 + sd * normal_scores(n))


def skewed(n: int) -> Sample:
    return Sample(np.exp(1.2 * normal_scores(n)))


def test_shape_number_and_pairing_lead_to_the_test() -> None:
    assert choose_test([normal(20), normal(20, 3)]).key == "welch_t"
    assert choose_test([skewed(25), skewed(20)]).key == "mann_whitney"
    assert choose_test([normal(20), normal(30), normal(40, 4)]).key == "welch_one_way"
    assert choose_test([skewed(20), normal(30), normal(40)]).key == "kruskal_wallis"
    assert choose_test([normal(6), normal(6), normal(6)]).key == "one_way"
    assert choose_test([normal(9), normal(40), normal(40, 9)]).key == "welch_one_way", "small, and unequal spreads"
    assert choose_test([normal(15)], paired=True).key == "paired_t"
    assert choose_test([skewed(20)], paired=True).key == "signed_rank"


def test_large_groups_need_symmetry_rather_than_a_normal_shape() -> None:
    draw = np.random.default_rng(3)
    flat = [Sample(draw.random(300)) for _ in range(2)]
    assert choose_test(flat).key == "welch_t"
    assert choose_test([skewed(300), skewed(300)]).key == "mann_whitney"


def test_every_step_says_what_it_rests_on() -> None:
    found = choose_test([normal(20), normal(35, 2)])
    assert [step.key for step in found.steps] == list(STEPS) and all(step.question for step in found.steps)
    words = {step.key: step.words for step in found.steps}
    assert words["sizes"] == "2 groups of 20 to 35 values"
    assert "Shapiro–Wilk: p > 0.99" in words["shapes"] and "skewness of larger groups up to 0.00" in words["shapes"]
    assert words["spreads"].startswith("largest SD 2.0") and "Brown–Forsythe p " in words["spreads"]
    assert found.reason.startswith("Welch's t: means are fair")


def test_a_step_answered_otherwise_leads_elsewhere_and_says_so() -> None:
    groups = [normal(20), normal(20)]
    found = choose_test(groups, answers={"shapes": False})
    assert found.key == "mann_whitney" and next(step for step in found.steps if step.key == "shapes").chosen
    assert choose_test([skewed(25), skewed(20), skewed(9)], answers={"shapes": True, "spreads": True}).key == "one_way"
    for wrong in ({"sizes": True}, {"weather": True}):
        with pytest.raises(StatisticsError, match="shapes and spreads"):
            choose_test(groups, answers=wrong)


def test_empty_groups_are_passed_over_and_one_is_not_enough() -> None:
    nothing = Sample(np.zeros(0))
    assert choose_test([normal(20), nothing, normal(20)]).key == "welch_t"
    for groups in ([], [normal(20)], [normal(20), nothing]):
        with pytest.raises(StatisticsError, match="two groups"):
            choose_test(groups)


def test_whatever_is_chosen_is_a_test_for_so_many_groups_and_has_a_result() -> None:
    draw = np.random.default_rng(5)
    for _ in range(60):
        sizes = draw.integers(1, 40, draw.integers(2, 7))
        groups = [
            Sample(draw.normal(size=n) if draw.random() < 0.5 else draw.integers(0, 3, n).astype(float)) for n in sizes
        ]
        kind = GROUP_TESTS[choose_test(groups).key]
        assert kind.fits(len(groups), paired=False)
        found = kind.run(groups)
        assert (found.p is None) == bool(found.note)
