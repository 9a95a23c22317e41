"""Random work: bootstrap intervals, simulated and permuted p values, bands calibrated by simulation."""

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import Cancelled, StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.distance import distance_correlation
from culvix.stats.describe.deferred import deferred_figures
from culvix.stats.describe.description import describe
from culvix.stats.describe.hodges_lehmann import hodges_lehmann
from culvix.stats.multivariate.row_distances import row_distances
from culvix.stats.normality.monte_carlo import monte_carlo_normality
from culvix.stats.registry import NORMALITY_TESTS
from culvix.stats.resampling.column_bootstrap import BOOTSTRAPPED, bootstrap_interval
from culvix.stats.shape.qq import qq
from culvix.stats.shape.qq_band import local_level
from tests.stats.hostile import arrays, numbers_in

TESTS = NORMALITY_TESTS


def stop(share: float, doing: str) -> None:
    raise Cancelled("Cancelled.")


@pytest.mark.parametrize("key", list(BOOTSTRAPPED))
def test_a_bootstrap_estimates_what_the_description_shows(key: str) -> None:
    sample = Sample.of(np.random.default_rng(1).gamma(2, size=151))
    figures = {**vars(describe(sample)), **vars(deferred_figures(sample)), "hodges_lehmann": hodges_lehmann(sample)}
    found = bootstrap_interval(sample, key, repeats=199)
    assert found.estimate == pytest.approx(figures[key], rel=1e-12) and found.method == "BCa"
    assert found.low < found.estimate < found.high and found.note is None
    again = bootstrap_interval(sample, key, repeats=199)
    assert again == found and bootstrap_interval(sample, key, repeats=199, seed=1) != found


@pytest.mark.parametrize(
    ("key", "statistic"),
    [
        ("median", np.median),
        ("trimmed_mean", lambda x, axis: oracle.trim_mean(x, 0.1, axis=axis)),
        ("mad_scaled", lambda x, axis: oracle.median_abs_deviation(x, axis=axis, scale="normal")),
    ],
)
def test_bca_intervals_against_scipy(key: str, statistic: Callable[..., np.ndarray]) -> None:
    x = np.random.default_rng(3).lognormal(size=120)
    theirs = oracle.bootstrap((x,), statistic, method="BCa", n_resamples=8000, rng=np.random.default_rng(0))
    ours = bootstrap_interval(Sample.of(x), key, repeats=8000)
    # The ends of either are themselves random by a few per cent of the width.
    slack = 0.1 * (theirs.confidence_interval.high - theirs.confidence_interval.low)
    assert (ours.low, ours.high) == pytest.approx(tuple(theirs.confidence_interval), abs=slack)


def test_long_columns_are_resampled_in_part_with_the_same_result() -> None:
    x = np.sort(np.random.default_rng(5).gamma(2, size=40_000))
    found = bootstrap_interval(Sample.of(x), "median")
    # The interval of order statistics needs no resampling at all.
    expected = describe(Sample.of(x)).ci_median
    assert found.method == "m out of n"
    assert (found.low, found.high) == pytest.approx(expected, abs=0.12 * (expected[1] - expected[0]))


def test_what_cannot_be_resampled_says_so() -> None:
    assert "at least 5" in (bootstrap_interval(Sample.of([1.0, 2, 3]), "median").note or "")
    tied = bootstrap_interval(Sample.of([1.0] * 50 + [2.0]), "median", repeats=99)
    assert tied.low == tied.high == 1 and "same value" in (tied.note or "")
    sample = Sample.of(np.arange(20.0))
    for wrong in ({"key": "mode"}, {"key": "median", "confidence": 1.0}, {"key": "median", "repeats": 0}):
        with pytest.raises(StatisticsError):
            bootstrap_interval(sample, **wrong)
    with pytest.raises(Cancelled):
        bootstrap_interval(sample, "median", progress=stop)


