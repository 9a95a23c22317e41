"""The two-sample Kolmogorov–Smirnov test against an oracle, and what is known of a distance from quantiles alone."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.groups.kolmogorov_smirnov import distance_from_quantiles, two_sample_distance, two_sample_p

FINITE = st.floats(-1e6, 1e6, width=32)
SEVERAL = st.lists(FINITE, min_size=3, max_size=40).map(sorted).map(np.array)
"""The oracle gives a p value with the distance, which it cannot for one value."""
SAMPLES = st.lists(FINITE, min_size=1, max_size=40).map(sorted).map(np.array)


@given(SEVERAL, SEVERAL)
def test_distance_is_that_of_the_oracle(x, y):
    assert two_sample_distance(x, y) == pytest.approx(oracle.ks_2samp(x, y, method="asymp").statistic, abs=1e-12)


@pytest.mark.parametrize(("n", "m"), [(1, 1), (3, 7), (8, 8), (20, 45), (60, 90)])
def test_p_is_exact_for_small_samples(n, m):
    draw = np.random.default_rng(n * m)
    x, y = np.sort(draw.normal(size=n)), np.sort(draw.normal(0.4, size=m))
    expected = oracle.ks_2samp(x, y, method="exact")
    assert two_sample_p(expected.statistic, n, m) == pytest.approx(expected.pvalue, rel=1e-9, abs=1e-14)


def test_p_follows_the_limit_for_long_samples():
    draw = np.random.default_rng(5)
    x, y = np.sort(draw.normal(size=4000)), np.sort(draw.normal(0.05, size=6000))
    expected = oracle.kstwobign.sf(np.sqrt(4000 * 6000 / 10_000) * two_sample_distance(x, y))
    assert two_sample_p(two_sample_distance(x, y), 4000, 6000) == pytest.approx(expected, rel=1e-9)


@given(SAMPLES, SAMPLES)
def test_quantiles_never_tell_of_a_larger_distance(x, y):
    quantiles = np.quantile(y, np.linspace(0, 1, 101), method="inverted_cdf")
    assert distance_from_quantiles(x, quantiles) <= two_sample_distance(x, y) + 1e-9


def test_quantiles_come_close_to_the_distance_of_long_samples():
    draw = np.random.default_rng(8)
    x, y = np.sort(draw.normal(size=2000)), np.sort(draw.normal(0.8, size=3000))
    quantiles = np.quantile(y, np.linspace(0, 1, 101), method="inverted_cdf")
    assert distance_from_quantiles(x, quantiles) == pytest.approx(two_sample_distance(x, y), abs=0.02)


def test_a_sample_is_no_distance_from_its_own_quantiles():
    codes = np.sort(np.random.default_rng(3).integers(1, 7, 500)).astype(float)
    assert distance_from_quantiles(codes, np.quantile(codes, np.linspace(0, 1, 101), method="inverted_cdf")) == 0.0


def test_an_empty_sample_is_refused():
    nothing = np.zeros(0)
    for ask in (
        lambda: two_sample_distance(nothing, np.ones(3)),
        lambda: distance_from_quantiles(nothing, np.ones(3)),
        lambda: two_sample_p(0.5, 0, 3),
    ):
        with pytest.raises(StatisticsError):
            ask()
