"""Scales of an axis: order, way back, what they take, and which one is suggested."""

import pickle
from math import isfinite, log10

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.shape.axis_scale import AXIS_SCALES, MEASURED_AXIS, AxisScale, axis_scale, on_axis
from culvix.stats.shape.density import ADAPTIVE, density, usual_rule
from culvix.stats.shape.long_tail import bulk, decades, squeezed, suggested_axis

VALUES = st.lists(st.floats(-1e12, 1e12).map(lambda x: round(x, 6)), min_size=3, max_size=60, unique=True)


@pytest.mark.parametrize("key", AXIS_SCALES)
@given(values=VALUES)
def test_every_scale_keeps_the_order_and_gives_the_value_back(key: str, values: list[float]) -> None:
    sample = Sample.of(values)
    try:
        scale = axis_scale(sample, key)
    except StatisticsError as refused:
        assert not AXIS_SCALES[key].accepts(min(values)) and AXIS_SCALES[key].domain in refused.sentence
        return
    placed = scale.positions(sample.sorted)
    assert np.isfinite(placed).all() and (np.diff(placed) >= 0).all()
    reach = max(map(abs, values))
    assert np.allclose(scale.values_at(placed), sample.sorted, rtol=1e-9, atol=1e-9 * reach)
    beyond = scale.position(max(values) + reach + 1)
    assert beyond >= placed[-1], "also beyond the values"


def test_the_formulas_are_those_of_the_sources() -> None:
    x = Sample.of([0.0, 0.5, 3.0, 40.0, 1e4])
    assert axis_scale(x, "ln1p").position(3.0) == pytest.approx(np.log(4))
    assert axis_scale(x, "sqrt").position(40.0) == pytest.approx(40**0.5)
    signed = axis_scale(Sample.of([-700.0, -3.0, 0.0, 2.5, 800.0, 9.0]), "signed_log")
    assert signed.linear == 1.0 and signed.position(-99.0) == pytest.approx(-2.0) and signed.position(0.0) == 0.0
    ranks = oracle.rankdata([1.0, 2.0, 2.0, 9.0, 40.0])
    normal = axis_scale(Sample.of([1.0, 2.0, 2.0, 9.0, 40.0]), "normal_quantile")
    expected = oracle.norm.ppf((ranks - 0.375) / 5.25)
    assert normal.positions(np.array([1.0, 2.0, 2.0, 9.0, 40.0])) == pytest.approx(expected)


def test_a_refusal_counts_the_values_that_have_no_place() -> None:
    with pytest.raises(StatisticsError, match=r"above 0: 2 values of 5, from −3\.000, stand nowhere on it"):
        axis_scale(Sample.of([5.0, -3.0, 0.0, 2.0, 1.0, np.nan]), "log")
    with pytest.raises(StatisticsError, match="no scale of an axis called 'cube'"):
        axis_scale(Sample.of([1.0]), "cube")


def test_what_has_no_place_is_missing_and_nothing_is_sorted_again() -> None:
    sample = Sample.of([4.0, np.nan, 100.0, 1.0, np.inf])
    placed = on_axis(sample, axis_scale(sample, "log"))
    assert placed.n == 3 and placed.rows.tolist() == [3, 0, 2] and placed.sorted[-1] == 2.0
    assert np.isnan(placed.values[[1, 4]]).all() and "sorted" in placed.__dict__
    assert on_axis(sample, MEASURED_AXIS) is sample
    log = AxisScale("log", "log")
    assert on_axis(Sample.of([-1.0, 10.0]), log).sorted.tolist() == [1.0]


@pytest.mark.parametrize("key", AXIS_SCALES)
def test_a_scale_can_be_sent_to_another_process(key: str) -> None:
    scale = axis_scale(Sample.of([1.0, 2.0, 50.0]), key)
    assert pickle.loads(pickle.dumps(scale)).position(7.0) == scale.position(7.0)


@given(st.lists(st.floats(-1e3, 1e3), min_size=10, max_size=80))
def test_the_bulk_is_the_narrowest_interval_with_nine_tenths(values: list[float]) -> None:
    sample = Sample.of(values)
    low, high = bulk(sample) or (0.0, 0.0)
    needed = int(np.ceil(0.9 * sample.n))
    assert np.count_nonzero((sample.values >= low) & (sample.values <= high)) >= needed
    x = sorted(values)
    assert high - low <= min(x[i + needed - 1] - x[i] for i in range(len(x) - needed + 1)) + 1e-9


def test_far_values_squeeze_a_measured_axis() -> None:
    rng = np.random.default_rng(5)
    normal, tail = rng.normal(50, 5, 300), np.exp(rng.normal(0, 4, 300))
    assert not squeezed(Sample.of(normal)) and suggested_axis(Sample.of(normal)) is None
    assert squeezed(Sample.of(tail)) and suggested_axis(Sample.of(tail)) == "log"
    assert suggested_axis(Sample.of(np.append(np.round(tail), 0.0))) == "ln1p"
    assert suggested_axis(Sample.of(np.concatenate([tail, -tail]))) == "signed_log"
    even = Sample.of(10.0 ** np.linspace(0, 3.2, 200))
    assert not squeezed(even) and suggested_axis(even) == "log", "over three powers of ten"
    assert decades(even) == pytest.approx(3.2) and decades(Sample.of(normal - 60)) is None
    assert suggested_axis(Sample.of([1.0, 1e6])) is None, "two values need no other axis"


@pytest.mark.parametrize("seed", range(4))
def test_a_density_of_a_long_tail_has_no_needles(seed: int) -> None:
    rng = np.random.default_rng(seed)
    sample = Sample.of(np.round(np.exp(rng.normal(2, 2.5, 400)), 1))
    assert usual_rule(sample) == ADAPTIVE
    curve, fixed = density(sample, ADAPTIVE), density(sample)
    assert curve is not None and fixed is not None
    assert np.trapezoid(curve.y, curve.x) == pytest.approx(1, abs=1e-6)
    assert curve.peaks.size <= 2 < fixed.peaks.size
    far = float(sample.sorted[-1])
    least = 1 / (sample.n * curve.bandwidth * (2 * np.pi) ** 0.5)
    assert np.interp(far, curve.x, curve.y) < 0.1 * least, "the farthest value is no needle of the bulk's width"


def test_on_a_normal_sample_the_bandwidth_that_follows_the_density_finds_the_same_curve() -> None:
    sample = Sample.of(oracle.norm.ppf((np.arange(4000) + 0.5) / 4000))
    curve = density(sample, ADAPTIVE)
    assert curve is not None
    x = np.linspace(-2.5, 2.5, 11)
    assert np.interp(x, curve.x, curve.y) == pytest.approx(oracle.norm.pdf(x), abs=0.012)


def test_a_signed_log_is_straight_around_zero_up_to_the_smallest_sizes() -> None:
    rng = np.random.default_rng(2)
    sample = Sample.of(np.exp(rng.normal(0, 4, 500)))
    linear = axis_scale(sample, "signed_log").linear
    assert isfinite(linear) and log10(linear) == round(log10(linear))
    assert np.mean(np.abs(sample.values) < linear) <= 0.05
