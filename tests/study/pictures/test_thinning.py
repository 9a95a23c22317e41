"""Of too many marks some are drawn, each still the mark of its row."""

import numpy as np

from culvix.study.pictures.column_pictures import Marks
from culvix.study.pictures.thinning import representative


def test_thinned_marks_keep_their_rows_and_values_together() -> None:
    rows, values = np.arange(10_000), np.arange(10_000) * 2.0
    values[::10] = np.nan
    marks = Marks.at(rows, values)
    assert 500 < marks.rows.size <= 700 and (marks.values == marks.rows * 2).all()


def test_marks_that_are_thinned_leave_no_gap_where_there_is_none() -> None:
    draw = np.random.default_rng(3)
    values = np.concatenate([draw.normal(0, 1, 20_000), draw.uniform(3, 60, 400)])
    values[7] = np.nan
    marks = Marks.at(np.arange(values.size), values, np.arange(values.size) % 4)
    present = values[np.isfinite(values)]
    assert marks.rows.size <= 700 and np.unique(marks.rows).size == marks.rows.size
    assert (marks.values == values[marks.rows]).all() and (marks.weights == marks.rows % 4).all()
    assert {present.min(), present.max()} <= set(marks.values)
    reach = present.max() - present.min()
    gaps = np.diff(np.sort(marks.values)).max()
    assert gaps <= np.diff(np.sort(present)).max() + 2 * reach / 350
    dense = np.count_nonzero(np.abs(marks.values) < 1) / np.count_nonzero(np.abs(marks.values) < 2)
    assert dense > 0.5, "they are dense where all are"


def test_few_are_all_drawn() -> None:
    assert representative(np.array([1.0, 2.0, 5.0]), 3).tolist() == [0, 1, 2]
    assert representative(np.full(50, 2.0), 10).size <= 10
