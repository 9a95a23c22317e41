"""Intervals of quantiles, the SD, the Hodges–Lehmann estimate and coefficients, against oracles and coverage."""

from collections.abc import Callable

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.describe.hodges_lehmann import hodges_lehmann, hodges_lehmann_interval
from culvix.stats.describe.intervals import bonett_interval, quantile_interval
from culvix.stats.describe.trimmed_mean import trimmed_mean
from culvix.stats.registry import CORRELATION_KINDS
from culvix.stats.resampling.pair_bootstrap import BOOTSTRAPPED_COEFFICIENTS, bootstrap_correlation
from tests.stats.hostile import arrays


@given(st.integers(1, 300), st.floats(0.01, 0.99), st.sampled_from([0.8, 0.95, 0.99]))
def test_a_quantile_lies_between_order_statistics_as_often_as_is_said(n: int, p: float, confidence: float) -> None:
    low, high = quantile_interval(Sample(np.arange(1.0, n + 1)), p, confidence)
    tail, below = (1 - confidence) / 2, oracle.binom(n, p)
    # The k-th value is its own rank here; one further in would be safe no more.
    k = 0 if low is None else int(low)
    assert (k == 0 or below.cdf(k - 1) <= tail * (1 + 1e-9)) and below.cdf(k) > tail * (1 - 1e-9)
    j = n + 1 if high is None else int(high)
    assert (j == n + 1 or below.sf(j - 1) <= tail * (1 + 1e-9)) and below.sf(j - 2) > tail * (1 - 1e-9)


def test_a_quantile_that_no_value_bounds_has_an_open_end() -> None:
    low, high = quantile_interval(Sample(np.arange(50.0)), 0.99, 0.95)
    assert low == 47 and high is None
    assert quantile_interval(Sample(np.zeros(0)), 0.5, 0.95) == (None, None)
    for p, confidence in ((0.0, 0.95), (1.0, 0.95), (0.5, 1.0)):
        with pytest.raises(StatisticsError):
            quantile_interval(Sample(np.arange(9.0)), p, confidence)


