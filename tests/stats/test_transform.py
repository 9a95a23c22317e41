"""Transformations and robust correlations, against SciPy and by their properties."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.robust import biweight, winsorized
from culvix.stats.shape.power_transform import box_cox, fit_box_cox, fit_yeo_johnson, yeo_johnson
from culvix.stats.shape.transform import (
    TRANSFORMS,
    Scale,
    fitted_scale,
    judge,
    on_that_scale,
    transform,
    usual_transform,
)
from tests.stats.hostile import arrays


@given(arrays(), st.sampled_from(list(TRANSFORMS)))
def test_transforms_map_back_or_name_the_rows(x: np.ndarray, key: str) -> None:
    sample = Sample.of(x)
    try:
        y = transform(sample, key)
    except StatisticsError as error:
        assert str(error).endswith(".")
        return
    assert np.isfinite(y).tolist() == np.isfinite(x).tolist()
    inverse = TRANSFORMS[key].inverse
    if inverse is not None:
        moderate = np.isfinite(x) & (np.abs(x) < 1e6) & (np.abs(x) > 1e-6)
        assert inverse(y[moderate]) == pytest.approx(x[moderate], rel=1e-8)


def test_domain_errors_name_the_rows() -> None:
    with pytest.raises(StatisticsError, match="rows 2, 4"):
        transform(Sample.of([1.0, -1.0, np.nan, 0.0]), "ln")
    with pytest.raises(StatisticsError, match="no transformation"):
        transform(Sample.of([1.0]), "cube")


@pytest.mark.parametrize("scale", [1.0, 1e-200, 1e200])
def test_box_cox_against_scipy(scale: float) -> None:
    x = np.random.default_rng(1).lognormal(1, 0.6, 400)
    fitted = fit_box_cox(Sample.of(x * scale))
    _, power, (low, high) = oracle.boxcox(x, alpha=0.05)
    assert fitted.power == pytest.approx(power, abs=1e-5)
    assert fitted.interval == pytest.approx((low, high), abs=1e-4) and fitted.plain == 0
    assert box_cox(x, 0.3) == pytest.approx(oracle.boxcox(x, 0.3))


def test_yeo_johnson_against_scipy() -> None:
    x = np.random.default_rng(2).gamma(2, size=300) - 1
    x /= x.std(ddof=1)
    found = fit_yeo_johnson(Sample.of(x))
    assert found.power == pytest.approx(oracle.yeojohnson_normmax(x), abs=1e-4)
    for unit in (1e-6, 0.0254, 1e9):
        other = fit_yeo_johnson(Sample.of(x * unit))
        assert other.power == pytest.approx(found.power, abs=1e-6), "a power does not hang on the unit"
        assert other.divisor == pytest.approx(unit)
        scale, _ = fitted_scale(Sample.of(x * unit), "yeo_johnson")
        assert on_that_scale(Sample.of(x * unit), scale) == pytest.approx(yeo_johnson(x, found.power), abs=1e-5)


def test_where_the_search_ends_an_interval_is_open_and_1_is_the_plain_power() -> None:
    narrow = fit_box_cox(Sample.of(np.random.default_rng(3).normal(100, 1, 200)))
    assert narrow.interval == (None, None) and narrow.plain == 1 and narrow.note is None
    skewed = fit_box_cox(Sample.of(np.random.default_rng(3).gamma(2, size=200) + 40))
    assert skewed.power == -5 and skewed.interval[0] is None
    assert skewed.note is not None and "ends at λ −5," in skewed.note
    steep = fit_box_cox(Sample.of(np.random.default_rng(3).lognormal(0, 0.4, 4000) ** (1 / 4.8)))
    assert steep.interval[0] is not None and steep.plain not in (1, None) and steep.note is None
    mild = fit_box_cox(Sample.of(np.random.default_rng(4).normal(30, 4, 60)))
    low, high = mild.interval
    assert (low is None or low < 1) and (high is None or high > 1) and mild.plain == 1


def test_the_logarithm_straightens_a_lognormal_column() -> None:
    sample = Sample.of(np.random.default_rng(3).lognormal(0, 1, 500))
    before, after = judge(sample), judge(Sample.of(transform(sample, "ln")))
    assert before.skewness > 2 > abs(after.skewness) and after.qq_correlation > 0.99 > before.qq_correlation
    scores = judge(Sample.of(transform(sample, "normal_ranks")))
    assert scores.qq_correlation == pytest.approx(1, abs=1e-9)


def test_one_wild_row_does_not_move_the_robust_kinds() -> None:
    rng = np.random.default_rng(4)
    x = rng.normal(size=200)
    y = x + 0.5 * rng.normal(size=200)
    clean = np.corrcoef(x, y)[0, 1]
    x[0], y[0] = 1e6, -1e6
    assert np.corrcoef(x, y)[0, 1] < 0
    for kind in (biweight, winsorized):
        assert kind(x, y).r == pytest.approx(clean, abs=0.09) and kind(x, y).p < 1e-20
    pulled = [oracle.mstats.winsorize(v, (0.2, 0.2)) for v in (x, y)]
    assert winsorized(x, y).r == pytest.approx(np.corrcoef(*pulled)[0, 1])


@given(arrays(most=20), arrays(most=20))
def test_robust_kinds_survive_anything(x: np.ndarray, y: np.ndarray) -> None:
    size = min(x.size, y.size)
    for kind in (biweight, winsorized):
        result = kind(x[:size], y[:size])
        assert result.note if result.r is None else -1 <= result.r <= 1 and 0 <= result.p <= 1


def test_results_beyond_a_double_are_refused_or_left_out() -> None:
    sample = Sample(np.array([1.0, 2.0, 1e200, np.nan]))
    with pytest.raises(StatisticsError, match="row 3"):
        on_that_scale(sample, Scale("square"))
    assert np.array_equal(on_that_scale(sample, Scale("square"), lenient=True), [1, 4, np.nan, np.nan], equal_nan=True)


@pytest.mark.parametrize("key", ["standard", "robust_standard"])
def test_what_follows_a_column_without_spread_has_no_values(key: str) -> None:
    sample = Sample(np.array([4.0, 4.0, 4.0, np.nan]))
    with pytest.raises(StatisticsError, match="standardised"):
        on_that_scale(sample, Scale(key))
    assert np.isnan(on_that_scale(sample, Scale(key), lenient=True)).all()


@pytest.mark.parametrize(
    ("values", "scale"),
    [([0.5, 2.0, 9.0], "ln"), ([0.0, 2.0, 9.0], "ln1p"), ([-3.0, 2.0, 9.0], "yeo_johnson"), ([], "ln")],
)
def test_the_scale_to_look_at_first_takes_all_values(values: list[float], scale: str) -> None:
    sample = Sample.of(values)
    assert usual_transform(sample) == scale
