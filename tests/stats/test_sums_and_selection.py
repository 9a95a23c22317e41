"""The ground the statistics stand on: sums, samples, order statistics never written down, simulated levels."""

import math
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core import selection, sums
from culvix.stats.core.moments import accurate_mean, moments, standard_error_kurtosis, standard_error_skewness
from culvix.stats.core.quantiles import percentile_of
from culvix.stats.core.sample import Sample, kth_distance
from culvix.stats.core.selection import kth_smallest
from culvix.stats.describe.description import describe
from culvix.stats.registry import NORMALITY_TESTS, OUTLIER_METHODS
from tests.stats.hostile import arrays, ordinary

wild = st.one_of(ordinary, st.sampled_from([1e16, -1e16, 1.0, -1.0, 1e-16]))


@given(hnp.arrays(np.float64, st.integers(0, 300), elements=wild), st.sampled_from([2, 7, 4096]))
def test_careful_sums_equal_exact_ones(x: np.ndarray, short: int) -> None:
    """Also where the folding is made to start at a few values."""
    before, sums.SHORT = sums.SHORT, short
    try:
        found = sums.careful_sum(x)
    finally:
        sums.SHORT = before
    exact = float(sum((Fraction(v) for v in x.tolist()), Fraction(0)))
    assert found == pytest.approx(exact, rel=1e-15, abs=1e-14)


@given(hnp.arrays(np.float64, st.integers(1, 200), elements=ordinary))
def test_accurate_means_are_within_two_units_in_the_last_place(x: np.ndarray) -> None:
    exact = float(sum((Fraction(v) for v in x.tolist()), Fraction(0)) / x.size)
    assert abs(accurate_mean(x) - exact) <= 2 * np.spacing(abs(exact))
    assert abs(moments(np.sort(x)).mean - exact) <= 2 * np.spacing(abs(exact))


@given(arrays(ordinary), st.floats(-1e6, 1e6), st.data())
def test_nearest_values_by_bisection(x: np.ndarray, centre: float, data: st.DataObject) -> None:
    if not x.size:
        return
    ordered = np.sort(x)
    k = data.draw(st.integers(1, x.size))
    assert kth_distance(ordered, centre, k) == np.sort(np.abs(ordered - centre))[k - 1]


@given(
    st.lists(st.lists(st.integers(-20, 20), max_size=12), min_size=1, max_size=12),
    st.data(),
    st.sampled_from([1, 5, 2_000_000]),
)
def test_the_kth_of_values_that_are_only_counted(rows: list[list[int]], data: st.DataObject, limit: int) -> None:
    table = [np.sort(np.array(row, dtype=np.float64)) for row in rows]
    every = np.sort(np.concatenate(table))
    if not every.size:
        return
    k = data.draw(st.integers(1, every.size))
    sizes = np.array([row.size for row in table])

    def count(bound: float) -> np.ndarray:
        return np.array([np.searchsorted(row, bound, side="right") for row in table])

    def value(which: np.ndarray, positions: np.ndarray) -> np.ndarray:
        return np.array([table[i][j] for i, j in zip(which, positions, strict=True)])

    before, selection._WRITE_DOWN = selection._WRITE_DOWN, limit
    try:
        assert kth_smallest(k, -21.0, 20.0, sizes, count, value) == every[k - 1]
    finally:
        selection._WRITE_DOWN = before


@given(arrays())
def test_a_sample_accounts_for_every_cell(x: np.ndarray) -> None:
    sample = Sample.of(x)
    assert sample.n + sample.missing + sample.non_finite == x.size
    assert (sample.sorted[1:] >= sample.sorted[:-1]).all()
    assert (x[sample.rows] == sample.sorted).all()
    values, counts = sample.runs
    assert counts.sum() == sample.n and sample.distinct == values.size
    for value, times in zip(values, counts, strict=True):
        assert sample.below(value) + times + sample.above(value) == sample.n


@given(st.integers(0, 3000), st.integers(0, 60), st.integers(0, 60), st.booleans())
def test_outer_rows_are_those_of_the_full_order(n: int, low: int, high: int, rounded: bool) -> None:
    x = np.random.default_rng(n).normal(size=n)
    x = np.round(x, 1) if rounded else x
    x[::17] = np.nan
    low, high = min(low, Sample.of(x).n), min(high, Sample.of(x).n)
    quick, full = Sample.of(x), Sample.of(x)
    expected = np.concatenate((full.rows[:low], full.rows[full.n - high :]))
    assert quick.outer_rows(low, high).tolist() == expected.tolist()


