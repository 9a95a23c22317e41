"""Columns without numbers in the square of all columns: their strengths, signs and places."""

from dataclasses import replace

import numpy as np
import pytest

from culvix.study.analysis.grouping import Grouping
from culvix.study.pictures.matrix_pictures import DIFFERENCE, MatrixPicture, matrix_picture
from culvix.study.relations.category_matrix import CategoryMatrix, category_matrix
from culvix.study.relations.category_pairs import CategoryPair, category_pairs
from culvix.study.relations.ranking import Relations, rank_pairs

NUMBERS = ("length", "mass", "depth")
COLUMNS = ("site", "length", "mass", "feed", "depth")


@pytest.fixture(scope="module")
def pairs() -> tuple[Relations, tuple[CategoryPair, ...]]:
    """Three numbers and two categories; length goes with the site, and the feed with it, too."""
    draw = np.random.default_rng(8)
    site = draw.integers(0, 4, 300)
    feed = np.where(draw.random(300) < 0.8, site // 2, draw.integers(0, 2, 300))
    feed[:20] = -1
    columns = [site + draw.normal(size=300), draw.normal(size=300), draw.normal(size=300)]
    columns[0][5:9] = np.nan
    groups = [Grouping("site", ("a", "b", "c", "d"), site), Grouping("feed", ("x", "y"), feed)]
    return rank_pairs(NUMBERS, columns), category_pairs(groups, dict(zip(NUMBERS, columns, strict=True)))


@pytest.fixture(scope="module")
def beside(pairs: tuple[Relations, tuple[CategoryPair, ...]]) -> CategoryMatrix:
    return category_matrix(COLUMNS, pairs[1])


@pytest.fixture(scope="module")
def relations(pairs: tuple[Relations, tuple[CategoryPair, ...]]) -> Relations:
    return pairs[0]


def drawn(relations: Relations, beside: CategoryMatrix, **sides: str) -> MatrixPicture:
    chosen = {"order": "table", "upper": "pearson", "lower": "spearman"} | sides
    return matrix_picture(relations, categories=beside, **chosen)


def test_each_pair_stands_on_the_scale_of_a_correlation(
    beside: CategoryMatrix, pairs: tuple[Relations, tuple[CategoryPair, ...]]
) -> None:
    assert beside.categories == {"site", "feed"}
    for pair in pairs[1]:
        i, j = COLUMNS.index(pair.x), COLUMNS.index(pair.y)
        found, ranks = pair.found.value, (pair.of_ranks or pair.found).value
        expected = (found, ranks) if pair.both else (np.sqrt(found), np.sqrt(ranks))
        assert (beside.of_values[i, j], beside.of_ranks[j, i]) == pytest.approx(expected)
        assert beside.n[i, j] == beside.n[j, i] == pair.found.n
    assert np.isnan(beside.of_values[1, 2]), "two numbers have a coefficient instead"
    assert beside.n[0, 1] == 296 and beside.n[0, 3] == 280


def test_the_side_of_ranks_shows_those_of_categories_too(relations: Relations, beside: CategoryMatrix) -> None:
    picture = drawn(relations, beside)
    assert picture.names == COLUMNS and picture.categories == {0, 3}
    assert picture.upper[0, 1] == beside.of_values[0, 1] and picture.lower[1, 0] == beside.of_ranks[1, 0]
    assert picture.upper[1, 2] == relations.matrices["pearson"].r[0, 1]
    assert picture.n[1, 4] == relations.matrices["pearson"].n[0, 2]
    symbols = [picture.symbol(*cell) for cell in ((0, 1), (1, 0), (0, 3), (1, 2))]
    assert symbols == ["η", "ε", "V", ""]


def test_how_far_values_and_ranks_lie_apart_is_shown_of_categories_too(
    relations: Relations, beside: CategoryMatrix
) -> None:
    picture = drawn(relations, beside, lower=DIFFERENCE)
    assert picture.lower[1, 0] == pytest.approx(beside.of_ranks[1, 0] - beside.of_values[1, 0])
    assert picture.lower[3, 0] == 0 and len(picture.symbol(1, 0)) > 1


def test_a_category_stands_beside_what_goes_with_it(relations: Relations, beside: CategoryMatrix) -> None:
    picture = drawn(relations, beside, order="similarity")
    ((first, last),) = picture.blocks
    assert set(picture.names[first:last]) == {"site", "feed", "length"}


def test_a_category_that_was_not_compared_has_no_strength(relations: Relations, beside: CategoryMatrix) -> None:
    bare = replace(beside, of_values=np.full((5, 5), np.nan), of_ranks=np.full((5, 5), np.nan))
    assert np.isnan(drawn(relations, bare).upper[0, 1])
