"""What looks at several columns or at random repeats: partial and distance correlation, row distances, simulation."""

import math

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.demo import Cohort
from culvix.errors import StatisticsError
from culvix.stats.core.sample import Sample
from culvix.stats.correlation.by_group import correlation_by_group
from culvix.stats.correlation.distance import distance_correlation
from culvix.stats.correlation.partial import partial_correlation
from culvix.stats.correlation.pearson import pearson
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.correlation.spearman import spearman
from culvix.stats.multivariate.minimum_covariance import minimum_covariance_determinant
from culvix.stats.multivariate.row_distances import row_distances
from culvix.stats.outliers.scoped import on_scale, within_groups
from culvix.stats.registry import OUTLIER_METHODS
from culvix.tables import Table
from tests.stats.hostile import arrays, numbers_in


def test_partial_correlation_by_the_recursion_of_three() -> None:
    rng = np.random.default_rng(1)
    z = rng.normal(size=300)
    x, y = z + rng.normal(size=300), 2 * z + rng.normal(size=300) + 1e6
    xy, xz, yz = (pearson(a, b).r for a, b in ((x, y), (x, z), (y, z)))
    expected = (xy - xz * yz) / np.sqrt((1 - xz**2) * (1 - yz**2))
    found = partial_correlation(x, y, [z])
    t = expected * np.sqrt(297 / (1 - expected**2))
    assert found.r == pytest.approx(expected, abs=1e-9) and abs(found.r) < 0.15 < xy
    assert found.p == pytest.approx(2 * oracle.t.sf(abs(t), 297), rel=1e-6)
    assert partial_correlation(x, y, []).r == pytest.approx(xy)
    assert partial_correlation(np.exp(x), y, [], ranks=True).r == pytest.approx(oracle.spearmanr(x, y).statistic)
    assert "follows from" in partial_correlation(x, 2 * z, [z]).note
    assert partial_correlation(x[:3], y[:3], [z[:3]]).r is None


def naive_distance_correlation(x: np.ndarray, y: np.ndarray) -> float:
    def centred(v: np.ndarray) -> np.ndarray:
        d = np.abs(v[:, None] - v)
        return d - d.mean(axis=0) - d.mean(axis=1)[:, None] + d.mean()

    a, b = centred(x), centred(y)
    return float(np.sqrt((a * b).mean() / np.sqrt((a * a).mean() * (b * b).mean())))


@pytest.mark.parametrize("n", [2, 3, 7, 40, 129])
@pytest.mark.parametrize("ties", [False, True])
def test_distance_correlation_by_definition(n: int, ties: bool) -> None:
    rng = np.random.default_rng(n)
    x = rng.normal(size=n)
    y = x**2 + 0.1 * rng.normal(size=n)
    if ties:
        x, y = np.round(x), np.round(y)
    if np.unique(x).size < 2 or np.unique(y).size < 2:
        return
    assert distance_correlation(x, y, repeats=1).r == pytest.approx(naive_distance_correlation(x, y), abs=1e-7)


def test_distance_correlation_sees_what_pearson_does_not() -> None:
    rng = np.random.default_rng(5)
    x = rng.uniform(-1, 1, 300)
    curved, unrelated = (
        distance_correlation(x, x**2, repeats=99),
        distance_correlation(x, rng.normal(size=300), repeats=99),
    )
    assert pearson(x, x**2).p > 0.05 and curved.p == 0.01 and unrelated.p > 0.05
    assert distance_correlation(x, x**2, repeats=99) == curved


def test_row_distances_find_what_single_columns_hide() -> None:
    rng = np.random.default_rng(2)
    x = rng.normal(size=400)
    y = x + 0.2 * rng.normal(size=400)
    x[:40], y[:40] = rng.normal(1.5, 0.1, 40), rng.normal(-1.5, 0.1, 40)
    x[400 - 1] = np.nan
    found = row_distances([x * 1e6, y, rng.normal(size=400) + 1e5])
    assert set(range(40)) <= set(found.flagged.tolist()) and found.flagged.size < 70
    assert (found.classical[:40] < found.robust[:40] / 2).all() and 399 not in found.rows
    assert found.contributions.sum(axis=1) == pytest.approx(found.robust**2)
    assert np.abs(found.contributions[:40, :2]).sum() > 20 * np.abs(found.contributions[:40, 2]).sum()


