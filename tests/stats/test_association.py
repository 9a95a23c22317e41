"""Categories against values and against each other, and agreement: an oracle, published cases, what must hold."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.association.agreement import concordance, limits_of_agreement
from culvix.stats.association.correlation_ratio import epsilon_squared, eta_squared
from culvix.stats.association.cramers_v import contingency, cramers_v
from culvix.stats.correlation.pearson import pearson

LARGE_METER = np.array([494, 395, 516, 434, 476, 557, 413, 442, 650, 433, 417, 656, 267, 478, 178, 423, 427.0])
SMALL_METER = np.array([512, 430, 520, 428, 500, 600, 364, 380, 658, 445, 432, 626, 260, 477, 259, 350, 451.0])
"""Peak flow by two meters, the worked example of Bland & Altman 1986."""


def grouped(seed: int, n: int = 120) -> tuple[np.ndarray, np.ndarray]:
    draw = np.random.default_rng(seed)
    groups = draw.integers(0, 4, n)
    return draw.normal(groups * 0.4, 1).round(1), groups


@pytest.mark.parametrize("seed", range(4))
def test_shares_between_groups_are_those_of_the_oracle(seed: int) -> None:
    values, groups = grouped(seed)
    parts = [values[groups == k] for k in range(4)]
    f, h = oracle.f_oneway(*parts), oracle.kruskal(*parts)
    eta, epsilon = eta_squared(values, groups), epsilon_squared(values, groups)
    n, k = values.size, 4
    assert eta.p == pytest.approx(f.pvalue) and epsilon.p == pytest.approx(h.pvalue)
    assert eta.value == pytest.approx(f.statistic * (k - 1) / (f.statistic * (k - 1) + n - k))
    assert epsilon.value == pytest.approx(h.statistic / (n - 1))


def test_of_two_groups_the_ratio_is_the_squared_correlation() -> None:
    values, groups = grouped(9)
    groups = groups // 2
    assert eta_squared(values, groups).value == pytest.approx(pearson(values, groups.astype(float)).r ** 2)


def test_rows_without_a_value_or_a_group_are_left_out() -> None:
    values, groups = grouped(3)
    more = np.concatenate((values, [np.nan, 99.0, np.inf]))
    assert eta_squared(more, np.concatenate((groups, [1, -1, 2]))) == eta_squared(values, groups)
    assert eta_squared(values, np.zeros_like(groups)).note == "Needs values in at least two groups."
    assert "more values than groups" in epsilon_squared(np.arange(3.0), np.arange(3)).note
    assert eta_squared(np.ones(6), np.arange(6) % 2).note == "All values are equal."
    with pytest.raises(StatisticsError):
        eta_squared(values, groups[:-1])


@given(st.floats(1e-3, 1e3), st.floats(-1e6, 1e6), st.integers(0, 30))
def test_the_ratio_has_no_unit(factor: float, shift: float, seed: int) -> None:
    values, groups = grouped(seed, 60)
    assert eta_squared(values * factor + shift, groups).value == pytest.approx(
        eta_squared(values, groups).value, abs=1e-6
    )


def test_groups_far_from_zero_lose_no_digits() -> None:
    values, groups = grouped(5)
    values = np.round(10 * values) / 64
    assert eta_squared(values + 2.0**40, groups).value == pytest.approx(eta_squared(values, groups).value, rel=1e-9)


@pytest.mark.parametrize("seed", range(4))
def test_v_is_that_of_the_oracle_with_its_bias_taken_out(seed: int) -> None:
    draw = np.random.default_rng(seed)
    one = draw.integers(0, 3, 200)
    other = (one + draw.integers(0, 3, 200)) % 4
    counts = contingency(one, other)
    plain = oracle.contingency.association(counts, method="cramer")
    n, (r, c) = counts.sum(), counts.shape
    phi = plain**2 * (min(r, c) - 1) - (r - 1) * (c - 1) / (n - 1)
    sizes = [k - (k - 1) ** 2 / (n - 1) for k in (r, c)]
    found = cramers_v(one, other)
    assert found.value == pytest.approx(np.sqrt(max(phi, 0) / (min(sizes) - 1)))
    assert found.p == pytest.approx(oracle.chi2_contingency(counts, correction=False).pvalue) and found.n == n


def test_v_of_independent_columns_is_near_nothing_and_of_equal_ones_is_one() -> None:
    draw = np.random.default_rng(2)
    found = [cramers_v(draw.integers(0, 8, 60), draw.integers(0, 8, 60)).value for _ in range(60)]
    assert np.mean(found) < 0.12
    codes = draw.integers(0, 5, 300)
    assert cramers_v(codes, 4 - codes).value == pytest.approx(1)
    assert cramers_v(codes, np.zeros_like(codes)).value is None
    assert cramers_v(np.array([0, 1, -1, 0]), np.array([0, 1, 1, -1])).n == 2


def test_limits_of_the_published_example() -> None:
    found = limits_of_agreement(SMALL_METER, LARGE_METER)
    assert found.bias == pytest.approx(-2.1, abs=0.05) and found.sd == pytest.approx(38.8, abs=0.05)
    assert found.limits == pytest.approx((-2.1 - 1.96 * 38.8, -2.1 + 1.96 * 38.8), abs=0.2)
    # The paper: standard errors of 9.4 for the bias and of 16.3 for a limit.
    assert found.limit_error == pytest.approx(16.3, abs=0.05)
    assert (found.bias_interval[1] - found.bias) / 1.96 == pytest.approx(9.4, abs=0.05)


def test_limits_hold_the_share_of_rows_they_say() -> None:
    draw = np.random.default_rng(4)
    x = draw.normal(50, 10, 20_000)
    y = x + draw.normal(1, 2, x.size)
    low, high = limits_of_agreement(x, y, within=0.9).limits
    assert np.mean((y - x > low) & (y - x < high)) == pytest.approx(0.9, abs=0.01)
    assert limits_of_agreement(x[:2], y[:2]) is None


def test_concordance_is_the_published_formula() -> None:
    x, y = SMALL_METER, LARGE_METER
    found = concordance(x, y)
    covariance = np.mean((x - x.mean()) * (y - y.mean()))
    assert found.value == pytest.approx(2 * covariance / (x.var() + y.var() + (x.mean() - y.mean()) ** 2))
    assert found.value == pytest.approx(found.precision * found.accuracy)
    assert found.interval[0] < found.value < found.interval[1] < 1


def test_the_interval_of_concordance_holds_it_as_often_as_it_says() -> None:
    draw, truth = np.random.default_rng(11), 2 * 0.8 / (1 + 1.2**2 + 0.5**2)
    inside = 0
    for _ in range(300):
        x = draw.normal(size=80)
        y = 0.5 + 0.8 * x + np.sqrt(1.2**2 - 0.64) * draw.normal(size=80)
        low, high = concordance(x, y).interval
        inside += low <= truth <= high
    assert oracle.binomtest(inside, 300, 0.95).pvalue > 1e-3


def test_equal_columns_agree_and_shifted_ones_do_not() -> None:
    x = np.arange(10.0)
    assert concordance(x, x).value == pytest.approx(1) and concordance(x, x).interval is None
    assert concordance(x, x + 100).value < 0.01 and concordance(x, np.ones(10)) is None
