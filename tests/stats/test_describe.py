"""Descriptive numbers against exact rational arithmetic, certified sets and SciPy."""

import math
from fractions import Fraction

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from hypothesis.extra import numpy as hnp
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core.moments import moments
from culvix.stats.core.sample import Sample
from culvix.stats.describe.description import describe
from tests.stats.hostile import arrays, numbers_in


def exact_sqrt(value: Fraction) -> float:
    """Square root of a fraction to the last digit."""
    scale = 10**80
    return float(Fraction(math.isqrt(value.numerator * scale**2 // value.denominator), scale))


def exact_moments(x: np.ndarray) -> tuple[Fraction, Fraction]:
    """Mean and variance (n−1) of the stored doubles, exactly."""
    values = [Fraction(v) for v in x.tolist()]
    mean = sum(values, Fraction(0)) / len(values)
    return mean, sum(((v - mean) ** 2 for v in values), Fraction(0)) / (len(values) - 1)


def alternating(centre: float, step: float = 0.1, n: int = 1001) -> np.ndarray:
    """The alternating accuracy sets: one centre, then pairs a step below and above it."""
    return np.array([centre] + [centre - step, centre + step] * (n // 2))


CERTIFIED = {
    "three large integers": (np.array([10000001.0, 10000003.0, 10000002.0]), 10000002.0, 1.0),
    "offset 1": (alternating(1.2), 1.2, 0.1),
    "offset 1e6": (alternating(1000000.2), 1000000.2, 0.1),
    "offset 1e7": (alternating(10000000.2), 10000000.2, 0.1),
}


@pytest.mark.parametrize("name", CERTIFIED)
def test_certified_sets(name: str) -> None:
    x, mean, sd = CERTIFIED[name]
    exact_mean, exact_variance = exact_moments(x)
    found = moments(np.sort(x))
    assert abs(found.mean - float(exact_mean)) <= 2 * np.spacing(float(exact_mean))
    assert found.sd == pytest.approx(exact_sqrt(exact_variance), rel=1e-14)
    # The certified values are of the decimals, which the stored doubles only approach.
    assert found.mean == pytest.approx(mean, rel=1e-15)
    assert found.sd == pytest.approx(sd, rel=1e-7)


def test_speed_of_light_measurements() -> None:
    """Newcomb's 66 passage times as published by Stigler 1977: mean 26.21, SD 10.75, median 27."""
    x = """28 26 33 24 34 -44 27 16 40 -2 29 22 24 21 25 30 23 29 31 19 24 20 36 32 36 28 25 21 28 29 37 25 28 26 30 32
           36 26 30 22 36 23 27 27 28 27 31 27 26 33 26 32 32 24 39 28 24 25 32 25 29 27 28 29 16 23"""
    d = describe(Sample.of([float(v) for v in x.split()]))
    assert d.n == 66 and d.median == 27.0 and d.modes == (28.0,) and d.mode_count == 7
    assert round(d.mean, 2) == 26.21 and round(d.sd, 2) == 10.75


@given(
    st.floats(-1e12, 1e12),
    st.sampled_from([1e-6, 1e-3, 1.0, 1e6]),
    hnp.arrays(np.float64, st.integers(2, 60), elements=st.floats(-1, 1)),
)
def test_large_offset_and_tiny_spread(offset: float, spread: float, shape: np.ndarray) -> None:
    x = offset + spread * shape
    if x.min() == x.max():
        return
    mean, variance = exact_moments(x)
    found = moments(np.sort(x))
    assert abs(found.mean - float(mean)) <= 2 * np.spacing(abs(float(mean)))
    assert found.sd == pytest.approx(exact_sqrt(variance), rel=1e-12)


def test_long_sums_are_exact_too() -> None:
    rng = np.random.default_rng(4)
    x = np.concatenate((rng.normal(1e9, 1e-3, 20_000), rng.normal(-1e9, 1, 20_001), [1e16, -1e16, 3.0]))
    rng.shuffle(x)
    exact = float(sum((Fraction(v) for v in x.tolist()), Fraction(0)))
    assert moments(x).sum == pytest.approx(exact, rel=1e-15)


@pytest.mark.parametrize("offset", [0.0, 1.2, 1e7, -1e9])
def test_long_columns_keep_the_accuracy(offset: float) -> None:
    x = np.random.default_rng(3).gamma(2.0, size=30_000) + offset
    mean, variance = exact_moments(x)
    found = moments(np.sort(x))
    assert abs(found.mean - float(mean)) <= 2 * np.spacing(abs(float(mean)))
    assert found.sd == pytest.approx(exact_sqrt(variance), rel=1e-14 if abs(offset) < 10 else 1e-12)


@pytest.mark.parametrize("trim", [0.0, 0.05, 0.1, 0.25, 0.4, 0.49])
@pytest.mark.parametrize("n", [1, 2, 3, 9, 15, 18, 19, 20, 101])
def test_trimming_cuts_whole_values_only(n: int, trim: float) -> None:
    x = np.random.default_rng(n).gamma(2.0, size=n)
    found = describe(Sample.of(x), trim=trim)
    assert found.trimmed_mean == pytest.approx(oracle.trim_mean(x, trim), rel=1e-12)
    assert found.winsorized_mean == pytest.approx(float(oracle.mstats.winsorize(x, (trim, trim)).mean()), rel=1e-12)


@pytest.mark.parametrize("scale", [1e-300, 1.0, 1e300])
def test_against_scipy_at_every_scale(scale: float) -> None:
    x = np.random.default_rng(1).gamma(2.0, size=501)
    d = describe(Sample.of(x * scale))
    assert d.skewness == pytest.approx(oracle.skew(x, bias=False), rel=1e-10)
    assert d.excess_kurtosis == pytest.approx(oracle.kurtosis(x, bias=False), rel=1e-10)
    assert d.mad == pytest.approx(oracle.median_abs_deviation(x) * scale, rel=1e-12)
    assert d.trimmed_mean == pytest.approx(oracle.trim_mean(x, 0.1) * scale, rel=1e-12)
    assert d.winsorized_mean == pytest.approx(float(oracle.mstats.winsorize(x, (0.1, 0.1)).mean()) * scale, rel=1e-12)
    assert d.geometric_mean == pytest.approx(oracle.gmean(x) * scale, rel=1e-11)
    assert d.harmonic_mean == pytest.approx(oracle.hmean(x) * scale, rel=1e-12)
    low, high = oracle.t.interval(0.95, 500, loc=x.mean(), scale=oracle.sem(x))
    assert d.ci_mean == pytest.approx((low * scale, high * scale), rel=1e-9)


@pytest.mark.parametrize("n", [6, 7, 20, 101])
def test_median_interval_is_exact(n: int) -> None:
    """The interval has at least the asked confidence, and the next narrower pair of values has less."""
    d = describe(Sample.of(np.arange(1.0, n + 1)))
    assert d.ci_median is not None
    k = round(d.ci_median[0])
    assert d.ci_median == (k, n + 1 - k)
    assert 1 - 2 * oracle.binom.cdf(k - 1, n, 0.5) >= 0.95 > 1 - 2 * oracle.binom.cdf(k, n, 0.5)


def test_whole_numbers_beyond_double_precision_stay_exact() -> None:
    base = 2**53
    whole = np.array([base + 1, base + 3, base + 3, base + 5], dtype=np.int64)
    d = describe(Sample.of(whole.astype(np.float64), whole))
    assert (d.min, d.max, d.range, d.sum) == (base + 1, base + 5, 4, 4 * base + 12)
    assert d.modes == (base + 3,) and d.mode_count == 2 and d.distinct == 3


@given(arrays())
def test_every_number_is_given_or_explained(x: np.ndarray) -> None:
    d = describe(Sample.of(x))
    assert d.n + d.missing + d.non_finite == x.size
    assert all(math.isfinite(v) for v in numbers_in(d))
    for name in d.__dataclass_fields__:
        if getattr(d, name) is None:
            assert d.notes[name].endswith("."), name


@pytest.mark.parametrize("x", [[], [np.nan, np.nan], [np.inf], [2.0], [2.0, 2.0], [1.0, 2.0], [1.0, 2.0, 4.0]])
def test_small_samples_say_why(x: list[float]) -> None:
    d = describe(Sample.of(x))
    missing = [name for name in ("mean", "sd", "skewness", "excess_kurtosis") if getattr(d, name) is None]
    assert all(d.notes[name] for name in missing)
    assert (d.excess_kurtosis is None) and (d.n >= 2 or d.sd is None)


def test_settings_out_of_range_are_refused() -> None:
    for options in ({"quantile_type": 10}, {"confidence": 1.0}, {"trim": 0.5}):
        with pytest.raises(StatisticsError):
            describe(Sample.of([1.0, 2.0]), **options)
