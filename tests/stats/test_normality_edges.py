"""Tests of normality across the joins of their formulas, and sentences that claim no more than they know."""

from itertools import pairwise

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.stats.core.recorded_steps import recorded_step
from culvix.stats.core.sample import Sample
from culvix.stats.normality.dagostino_k2 import dagostino_k2
from culvix.stats.normality.departure import correlation_passed, departure_of
from culvix.stats.normality.falling import falling
from culvix.stats.normality.verdict import judge_normality
from culvix.stats.registry import NORMALITY_TESTS
from culvix.stats.shape.qq import qq, straightness


@pytest.mark.parametrize("key", ["anderson_darling", "lilliefors", "cramer_von_mises"])
@pytest.mark.parametrize("n", [8, 20, 60, 2000])
def test_p_falls_as_the_statistic_rises(key: str, n: int) -> None:
    """Normal quantiles bent more and more, whose distances from a normal grow with it."""
    z = oracle.norm.ppf((np.arange(n) + 0.5) / n)
    found = [NORMALITY_TESTS[key].run(Sample(np.sinh(bend * z + 0.8 * bend))) for bend in np.linspace(0.01, 1.6, 500)]
    pairs = sorted((result.statistic, result.p) for result in found)
    assert all(later <= earlier for (_, earlier), (_, later) in pairwise(pairs))


@given(st.floats(0.001, 3))
def test_joined_formulas_keep_their_own_where_they_are_far_from_a_join(x: float) -> None:
    pieces = ((1.0, lambda v: np.exp(-v)), (float("inf"), lambda v: np.exp(-v) * 1.05))
    p = falling(x, pieces, 0.1)
    if abs(x - 1) > 0.1:
        assert p == np.exp(-x) * (1.05 if x > 1 else 1)
    assert np.exp(-x) <= p <= np.exp(-x) * 1.05


def test_k2_tells_its_parts_and_where_its_p_is_rough() -> None:
    x = np.random.default_rng(4).gamma(2, size=60)
    found = dagostino_k2(Sample(x))
    theirs = {"skewness": oracle.skewtest(x), "kurtosis": oracle.kurtosistest(x)}
    for name, (z, p) in found.parts.items():
        assert (z, p) == pytest.approx((theirs[name].statistic, theirs[name].pvalue), rel=1e-9)
    assert found.p < 0.02 and "below n = 1000" in found.note
    assert dagostino_k2(Sample(np.random.default_rng(4).gamma(2, size=1500))).note is None
    assert NORMALITY_TESTS["lilliefors"].run(Sample.of([1.0, 2.0, 3.0, 5.0])).p is None


@pytest.mark.parametrize("n", [6, 30, 300, 3000, 30_000])
def test_normal_columns_pass_the_correlation_as_often_as_is_said(n: int) -> None:
    draw, samples = np.random.default_rng(n), 300 if n < 10_000 else 80
    passed = [straightness(Sample(draw.normal(size=n)))[0] > correlation_passed(n) for _ in range(samples)]
    assert np.mean(passed) == pytest.approx(0.95, abs=4 * np.sqrt(0.05 * 0.95 / samples))


def test_a_large_skewed_column_is_not_called_slightly_off() -> None:
    sample = Sample(np.random.default_rng(2).gamma(9, size=20_000))
    verdict = judge_normality(sample, NORMALITY_TESTS["anderson_darling"].run(sample), None, qq(sample))
    found = departure_of(sample, qq(sample))
    assert found.correlation > 0.98 and found.passed > 0.9999 and found.step is None
    for message in ("where 95 % of normal columns this long pass 0.9999", "skewness +0.6", "(SE 0.02)", "largest gap"):
        assert message in verdict.sentence
    assert "slight" not in verdict.sentence and "marked" not in verdict.sentence


def test_steps_that_a_test_sees_are_said() -> None:
    draw = np.random.default_rng(6)
    coarse, fine = Sample(np.round(draw.normal(20, 1, 4000), 0)), Sample(np.round(draw.normal(20, 1, 4000), 4))
    said = [
        judge_normality(each, NORMALITY_TESTS["anderson_darling"].run(each), None, qq(each), alpha=0.999).sentence
        for each in (coarse, fine)
    ]
    step = 1 / np.std(coarse.values, ddof=1)
    assert f"in steps of {step:.2f} SDs" in said[0] and "steps" not in said[1]


@pytest.mark.parametrize(
    ("values", "step"),
    [([1, 6, 16, 11], 5), ([0.1, 0.3, 0.7], 0.2), ([2.0, 2.0], None), ([1.5], None), ([1e-3, 4e-3, 2e-3], 1e-3)],
)
def test_the_step_of_recording_is_the_largest_that_fits(values: list[float], step: float | None) -> None:
    assert recorded_step(Sample.of(values)) == (step if step is None else pytest.approx(step))
    assert recorded_step(Sample(np.random.default_rng(1).normal(size=50))) is None
