"""Selections name cells that are there."""

import pytest

from culvix.errors import DecisionError
from culvix.study import Study


def test_selections_outside_the_table_are_refused(study: Study) -> None:
    study.select([1, 2], "here")
    with pytest.raises(DecisionError):
        study.select([2180])
    assert study.selection.rows.tolist() == [1, 2] and study.selection
    study.select([])
    assert not study.selection
