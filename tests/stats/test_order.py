"""Quantiles, histogram, density, Q-Q and the probe: what is read from the one order."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core.normal_scores import normal_scores
from culvix.stats.core.quantiles import hinges, quantile
from culvix.stats.core.sample import Sample
from culvix.stats.describe.probe import read_probe
from culvix.stats.shape.density import density
from culvix.stats.shape.histogram import BIN_RULES, histogram
from culvix.stats.shape.qq import qq
from tests.stats.hostile import arrays, numbers_in, ordinary

NAMES = {
    1: "inverted_cdf",
    2: "averaged_inverted_cdf",
    3: "closest_observation",
    4: "interpolated_inverted_cdf",
    5: "hazen",
    6: "weibull",
    7: "linear",
    8: "median_unbiased",
    9: "normal_unbiased",
}


@pytest.mark.parametrize("kind", NAMES)
@pytest.mark.parametrize("n", [1, 2, 3, 10, 101])
def test_nine_definitions(kind: int, n: int) -> None:
    x = np.sort(np.random.default_rng(n).normal(size=n))
    for p in (0.0, 0.01, 0.1, 0.25, 0.3, 0.5, 0.55, 0.75, 0.9, 1.0):
        assert quantile(x, p, kind) == pytest.approx(np.quantile(x, p, method=NAMES[kind]), abs=1e-12), p


def test_a_tenth_is_a_tenth() -> None:
    """0.1 × 10 steps must land on the second value, not just below it."""
    x = np.arange(11.0)
    assert [quantile(x, k / 10) for k in range(11)] == x.tolist()


def test_hinges_of_odd_and_even() -> None:
    assert hinges(np.arange(1.0, 10.0)) == (3.0, 7.0)
    assert hinges(np.arange(1.0, 9.0)) == (2.5, 6.5)


@given(arrays(ordinary), st.floats(0, 1), st.sampled_from(list(NAMES)))
def test_quantiles_stay_inside_and_rise(x: np.ndarray, p: float, kind: int) -> None:
    if not x.size:
        with pytest.raises(StatisticsError):
            quantile(x, p, kind)
        return
    x = np.sort(x)
    assert x[0] <= quantile(x, p / 2, kind) <= quantile(x, p, kind) <= x[-1]


@given(arrays(), st.sampled_from(list(BIN_RULES)), st.sampled_from(["left", "right"]))
def test_counts_always_add_up(x: np.ndarray, rule: str, closed: str) -> None:
    sample = Sample.of(x)
    bars = histogram(sample, rule, closed=closed)
    if bars is None:
        extent = float(sample.sorted[-1]) - float(sample.sorted[0]) if sample.n else 0.0
        assert not sample.n or not math.isfinite(extent) or np.abs(sample.sorted).max() > 1.79e308
        return
    assert bars.n == sample.n and bars.below == bars.above == 0
    assert (np.diff(bars.edges) > 0).all()
    for value in sample.sorted.tolist():
        position = bars.bin_of(value)
        assert position is not None
        low, high = bars.edges[position], bars.edges[position + 1]
        assert low <= value < high if closed == "left" else low < value <= high


def test_edges_are_round_and_rules_as_published() -> None:
    x = np.random.default_rng(0).normal(100, 15, 1000)
    bars = histogram(Sample.of(x))
    assert bars is not None
    q1, q3 = np.percentile(x, [25, 75])
    assert bars.width == 5 and 0.7 < bars.width / (2 * (q3 - q1) / 10) < 1.4
    assert np.array_equal(bars.edges, np.round(bars.edges / 5) * 5)
    tenths = histogram(Sample.of(np.array([0.1, 0.2, 0.3, 0.35, 0.7])), width=0.1)
    assert tenths is not None and tenths.counts.tolist() == [1, 1, 2, 0, 0, 0, 1]


def test_both_edge_conventions() -> None:
    sample = Sample.of([0.0, 1.0, 1.0, 2.0])
    left, right = (histogram(sample, width=1.0, start=0.0, closed=closed) for closed in ("left", "right"))
    assert left is not None and left.counts.tolist() == [1, 2, 1]
    assert right is not None and (right.below, right.counts.tolist()) == (1, [2, 1, 0])


def test_whole_numbers_and_collapsed_quartiles() -> None:
    dice = histogram(Sample.of([1.0, 2, 2, 3, 6, 6]))
    assert dice is not None and dice.counts.tolist() == [1, 2, 1, 0, 0, 2] and dice.edges[0] == 0.5
    flat = histogram(Sample.of([5.0] * 90 + [0.25 * k for k in range(10)]))
    assert flat is not None and flat.rule == "Sturges" and flat.note and "IQR is 0" in flat.note
    with pytest.raises(StatisticsError):
        histogram(Sample.of([0.0, 1e9]), width=1.0)


@given(arrays(), st.sampled_from(["isj", "silverman", "scott"]))
def test_density_integrates_to_one(x: np.ndarray, rule: str) -> None:
    curve = density(Sample.of(x), rule)
    if curve is not None:
        step = (curve.x[-1] - curve.x[0]) / (curve.x.size - 1)
        assert float(curve.y.sum()) * step == pytest.approx(1, abs=1e-6)
        assert (curve.y >= 0).all()


def test_density_against_direct_sum_and_two_peaks() -> None:
    rng = np.random.default_rng(3)
    x = np.concatenate((rng.normal(0, 1, 4000), rng.normal(6, 0.5, 4000)))
    curve = density(Sample.of(x))
    assert curve is not None and curve.rule == "improved Sheather–Jones"
    assert curve.peaks == pytest.approx([0, 6], abs=0.3)
    at = curve.x[::100]
    direct = oracle.norm.pdf((at[:, None] - x) / curve.bandwidth).mean(axis=1) / curve.bandwidth
    assert np.interp(at, curve.x, curve.y) == pytest.approx(direct, abs=2e-3 * direct.max())


@pytest.mark.parametrize("decimals", [0, 1])
def test_rounding_is_not_taken_for_shape(decimals: int) -> None:
    x = np.random.default_rng(5).normal(50, 4, 5000)
    smooth, rounded = density(Sample.of(x)), density(Sample.of(np.round(x, decimals)))
    assert smooth is not None and rounded is not None
    assert len(rounded.peaks) <= 2 and rounded.bandwidth == pytest.approx(smooth.bandwidth, rel=0.4)


def test_qq_positions_line_and_band() -> None:
    n = 51
    x = np.sort(np.random.default_rng(2).normal(10, 3, n))
    points = qq(Sample.of(x))
    assert points is not None
    blom = (np.arange(1, n + 1) - 0.375) / (n + 0.25)
    assert points.z == pytest.approx(oracle.norm.ppf(blom), abs=1e-12)
    assert points.correlation == pytest.approx(np.corrcoef(x, points.z)[0, 1], abs=1e-12)
    rank = np.arange(1, n + 1)
    low = oracle.norm.ppf(oracle.beta.ppf(0.025, rank, n + 1 - rank), x.mean(), x.std(ddof=1))
    assert points.low == pytest.approx(low, abs=1e-9)
    assert (normal_scores(n) == -normal_scores(n)[::-1]).all()


def test_detrended_points_are_distances_from_the_line() -> None:
    x = np.random.default_rng(5).normal(10, 3, 400)
    points = qq(Sample.of(x))
    flat = points.detrended()
    line = points.centre + points.slope * points.z
    assert flat.value + line == pytest.approx(points.value) and flat.low + line == pytest.approx(points.low)
    inside = (points.low <= points.value) & (points.value <= points.high)
    assert (((flat.low <= flat.value) & (flat.value <= flat.high)) == inside).all()
    wide, narrow = (qq(Sample.of(x), band=band) for band in ("simultaneous", "pointwise"))
    assert (wide.low < narrow.low).all() and (wide.high > narrow.high).all()
    with pytest.raises(StatisticsError):
        qq(Sample.of(x), band="wide")


@pytest.mark.parametrize("bounds", [(0.0, None), (0.0, 3.0), (None, 3.0)])
def test_a_density_is_folded_back_at_a_bound(bounds: tuple[float | None, float | None]) -> None:
    x = np.random.default_rng(0).exponential(size=3000)
    x = x[x < 3]
    plain, bounded = density(Sample.of(x)), density(Sample.of(x), bounds=bounds)
    low, high = bounds
    assert low is None or bounded.x[0] == low
    assert high is None or bounded.x[-1] == high
    assert np.trapezoid(bounded.y, bounded.x) == pytest.approx(1, abs=1e-6)
    if low == 0:
        # At 0 the exponential density is 1; a curve that leaks beyond it shows half.
        assert np.interp(0, plain.x, plain.y) < 0.6 < bounded.y[0]
    inside = np.abs(bounded.x - 1.5) < 1
    assert bounded.y[inside] == pytest.approx(np.interp(bounded.x[inside], plain.x, plain.y), abs=1e-3)


def test_a_bound_with_values_beyond_it_is_none() -> None:
    x = Sample.of(np.random.default_rng(0).normal(size=300))
    assert (density(x, bounds=(0.0, 1.0)).y == density(x).y).all()


@pytest.mark.parametrize("closed", ["left", "right"])
@pytest.mark.parametrize("count", [1, 7, 50])
def test_a_chosen_count_of_bins(count: int, closed: str) -> None:
    x = np.random.default_rng(3).gamma(2, size=500)
    bars = histogram(Sample.of(x), count=count, closed=closed)
    assert bars.counts.size == count and bars.counts.sum() == 500 and bars.below == bars.above == 0
    assert (np.histogram(x, count)[0] == bars.counts).all()
    later = histogram(Sample.of(x), count=count, start=1.0, closed=closed)
    assert later.below == (x < 1).sum() and later.n == 500
    for wrong in ({"count": 0}, {"count": 5, "width": 1.0}, {"count": 3, "start": 99.0}, {"count": 5000}):
        with pytest.raises(StatisticsError):
            histogram(Sample.of(x), **wrong)


def test_thinning_keeps_the_tails() -> None:
    x = np.random.default_rng(2).normal(size=50_000)
    points = qq(Sample.of(x), points=1000)
    assert points is not None and points.value.size <= 1000
    ordered = np.sort(x)
    assert points.value[:100].tolist() == ordered[:100].tolist()
    assert points.value[-100:].tolist() == ordered[-100:].tolist()
    assert (ordered[points.positions] == points.value).all()
    few = points.thinned(200)
    assert few.value.size <= 200 and few.value[0] == ordered[0] and few.value[-1] == ordered[-1]


@given(arrays(), st.floats(-1e6, 1e6))
def test_qq_and_probe_never_show_nothing(x: np.ndarray, value: float) -> None:
    sample = Sample.of(x)
    for result in (qq(sample), read_probe(sample, value)):
        assert result is None or all(math.isfinite(v) for v in numbers_in(result))


def test_probe_reads_all_ways() -> None:
    reading = read_probe(Sample.of([1.0, 2, 2, 3, 10]), 2.0)
    assert reading is not None
    assert (reading.below, reading.equal, reading.above, reading.percentile) == (1, 2, 2, 40.0)
    assert reading.z == pytest.approx((2 - 3.6) / np.std([1, 2, 2, 3, 10], ddof=1))
    assert reading.robust_z == 0


@pytest.mark.parametrize("decimals", [0, 1, 2])
def test_values_recorded_in_steps_have_no_peak_at_each_step(decimals: int) -> None:
    """The bandwidth is never so narrow that it shows how finely values were written down."""
    x = np.random.default_rng(4).normal(50.0, 4.0, 3000).round(decimals)
    found = density(Sample.of(x))
    assert found is not None and found.bandwidth >= 0.79 * 10.0**-decimals and found.peaks.size <= 2


def test_very_many_values_have_no_step_that_could_be_seen() -> None:
    x = np.random.default_rng(6).normal(size=400_000)
    whole, part = density(Sample.of(x)), density(Sample.of(x[:200_000]))
    assert whole is not None and part is not None
    # The rule shrinks with n; nothing else changes where steps are no longer looked for.
    assert 0.8 < whole.bandwidth / part.bandwidth < 1.0
    normal = np.exp(-0.5 * whole.x**2) / np.sqrt(2 * np.pi)
    assert np.abs(whole.y - normal).max() < 0.01
