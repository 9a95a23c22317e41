"""Small pictures of columns and pairs: where dots, bars, boxes and counts lie."""

import numpy as np
import pytest

from culvix.stats.shape.axis_scale import LOG_AXIS, MEASURED_AXIS
from culvix.study.analysis.grouping import Grouping
from culvix.study.pictures.groups.small_pictures import MOST_LEVELS, small, small_boxes, small_counts, small_of_groups

GROUPS = Grouping("site", ("a", "b", "c"), np.array([0, 0, 0, 0, 0, 1, 1, -1, 1]))


def test_a_small_picture_has_the_scale_of_its_axis_and_says_where_nothing_is() -> None:
    found = small(np.array([1.0, 10.0, 100.0, np.nan, 1000.0]), LOG_AXIS)
    assert found.dots[[0, 1, 2, 4]] == pytest.approx([0, 1 / 3, 2 / 3, 1]) and np.isnan(found.dots[3])
    assert small(np.array([np.nan, 2.0, 2.0]), MEASURED_AXIS).bars.max() == 0


def test_boxes_have_the_quartiles_of_each_group_on_the_axis_of_the_column() -> None:
    values = np.array([0.0, 1, 2, 3, 10, 4, 8, 5, np.nan])
    boxes = small_boxes(GROUPS, values, MEASURED_AXIS)
    assert boxes[0] == pytest.approx(np.array([0, 1, 2, 3, 3]) / 10), "10 lies beyond the whisker"
    assert boxes[1] == pytest.approx(np.array([4, 5, 6, 7, 8]) / 10)
    assert np.isnan(boxes[2]).all() and boxes.shape == (3, 5)


def test_boxes_lie_on_the_scale_of_the_axis() -> None:
    boxes = small_boxes(GROUPS, np.array([1.0, 1, 10, 100, 100, 1, 1000, 5, 1]), LOG_AXIS)
    assert boxes[0] == pytest.approx(np.array([0, 0, 1, 2, 2]) / 3)


def test_counts_are_parts_of_the_most() -> None:
    other = Grouping("feed", ("x", "y"), np.array([0, 0, 1, 0, 0, 1, 1, 1, -1]))
    assert small_counts(GROUPS, other).tolist() == [[1, 0.25], [0, 0.5], [0, 0]]


def test_of_many_categories_the_first_are_drawn() -> None:
    many = Grouping("tank", tuple(map(str, range(40))), np.repeat(np.arange(40), 2))
    assert small_of_groups(many).bars.tolist() == [1.0] * MOST_LEVELS
    assert small_boxes(many, np.arange(80.0), MEASURED_AXIS).shape == (MOST_LEVELS, 5)
    assert small_counts(many, many).shape == (MOST_LEVELS, MOST_LEVELS)
