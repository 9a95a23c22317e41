"""Rows come into groups by values, by ranges and by periods of dates."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from culvix.errors import CulvixError
from culvix.stats.core.sample import Sample
from culvix.study import Study
from culvix.study.groups.row_groups import GroupsBy, equal_cuts, quantile_cuts, range_grouping, row_groups
from culvix.tables import Table, read_table


def table_of(folder: Path, **columns: object) -> Table:
    path = folder / "made.csv"
    pl.DataFrame(columns).write_csv(path)
    return read_table(path)


def test_ranges_have_as_many_rows_each_and_say_where_they_meet(study: Study) -> None:
    length = study.table["length_mm"]
    found = row_groups(length, GroupsBy("length_mm", ranges=4))
    sizes = np.bincount(found.codes[found.codes >= 0])
    assert len(found.names) == 4 and sizes.max() - sizes.min() < 0.03 * sizes.sum()
    assert found.names[0].startswith("below ") and found.names[-1].endswith(" and more")
    assert (found.codes >= 0).sum() == length.sample.n
    for low, high in zip(range(3), range(1, 4), strict=True):
        assert length.values[found.codes == low].max() < length.values[found.codes == high].min()


@settings(max_examples=30)
@given(st.lists(st.integers(-5, 5), min_size=1, max_size=40), st.integers(2, 6))
def test_no_range_is_empty_whatever_repeats(values: list[int], parts: int) -> None:
    sample = Sample.of(np.array(values, dtype=np.float64))
    for cuts in (quantile_cuts(sample, parts), equal_cuts(sample, parts)):
        if not cuts.size:
            continue
        found = range_grouping("x", sample.values, cuts, sample)
        assert len(set(found.names)) == len(found.names) == cuts.size + 1
        assert found.codes.min() >= 0
    cuts = quantile_cuts(sample, parts)
    if cuts.size:
        assert set(range_grouping("x", sample.values, cuts, sample).codes.tolist()) == set(range(cuts.size + 1))


def test_dates_make_periods_in_order_and_days_of_the_week(tmp_path: Path) -> None:
    dates = ["2026-01-05", "2026-01-31", "2026-03-02", "2027-03-01", None, "2025-12-31"]
    table = table_of(tmp_path, day=dates, x=range(6))
    assert row_groups(table["day"], GroupsBy("day", period="month")).names == (
        "2025-12",
        "2026-01",
        "2026-03",
        "2027-03",
    )
    years = row_groups(table["day"], GroupsBy("day", period="year"))
    assert years.names == ("2025", "2026", "2027") and years.codes.tolist() == [1, 1, 1, 2, -1, 0]
    assert row_groups(table["day"], GroupsBy("day", period="weekday")).names == ("Monday", "Wednesday", "Saturday")


def test_what_makes_no_such_groups_is_refused_with_the_reason(study: Study, tmp_path: Path) -> None:
    with pytest.raises(CulvixError, match="tank has no numbers"):
        row_groups(study.table["tank"], GroupsBy("tank", ranges=4))
    with pytest.raises(CulvixError, match="cannot be read"):
        row_groups(study.table["tank"], GroupsBy("tank", period="month"))
    same = table_of(tmp_path, x=[7.5] * 30)
    with pytest.raises(CulvixError, match="do not make 4 ranges"):
        row_groups(same["x"], GroupsBy("x", ranges=4))