def test_robust_scatter_is_that_of_a_normal_sample() -> None:
    rng = np.random.default_rng(3)
    mixing = np.array([[2.0, 0.0], [1.0, 0.5]])
    x = rng.normal(size=(5000, 2)) @ mixing.T + [3.0, -1.0]
    centre, scatter = minimum_covariance_determinant(x)
    assert centre == pytest.approx([3, -1], abs=0.12)
    assert scatter == pytest.approx(mixing @ mixing.T, rel=0.08)
    again = minimum_covariance_determinant(x)
    assert (again[1] == scatter).all()
    shares = [row_distances([*rng.normal(size=(3, 200))]).flagged.size / 200 for _ in range(20)]
    assert np.mean(shares) == pytest.approx(0.025, abs=0.025)


def test_impossible_distances_are_refused() -> None:
    rng = np.random.default_rng(4)
    x, y = rng.normal(size=(2, 100))
    for columns in ([x], [x[:8], y[:8]], [x, y, x + y], [x, np.zeros(100)]):
        with pytest.raises(StatisticsError):
            row_distances(columns)


def test_within_groups_a_value_is_judged_among_its_own_kind() -> None:
    rng = np.random.default_rng(6)
    labels = ["a"] * 100 + ["b"] * 100 + [None]
    x = np.concatenate((rng.normal(0, 1, 100), rng.normal(50, 1, 100), [1000.0]))
    x[7] = 50.0
    run = OUTLIER_METHODS["modified_z"].run
    found = within_groups(Sample.of(x), labels, run)
    assert 7 in found.rows and 200 not in found.rows and 7 not in run(Sample.of(x)).rows
    assert set(found.groups) == {"a", "b"} and found.groups["b"].lower > 40
    with pytest.raises(StatisticsError):
        within_groups(Sample.of(x), ["a"], run)


def test_on_a_scale_the_span_comes_back() -> None:
    x = np.random.default_rng(7).lognormal(2, 0.8, 500)
    sample, logs = Sample.of(x), Sample.of(np.log(x))
    run = OUTLIER_METHODS["iqr_fences"].run
    found, direct = on_scale(sample, "ln", run), run(logs)
    assert (found.lower, found.upper) == pytest.approx((np.exp(direct.lower), np.exp(direct.upper)))
    assert sorted(found.rows) == sorted(direct.rows) and found.settings["scale"] == "ln"
    turned = on_scale(sample, "reciprocal", run)
    assert turned.lower < turned.upper
    for key in ("normal_ranks", "no such"):
        with pytest.raises(StatisticsError):
            on_scale(sample, key, run)


def test_the_planted_reversal_of_the_demo_is_seen(demo_table: Table, cohort: Cohort) -> None:
    x, y, tank = cohort.planted("sign_reversal").columns
    values = [demo_table[name].sample.values for name in (x, y)]
    labels = demo_table[tank].text.to_list()
    for kind in (pearson, spearman):
        found = correlation_by_group(*values, labels, kind)
        assert found.reverses and found.pooled.r > 0.5 > 0 > found.within.r
        assert len(found.groups) == 6 and all(group.r < 0 for group in found.groups.values())
        assert sum(group.n for group in found.groups.values()) == found.pooled.n
    length = demo_table["length_mm"].sample.values
    assert not correlation_by_group(length, values[0], labels, pearson).reverses


few = st.integers(0, 2).map(lambda k: ["a", "b", None][k])


@settings(max_examples=30)
@given(arrays(most=30), arrays(most=30), arrays(most=30), st.lists(few, min_size=30, max_size=30))
def test_several_columns_survive_anything(
    x: np.ndarray, y: np.ndarray, z: np.ndarray, labels: list[str | None]
) -> None:
    n = min(x.size, y.size, z.size)
    x, y, z, labels = x[:n], y[:n], z[:n], labels[:n]
    results: list[object] = [
        partial_correlation(x, y, [z]),
        partial_correlation(x, y, [z], ranks=True),
        distance_correlation(x, y, repeats=3),
        correlation_by_group(x, y, labels, spearman),
        within_groups(Sample.of(x), labels, OUTLIER_METHODS["modified_z"].run),
    ]
    try:
        results.append(row_distances([x, y, z]))
    except StatisticsError as error:
        assert error.sentence
    for result in results:
        assert all(math.isfinite(value) for value in numbers_in(result))
    for pair in results[:3]:
        assert isinstance(pair, PairCorrelation) and (pair.r is not None or pair.note)
