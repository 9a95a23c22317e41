"""The order of columns by how they go together."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.errors import StatisticsError
from culvix.stats.multivariate.seriation import seriation


def chain(k: int, seed: int) -> tuple[np.ndarray, np.ndarray]:
    """Strengths that fall with the distance along a line, and the shuffled columns along it."""
    shuffled = np.random.default_rng(seed).permutation(k)
    away = np.abs(np.subtract.outer(shuffled, shuffled))
    return 1 / (1 + away), shuffled


@pytest.mark.parametrize("seed", range(5))
def test_two_families_stand_apart_each_as_one_block(seed: int) -> None:
    family = np.random.default_rng(seed).permutation(np.repeat([0, 1, 2], [4, 3, 1]))
    strength = np.where(np.equal.outer(family, family), 0.8, 0.1)
    found = seriation(strength)
    stretches = [family[found.order[first:last]].tolist() for first, last in found.blocks]
    assert sorted(stretches) == [[0] * 4, [1] * 3]
    assert np.count_nonzero(np.diff(family[found.order])) == 2


def test_neighbours_along_a_line_stay_near_each_other() -> None:
    strength, shuffled = chain(16, 3)
    along = shuffled[seriation(strength).order]
    assert np.abs(np.diff(along)).mean() < np.abs(np.diff(shuffled)).mean() / 2


@given(st.integers(0, 12), st.integers(0, 2**31))
def test_every_column_is_there_once_and_blocks_lie_within(k: int, seed: int) -> None:
    draw = np.random.default_rng(seed)
    strength = draw.random((k, k))
    strength = np.where(draw.random((k, k)) < 0.1, np.nan, (strength + strength.T) / 2)
    found = seriation(strength)
    assert sorted(found.order.tolist()) == list(range(k))
    ends = [end for block in found.blocks for end in block]
    assert ends == sorted(ends) and all(last - first >= 2 and last <= k for first, last in found.blocks)


def test_what_is_no_square_is_refused() -> None:
    with pytest.raises(StatisticsError):
        seriation(np.zeros((2, 3)))
