"""Relations that hold in part of the range, and those whose scatter is not the same everywhere."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culvix.study.relations.relation_findings import relation_findings

N = 400


def kinds(x: np.ndarray, y: np.ndarray) -> set[str]:
    return {each.kind for each in relation_findings(["x", "y"], [x, y])}


def sentence(kind: str, x: np.ndarray, y: np.ndarray) -> str:
    (found,) = [each.sentence for each in relation_findings(["x", "y"], [x, y]) if each.kind == kind]
    return found


@pytest.fixture
def draw() -> np.random.Generator:
    return np.random.default_rng(5)


@pytest.mark.parametrize(("sign", "where"), [(1, "above"), (-1, "below")])
def test_a_relation_in_one_half_of_the_range_is_told_with_both_coefficients(
    draw: np.random.Generator, sign: int, where: str
) -> None:
    x = draw.uniform(-1, 1, N)
    y = 3 * np.maximum(sign * x, 0) + draw.normal(0, 0.4, N)
    message = sentence("part", x, y)
    assert f"y follows x only {where} its median" in message and f"n {N}" in message


def test_a_relation_all_along_is_not_in_part(draw: np.random.Generator) -> None:
    x = draw.uniform(-1, 1, N)
    assert "part" not in kinds(x, x + draw.normal(0, 0.4, N))


@pytest.mark.parametrize("falling", [False, True])
def test_a_scatter_that_grows_is_told_with_the_end_where_it_is_large(draw: np.random.Generator, falling: bool) -> None:
    x = draw.uniform(1, 5, N)
    y = 3 * x + draw.normal(0, 1, N) * (6 - x if falling else x)
    message = sentence("spread", x, y)
    assert f"in the {'lower' if falling else 'upper'} third of x" in message


def test_an_even_scatter_is_not_said_to_change_however_the_course_bends(draw: np.random.Generator) -> None:
    x = np.sort(draw.uniform(0, 3, N))
    assert "spread" not in kinds(x, np.exp(x) + draw.normal(0, 0.5, N))


def test_columns_without_a_relation_are_not_looked_at_for_their_scatter(draw: np.random.Generator) -> None:
    x = draw.uniform(1, 5, N)
    assert "spread" not in kinds(x, draw.permuted(draw.normal(0, 1, N) * x))


@settings(max_examples=25, deadline=None)
@given(seed=st.integers(0, 10_000), factor=st.floats(0.01, 1e6), shift=st.floats(-1e6, 1e6))
def test_units_do_not_matter(seed: int, factor: float, shift: float) -> None:
    draw = np.random.default_rng(seed)
    x = draw.uniform(1, 5, 120)
    y = 3 * x + draw.normal(0, 1, 120) * x**2
    assert kinds(x, y) & {"part", "spread"} == kinds(factor * x + shift, factor * y) & {"part", "spread"}
