"""Two groups: tests of means and ranks against SciPy, and sizes of differences with their intervals."""

from itertools import combinations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.groups.hedges import hedges_g
from culvix.stats.groups.mann_whitney import cliff_delta, hodges_lehmann_shift, mann_whitney
from culvix.stats.groups.signed_rank import paired_shift, signed_rank
from culvix.stats.groups.two_means import mean_difference, mean_of_differences, paired_t, student_t, welch_t

SIZES = [(5, 5), (8, 20), (2, 3), (60, 45), (400, 37)]
values = st.lists(st.floats(-1e6, 1e6, allow_nan=False), min_size=1, max_size=12)


def drawn(n: int, m: int, *, ties: bool = False) -> tuple[np.ndarray, np.ndarray]:
    draw = np.random.default_rng((n, m, ties))
    x, y = draw.normal(10, 2, n), draw.normal(11, 5, m)
    return (x.round(), y.round()) if ties else (x, y)


@pytest.mark.parametrize(("n", "m"), SIZES)
def test_t_against_scipy(n: int, m: int) -> None:
    x, y = drawn(n, m)
    for ours, equal in ((student_t, True), (welch_t, False)):
        found, theirs = ours(Sample(x), Sample(y)), oracle.ttest_ind(x, y, equal_var=equal)
        assert (found.statistic, found.p) == pytest.approx((theirs.statistic, theirs.pvalue), rel=1e-10)
        assert found.freedom == (pytest.approx(theirs.df),) and found.sizes == (n, m)
        ends, effect = theirs.confidence_interval(0.9), mean_difference(Sample(x), Sample(y), 0.9, equal_spread=equal)
        assert (effect.low, effect.high) == pytest.approx((ends.low, ends.high), rel=1e-9)


def test_pairs_against_scipy_and_missing_ones_are_left_out() -> None:
    x, y = drawn(30, 30)
    x[4], y[9] = np.nan, np.inf
    used = np.isfinite(x) & np.isfinite(y)
    found, theirs = paired_t(x, y), oracle.ttest_rel(x[used], y[used])
    assert (found.statistic, found.p) == pytest.approx((theirs.statistic, theirs.pvalue)) and found.sizes == (28,)
    with pytest.raises(StatisticsError):
        paired_t(x, y[:-1])
    assert "no" in paired_t(x[:0], y[:0]).note and "equal" in paired_t(x, x + 1).note


def test_an_offset_and_a_tiny_unit_cost_no_digit() -> None:
    x, y = np.arange(10.0), np.arange(10.0) ** 1.5
    plain = welch_t(Sample(x), Sample(y)).statistic
    assert welch_t(Sample(x * 1e-200), Sample(y * 1e-200)).statistic == pytest.approx(plain, rel=1e-12)
    assert welch_t(Sample(x * 1e200), Sample(y * 1e200)).statistic == pytest.approx(plain, rel=1e-12)
    whole = np.arange(10.0) ** 2
    shifted = welch_t(Sample(x + 2.0**50), Sample(whole + 2.0**50)).statistic
    assert shifted == pytest.approx(welch_t(Sample(x), Sample(whole)).statistic, rel=1e-12)


@pytest.mark.parametrize(("n", "m"), SIZES)
@pytest.mark.parametrize("ties", [False, True])
def test_mann_whitney_against_scipy(n: int, m: int, ties: bool) -> None:
    x, y = drawn(n, m, ties=ties)
    found = mann_whitney(Sample(x), Sample(y))
    method = "exact" if found.p_by == "all arrangements" else "asymptotic"
    theirs = oracle.mannwhitneyu(x, y, method=method)
    assert found.statistic == theirs.statistic and found.p == pytest.approx(theirs.pvalue, rel=1e-9)
    assert (method == "exact") is (n * m <= 2500 and np.unique(np.concatenate((x, y))).size == n + m)


def test_u_of_three_and_four_from_all_arrangements() -> None:
    x, y = np.array([1.0, 4.0, 7.0]), np.array([2.0, 8.0, 9.0, 10.0])
    every = [sum(a > b for a in picked for b in set(range(7)) - set(picked)) for picked in combinations(range(7), 3)]
    expected = 2 * np.mean([u <= 2 for u in every])
    found = mann_whitney(Sample(x), Sample(y))
    assert found.statistic == 2 and found.p == pytest.approx(expected)


@pytest.mark.parametrize(("n", "m"), [(1, 1), (4, 7), (30, 51), (200, 300)])
def test_the_shift_is_the_median_of_all_differences(n: int, m: int) -> None:
    x, y = drawn(n, m)
    differences = np.sort((x[:, None] - y).ravel())
    found = hodges_lehmann_shift(Sample(x), Sample(y))
    assert found.value == pytest.approx(np.median(differences), rel=1e-12)
    if n * m < 28:
        assert found.low is None and "too small" in found.note
    else:
        # At the ends the test turns: what lies within is not rejected, what lies beyond is.
        for end, outwards in ((found.low, -1e-9), (found.high, 1e-9)):
            assert np.min(np.abs(differences - end)) < 1e-9
            inside, beyond = (mann_whitney(Sample(x - end + side), Sample(y)).p for side in (outwards, -outwards))
            assert inside > 0.05 * 0.97 and beyond <= 0.05 * 1.03


