"""Tests of normality, outlier methods and correlations: against SciPy, published examples and definitions."""

import math
from itertools import permutations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.errors import StatisticsError
from culvix.guide import entries, entry_for
from culvix.report.documents.profile_extras import COLUMN_EXTRAS
from culvix.stats.core import selection
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.intervals import fisher_interval
from culvix.stats.correlation.kendall import inversions, kendall
from culvix.stats.correlation.pair_sums import average_ranks
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.spearman import spearman
from culvix.stats.describe.deferred import DeferredFigures, deferred_figures
from culvix.stats.describe.description import Description
from culvix.stats.describe.robust_scale import qn
from culvix.stats.normality.shapiro_wilk import shapiro_wilk
from culvix.stats.normality.verdict import judge_normality
from culvix.stats.outliers.dixon import dixon, dixon_bound
from culvix.stats.outliers.generalized_esd import esd_bound, generalized_esd
from culvix.stats.outliers.grubbs import grubbs, grubbs_bound
from culvix.stats.outliers.iqr_fences import iqr_fences
from culvix.stats.outliers.modified_z import modified_z
from culvix.stats.outliers.z_score import largest_possible_z, z_score
from culvix.stats.registry import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS, registered_keys, suggested_test
from culvix.stats.regression.straight_line import straight_line
from culvix.stats.resampling.column_bootstrap import BOOTSTRAPPED
from culvix.stats.resampling.multiple_testing import benjamini_hochberg, holm
from culvix.stats.shape.qq import qq
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


def test_shapiro_wilk_says_where_it_is_approximate_or_impossible() -> None:
    assert "approximate" in (shapiro_wilk(Sample.of(np.random.default_rng(0).normal(size=6000))).note or "")
    assert shapiro_wilk(Sample.of([1.0, 2.0])).p is None
    assert "equal" in (shapiro_wilk(Sample.of([1.0] * 9)).note or "")


def test_verdict_speaks_of_size_and_cause() -> None:
    x = np.concatenate((np.random.default_rng(1).normal(size=300), [40.0, 41.0]))
    sample, clean = Sample.of(x), Sample.of(x).without(np.array([300, 301]))
    both = shapiro_wilk(sample), shapiro_wilk(clean)
    verdict = judge_normality(sample, *both, qq(sample), flagged=2)
    assert verdict.rejects and verdict.flags_alone and "Without its 2 flagged values no departure" in verdict.sentence
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


ROSNER = """-0.25 0.68 0.94 1.15 1.20 1.26 1.26 1.34 1.38 1.43 1.49 1.49 1.55 1.56 1.58 1.65 1.69 1.70 1.76 1.77 1.81
1.91 1.94 1.96 1.99 2.06 2.09 2.10 2.14 2.15 2.23 2.24 2.26 2.35 2.37 2.40 2.47 2.54 2.62 2.64 2.90 2.92 2.92 2.93 3.21
3.26 3.30 3.59 3.68 4.30 4.64 5.34 5.42 6.01"""


def test_generalised_esd_published_example() -> None:
    """Rosner 1983: of up to ten, three outliers, though the first two steps alone would show none."""
    x = np.array([float(v) for v in ROSNER.split()])
    result = generalized_esd(Sample.of(x), k=10)
    assert sorted(x[result.rows]) == [5.34, 5.42, 6.01]
    assert result.scores == pytest.approx([3.118, 2.942, 3.179], abs=1e-3)
    assert [esd_bound(54, step, 0.05) for step in (1, 2, 3)] == pytest.approx([3.158, 3.151, 3.143], abs=1e-3)


def test_grubbs_published_example() -> None:
    """Grubbs & Beck 1972 bound for n = 8, and the mass readings of Tietjen & Moore 1972 with one high value."""
    x = [199.31, 199.53, 200.19, 200.82, 201.92, 201.95, 202.18, 245.57]
    result = grubbs(Sample.of(x))
    assert result.rows.tolist() == [7] and result.settings["statistic"] == pytest.approx(2.4687, abs=1e-4)
    assert grubbs_bound(8, 0.1) == pytest.approx(2.032, abs=1e-3)
    assert 0 < result.settings["p"] < 0.001


