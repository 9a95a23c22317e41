"""Which end of a test's statistic speaks against normality is told by its row, and simulation goes by that."""

from dataclasses import replace

import numpy as np
import pytest

from culvix.stats.core.sample import Sample
from culvix.stats.normality.monte_carlo import monte_carlo_normality
from culvix.stats.registry import NORMALITY_TESTS


@pytest.mark.parametrize("key", list(NORMALITY_TESTS))
def test_p_is_small_for_a_sample_that_is_far_from_normal(key: str) -> None:
    sample = Sample(np.random.default_rng(1).lognormal(1, 1.5, 60))
    found = monte_carlo_normality({key: NORMALITY_TESTS[key]}, sample, repeats=99)[key]
    assert found.p == pytest.approx(0.01)


def test_a_test_of_its_own_is_simulated_by_its_row_alone() -> None:
    row = replace(NORMALITY_TESTS["lilliefors"], key="turned", tail="low")
    sample = Sample(np.random.default_rng(1).lognormal(1, 1.5, 60))
    assert monte_carlo_normality({"turned": row}, sample, repeats=99)["turned"].p == pytest.approx(1.0)
