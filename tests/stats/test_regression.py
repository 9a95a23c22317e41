"""Lines, their errors and what rows do to them, and smooth curves: against an oracle, and against their definition."""

import math

import numpy as np
import pytest
from hypothesis import example, given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core.arrays import Floats
from culvix.stats.regression.line_influence import line_influence
from culvix.stats.regression.lowess import lowess
from culvix.stats.regression.straight_line import line_band, line_errors, straight_line
from tests.stats.hostile import arrays, numbers_in


def pair(n: int, offset: float = 0.0) -> tuple[Floats, Floats]:
    draw = np.random.default_rng(n)
    x = draw.normal(offset, 2, n)
    return x, 3 - 0.5 * (x - offset) + draw.normal(size=n)


@pytest.mark.parametrize("offset", [0.0, 5e6])
def test_errors_of_a_line_are_those_of_the_oracle(offset: float) -> None:
    x, y = pair(40, offset)
    line, theirs = straight_line(x, y), oracle.linregress(x, y)
    errors = line_errors(line, 0.9)
    assert errors.slope == pytest.approx(theirs.stderr, rel=1e-9)
    assert errors.intercept == pytest.approx(theirs.intercept_stderr, rel=1e-9)
    reach = oracle.t.ppf(0.95, 38) * theirs.stderr
    assert errors.slope_interval == pytest.approx((theirs.slope - reach, theirs.slope + reach), rel=1e-9)


def test_the_band_is_narrowest_at_the_mean_and_holds_the_mean_of_y_as_often_as_it_says() -> None:
    x = np.linspace(0, 10, 30)
    draw = np.random.default_rng(5)
    inside = 0
    for _ in range(400):
        line = straight_line(x, 1 + 2 * x + draw.normal(0, 3, x.size))
        low, high = line_band(line, np.array([0.0, 5.0, 9.0]), 0.9)
        inside += int(low[2] <= 19 <= high[2])
        assert np.argmin(high - low) == 1 and np.allclose((low + high) / 2, line.at(np.array([0.0, 5.0, 9.0])))
    assert oracle.binomtest(inside, 400, 0.9).pvalue > 1e-3


def test_a_line_of_two_rows_has_no_errors_and_a_level_must_be_one() -> None:
    line = straight_line(np.array([1.0, 2.0]), np.array([3.0, 5.0]))
    assert line_errors(line) is None and line_band(line, np.zeros(2)) is None
    with pytest.raises(StatisticsError):
        line_errors(straight_line(*pair(9)), 1.0)


def test_influence_is_what_leaving_each_row_out_does() -> None:
    x, y = pair(25)
    x[3], y[7], x[11] = 30.0, np.nan, np.inf
    found = line_influence(x, y)
    line = straight_line(x, y)
    assert 7 not in found.rows and 11 not in found.rows and found.worst.size == found.rows.size == 23
    assert found.leverage.sum() == pytest.approx(2)
    for position, row in enumerate(found.rows):
        without = y.copy()
        without[row] = np.nan
        moved = straight_line(x, without).at(x[found.rows]) - line.at(x[found.rows])
        assert found.distance[position] == pytest.approx(np.sum(moved**2) / (2 * line.residual_sd**2), rel=1e-8)
        # A row left out is missed by its residual over one less its leverage.
        missed = y[row] - straight_line(x, without).at(x[row])
        assert missed == pytest.approx(found.residual[position] / (1 - found.leverage[position]), rel=1e-8)
    assert found.rows[found.worst[0]] == found.rows[np.argmax(found.distance)]


def test_a_row_that_alone_decides_the_slope_has_leverage_and_no_distance() -> None:
    x, y = np.array([1.0, 1.0, 1.0, 9.0]), np.array([2.0, 3.0, 4.0, 50.0])
    found = line_influence(x, y)
    assert found.leverage[3] == pytest.approx(1) and math.isnan(found.distance[3]) and found.worst[-1] == 3
    assert line_influence(x, 2 * x) is None and line_influence(x[:3], y[:3]) is None


def reference(x: Floats, y: Floats, span: float, repeats: int) -> Floats:
    """The curve at each row as the paper defines it: a weighted least-squares line for every row."""
    robust, neighbours, fitted = np.ones(x.size), round(span * x.size), np.zeros(x.size)
    for _ in range(repeats + 1):
        for i, here in enumerate(x):
            away = np.abs(x - here)
            weight = robust * np.clip(1 - (away / np.sort(away)[neighbours - 1]) ** 3, 0, None) ** 3
            fitted[i] = np.polyval(np.polyfit(x, y, 1, w=np.sqrt(weight)), here)
        off = np.abs(y - fitted)
        robust = np.clip(1 - (off / (6 * np.median(off))) ** 2, 0, None) ** 2
    return fitted


@pytest.mark.parametrize("span", [0.3, 2 / 3, 1.0])
@pytest.mark.parametrize("repeats", [0, 3])
def test_the_curve_is_that_of_the_paper(span: float, repeats: int) -> None:
    draw = np.random.default_rng(7)
    x = draw.gamma(2, 3, 70)
    y = np.sin(x) + draw.normal(0, 0.3, x.size)
    y[::9] += 6
    assert lowess(x, y, span=span, repeats=repeats).at(x) == pytest.approx(reference(x, y, span, repeats), abs=1e-8)


def test_many_rows_are_taken_together_without_moving_the_curve() -> None:
    draw = np.random.default_rng(8)
    x = draw.normal(0, 3, 2500)
    y = np.tanh(x) + draw.normal(0, 0.2, x.size)
    found = lowess(x, y, span=0.4, repeats=1)
    inner = np.sort(x)[50:-50:40]
    order = np.argsort(x)
    exact = np.interp(inner, x[order], reference(x[order], y[order], 0.4, 1))
    assert found.x.size <= 600 and np.abs(found.at(inner) - exact).max() < 0.01


def test_a_curve_follows_a_line_and_is_not_drawn_by_far_values() -> None:
    x = np.repeat(np.arange(1.0, 21.0), 3)
    y = 2 * x + 1
    y[::6] = 900.0
    assert lowess(x, y).at(x)[1:] == pytest.approx((2 * x + 1)[1:], abs=1e-6)
    assert lowess(x[:3], y[:3]) is None and lowess(np.ones(9), y[:9]) is None
    with pytest.raises(StatisticsError):
        lowess(x, y, span=0)


@example(np.array([0.0, 0.0, 0.0, 1e300]), np.array([1.7e308, 1.7e308, 1.7e308, -1.7e308]), 0.1)
@example(np.array([0.0, 0.0, 1.0, 1.0]), np.array([1.7e308, 1.7e308, 1.7e308, -1.7e308]), 0.1)
@example(np.array([0.0, 0.0, -1.0, 0.0, 2.0]), np.array([0.0, 1.0, 1.0, 1.0, 1.0]), 0.1)
@given(arrays(), arrays(), st.sampled_from([0.1, 0.5, 1.0]))
def test_a_curve_lies_within_reach_of_its_values(x: Floats, y: Floats, span: float) -> None:
    size = min(x.size, y.size)
    found = lowess(x[:size], y[:size], span=span)
    if found is not None:
        assert (np.diff(found.x) > 0).all() and np.isfinite(found.y).all()
    influence = line_influence(x[:size], y[:size])
    assert influence is None or all(not math.isinf(v) for v in numbers_in(influence.leverage.tolist()))
