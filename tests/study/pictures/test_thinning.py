"""Of too many marks some are drawn, each still the mark of its row."""

import numpy as np

from culvix.study.pictures.column_pictures import Marks


def test_thinned_marks_keep_their_rows_and_values_together() -> None:
    rows, values = np.arange(10_000), np.arange(10_000) * 2.0
    values[::10] = np.nan
    marks = Marks.at(rows, values)
    assert marks.rows.size == 700 and (marks.values == marks.rows * 2).all()


def test_of_too_many_marks_the_outermost_are_drawn() -> None:
    values = np.random.default_rng(3).permutation(np.arange(20_000.0))
    values[7] = np.nan
    marks = Marks.at(np.arange(20_000), values, np.arange(20_000) % 4)
    present = np.sort(values[np.isfinite(values)])
    assert marks.rows.size <= 700 and np.unique(marks.rows).size == marks.rows.size
    assert (marks.values == values[marks.rows]).all() and (marks.weights == marks.rows % 4).all()
    assert set(present[:150]) <= set(marks.values) and set(present[-150:]) <= set(marks.values)
    between = np.sort(marks.values)[175:-175]
    assert np.diff(between).max() < 60