@pytest.mark.parametrize(("n", "bound"), [(3, 0.941), (4, 0.765), (5, 0.642), (6, 0.560), (7, 0.507)])
def test_dixon_against_the_published_bounds(n: int, bound: float) -> None:
    """Dixon's one-sided 5 % points are the two-sided 10 % points, to the accuracy of the early tables."""
    assert dixon_bound(n, 0.10) == pytest.approx(bound, abs=0.003)
    x = [float(k) for k in range(n - 1)] + [9e3]
    assert dixon(Sample.of(x)).rows.tolist() == [n - 1]
    assert dixon(Sample.of([-v for v in x])).rows.tolist() == [n - 1]


@pytest.mark.parametrize("n", [3, 9, 12, 30])
def test_dixon_holds_its_level(n: int) -> None:
    rng = np.random.default_rng(n)
    flagged = sum(dixon(Sample.of(rng.normal(size=n))).rows.size for _ in range(4000))
    assert flagged / 4000 == pytest.approx(0.05, abs=0.012)


def test_skewed_columns_get_skewed_spans() -> None:
    x = np.random.default_rng(6).lognormal(0, 0.7, 2000)
    sample, plain = Sample.of(x), iqr_fences(Sample.of(x))
    for key in ("double_mad", "adjusted_fences"):
        span = OUTLIER_METHODS[key].run(sample)
        assert span.rows.size < 0.6 * plain.rows.size
        assert span.upper - sample.median > sample.median - span.lower
    mirrored = OUTLIER_METHODS["adjusted_fences"].run(Sample.of(-x))
    assert mirrored.lower == pytest.approx(-OUTLIER_METHODS["adjusted_fences"].run(sample).upper)


def test_spans_by_definition_of_the_rest() -> None:
    x = np.random.default_rng(9).standard_t(3, 400)
    sample, median = Sample.of(x), float(np.median(x))
    reach = 3 * oracle.median_abs_deviation(x, scale="normal")
    assert OUTLIER_METHODS["hampel"].run(sample).upper == pytest.approx(median + reach)
    assert OUTLIER_METHODS["qn_distance"].run(sample).lower == pytest.approx(median - 3 * qn(sample))
    bounds = OUTLIER_METHODS["valid_range"].run(sample, lower=-2.0, upper=None)
    assert sorted(bounds.rows.tolist()) == np.flatnonzero(x < -2).tolist()


def test_fdr_flags_few_of_a_normal_sample_and_all_far_values() -> None:
    rng = np.random.default_rng(10)
    wrong = sum(OUTLIER_METHODS["fdr"].run(Sample.of(rng.normal(size=200))).rows.size for _ in range(100))
    assert wrong < 20
    far = np.concatenate((rng.normal(size=300), rng.normal(40, 1, 30)))
    assert set(OUTLIER_METHODS["fdr"].run(Sample.of(far)).rows.tolist()) >= set(range(300, 330))


# Robust scale and skewness


