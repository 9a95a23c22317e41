"""Tests of normality, outlier methods and correlations: against SciPy, published examples and definitions."""

import math
from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.stats.correlation import average_ranks, pearson, spearman, straight_line
from culvix.stats.methods import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS, suggested_test
from culvix.stats.normality.shapiro_wilk import shapiro_wilk, weights
from culvix.stats.normality.verdict import judge_normality
from culvix.stats.outliers.iqr_fences import iqr_fences
from culvix.stats.outliers.modified_z import modified_z
from culvix.stats.outliers.z_score import largest_possible_z, z_score
from culvix.stats.qq import qq
from culvix.stats.sample import Sample
from tests.stats.hostile import arrays, numbers_in, ordinary

WEIGHTS_OF_MEN = [148, 154, 158, 160, 161, 162, 166, 170, 182, 195, 236]
"""The worked example of Shapiro & Wilk 1965, W = 0.79."""


def test_shapiro_wilk_published_example() -> None:
    result = shapiro_wilk(Sample.of(WEIGHTS_OF_MEN))
    assert result.statistic == pytest.approx(0.79, abs=0.005)
    assert result.p == pytest.approx(0.0067, abs=1e-4)


@pytest.mark.parametrize("n", [3, 4, 5, 6, 7, 11, 12, 13, 50, 51, 500, 4999])
@pytest.mark.parametrize("shape", ["normal", "gamma", "uniform", "ties"])
def test_shapiro_wilk_against_scipy(n: int, shape: str) -> None:
    rng = np.random.default_rng(n)
    x = {"normal": rng.normal(size=n), "gamma": rng.gamma(2, size=n), "uniform": rng.random(n)}.get(shape)
    x = np.round(rng.normal(size=n), 1) + np.arange(n) % 2 if x is None else x
    ours, theirs = shapiro_wilk(Sample.of(x)), oracle.shapiro(x)
    # SciPy takes normal quantiles good to seven digits; ours are exact, hence not closer than this.
    assert ours.statistic == pytest.approx(theirs.statistic, abs=2e-9)
    assert ours.p == pytest.approx(theirs.pvalue, rel=1e-5, abs=1e-12)


def test_shapiro_wilk_does_not_feel_offset_or_scale() -> None:
    x = np.random.default_rng(8).normal(size=40)
    plain = shapiro_wilk(Sample.of(x))
    for moved in (x * 1e300, x * 1e-300, x * 2.0**40 + 0.0):
        assert shapiro_wilk(Sample.of(moved)).statistic == pytest.approx(plain.statistic, rel=1e-13)
    assert (weights(41) ** 2).sum() * 2 == pytest.approx(1, abs=1e-12)


def test_shapiro_wilk_says_where_it_is_approximate_or_impossible() -> None:
    assert "approximate" in (shapiro_wilk(Sample.of(np.random.default_rng(0).normal(size=6000))).note or "")
    assert shapiro_wilk(Sample.of([1.0, 2.0])).p is None
    assert "equal" in (shapiro_wilk(Sample.of([1.0] * 9)).note or "")


def test_verdict_speaks_of_size_and_cause() -> None:
    x = np.concatenate((np.random.default_rng(1).normal(size=300), [40.0, 41.0]))
    sample, clean = Sample.of(x), Sample.of(x).without(np.array([300, 301]))
    both = shapiro_wilk(sample), shapiro_wilk(clean)
    verdict = judge_normality(sample, *both, qq(sample), flagged=2)
    assert verdict.rejects and verdict.flags_alone and "only through 2 flagged values" in verdict.sentence
    small = Sample.of(np.random.default_rng(3).normal(size=8))
    assert "could hide" in judge_normality(small, shapiro_wilk(small), None, qq(small)).sentence
    with pytest.raises(StatisticsError):
        judge_normality(small, shapiro_wilk(small), None, None, alpha=0)


def test_outlier_spans_by_definition() -> None:
    x = np.array([2.1, 2.6, 2.4, 2.5, 2.3, 2.1, 2.3, 2.6, 8.2, 8.3])
    sample = Sample.of(x)
    z = z_score(sample, k=1.5)
    assert (z.lower, z.upper) == pytest.approx((x.mean() - 1.5 * x.std(ddof=1), x.mean() + 1.5 * x.std(ddof=1)))
    assert sorted(z.rows) == [8, 9]
    q1, q3 = np.percentile(x, [25, 75])
    fences = iqr_fences(sample)
    assert (fences.lower, fences.upper) == pytest.approx((q1 - 1.5 * (q3 - q1), q3 + 1.5 * (q3 - q1)))
    robust = modified_z(sample)
    mad = np.median(np.abs(x - np.median(x)))
    assert robust.scores == pytest.approx(0.6745 * (np.sort(x)[-2:] - np.median(x)) / mad)
    assert x[robust.rows].tolist() == [8.2, 8.3]


def test_masking_and_impossible_rules_are_said() -> None:
    result = z_score(Sample.of([1.0, 1.1, 0.9, 1.05, 0.95, 1.0, 500.0]))
    assert not result.rows.size and result.note and "out of reach" in result.note
    half_equal = Sample.of([5.0] * 8 + [6.0, 7.0, 90.0])
    assert "MAD is 0" in (modified_z(half_equal).note or "") and 10 in modified_z(half_equal).rows
    assert iqr_fences(Sample.of([5.0] * 9 + [6.0])).lower is None
    with pytest.raises(StatisticsError):
        z_score(half_equal, k=0)


