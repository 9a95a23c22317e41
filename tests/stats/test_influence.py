"""Leaving values out in closed form against leaving them out, and which method is suggested for which shape."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from hypothesis.extra.numpy import arrays

from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.describe.influence import left_out, pearson_left_out, pearson_moved, pearson_without, sums_of
from culvix.stats.outliers.suggestion import suggested_method
from culvix.stats.registry import OUTLIER_METHODS

DRAW = np.random.default_rng(11)


def plain_values(least: int) -> st.SearchStrategy[np.ndarray]:
    return arrays(float, st.integers(least, 40), elements=st.floats(-1e3, 1e3).map(lambda v: round(v, 3)))


@given(plain_values(6))
@settings(max_examples=30, deadline=None)
def test_figures_without_one_value_are_those_of_the_rest(x: np.ndarray) -> None:
    sample = Sample(x)
    if np.ptp(x) < 1e-2:
        return
    found = left_out(sample, np.arange(x.size))
    for row in range(x.size):
        rest = sample.without(np.array([row])).moments
        assert found.mean[row] == pytest.approx(rest.mean, rel=1e-9, abs=1e-9)
        assert found.sd[row] == pytest.approx(rest.sd, rel=1e-9)
        if rest.skewness is not None:
            assert found.skewness[row] == pytest.approx(rest.skewness, abs=1e-8)
            assert found.excess_kurtosis[row] == pytest.approx(rest.excess_kurtosis, abs=1e-8)


@given(st.integers(6, 200), st.sampled_from([1e3, -99999.0, 1e9, -999999999.0, 1e15]), st.integers(0, 2**20))
@settings(max_examples=25, deadline=None)
def test_the_rest_of_an_outlier_is_what_it_is_without_it(n: int, outlier: float, seed: int) -> None:
    draw = np.random.default_rng(seed)
    x = draw.normal(7, 0.5, n)
    y = x + draw.normal(0, 1, n)
    x[n // 2] = outlier
    rows = np.array([0, n // 2])
    found, sums = left_out(Sample(x), rows), sums_of(x, y)
    singly = pearson_left_out(sums, x, y, rows)
    for position, row in enumerate(rows):
        rest = Sample(np.delete(x, row)).moments
        assert found.mean[position] == pytest.approx(rest.mean, rel=1e-12)
        assert found.sd[position] == pytest.approx(rest.sd, rel=1e-10)
        assert found.skewness[position] == pytest.approx(rest.skewness, abs=1e-9)
        assert found.excess_kurtosis[position] == pytest.approx(rest.excess_kurtosis, abs=1e-8)
        assert singly[position] == pytest.approx(pearson(np.delete(x, row), np.delete(y, row)).r, abs=1e-10)
    moved = np.where(np.arange(n) == n // 2, 7.2, x)
    assert pearson_moved(sums, x, y, n // 2, 7.2) == pytest.approx(pearson(moved, y).r, abs=1e-10)


def test_a_coefficient_without_rows_is_that_of_the_rest() -> None:
    x = DRAW.normal(size=300)
    y = 0.6 * x + DRAW.normal(size=300)
    x[3], y[3], x[7], y[9] = 400.0, -300.0, np.nan, np.nan
    sums, rows = sums_of(x, y), np.array([3, 7, 9, 20, 21])

    def direct(out: np.ndarray) -> PairCorrelation:
        left = x.copy()
        left[out] = np.nan
        return pearson(left, y)

    singly = pearson_left_out(sums, x, y, rows)
    assert singly == pytest.approx([direct(np.array([row])).r for row in rows], abs=1e-9)
    for out in (rows, np.array([20, 21]), np.arange(300)[x > 1], np.array([7])):
        found, rest = pearson_without(sums, x, y, out), direct(out)
        assert found.n == rest.n and found.p == pytest.approx(rest.p, rel=1e-9)
        assert found.r == pytest.approx(rest.r, abs=1e-12), "the far pair leaves too few digits to be taken away"
    assert sums_of(np.ones(9), np.arange(9.0)) is None
    assert np.isnan(pearson_left_out(None, x, y, rows)).all()


def test_too_little_to_leave_out_is_said() -> None:
    for values in ([1.0, 2.0, 3.0], [2.0] * 9, []):
        with pytest.raises(StatisticsError, match="at least five"):
            left_out(Sample.of(values), np.zeros(0, dtype=np.int64))
    with pytest.raises(StatisticsError, match="no value"):
        left_out(Sample.of([1, 2, 3, 4, 5, 6, np.nan]), np.array([6]))


@pytest.mark.parametrize(
    ("values", "key", "message"),
    [
        (DRAW.normal(size=2000), "generalized_esd", "near to normal"),
        (DRAW.normal(size=20_000), "fdr", "n 20"),
        (DRAW.lognormal(size=2000), "adjusted_fences", "to the right"),
        (-DRAW.gamma(1.0, size=2000), "adjusted_fences", "to the left"),
        (DRAW.standard_t(1, size=2000), "modified_z", "heavier"),
        (np.repeat([0.0, 5.0], [80, 20]), None, "Two different"),
        (np.repeat([0.0, 5.0, 7.0], [80, 15, 9]), None, "More than half"),
        (np.arange(6.0), "dixon", "gap"),
        (DRAW.normal(size=15), "generalized_esd", "too few to tell"),
        (DRAW.uniform(size=20_000), "iqr_fences", "Flat"),
        (DRAW.uniform(size=500), "iqr_fences", "Flat"),
        (np.concatenate((DRAW.normal(0, 1, 8000), DRAW.normal(5, 1, 8000))), "iqr_fences", "two peaks"),
        (DRAW.poisson(3, size=20_000).astype(float), "iqr_fences", "steps of"),
        (np.concatenate((DRAW.normal(size=3000), [40.0, 50.0])), "generalized_esd", "near to normal"),
        (np.full(9, 3.0), None, "equal"),
        (np.arange(2.0), None, "too few"),
    ],
)
def test_the_method_suggested_follows_the_shape(values: np.ndarray, key: str | None, message: str) -> None:
    found = suggested_method(Sample(values))
    assert found.key == key and message in found.reason.replace("\u202f", " ")
    assert key is None or OUTLIER_METHODS[key].run(Sample(values)).applies


def test_no_method_is_suggested_for_codes() -> None:
    assert suggested_method(Sample(DRAW.integers(1, 6, 400).astype(float)), codes=True).key is None
