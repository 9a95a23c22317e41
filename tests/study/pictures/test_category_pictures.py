"""Bars of columns without numbers: every row is in one bar, and what is said of them is right."""

from datetime import date, timedelta
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats as oracle

from culvix.stats.groups.balance import balance
from culvix.study.pictures.bars import BarsPicture, heights_of
from culvix.study.pictures.category_pictures import bars_picture
from culvix.tables.cells.date_values import days_of
from culvix.tables.cells.dates import DAY_FIRST, MONTH_FIRST
from culvix.tables.model.table import Role, Table
from culvix.tables.reading.reader import read_table

EPOCH = date(1970, 1, 1)


def table_of(tmp_path: Path, columns: dict[str, list[str]]) -> Table:
    path = tmp_path / "t.csv"
    rows = zip(*columns.values(), strict=True)
    path.write_text("\n".join([",".join(columns), *(",".join(row) for row in rows)]) + "\n")
    return read_table(path)


@given(st.lists(st.integers(1, 500), min_size=2, max_size=30))
def test_the_balance_is_that_of_the_oracle(counts: list[int]) -> None:
    found = balance(np.array(counts))
    expected = oracle.chisquare(counts)
    assert found is not None and found.chi_square == pytest.approx(expected.statistic)
    assert found.p == pytest.approx(expected.pvalue, abs=1e-12)
    shares = np.array(counts) / sum(counts)
    assert found.evenness == pytest.approx(oracle.entropy(shares) / np.log(len(counts)))
    assert (found.largest, found.smallest) == (max(shares), min(shares))


def test_one_category_has_no_balance() -> None:
    alone = balance(np.array([7]))
    assert alone is not None and (alone.chi_square, alone.p, alone.evenness) == (None, None, None)
    assert balance(np.zeros(0, dtype=np.int64)) is None


FORMS = {
    "2026-03-18": lambda d: d.isoformat(),
    "with a time": lambda d: f"{d.isoformat()} 14:05:09",
    "18 Mar 2026": lambda d: f"{d.day} {d:%b} {d.year}",
    "Mar 18, 2026": lambda d: f"{d:%B} {d.day}, {d.year}",
    "dots": lambda d: f"{d.year}.{d.month:02}.{d.day:02}",
}


@pytest.mark.parametrize("form", FORMS)
@given(days=st.lists(st.dates(date(1905, 1, 1), date(2095, 1, 1)), min_size=3, max_size=30))
def test_days_are_those_of_the_calendar(form: str, days: list[date]) -> None:
    found = days_of(pl.Series([FORMS[form](day) for day in days]))
    assert found is not None and found.tolist() == [(day - EPOCH).days for day in days]


def test_days_of_numbers_follow_the_order_that_is_known_and_nothing_is_guessed() -> None:
    open_ = pl.Series(["03/04/2026", "05/06/2026", None])
    assert days_of(open_) is None
    day_first = days_of(open_, DAY_FIRST)
    assert day_first is not None and day_first[0] == (date(2026, 4, 3) - EPOCH).days and np.isnan(day_first[2])
    month_first = days_of(open_, MONTH_FIRST)
    assert month_first is not None and month_first[0] == (date(2026, 3, 4) - EPOCH).days
    settled = days_of(pl.Series(["25/04/26", "03/04/26"]))
    assert settled is not None and settled[1] == (date(2026, 4, 3) - EPOCH).days
    impossible = days_of(pl.Series(["2026-02-29", "2026-01-05", "2026-01-06"] * 8))
    assert impossible is not None and np.isnan(impossible[0])


def test_weeks_and_quarters_begin_where_the_calendar_says() -> None:
    weeks = days_of(pl.Series(["2026-W01", "2020-W53", "2021-W01"]))
    assert weeks is not None
    assert [EPOCH + timedelta(int(day)) for day in weeks] == [
        date.fromisocalendar(*week, 1) for week in ((2026, 1), (2020, 53), (2021, 1))
    ]
    quarters = days_of(pl.Series(["2026Q3", "2025Q1"]))
    assert quarters is not None and EPOCH + timedelta(int(quarters[0])) == date(2026, 7, 1)


def all_rows(picture: BarsPicture) -> list[int]:
    return sorted(int(row) for bar in range(len(picture.bars)) for row in picture.rows_of(bar))


def test_every_row_is_in_one_bar_missing_ones_by_how_they_are_written(tmp_path: Path) -> None:
    values = ["a", "b", "a", "", "NA", "c", "a", "b", "", "a"] * 3
    split = ["x", "y", "x", "x", "y", "y", "", "x", "y", "y"] * 3
    table = table_of(tmp_path, {"kind": values, "side": split, "level": [str(i / 7) for i in range(30)]})
    picture = bars_picture(table["kind"], split=table["side"])
    assert [(bar.name, bar.rows, bar.kind) for bar in picture.bars] == [
        *(("a", 12, "value"), ("b", 6, "value"), ("c", 3, "value")),
        *(("missing: empty", 6, "missing"), ("missing: “NA”", 3, "missing")),
    ]
    assert all_rows(picture) == list(range(30)) and picture.n == 21
    assert picture.parts == ("x", "y", "others")
    for bar in picture.bars:
        assert sum(bar.parts) == bar.rows
    assert picture.bars[0].parts == (6, 3, 3)
    assert "3 categories · largest 57.1 %, smallest 14.3 %" in picture.about and "on 2 df" in picture.about
    assert [bar.name for bar in bars_picture(table["kind"], "name").bars[:3]] == ["a", "b", "c"]
    assert heights_of(picture).tolist() == [1.0, 0.5, 0.25]


def test_a_long_list_of_categories_ends_in_what_is_left_over(tmp_path: Path) -> None:
    names = [f"k{i % 260:03}" for i in range(2000)]
    table = table_of(tmp_path, {"kind": names, "level": [str(i % 13 + 0.5) for i in range(2000)]})
    column = table["kind"]
    picture = bars_picture(column)
    if column.role is Role.CATEGORY:
        assert len(picture.bars) == 201 and picture.bars[-1].kind == "rest"
    assert picture.bars[-1].name.endswith("more values") and sum(bar.rows for bar in picture.bars) == 2000


def test_dates_stand_along_time_with_their_gaps(tmp_path: Path) -> None:
    days = [date(2025, 1, 6) + timedelta(i) for i in (*range(20), *range(60, 75))]
    table = table_of(tmp_path, {"day": [day.isoformat() for day in days], "level": [f"{i}.5" for i in range(35)]})
    picture = bars_picture(table["day"])
    assert picture.standing and picture.bars[0].name == "2025-01-06" and sum(bar.rows for bar in picture.bars) == 35
    assert "2025-01-06 to 2025-03-21, 75 days · by week · 5 weeks without a row" in picture.about
    assert [bar.rows for bar in picture.bars] == [7, 7, 6, 0, 0, 0, 0, 0, 3, 7, 5]


def test_texts_have_bars_of_the_most_frequent_and_of_their_lengths(tmp_path: Path) -> None:
    texts = [f"remark number {i} " + "x" * (i % 9) for i in range(60)] + ["same again"] * 5
    table = table_of(tmp_path, {"note": texts, "level": [f"{i}.25" for i in range(65)]})
    column = table["note"]
    picture = bars_picture(column)
    assert picture.bars[0].name == "same again" and picture.bars[0].rows == 5
    if column.role is Role.TEXT:
        assert "60 of them once" in picture.about and "letters" in picture.about
    lengths = bars_picture(column, "length")
    assert lengths.standing and all_rows(lengths) == list(range(65))
    assert lengths.bars[0].name == str(min(len(text.strip()) for text in texts))