@settings(max_examples=25)
@given(arrays(), st.sampled_from(list(BOOTSTRAPPED)))
def test_bootstraps_never_show_nothing(x: np.ndarray, key: str) -> None:
    found = bootstrap_interval(Sample.of(x), key, repeats=20)
    assert all(np.isfinite(v) for v in numbers_in(found))
    assert (found.low is None) <= (found.note is not None)
    assert found.low is None or found.low <= found.high


def test_simulated_p_values_agree_with_the_formulas() -> None:
    sample = Sample.of(np.random.default_rng(8).gamma(6, size=40))
    simulated = monte_carlo_normality(TESTS, sample, repeats=1500)
    for key in ("shapiro_wilk", "shapiro_francia", "anderson_darling", "lilliefors", "cramer_von_mises"):
        expected = TESTS[key].run(sample).p
        assert simulated[key].p == pytest.approx(expected, abs=4 * simulated[key].standard_error + 0.005)
    assert monte_carlo_normality(TESTS, Sample.of([1.0])) == {}
    steps = Sample(np.round(np.random.default_rng(5).normal(size=500) / 0.6) * 0.6)
    found = monte_carlo_normality({"shapiro_wilk": TESTS["shapiro_wilk"]}, steps, repeats=199)["shapiro_wilk"]
    assert TESTS["shapiro_wilk"].run(steps).p < 0.001 and found.p > 0.05, (
        "normal samples in the same steps look the same"
    )
    with pytest.raises(Cancelled):
        monte_carlo_normality(TESTS, sample, progress=stop)


def test_long_columns_are_permuted_in_part() -> None:
    draw = np.random.default_rng(4)
    x = draw.normal(size=3000)
    bent = distance_correlation(x, x * x + draw.normal(size=3000), repeats=99)
    assert bent.p == 0.01 and bent.r > 0.3 and "sample of 600 of the 3000" in (bent.note or "")
    apart = distance_correlation(x, draw.permutation(x), repeats=99)
    assert apart.p > 0.05 and apart.r < 0.1
    assert distance_correlation(x[:50], draw.normal(size=50), repeats=19).note is None


def test_robust_distances_of_a_long_table_are_those_of_its_core() -> None:
    draw = np.random.default_rng(9)
    core = draw.multivariate_normal([0, 0, 0], [[1, 0.8, 0], [0.8, 1, 0], [0, 0, 4]], size=21_000)
    core[:6000] = draw.normal([9, -9, 0], 0.5, size=(6000, 3))
    found = row_distances([np.ascontiguousarray(column) for column in core.T])
    assert np.isin(np.arange(6000), found.flagged).all()
    assert np.isin(np.arange(6000, 21_000), found.flagged).mean() == pytest.approx(0.02, abs=0.008)
    assert (found.classical[:6000] < found.robust[:6000] / 3).all()
    assert found.contributions.sum(axis=1) == pytest.approx(found.robust**2, rel=1e-9)


@pytest.mark.parametrize("n", [4, 12, 150, 3000])
def test_the_simultaneous_band_holds_all_points_as_often_as_it_says(n: int) -> None:
    draw = np.random.default_rng(n)
    samples = 400
    outside = 0
    for _ in range(samples):
        points = qq(Sample.of(draw.normal(size=n)), band="simultaneous", level=0.9)
        outside += bool(((points.value < points.low) | (points.value > points.high)).any())
    assert outside / samples == pytest.approx(0.1, abs=0.05)
    assert local_level(n, 0.99) < local_level(n, 0.9) < local_level(n, 0.5)


def test_local_levels_fall_with_n_and_refuse_nonsense() -> None:
    levels = [local_level(n, 0.95) for n in (3, 10, 33, 100, 1234, 10**5, 10**6, 10**7)]
    assert levels == sorted(levels, reverse=True) and levels[-1] > 1e-5
    for n, level in ((2, 0.95), (10, 1.0), (10, 0.0)):
        with pytest.raises(StatisticsError):
            local_level(n, level)