def naive_scales(x: np.ndarray) -> tuple[float, float]:
    """Sn and Qn by their definitions, without factors."""
    n, distance = x.size, np.abs(x[:, None] - x)
    high_medians = np.sort(np.sort(distance, axis=1)[:, n // 2])
    pairs = np.sort(distance[np.triu_indices(n, 1)])
    half = n // 2 + 1
    return float(high_medians[(n + 1) // 2 - 1]), float(pairs[half * (half - 1) // 2 - 1])


def naive_medcouple(x: np.ndarray) -> float:
    z = np.sort(x) - np.median(x)
    below, above, tied = z[z <= 0], z[z >= 0], int((z == 0).sum())
    first_tie = below.size - tied
    kernel = [
        np.sign(j + i - first_tie - (tied - 1)) if a == b == 0 else (b + a) / (b - a)
        for i, a in enumerate(below)
        for j, b in enumerate(above)
    ]
    return float(np.median(kernel))


@given(arrays(st.floats(-100, 100), most=50), st.sampled_from([2_000_000, 2]))
def test_fast_robust_figures_equal_their_definitions(x: np.ndarray, written_down: int) -> None:
    """Both when all values are written down and when nearly all are only counted."""
    before, selection._WRITE_DOWN = selection._WRITE_DOWN, written_down
    try:
        sample = Sample.of(x + 0.0)
        found = deferred_figures(sample)
    finally:
        selection._WRITE_DOWN = before
    if x.size < 10:
        return
    slow_sn, slow_qn = naive_scales(x)
    odd, n = x.size % 2, x.size
    size = max(np.abs(x).max(), 1e-300)
    assert found.sn == pytest.approx(1.1926 * (n / (n - 0.9) if odd else 1) * slow_sn, abs=1e-12 * size)
    assert found.qn == pytest.approx(2.2219 * n / (n + (1.4 if odd else 3.8)) * slow_qn, abs=1e-12 * size)
    if found.medcouple is not None and np.diff(np.unique(x)).min() > 1e-6 * size:
        assert found.medcouple == pytest.approx(naive_medcouple(x), abs=1e-9)


def test_robust_scales_estimate_the_sd_of_a_normal_sample() -> None:
    sample = Sample.of(np.random.default_rng(0).normal(5, 2, 40_000))
    found = deferred_figures(sample)
    assert (found.sn, found.qn) == pytest.approx((2, 2), rel=0.02) and found.medcouple == pytest.approx(0, abs=0.02)


@given(arrays())
def test_deferred_figures_survive_anything(x: np.ndarray) -> None:
    found = deferred_figures(Sample.of(x))
    assert all(math.isfinite(v) for v in numbers_in(found))
    assert all(getattr(found, key) is not None or found.notes[key] for key in ("sn", "qn", "medcouple"))


NULL_SHARES = {key: 0.05 for key in NORMALITY_TESTS if key not in ("jarque_bera", "dagostino_k2")}


def test_normality_against_scipy_and_under_the_null() -> None:
    rng = np.random.default_rng(12)
    x = rng.gamma(3, size=300)
    found = {key: test.run(Sample.of(x)) for key, test in NORMALITY_TESTS.items()}
    k2 = oracle.normaltest(x)
    assert (found["dagostino_k2"].statistic, found["dagostino_k2"].p) == pytest.approx((k2.statistic, k2.pvalue))
    z = (x - x.mean()) / x.std(ddof=1)
    assert found["lilliefors"].statistic == pytest.approx(oracle.kstest(z, "norm").statistic)
    assert found["cramer_von_mises"].statistic == pytest.approx(oracle.cramervonmises(z, "norm").statistic)
    straight = np.corrcoef(np.sort(x), oracle.norm.ppf((np.arange(1, 301) - 0.375) / 300.25))[0, 1] ** 2
    assert found["shapiro_francia"].statistic == pytest.approx(straight)
    rejections = dict.fromkeys(NULL_SHARES, 0)
    for _ in range(1500):
        sample = Sample.of(rng.normal(size=40))
        for key in NULL_SHARES:
            rejections[key] += NORMALITY_TESTS[key].run(sample).p < 0.05
    for key, count in rejections.items():
        assert count / 1500 == pytest.approx(0.05, abs=0.02), key


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
    if not result.applies:
        assert result.note and not result.rows.size and result.lower is None
    elif result.lower is None or result.upper is None:
        assert result.rows.size == result.scores.size <= sample.n and np.isfinite(sample.values[result.rows]).all()
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
        assert 0 <= result.p <= 1 and math.isfinite(result.statistic)


def test_the_table_is_complete() -> None:
    for table in (NORMALITY_TESTS, OUTLIER_METHODS, CORRELATION_KINDS):
        for key, row in table.items():
            assert row.key == key and row.tells.endswith(".") and row.source
            assert key in entries()
    assert suggested_test(2000).key == "shapiro_wilk" and suggested_test(10**6).key == "anderson_darling"


def test_the_guide_speaks_of_every_number() -> None:
    figures = [name for kind in (Description, DeferredFigures) for name in kind.__dataclass_fields__ if name != "notes"]
    extras = [*COLUMN_EXTRAS, "distance_correlation", "multivariate", "partial_correlation", "by_group", "box_cox"]
    for key in (*figures, *extras, *registered_keys(), *BOOTSTRAPPED):
        entry = entry_for(key)
        assert entry is not None, key
        assert all(part.endswith(".") for part in (entry.tells, entry.computed, entry.misleads)) and entry.source
    listed = [key for entry in entries().values() for key in entry.keys]
    assert len(listed) == len(set(listed)) and entry_for("no such thing") is None


# Correlation


@pytest.mark.parametrize("n", [3, 10, 200, 6000])
def test_pair_against_scipy(n: int) -> None:
    rng = np.random.default_rng(n)
    x = rng.normal(size=n)
    y = np.round(x + rng.normal(size=n), 1)
    ours, theirs = pearson(x, y), oracle.pearsonr(x, y)
    assert (ours.r, ours.p) == pytest.approx((theirs.statistic, theirs.pvalue), rel=1e-10)
    ranked = oracle.spearmanr(x, y)
    assert spearman(x, y).r == pytest.approx(ranked.statistic, rel=1e-12)
    if n > 30:
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


def test_fisher_interval_against_scipy() -> None:
    rng = np.random.default_rng(3)
    x = rng.normal(size=50)
    theirs = oracle.pearsonr(x, x + rng.normal(size=50))
    assert fisher_interval(theirs.statistic, 50) == pytest.approx(tuple(theirs.confidence_interval()), abs=1e-12)
    assert fisher_interval(1.0, 50) is None and fisher_interval(0.5, 3) is None


@pytest.mark.parametrize("n", [2, 3, 8, 20, 33, 34, 500, 6000])
@pytest.mark.parametrize("ties", [False, True])
def test_kendall_against_scipy(n: int, ties: bool) -> None:
    rng = np.random.default_rng(n)
    x, y = rng.normal(size=n), rng.normal(size=n)
    if ties:
        x, y = np.round(x), np.round(y + x)
    ours, theirs = kendall(x, y), oracle.kendalltau(x, y)
    if ours.r is None:
        assert np.isnan(theirs.statistic)
        return
    assert ours.r == pytest.approx(theirs.statistic, rel=1e-12, abs=1e-15)
    # SciPy turns to the exact count for a single discordant pair too, whatever n.
    # With ties it approximates where the orders themselves are gone through here.
    assert ours.p == pytest.approx(theirs.pvalue, rel=1e-9) or n > 33 or "orders" in (ours.p_by if ties else "")


@given(st.lists(st.integers(0, 12), max_size=60))
def test_inversions_by_definition(ranks: list[int]) -> None:
    slow = sum(a > b for i, a in enumerate(ranks) for b in ranks[i + 1 :])
    assert inversions(np.array(ranks, dtype=np.int64)) == slow


@given(st.lists(st.floats(0, 1), min_size=1, max_size=30))
def test_adjusted_p_against_scipy(p: list[float]) -> None:
    values = np.array(p)
    assert benjamini_hochberg(values) == pytest.approx(oracle.false_discovery_control(values), abs=1e-12)
    adjusted = holm(values)
    assert (adjusted >= benjamini_hochberg(values) - 1e-12).all() and (adjusted <= 1).all()
    assert adjusted[values.argmin()] == pytest.approx(min(1, values.min() * values.size))
    with pytest.raises(StatisticsError):
        holm(np.array([1.5]))


def test_line_against_scipy() -> None:
    rng = np.random.default_rng(0)
    x = rng.normal(1e6, 2, 50)
    y = 3 - 0.5 * x + rng.normal(size=50)
    line, theirs = straight_line(x, y), oracle.linregress(x, y)
    assert line is not None
    assert (line.slope, line.intercept) == pytest.approx((theirs.slope, theirs.intercept), rel=1e-9)
