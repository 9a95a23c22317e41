"""What the Shape stage asks of the core: order, bins by hand, bandwidths, readings backwards, line-ups, conventions."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core.ordering import stable_order
from culvix.stats.core.sample import Sample
from culvix.stats.describe.conventions import OTHER_CONVENTIONS, other_conventions
from culvix.stats.describe.probe import VALUE_AT, between, read_probe, row_at
from culvix.stats.shape.density import density
from culvix.stats.shape.histogram import histogram
from culvix.stats.shape.line_up import PANELS, line_up, null_samples
from culvix.stats.shape.smoother import Smoother
from culvix.stats.shape.transform import SCALE_NAMES, Scale, fitted_scale, on_that_scale
from tests.stats.hostile import arrays, ordinary


@pytest.mark.parametrize(
    "make",
    [
        lambda r: r.gamma(2, size=20_000),
        lambda r: r.normal(size=20_000).round(2),
        lambda r: r.integers(-5, 5, 20_000).astype(float),
        lambda r: 1 + r.normal(size=20_000) * 1e-13,
        lambda r: np.where(r.random(20_000) < 0.5, -0.0, 0.0),
        lambda r: r.normal(size=20_000) * 10.0 ** r.integers(-300, 300, 20_000),
        lambda r: np.concatenate([r.normal(size=9000), [np.inf, -np.inf, 5e-324, -5e-324] * 500]),
        # Differences in the last bits only, in a few places: these are mended one by one.
        lambda r: np.nextafter(np.repeat(r.normal(size=10_000), 2), r.choice([-np.inf, np.inf], 20_000)),
    ],
)
def test_rows_stand_in_order_of_value_and_ties_in_order_of_row(make: object) -> None:
    values = make(np.random.default_rng(5))  # type: ignore[operator]
    expected = np.argsort(values, kind="stable")
    assert (stable_order(values) == expected).all()
    assert (stable_order(values, np.sort(values)) == expected).all(), "with the values at hand in order"


@given(arrays(most=40), st.data())
def test_without_rows_a_sample_is_what_is_left(values: np.ndarray, data: st.DataObject) -> None:
    finite = np.flatnonzero(np.isfinite(values))
    rows = np.array(
        data.draw(st.lists(st.sampled_from(finite.tolist()), unique=True)) if finite.size else [], dtype=int
    )
    left = Sample(values).without(rows)
    plain = values.copy()
    plain[rows] = np.nan
    assert (left.sorted == Sample(plain).sorted).all() and left.n == Sample(plain).n


def test_a_long_sample_without_rows_keeps_its_order() -> None:
    draw = np.random.default_rng(9)
    values = draw.normal(size=9000).round(1)
    values[[3, 5]] = np.nan, np.inf
    sample = Sample(values)
    rows = np.setdiff1d(draw.choice(9000, 700, replace=False), [3, 5])
    plain = values.copy()
    plain[rows] = np.nan
    left = sample.without(rows)
    assert (left.sorted == np.sort(plain[np.isfinite(plain)])).all()
    assert (left.missing, left.non_finite) == (701, 1)


@given(
    arrays(ordinary),
    st.floats(-1e6, 1e6),
    st.floats(0.01, 1e6),
    st.one_of(st.none(), st.integers(1, 50)),
    st.sampled_from(["left", "right"]),
    st.booleans(),
    st.booleans(),
)
def test_bins_by_hand_always_add_up(
    values: np.ndarray, start: float, reach: float, count: int | None, closed: str, first: bool, last: bool
) -> None:
    sample = Sample(values)
    ends = {"start": start if first else None, "end": start + reach if last else None}
    try:
        bars = histogram(sample, count=count, closed=closed, **ends)
    except StatisticsError as error:
        assert "room" in str(error) or "more than" in str(error)
        return
    if bars is None:
        return
    x = sample.sorted
    assert bars.n == sample.n and (np.diff(bars.edges) > 0).all()
    assert count is None or bars.counts.size == count or sample.n == 0 or x[0] == x[-1]
    if first:
        assert bars.edges[0] == pytest.approx(start) and bars.below == int(
            (x < bars.edges[0]).sum() if closed == "left" else (x <= bars.edges[0]).sum()
        )
    if last and not first:
        assert bars.edges[-1] == pytest.approx(start + reach)
    if last and first:
        assert bars.edges[-1] >= (start + reach) * (1 - 1e-9) - 1e-9 * abs(start)


@pytest.mark.parametrize("bandwidth", [0.03, 0.2, 1.5, 40.0])
def test_a_dragged_density_is_the_density_with_that_bandwidth(bandwidth: float) -> None:
    values = np.random.default_rng(2).gamma(2.0, size=4000)
    sample = Sample(values)
    slow, quick = density(sample, bandwidth=bandwidth), Smoother(sample).at(bandwidth)
    assert slow is not None and slow.bandwidth == pytest.approx(bandwidth) == pytest.approx(quick.bandwidth)
    gap = np.abs(np.interp(quick.x, slow.x, slow.y) - quick.y).max()
    assert gap < 2e-3 * slow.y.max()
    assert np.trapezoid(quick.y, quick.x) == pytest.approx(1, abs=1e-4)
    exact = np.exp(-0.5 * ((2.0 - values) / bandwidth) ** 2).mean() / (bandwidth * np.sqrt(2 * np.pi))
    assert np.interp(2.0, slow.x, slow.y) == pytest.approx(exact, rel=5e-3)


def test_a_bound_folds_a_dragged_density_too() -> None:
    sample = Sample(np.random.default_rng(2).exponential(size=3000))
    for curve in (density(sample, bandwidth=0.3, bounds=(0.0, None)), Smoother(sample, (0.0, None)).at(0.3)):
        assert curve is not None and curve.x[0] >= -0.01
        assert np.trapezoid(curve.y, curve.x) == pytest.approx(1, abs=2e-3)


@given(arrays(ordinary, most=30), st.data())
def test_every_reading_leads_back_to_its_value(values: np.ndarray, data: st.DataObject) -> None:
    sample = Sample(values)
    if not sample.n:
        return
    value = float(data.draw(st.sampled_from(sample.sorted.tolist())))
    reading = read_probe(sample, value)
    assert reading is not None
    assert VALUE_AT["rank"](sample, reading.below + 1, 7) == value
    assert VALUE_AT["rank"](sample, -reading.above - 1, 7) == value
    size = abs(value) + (sample.moments.sd or 0.0) + abs(sample.median)
    for name, read in (("z", reading.z), ("robust z", reading.robust_z)):
        if read is not None:
            assert VALUE_AT[name](sample, read, 7) == pytest.approx(value, abs=1e-9 * size + 1e-300)
    normal = reading.normal_percentile
    if normal is not None and 1e-6 < normal < 100 - 1e-6:
        assert VALUE_AT["normal expects"](sample, normal, 7) == pytest.approx(value, abs=1e-6 * size + 1e-300)


def test_what_lies_between_two_probes_is_counted_with_both_ends() -> None:
    sample = Sample.of([1.0, 2, 2, 3, 5, np.nan, 9])
    found = between(sample, 5.0, 2.0)
    assert found is not None and (found.low, found.high, found.rows, found.share) == (2.0, 5.0, 4, 4 / 6)
    mean, sd = sample.fit
    assert found.normal == pytest.approx(oracle.norm.cdf(5, mean, sd) - oracle.norm.cdf(2, mean, sd))
    assert between(Sample.of([np.nan]), 0, 1) is None and between(Sample.of([4.0, 4.0]), 0, 9).normal is None
    assert row_at(sample, 2.2) == (1, 2.0) and row_at(sample, 100.0) == (6, 9.0) and row_at(Sample.of([]), 0) is None


def test_a_line_up_hides_the_sample_among_its_like() -> None:
    sample = Sample(np.random.default_rng(4).gamma(1.0, size=300).round(1))
    mean, sd = sample.fit
    for made in null_samples(sample, 5, seed=3):
        assert made.size == 300 and (np.diff(made) >= 0).all() and (np.round(made, 1) == made).all()
        assert made.mean() == pytest.approx(mean, abs=0.02) and made.std(ddof=1) == pytest.approx(sd, rel=0.02)
    for form in ("histogram", "qq"):
        one, again, other = (line_up(sample, form, seed) for seed in (7, 7, 8))
        assert one.position == again.position and (one.heights == again.heights).all()
        assert one.heights.shape[0] == PANELS and not np.array_equal(one.heights, other.heights)
    bars = line_up(sample, "histogram", 7)
    assert (bars.heights.sum(axis=1) == 300).all() and bars.edges is not None
    assert (bars.heights[bars.position] == np.histogram(sample.sorted, bars.edges)[0]).all()
    positions = np.bincount(
        [line_up(Sample(np.arange(5.0)), "qq", seed).position for seed in range(2000)], minlength=PANELS
    )
    assert oracle.chisquare(positions).pvalue > 1e-4, "the real one may stand anywhere"
    for short in ([1.0, 2.0], [3.0, 3.0, 3.0]):
        with pytest.raises(StatisticsError):
            line_up(Sample.of(short))


def test_a_statistic_is_told_under_every_convention() -> None:
    values = np.random.default_rng(8).gamma(2.0, size=37)
    sample = Sample(values)
    q1 = dict(other_conventions("q1", sample))
    methods = ["inverted_cdf", "averaged_inverted_cdf", "closest_observation", "interpolated_inverted_cdf"]
    methods += ["hazen", "weibull", "linear", "median_unbiased", "normal_unbiased"]
    assert list(q1.values())[:9] == pytest.approx([np.quantile(values, 0.25, method=method) for method in methods])
    told = {key: dict(other_conventions(key, sample)) for key in OTHER_CONVENTIONS}
    assert list(told["sd"].values()) == pytest.approx([values.std(ddof=1), values.std()])
    assert list(told["variance"].values()) == pytest.approx([values.var(ddof=1), values.var()])
    skews, kurts = list(told["skewness"].values()), list(told["excess_kurtosis"].values())
    assert skews[:2] == pytest.approx([oracle.skew(values, bias=False), oracle.skew(values)])
    assert skews[2] == pytest.approx(((values - values.mean()) ** 3).mean() / values.std(ddof=1) ** 3)
    assert kurts[:2] == pytest.approx([oracle.kurtosis(values, bias=False), oracle.kurtosis(values)])
    assert kurts[2] == pytest.approx(((values - values.mean()) ** 4).mean() / values.var(ddof=1) ** 2 - 3)
    assert kurts[3] == pytest.approx(oracle.kurtosis(values, fisher=False))
    assert told["mad"] == told["mad_scaled"] and min(told["mad"].values()) == oracle.median_abs_deviation(values)
    assert other_conventions("mean", sample) == [] and other_conventions("q1", Sample.of([])) == []


def test_scales_are_applied_again_and_leave_out_what_they_cannot_hold() -> None:
    values = np.random.default_rng(6).lognormal(size=200)
    sample = Sample(values)
    scale, fit = fitted_scale(sample, "box_cox")
    theirs, power = oracle.boxcox(values)
    assert fit is not None and scale.power == pytest.approx(power, abs=1e-4)
    assert on_that_scale(sample, scale) == pytest.approx(theirs, abs=1e-3)
    scale, _ = fitted_scale(Sample(values - 1), "yeo_johnson")
    assert on_that_scale(Sample(values - 1), scale) == pytest.approx(
        oracle.yeojohnson((values - 1) / scale.divisor, scale.power)
    )
    spoilt = values.copy()
    spoilt[[4, 9]] = 0.0, np.nan
    for key in ("ln", "box_cox", "reciprocal"):
        with pytest.raises(StatisticsError, match="row 5"):
            on_that_scale(Sample(spoilt), Scale(key, 0.5 if key == "box_cox" else None))
        lenient = on_that_scale(Sample(spoilt), Scale(key, 0.5 if key == "box_cox" else None), lenient=True)
        assert np.flatnonzero(np.isnan(lenient)).tolist() == [4, 9]
    assert set(SCALE_NAMES) > {"ln", "box_cox", "yeo_johnson"}
    with pytest.raises(StatisticsError, match="no transformation"):
        fitted_scale(sample, "cube")
