"""Rounded values spread over their step: none is moved farther than rounding moved it, and few ties are left alone."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.stats.core.sample import Sample
from culvix.stats.shape.axis_scale import axis_scale, on_axis
from culvix.stats.shape.density import density
from culvix.stats.shape.spread_ties import spread_ties


@given(st.lists(st.integers(0, 12), min_size=30, max_size=200), st.sampled_from([0.1, 1.0, 5.0]))
def test_no_value_leaves_the_step_that_it_was_rounded_to(steps: list[int], step: float) -> None:
    sample = Sample.of(np.array(steps) * step)
    spread = spread_ties(sample)
    assert spread.n == sample.n and spread.sorted[0] >= 0
    if spread is not sample:
        widest = float(np.median(np.diff(sample.runs[0]))) / 2
        assert np.abs(spread.sorted - sample.sorted).max() <= widest * (1 + 1e-9)
        assert spread.distinct > sample.distinct


@pytest.mark.parametrize("values", [[1.0, 2.0, 3.0, 4.0], [1.0, 1.0, 1.0], [], [1.0, 1.0, 2.0, 2.0, 2.0]])
def test_few_equal_or_few_different_values_stay(values: list[float]) -> None:
    sample = Sample.of(np.array(values))
    assert spread_ties(sample) is sample


def test_steps_of_rounding_are_no_peaks_on_a_log_axis() -> None:
    x = Sample.of(np.random.default_rng(2).lognormal(0.3, 0.6, 6_000).round(1) + 0.1)
    scale = axis_scale(x, "log")
    as_rounded, spread = (density(on_axis(each, scale)) for each in (x, spread_ties(x)))
    assert as_rounded is not None and spread is not None
    assert spread.peaks.size <= 3 < as_rounded.peaks.size
