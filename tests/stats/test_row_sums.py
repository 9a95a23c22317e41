"""What is worked out by rows of neighbours against the same value by value."""

from fractions import Fraction
from math import sqrt

import numpy as np
import pytest

from culvix.stats.core.edf import edf_distances
from culvix.stats.core.normal_scores import normal_scores, score_sums
from culvix.stats.core.rank_sums import chebyshev_nodes
from culvix.stats.core.row_sums import NODES, ROW, RowSums, row_sums
from culvix.stats.core.sample import Sample
from culvix.stats.describe.l_moments import l_moments
from culvix.stats.describe.positive_sums import positive_sums


def columns() -> dict[str, np.ndarray]:
    draw = np.random.default_rng(5)
    n = 20_037
    one = draw.normal(size=n)
    one[5] = 1e15
    return {
        "normal": draw.normal(size=n),
        "whole rows": draw.gamma(2, size=150 * ROW),
        "skewed": draw.gamma(0.3, size=n) + 1e-12,
        "long tails": draw.standard_cauchy(n),
        "far from zero": 1e9 + 1e-3 * draw.normal(size=n),
        "one far out": one,
        "mostly zero": draw.exponential(size=n) * (draw.random(n) < 0.4),
        "two heaps": np.concatenate([draw.normal(0, 1, n // 2), draw.normal(1e6, 1, n // 2)]),
        "in steps": np.round(draw.normal(50, 5, n), 1),
        "small": 1e-55 * draw.normal(size=n),
    }


COLUMNS = {name: np.sort(x) for name, x in columns().items()}
EVERY = pytest.mark.parametrize("name", list(COLUMNS))


def rows_of(name: str) -> tuple[np.ndarray, RowSums]:
    found = row_sums(COLUMNS[name])
    assert found is not None
    return COLUMNS[name], found


@EVERY
def test_every_value_is_in_a_row_or_left(name: str) -> None:
    x, rows = rows_of(name)
    positions = np.concatenate([(rows.starts[:, None] + np.arange(ROW)).ravel(), rows.left])
    assert np.sort(positions).tolist() == list(range(x.size))


@EVERY
def test_sums_of_powers_and_of_weighted_distances(name: str) -> None:
    x, rows = rows_of(name)
    d = x[rows.starts[:, None] + np.arange(ROW)] - rows.middles[:, None]
    size = np.abs(d).max(axis=1, initial=0.0)[:, None]
    size[size == 0] = 1.0
    odd = np.arange(1.0, 2 * ROW, 2.0)
    for degree in range(4):
        for weighted, weights in enumerate((np.ones(ROW), odd)):
            expected = (d / size) ** (degree + 1) @ weights
            found = rows.powers[:, degree, weighted] / size[:, 0] ** (degree + 1)
            assert found == pytest.approx(expected, abs=1e-11)
    positions = np.arange(ROW) / ROW
    polynomial = np.polynomial.Polynomial([0.3, -1, 2, 0.5, -3, 1, 2])
    by_nodes = rows.at_nodes @ polynomial(chebyshev_nodes(ROW, NODES) / ROW)
    assert by_nodes / size[:, 0] == pytest.approx((d / size) @ polynomial(positions), abs=1e-11)


@EVERY
def test_moments_are_those_of_exact_fractions(name: str) -> None:
    x = COLUMNS[name]
    exact = [Fraction(value) for value in x.tolist()]
    mean = sum(exact) / len(exact)
    deviations = [value - mean for value in exact]
    second, third, fourth = (sum(d**k for d in deviations) / len(exact) for k in (2, 3, 4))
    found = Sample(x).moments
    scale = sqrt(second)
    assert abs(found.mean - float(mean)) <= max(np.spacing(abs(float(mean))), 1e-16 * scale)
    assert found.sd == pytest.approx(sqrt(second * len(exact) / (len(exact) - 1)), rel=1e-14)
    assert found.g1 == pytest.approx(float(third / second) / scale, rel=1e-12, abs=1e-13)
    assert found.g2 == pytest.approx(float(fourth / second / second) - 3, rel=1e-12, abs=1e-12)


@EVERY
def test_distances_from_the_normal(name: str) -> None:
    x, rows = rows_of(name)
    mean, sd = Sample(x).fit
    by_rows, one_by_one = edf_distances(x, mean, sd, rows), edf_distances(x, mean, sd)
    assert by_rows.largest == pytest.approx(one_by_one.largest, rel=1e-12)
    assert by_rows.squared == pytest.approx(one_by_one.squared, rel=1e-9)
    assert by_rows.weighted == pytest.approx(one_by_one.weighted, rel=1e-9, abs=1e-8)


@EVERY
def test_l_moments_by_rows(name: str) -> None:
    x, rows = rows_of(name)
    mean = Sample(x).moments.mean
    by_rows, plain = l_moments(x, mean, rows), l_moments(x, mean)
    assert by_rows.scale == pytest.approx(plain.scale, rel=1e-13)
    assert (by_rows.skewness, by_rows.kurtosis) == pytest.approx((plain.skewness, plain.kurtosis), abs=1e-11)


@EVERY
def test_products_with_normal_scores(name: str) -> None:
    x, rows = rows_of(name)
    sums, z = score_sums(x, 1.0, rows=rows), normal_scores(x.size)
    assert sums.squares == pytest.approx(float(z @ z), rel=1e-13)
    assert sums.product == pytest.approx(float(z @ (x - x[x.size // 2])), rel=1e-12)


@pytest.mark.parametrize("name", ["whole rows", "skewed", "far from zero", "in steps"])
def test_sums_for_geometric_and_harmonic_means(name: str) -> None:
    x, rows = rows_of(name)
    logarithms, reciprocals = positive_sums(x, rows)
    assert logarithms == pytest.approx(float(np.log(x).sum()), rel=1e-13, abs=1e-9)
    assert reciprocals == pytest.approx(float((x[0] / x).sum()), rel=1e-13)


def test_short_columns_and_those_beyond_fourth_powers_have_no_rows() -> None:
    draw = np.random.default_rng(1)
    assert row_sums(np.sort(draw.normal(size=100))) is None
    for scale in (1e-80, 1e70, 1e200):
        assert row_sums(np.sort(scale * draw.normal(size=20_000))) is None
    assert row_sums(np.ones(20_000)) is None
