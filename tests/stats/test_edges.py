"""Figures at the edges: large offsets, exact proportions, the shortest samples."""

from fractions import Fraction
from statistics import median

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culvix.stats.core.sample import Sample
from culvix.stats.correlation.pearson import pearson, pearson_matrix
from culvix.stats.describe.l_moments import l_moments
from culvix.stats.describe.medcouple import medcouple

QUARTERS = st.lists(st.integers(-400, 400), min_size=5, max_size=60, unique=True)


def exact_medcouple(values: list[Fraction]) -> float:
    """By definition, in fractions; for values that differ from each other."""
    middle = median(values)
    below, above = [v for v in values if v <= middle], [v for v in values if v >= middle]
    kernels = [Fraction(0) if a == b else (b + a - 2 * middle) / (b - a) for a in below for b in above]
    return float(median(kernels))


@given(QUARTERS, st.sampled_from([0, 10**9, -(10**12), 10**15]))
@settings(max_examples=25, deadline=None)
def test_an_offset_costs_the_medcouple_nothing(quarters: list[int], offset: int) -> None:
    values = [Fraction(value, 4) + offset for value in quarters]
    found = medcouple(Sample.of([float(value) for value in values]))
    assert found == pytest.approx(exact_medcouple(values), abs=1e-12)


def test_the_medcouple_of_the_largest_numbers_is_that_of_small_ones() -> None:
    x = np.array([-1.7, -0.4, 0.1, 0.2, 0.9, 1.3, 1.7])
    assert medcouple(Sample(x * 1e308)) == pytest.approx(medcouple(Sample(x)), abs=1e-12)


@given(st.integers(3, 400), st.integers(0, 2**20), st.sampled_from([3.0, -0.1, 1e-200, 7e150, -1e12]))
@settings(max_examples=30, deadline=None)
def test_proportional_columns_correlate_exactly(n: int, seed: int, factor: float) -> None:
    x = np.random.default_rng(seed).gamma(2, size=n)
    sign = np.sign(factor)
    assert pearson(x, factor * x).r == sign
    assert pearson_matrix([x, factor * x, x]).r.tolist() == [[1, sign, 1], [sign, 1, sign], [1, sign, 1]]


@given(st.integers(10, 120), st.integers(0, 2**20))
@settings(max_examples=25, deadline=None)
def test_a_coefficient_next_to_1_keeps_the_digits_of_what_it_lacks(n: int, seed: int) -> None:
    draw = np.random.default_rng(seed)
    x = np.round(draw.normal(size=n), 6)
    y = x + np.round(draw.normal(size=n), 6) * 1e-6
    a, b = ([Fraction(value) for value in column] for column in (x, y))
    a, b = ([value - sum(column) / n for value in column] for column in (a, b))
    squared = sum(p * q for p, q in zip(a, b, strict=True)) ** 2 / (sum(p * p for p in a) * sum(q * q for q in b))
    lacks = float(1 - squared)
    r = pearson(x, y).r
    assert r is not None and (1 - r) * (1 + r) == pytest.approx(lacks, abs=3e-16)


def test_the_l_kurtosis_of_a_short_sample_is_not_clipped() -> None:
    """Two and two apart: λ4 of n = 4 is (x4 − 3 x3 + 3 x2 − x1)/4, and λ2 the mean half difference of pairs."""
    x = np.array([0.0, 0.0, 1.0, 1.0])
    found = l_moments(x, 0.5)
    assert found is not None and found.scale == pytest.approx(1 / 3)
    assert found.kurtosis == pytest.approx((1 - 3) / 4 * 3) and found.skewness == pytest.approx(0, abs=1e-15)
