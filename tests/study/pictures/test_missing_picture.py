"""The picture of cells that are missing together: which columns and patterns it has, and the rows behind a stripe."""

import numpy as np
import pytest

from culvix.study import Study
from culvix.study.pictures.missing_picture import missing_picture
from culvix.tables import Table
from culvix.tables.checks.missing_patterns import MissingPattern, MissingPatterns, missing_patterns, rows_of_pattern


def test_columns_and_patterns_with_the_most_gaps_come_first() -> None:
    patterns = tuple(MissingPattern((f"c{k}", "often"), 100 - k) for k in range(20))
    gaps = {f"c{k}": 100 - k for k in range(20)} | {"often": 1810, "never": 0}
    picture = missing_picture(MissingPatterns(patterns, 5, 3, 4), gaps)
    assert picture is not None
    assert picture.columns[:3] == ("often", "c0", "c1") and picture.gaps[:2] == (1810, 100)
    assert picture.patterns == patterns[:14]
    assert picture.left_out == (21 - len(picture.columns), 3 + 6)
    assert "14 patterns of gaps in 14 columns" in picture.sentence and "c0, often, in 100 rows" in picture.sentence
    assert missing_picture(MissingPatterns((), 9, 0, 0), {"a": 0}) is None


def test_the_rows_of_a_pattern_have_just_its_gaps(study: Study, demo_table: Table) -> None:
    found = missing_patterns(demo_table)
    rows = [rows_of_pattern(demo_table, pattern) for pattern in found.patterns]
    assert [each.size for each in rows] == [pattern.rows for pattern in found.patterns]
    every = np.concatenate(rows)
    assert np.unique(every).size == every.size == demo_table.rows - found.complete
    row = int(rows[0][0])
    assert [c.name for c in demo_table if not c.present[row]] == pytest.approx(list(found.patterns[0].columns))