def test_cliff_delta_counts_pairs() -> None:
    x, y = drawn(12, 19, ties=True)
    expected = float(np.sign(x[:, None] - y).mean())
    found = cliff_delta(Sample(x), Sample(y))
    assert found.value == pytest.approx(expected) and -1 <= found.low < found.value < found.high <= 1
    turned = cliff_delta(Sample(y), Sample(x))
    assert (turned.low, turned.high) == pytest.approx((-found.high, -found.low))
    apart = cliff_delta(Sample(x), Sample(y + 100))
    assert (apart.value, apart.low) == (-1, -1) and -1 < apart.high < 0


def test_the_interval_of_cliff_delta_holds_as_often_as_it_says() -> None:
    draw = np.random.default_rng(3)
    truth, held = 2 * float(oracle.norm.cdf(0.8 / np.sqrt(2))) - 1, 0
    for _ in range(400):
        found = cliff_delta(Sample(draw.normal(0.8, 1, 25)), Sample(draw.normal(size=30)))
        held += found.low <= truth <= found.high
    assert 0.92 <= held / 400 <= 0.98


def test_g_is_cohens_d_without_its_bias_and_its_ends_are_noncentral() -> None:
    x, y = drawn(14, 9)
    found = hedges_g(Sample(x), Sample(y), 0.9)
    pooled = np.sqrt((13 * x.var(ddof=1) + 8 * y.var(ddof=1)) / 21)
    bias = 1 - 3 / (4 * 21 - 1)
    assert found.value == pytest.approx((x.mean() - y.mean()) / pooled * bias, rel=1e-3)
    t, size = oracle.ttest_ind(x, y).statistic, np.sqrt(14 * 9 / 23)
    exact = found.value / ((x.mean() - y.mean()) / pooled)
    assert oracle.nct.sf(t, 21, found.low / exact * size) == pytest.approx(0.05, abs=1e-6)
    assert oracle.nct.cdf(t, 21, found.high / exact * size) == pytest.approx(0.05, abs=1e-6)


def test_g_of_groups_far_apart_has_an_interval_about_it() -> None:
    draw = np.random.default_rng(1)
    found = hedges_g(Sample(draw.normal(100, 1, 40)), Sample(draw.normal(0, 1, 40)))
    assert found.low < found.value < found.high and found.value == pytest.approx(100, rel=0.2)


@pytest.mark.parametrize("n", [1, 5, 20, 50, 51, 300])
@pytest.mark.parametrize("ties", [False, True])
def test_signed_rank_against_scipy(n: int, ties: bool) -> None:
    x, y = drawn(n, n, ties=ties)
    found = signed_rank(x, y)
    kept = x != y
    if not kept.any():
        assert found.note == "No pair differs."
        return
    method = "exact" if found.p_by == "all signs" else "asymptotic"
    theirs = oracle.wilcoxon(x[kept], y[kept], method=method, correction=True)
    assert found.p == pytest.approx(theirs.pvalue, rel=1e-9) and found.sizes == (kept.sum(),)
    assert min(found.statistic, kept.sum() * (kept.sum() + 1) / 2 - found.statistic) == theirs.statistic


def test_the_paired_shift_is_the_centre_of_the_differences() -> None:
    x, y = drawn(25, 25)
    differences = x - y
    i, j = np.triu_indices(25)
    found = paired_shift(x, y)
    assert found.value == pytest.approx(np.median((differences[i] + differences[j]) / 2))
    assert found.low < found.value < found.high and paired_shift(x[:2], y[:2]).low is None


@given(values, values)
def test_any_two_groups_have_a_result_or_a_reason(x: list[float], y: list[float]) -> None:
    a, b = Sample(np.array(x)), Sample(np.array(y))
    for test in (student_t, welch_t, mann_whitney):
        found = test(a, b)
        assert (found.p is None) == bool(found.note) and (found.p is None or 0 <= found.p <= 1)
        turned = test(b, a)
        assert found.p is None or turned.p == pytest.approx(found.p, rel=1e-6, abs=1e-12)
    for effect in (hedges_g, cliff_delta, hodges_lehmann_shift, mean_difference):
        size = effect(a, b)
        assert size.value is None or np.isfinite(size.value)
        if size.low is not None:
            slack = 1e-9 * max(abs(size.low), abs(size.high), 1)
            assert size.low - slack <= size.value <= size.high + slack


def test_the_mean_of_differences_has_the_interval_of_paired_t() -> None:
    draw = np.random.default_rng(19)
    x = draw.normal(10, 2, 25)
    y = x + draw.normal(0.5, 1, 25)
    y[3] = np.nan
    both = np.isfinite(y)
    found = mean_of_differences(x, y, 0.9)
    ends = oracle.ttest_rel(x[both], y[both]).confidence_interval(0.9)
    assert (found.value, found.low, found.high) == pytest.approx((np.mean(x[both] - y[both]), ends.low, ends.high))
    one = mean_of_differences(x[:1], y[:1])
    assert one.value == pytest.approx(x[0] - y[0]) and one.low is None
    assert mean_of_differences(x[:1], np.array([np.nan])).value is None