def bonett(x: np.ndarray, confidence: float) -> tuple[float, float]:
    """The formula as it is printed."""
    n, z = x.size, oracle.norm.ppf((1 + confidence) / 2)
    trimmed = oracle.trim_mean(x, min(1 / (2 * np.sqrt(n - 4)), (n - 1) // 2 / n))
    kurtosis = n * ((x - trimmed) ** 4).sum() / ((x - x.mean()) ** 2).sum() ** 2
    c = n / (n - z)
    se = c * np.sqrt((kurtosis - (n - 3) / n) / (n - 1))
    ends = np.exp(np.log(c * x.var(ddof=1)) + np.array([-z, z]) * se)
    return tuple(np.sqrt(ends))


@pytest.mark.parametrize("n", [5, 6, 20, 333, 20_000])
def test_the_interval_of_the_sd_is_the_printed_formula(n: int) -> None:
    x = np.random.default_rng(n).gamma(2, 3, n) + 1000
    assert bonett_interval(Sample(x), 0.9) == pytest.approx(bonett(x, 0.9), rel=1e-9)


@pytest.mark.parametrize(
    ("draw_one", "sd"),
    [
        (lambda draw, n: draw.normal(size=n), 1.0),
        (lambda draw, n: draw.random(n), np.sqrt(1 / 12)),
        (lambda draw, n: draw.standard_t(6, n), np.sqrt(6 / 4)),
    ],
    ids=["normal", "flat", "long tails"],
)
def test_the_interval_of_the_sd_holds_it_normal_or_not(
    draw_one: Callable[[np.random.Generator, int], np.ndarray], sd: float
) -> None:
    draw = np.random.default_rng(2)
    ends = np.array([bonett_interval(Sample(draw_one(draw, 80)), 0.95) for _ in range(1500)])
    # 1 500 samples: a standard error of 0.6 %.
    assert 0.91 < np.mean((ends[:, 0] <= sd) & (sd <= ends[:, 1])) < 0.975


def test_without_a_spread_or_enough_values_there_is_no_interval_of_the_sd() -> None:
    assert bonett_interval(Sample(np.ones(20)), 0.95) is None
    assert bonett_interval(Sample(np.arange(4.0)), 0.95) is None


def pair_means(x: np.ndarray) -> np.ndarray:
    first, second = np.triu_indices(x.size)
    return np.sort((x[first] + x[second]) / 2)


@pytest.mark.parametrize("seed", range(20))
def test_hodges_lehmann_is_the_median_of_all_means_of_pairs(seed: int) -> None:
    draw = np.random.default_rng(seed)
    x = draw.gamma(2, 3, int(draw.integers(1, 90)))
    x = np.round(x) if seed % 2 else x
    assert hodges_lehmann(Sample(x)) == pytest.approx(np.median(pair_means(x)), rel=1e-12)


def test_many_pairs_are_never_all_written_down() -> None:
    x = np.random.default_rng(3).normal(50, 5, 3000)
    means = pair_means(x)
    assert hodges_lehmann(Sample(x)) == pytest.approx(np.median(means), rel=1e-12)
    low, high = hodges_lehmann_interval(Sample(x), 0.9)
    k = int(np.searchsorted(means, low)) + 1
    assert means[-k] == pytest.approx(high, rel=1e-12)
    assert hodges_lehmann(Sample(np.array([1e308, 1.7e308, -1.7e308]))) == pytest.approx(5e307)


@pytest.mark.parametrize("n", [6, 12, 30, 100, 101, 250])
def test_the_interval_of_the_centre_ends_where_the_signed_rank_test_turns(n: int) -> None:
    x = np.random.default_rng(n).normal(3, 1, n)
    ends = hodges_lehmann_interval(Sample(x), 0.95)
    how = {"method": "exact" if n <= 100 else "asymptotic", "correction": True}
    for end, outwards in zip(ends, (-1, 1), strict=True):
        outside, inside = end + outwards * 1e-9, end - outwards * 1e-9
        assert oracle.wilcoxon(x - outside, **how).pvalue <= 0.05
        assert oracle.wilcoxon(x - inside, **how).pvalue > 0.05
    assert hodges_lehmann_interval(Sample(x[:5]), 0.95) is None, "five values cannot say so much"


@given(arrays())
def test_the_centre_of_anything_is_a_number_between_the_extremes(x: np.ndarray) -> None:
    sample = Sample.of(x)
    centre, ends = hodges_lehmann(sample), hodges_lehmann_interval(sample)
    assert (centre is None) == (sample.n == 0)
    if centre is not None:
        assert sample.sorted[0] <= centre <= sample.sorted[-1]
    assert ends is None or sample.sorted[0] <= ends[0] <= ends[1] <= sample.sorted[-1]


@pytest.mark.parametrize("shape", ["normal", "skewed", "one far out"])
@pytest.mark.parametrize("share", [0.001, 0.1, 0.3])
def test_the_trimmed_mean_of_long_columns_is_that_of_the_values_kept(shape: str, share: float) -> None:
    x = np.random.default_rng(5).gamma(3 if shape == "skewed" else 500, size=30_000)
    if shape == "one far out":
        x[7] = 1e15
    cut = int(share * x.size)
    kept = np.sort(x)[cut : x.size - cut]
    assert trimmed_mean(Sample(x), cut) == pytest.approx(float(np.mean(kept)), rel=1e-13)


@pytest.mark.parametrize("kind", list(BOOTSTRAPPED_COEFFICIENTS))
def test_a_bootstrap_estimates_the_coefficient(kind: str) -> None:
    draw = np.random.default_rng(7)
    x = np.round(draw.normal(size=80), 1)
    y = np.round(x + draw.normal(size=80), 1)
    x[3] = np.nan
    found = bootstrap_correlation(x, y, kind, repeats=199)
    assert found.estimate == pytest.approx(CORRELATION_KINDS[kind].run(x, y).r, abs=1e-12)
    assert -1 <= found.low < found.estimate < found.high <= 1 and found.method == "BCa"
    assert bootstrap_correlation(x, y, kind, repeats=199) == found


def test_the_bootstrap_of_a_coefficient_agrees_with_scipy() -> None:
    draw = np.random.default_rng(9)
    x = draw.gamma(2, size=70)
    y = x + draw.gamma(2, size=70)

    def coefficient(a: np.ndarray, b: np.ndarray) -> float:
        return float(oracle.pearsonr(a, b).statistic)

    theirs = oracle.bootstrap(
        (x, y), coefficient, paired=True, vectorized=False, method="BCa", n_resamples=3000, rng=np.random.default_rng(0)
    ).confidence_interval
    ours = bootstrap_correlation(x, y, repeats=3000)
    # The ends of either are themselves random by a few per cent of the width.
    assert (ours.low, ours.high) == pytest.approx(tuple(theirs), abs=0.1 * (theirs.high - theirs.low))


def test_coefficients_that_have_no_interval_say_why() -> None:
    x = np.arange(30.0)
    assert "at least 5" in (bootstrap_correlation(x[:4], x[:4]).note or "")
    constant = bootstrap_correlation(x, np.ones(30), repeats=50)
    assert constant.low is None and constant.note
    with pytest.raises(StatisticsError):
        bootstrap_correlation(x, x, "phi")
    with pytest.raises(StatisticsError):
        bootstrap_correlation(x, x[:9])


def test_long_columns_are_resampled_in_part() -> None:
    draw = np.random.default_rng(12)
    x = draw.normal(size=50_000)
    y = x + draw.normal(size=50_000)
    found = bootstrap_correlation(x, y)
    expected = CORRELATION_KINDS["pearson"].interval(found.estimate, 50_000, 0.95)
    assert found.method == "m out of n"
    assert (found.low, found.high) == pytest.approx(expected, abs=0.15 * (expected[1] - expected[0]))
