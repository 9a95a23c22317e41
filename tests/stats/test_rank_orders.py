"""p of rank correlations at small n, ties or not: against all orders gone through, and against the level promised."""

from itertools import permutations

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.stats.correlation.kendall import kendall
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.correlation.spearman import spearman
from culvix.stats.correlation.spearman_matrix import spearman_approximation, spearman_matrix

COLUMN = st.lists(st.integers(0, 4), min_size=6, max_size=6)


def balance(x: np.ndarray, y: np.ndarray) -> float:
    """Kendall's numerator by definition."""
    return float((np.sign(x[:, None] - x) * np.sign(y[:, None] - y)).sum())


def rank_products(x: np.ndarray, y: np.ndarray) -> float:
    return float(np.cov(oracle.rankdata(x), oracle.rankdata(y))[0, 1])


@given(COLUMN, COLUMN, st.integers(3, 6))
@settings(max_examples=12, deadline=None)
def test_p_of_few_pairs_is_the_share_of_all_orders(first: list[int], second: list[int], n: int) -> None:
    x, y = np.array(first[:n], dtype=float), np.array(second[:n], dtype=float)
    for found, by_definition in ((spearman(x, y), rank_products), (kendall(x, y), balance)):
        if np.ptp(x) == 0 or np.ptp(y) == 0:
            assert found.r is None
            continue
        sizes = np.abs([by_definition(x, np.array(order)) for order in permutations(y)])
        assert found.p == pytest.approx(float((sizes >= abs(by_definition(x, y)) - 1e-9).mean()), abs=1e-12)
        assert found.p_by == "all orders"


def test_without_ties_all_orders_are_what_published_tables_have() -> None:
    """Zar 1972: at n = 7 the two-sided 5 % point of Spearman's coefficient is 0.786, at n = 8 0.738."""
    for n, point, before in ((7, 0.786, 0.75), (8, 0.738, 0.714)):
        ranks = np.arange(float(n))
        orders = np.random.default_rng(n).permuted(np.tile(ranks, (300, 1)), axis=1)
        found = [spearman(ranks, order) for order in orders]
        below = {round(abs(pair.r), 3): pair.p for pair in found}
        assert below[point] <= 0.05 < below[before]


def test_random_orders_agree_with_each_other_and_with_the_approximation_where_it_holds() -> None:
    draw = np.random.default_rng(3)
    for n in (12, 20, 30):
        x, y = draw.integers(0, 6, n).astype(float), draw.integers(0, 6, n).astype(float)
        for run, theirs in ((spearman, oracle.spearmanr), (kendall, oracle.kendalltau)):
            found = run(x, y)
            assert found.p_by == "9999 random orders" and found == run(x, y)
            assert found.p == pytest.approx(theirs(x, y).pvalue, abs=0.04)
            assert spearman_matrix([x, y]).p[0, 1] == spearman(x, y).p


def test_far_out_p_is_left_to_the_approximation_and_never_0() -> None:
    x = np.arange(20.0)
    found = spearman(x, x)
    assert found.p_by == "approximation" and 0 < found.p < 1e-17
    assert spearman(np.arange(31.0), np.arange(31.0)[::-1]).p_by == "t test"


@pytest.mark.parametrize("run", [spearman, kendall])
def test_the_level_is_held_with_heavy_ties(run: object) -> None:
    draw, rejected = np.random.default_rng(8), 0
    for _ in range(300):
        x, y = (draw.choice([1.0, 1.0, 1.0, 2.0, 3.0], 12) for _ in range(2))
        found: PairCorrelation = run(x, y)  # type: ignore[operator]
        rejected += found.p is not None and found.p <= 0.05
    assert rejected / 300 < 0.08


@given(st.integers(0, 10**6), st.sampled_from(["none", "some", "many"]), st.sampled_from([0.0, 0.1, 0.6]))
@settings(max_examples=25, deadline=None)
def test_a_matrix_is_made_of_the_coefficients_of_its_pairs(seed: int, ties: str, missing: float) -> None:
    draw = np.random.default_rng(seed)
    steps = {"none": None, "some": 1, "many": 0}[ties]
    table = draw.normal(size=(4, int(draw.integers(5, 200))))
    table = table if steps is None else np.round(table, steps)
    table[draw.random(table.shape) < missing] = np.nan
    table[3] = table[0] if seed % 2 else np.inf
    matrix = spearman_matrix(list(table))
    for i in range(4):
        for j in range(i, 4):
            pair = spearman(table[i], table[j])
            assert matrix.n[i, j] == pair.n
            assert np.isnan(matrix.r[i, j]) if pair.r is None else matrix.r[i, j] == pytest.approx(pair.r, abs=1e-14)
            assert np.isnan(matrix.p[i, j]) if pair.p is None else matrix.p[i, j] == pytest.approx(pair.p, rel=1e-9)


def test_a_first_look_is_exact_without_gaps_and_near_with_them() -> None:
    draw = np.random.default_rng(2)
    table = np.round(draw.normal(size=(5, 3000)) + draw.normal(size=3000), 2)
    exact, soon = spearman_matrix(list(table)), spearman_approximation(list(table))
    assert soon.r == pytest.approx(exact.r, abs=1e-12) and soon.kind == "spearman"
    table[draw.random(table.shape) < 0.05] = np.nan
    exact, soon = spearman_matrix(list(table)), spearman_approximation(list(table))
    assert soon.r == pytest.approx(exact.r, abs=2e-3) and (soon.n == exact.n).all()
    assert np.abs(soon.r - exact.r).max() > 0