def test_ties_stand_in_row_order() -> None:
    x = np.array([3.0, 1.0, 3.0, 2.0, 1.0, 3.0])
    assert Sample.of(x).rows.tolist() == [1, 4, 3, 0, 2, 5]


def test_what_is_no_sample_is_refused() -> None:
    for bad in (["a"], [[1.0, 2.0]], [None, object()]):
        with pytest.raises(StatisticsError):
            Sample.of(bad)
    with pytest.raises(StatisticsError):
        Sample.of([1.0, 2.0], np.array([1], dtype=np.int64))


def long_columns(n: int) -> dict[str, np.ndarray]:
    draw = np.random.default_rng(n)
    return {
        "normal": draw.normal(size=n),
        "skewed": draw.gamma(2.0, size=n),
        "rounded": np.round(draw.normal(size=n), 2),
        "heavy": draw.standard_t(2, size=n),
        "two peaks": np.concatenate((draw.normal(-8, 0.01, n // 2), draw.normal(3, 0.5, n - n // 2))),
        "large offset": 1e7 + draw.normal(size=n),
        "huge": 1e305 * draw.normal(size=n),
        "tiny": 1e-300 * draw.normal(size=n),
    }


@pytest.mark.parametrize("shape", long_columns(10))
def test_long_columns_are_tested_as_short_ones_are(shape: str) -> None:
    """The sums over rows of neighbours give what a value-by-value calculation gives."""
    n = 120_007
    x = np.sort(long_columns(n)[shape])
    sample = Sample.of(x)
    y = (x / 2 - sample.moments.mean / 2) / (sample.moments.sd / 2)
    position = np.arange(1, n + 1)
    share, steps = oracle.norm.cdf(y), (position - 0.5) / n
    assert sample.edf.largest == pytest.approx(np.abs(share - steps).max() + 0.5 / n, rel=1e-12)
    assert sample.edf.squared == pytest.approx(1 / (12 * n) + ((share - steps) ** 2).sum(), rel=1e-11)
    logs = (2 * position - 1) * (oracle.norm.logcdf(y) + oracle.norm.logsf(y)[::-1])
    assert sample.edf.weighted == pytest.approx(-n - math.fsum(logs) / n, rel=1e-7, abs=1e-7)
    scores = oracle.norm.ppf((position - 0.375) / (n + 0.25))
    assert sample.scores.squares == pytest.approx(math.fsum(scores**2), rel=1e-13)
    assert sample.scores.product == pytest.approx(math.fsum(scores * y), rel=1e-12)


@given(st.integers(0, 400), st.floats(0.001, 0.3), st.booleans())
def test_false_discovery_flags_what_the_step_up_rule_flags(n: int, q: float, heavy: bool) -> None:
    draw = np.random.default_rng(n)
    x = draw.standard_t(2, size=n) if heavy else draw.normal(size=n)
    result = OUTLIER_METHODS["fdr"].run(Sample.of(x), q=q)
    if n < 3:
        assert not result.rows.size and result.note
        return
    robust = 0.6745 * (n - 0.8) / n * (x - np.median(x)) / oracle.median_abs_deviation(x)
    rejected = oracle.false_discovery_control(2 * oracle.t.sf(np.abs(robust), n / 2)) <= q
    assert sorted(result.rows.tolist()) == np.flatnonzero(rejected).tolist()


@pytest.mark.parametrize("n", [3, 4, 10, 1000])
def test_standard_errors_of_shape_are_those_of_normal_samples(n: int) -> None:
    draw = np.random.default_rng(n).normal(size=(20_000, n))
    skew, kurt = oracle.skew(draw, axis=1, bias=False), oracle.kurtosis(draw, axis=1, bias=False)
    assert standard_error_skewness(n) == pytest.approx(skew.std(), rel=0.03)
    if n > 4:
        assert standard_error_kurtosis(n) == pytest.approx(kurt.std(), rel=0.12)
    assert standard_error_kurtosis(3) is None and standard_error_skewness(2) is None


def test_percentile_of_a_value_names_all_three_conventions() -> None:
    found = percentile_of(Sample.of([1.0, 2, 2, 3]), 2.0)
    assert (found.below, found.at_or_below, found.mean) == (25.0, 75.0, 50.0)
    for kind, ours in (("strict", found.below), ("weak", found.at_or_below), ("mean", found.mean)):
        assert oracle.percentileofscore([1, 2, 2, 3], 2, kind=kind) == ours
    with pytest.raises(StatisticsError):
        percentile_of(Sample.of([]), 1.0)


@given(arrays(ordinary, most=30), st.sampled_from([2.0**-8, 4.0, 2.0**40]), st.integers(-1000, 1000))
def test_flags_do_not_depend_on_the_unit(x: np.ndarray, scale: float, shift: int) -> None:
    """Powers of two change the unit without rounding; every method must flag the same rows."""
    if np.any((x != 0) & (np.abs(x) < 1e-290)):
        # Next to the smallest numbers there are, even a power of two rounds.
        return
    for key, method in OUTLIER_METHODS.items():
        if key == "valid_range":
            continue
        plain, scaled = method.run(Sample.of(x)), method.run(Sample.of(x * scale))
        assert plain.rows.tolist() == scaled.rows.tolist() and plain.applies == scaled.applies, key
        if plain.lower is not None:
            assert scaled.lower == pytest.approx(plain.lower * scale, rel=1e-9, abs=1e-9 * scale)


@given(arrays(ordinary, most=30))
def test_flags_follow_when_a_column_is_turned_round(x: np.ndarray) -> None:
    for key, method in OUTLIER_METHODS.items():
        if method.single or key in ("valid_range", "generalized_esd"):
            continue
        plain, turned = method.run(Sample.of(x)), method.run(Sample.of(-x))
        assert sorted(plain.rows) == sorted(turned.rows), key
        if plain.lower is not None and plain.upper is not None:
            ends = pytest.approx((-plain.upper, -plain.lower), rel=1e-6, abs=1e-6)
            assert (turned.lower, turned.upper) == ends


@pytest.mark.parametrize("key", [k for k in OUTLIER_METHODS if k != "valid_range"])
def test_limits_out_of_range_are_refused(key: str) -> None:
    method = OUTLIER_METHODS[key]
    sample = Sample.of([1.0, 2.0, 3.0, 4.0, 50.0])
    assert method.limit is not None
    for bad in (0.0, -1.0, math.nan):
        with pytest.raises(StatisticsError):
            method.run(sample, **{method.limit.key: bad})


@pytest.mark.parametrize("key", ["grubbs", "generalized_esd"])
def test_outlier_tests_hold_their_level(key: str) -> None:
    rng = np.random.default_rng(1)
    found = sum(OUTLIER_METHODS[key].run(Sample.of(rng.normal(size=40))).rows.size > 0 for _ in range(3000))
    assert found / 3000 == pytest.approx(0.05, abs=0.015)


def test_longer_samples_are_told_from_normal_more_often() -> None:
    """Power rises with n for every test, on a moderately skewed distribution."""
    rng = np.random.default_rng(2)
    for key, test in NORMALITY_TESTS.items():
        shares = []
        for n in (20, 80):
            shares.append(np.mean([test.run(Sample.of(rng.gamma(4, size=n))).p < 0.05 for _ in range(150)]))
        assert shares[1] > shares[0] + 0.1, key


@given(st.lists(st.integers(-(2**62), 2**62), min_size=1, max_size=50), st.booleans())
def test_sums_and_means_of_whole_numbers_are_exact(numbers: list[int], small: bool) -> None:
    numbers = [number % 1000 for number in numbers] if small else numbers
    integers = np.array(numbers, dtype=np.int64)
    sample = Sample.of(integers.astype(np.float64), integers)
    centre = sample.moments
    assert centre is not None and sample.whole_sum == sum(numbers)
    assert centre.sum == sum(numbers) and centre.mean == sum(numbers) / len(numbers)


@pytest.mark.parametrize("n", [5, 4096, 5000, 100_003])
def test_the_sum_of_zeros_and_ones_is_whole_at_any_length(n: int) -> None:
    values = (np.random.default_rng(n).random(n) < 0.3).astype(np.float64)
    centre = Sample(values).moments
    ones = int(np.count_nonzero(values))
    assert centre is not None and centre.sum == ones and centre.mean == ones / n
    huge = Sample(np.full(n, 1e300)).moments
    assert huge is not None and (huge.sum == n * int(1e300) if n < 10**8 else huge.sum is None)


def test_whole_numbers_of_any_size_keep_their_digits() -> None:
    large = [2**70 + k for k in (5, 3, 5, 1)]
    sample = Sample.of(np.array(large, dtype=np.float64), np.array(large, dtype=object))
    found = describe(sample)
    assert (found.min, found.max, found.sum) == (2**70 + 1, 2**70 + 5, sum(large)) and found.modes == (2**70 + 5,)
    assert found.distinct == 3