@given(arrays(ordinary))
def test_no_z_passes_its_bound(x: np.ndarray) -> None:
    sample = Sample.of(x)
    if sample.n >= 2:
        scores = z_score(sample, k=1e-9).scores
        assert not scores.size or np.abs(scores).max() <= largest_possible_z(sample.n) * (1 + 1e-9)


@given(arrays(), st.sampled_from(list(OUTLIER_METHODS)))
def test_outlier_methods_survive_anything(x: np.ndarray, key: str) -> None:
    sample = Sample.of(x)
    result = OUTLIER_METHODS[key].run(sample)
    assert all(math.isfinite(v) for v in numbers_in(result))
    if result.lower is None or result.upper is None:
        assert result.note and not result.rows.size
    else:
        inside = (sample.values >= result.lower) & (sample.values <= result.upper)
        outside = np.flatnonzero(np.isfinite(sample.values) & ~inside)
        assert sorted(result.rows.tolist()) == outside.tolist()


@given(arrays(), st.sampled_from(list(NORMALITY_TESTS)))
def test_normality_tests_survive_anything(x: np.ndarray, key: str) -> None:
    result = NORMALITY_TESTS[key].run(Sample.of(x))
    if result.p is None or result.statistic is None:
        assert result.note
    else:
        assert 0 <= result.p <= 1 and 0 <= result.statistic <= 1


def test_the_table_is_complete() -> None:
    for table in (NORMALITY_TESTS, OUTLIER_METHODS, CORRELATION_KINDS):
        for key, row in table.items():
            assert row.key == key and row.tells.endswith(".") and row.source
    assert suggested_test(2000).key == "shapiro_wilk"


# Correlation


@pytest.mark.parametrize("n", [3, 10, 200])
def test_pair_against_scipy(n: int) -> None:
    rng = np.random.default_rng(n)
    x = rng.normal(size=n)
    y = np.round(x + rng.normal(size=n), 1)
    ours, theirs = pearson(x, y), oracle.pearsonr(x, y)
    assert (ours.r, ours.p) == pytest.approx((theirs.statistic, theirs.pvalue), rel=1e-10)
    ranked = oracle.spearmanr(x, y)
    assert spearman(x, y).r == pytest.approx(ranked.statistic, rel=1e-12)
    if n > 9:
        assert spearman(x, y).p == pytest.approx(ranked.pvalue, rel=1e-9)
    assert average_ranks(y).tolist() == oracle.rankdata(y).tolist()


def test_spearman_is_exact_for_few_without_ties() -> None:
    x, y = np.arange(6.0), np.array([2.0, 1, 4, 3, 6, 5])
    found = spearman(x, y)
    every = [abs(oracle.pearsonr(x, np.array(order)).statistic) for order in permutations(y)]
    assert found.p == pytest.approx(np.mean([r >= abs(found.r) - 1e-12 for r in every]))


@pytest.mark.parametrize("key", CORRELATION_KINDS)
def test_matrix_agrees_with_pairs(key: str) -> None:
    rng = np.random.default_rng(5)
    table = rng.normal(size=(60, 5)) + rng.normal(size=(60, 1))
    table[:, 3] = table[:, 3] * 1e-8 + 1e9
    table[rng.random(table.shape) < 0.2] = np.nan
    columns = [*table.T.copy(), np.full(60, 4.0), np.where(np.arange(60) < 2, 1.0, np.nan)]
    kind = CORRELATION_KINDS[key]
    matrix = kind.matrix(columns)
    for i in range(len(columns)):
        for j in range(i, len(columns)):
            pair = kind.run(columns[i], columns[j])
            assert matrix.n[i, j] == matrix.n[j, i] == pair.n
            if pair.r is None:
                assert np.isnan(matrix.r[i, j]) and matrix.notes[i, j] == pair.note
            else:
                assert matrix.r[i, j] == matrix.r[j, i] == pytest.approx(pair.r, abs=1e-12)
                assert pair.p is None or matrix.p[i, j] == pytest.approx(pair.p, rel=1e-8, abs=1e-300)


@given(arrays(most=15), arrays(most=15))
def test_correlation_survives_anything(x: np.ndarray, y: np.ndarray) -> None:
    size = min(x.size, y.size)
    for kind in CORRELATION_KINDS.values():
        result = kind.run(x[:size], y[:size])
        assert result.r is None or -1 <= result.r <= 1
        assert result.p is None or 0 <= result.p <= 1
        assert (result.r is not None and result.p is not None) or result.note
    line = straight_line(x[:size], y[:size])
    assert line is None or all(math.isfinite(v) for v in numbers_in(line))


def test_line_against_scipy() -> None:
    rng = np.random.default_rng(0)
    x = rng.normal(1e6, 2, 50)
    y = 3 - 0.5 * x + rng.normal(size=50)
    line, theirs = straight_line(x, y), oracle.linregress(x, y)
    assert line is not None
    assert (line.slope, line.intercept) == pytest.approx((theirs.slope, theirs.intercept), rel=1e-9)
