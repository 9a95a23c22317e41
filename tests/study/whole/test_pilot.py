"""What pilot rows suggest: whether a column has so few values that each can be counted, whatever order it is in."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.stats.core.arrays import Floats
from culvix.study.whole.pilot import pilot_of
from culvix.study.whole.survey import WholeSettings, survey_whole
from culvix.tables.engines import open_engine
from culvix.tables.engines.requests import ValueCounts
from tests.study.whole.figures import agree

ROWS = 50_000_000
DRAW = np.random.default_rng(5)


def blocks(of_value: int) -> Floats:
    """Hundred pieces of a table sorted by a column in which each value stands in so many rows."""
    starts = np.sort(DRAW.integers(0, ROWS - 1_000, 100))
    return np.concatenate([(start + np.arange(1_000)) // of_value for start in starts]).astype(np.float64)


@pytest.mark.parametrize(
    ("values", "few"),
    [
        (DRAW.integers(0, 5, 100_000).astype(np.float64), True),
        (DRAW.normal(210, 25, 100_000).round(1), True),
        (DRAW.lognormal(4.6, 0.5, 100_000).round(2), True),
        (DRAW.gamma(2, 2.5, 100_000), False),
        (np.arange(100_000) * 500.0, False),
        (blocks(of_value=200_000), True),
        (blocks(of_value=10), False),
        (np.full(3, 7.0), True),
    ],
    ids=["codes", "tenths", "hundredths", "drawn", "key", "sorted codes", "sorted tens", "constant"],
)
def test_few_values_are_told_from_many(values: Floats, few: bool) -> None:
    assert pilot_of(values, ROWS).few_values is few


def test_a_column_of_more_values_than_it_seemed_is_surveyed_all_the_same(tmp_path: Path) -> None:
    frame = pl.DataFrame({"x": DRAW.normal(0, 9, 3_000).round(0), "y": DRAW.normal(0, 900, 3_000).round(0)})
    frame.write_parquet(tmp_path / "t.parquet")
    found = survey_whole(open_engine(str(tmp_path / "t.parquet")), WholeSettings(most_values=50))
    agree(found, frame)
    assert found.readings >= 2


def test_values_that_are_equal_as_doubles_are_one() -> None:
    counts = ValueCounts.of(np.array([3.0, np.nan, 1.0, 3.0, np.inf, -np.inf]), np.array([1, 2, 3, 4, 5, 6]), missing=9)
    assert counts.values.tolist() == [1.0, 3.0] and counts.counts.tolist() == [3, 5]
    assert (counts.missing, counts.not_a_number, counts.infinite) == (9, 2, 11)
