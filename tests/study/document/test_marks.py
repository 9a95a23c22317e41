"""Marks and mappings: the rows a rule marks, runs of them, and the numbers given to texts."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.errors import CulvixError
from culvix.study import Study
from culvix.study.document.marks import MOST_MARKS, SHAPES, Mark, marked_rows, new_mark
from culvix.tables import Table, read_table
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Role
from culvix.tables.model.text_mappings import RangeEnd, by_range, by_rank, in_order
from tests.study.document.random_studies import small_table

CELLS = ["1", "5", "5", "5", "", "lost", "9", "8.5", "2", "5"]
WORDS = ["a", "b", "b", "ab", "", "b", "b", "b", "a", "b"]
TEXT = "tag,x,word\n" + "".join(
    f"F{row},{cell},{word}\n" for row, (cell, word) in enumerate(zip(CELLS, WORDS, strict=True))
)


@pytest.fixture
def table(tmp_path: Path) -> Table:
    path = tmp_path / "t.csv"
    path.write_text(TEXT)
    return read_table(path)


@pytest.mark.parametrize(
    ("column", "condition", "value", "run", "expected"),
    [
        ("x", "above", "5", 1, [6, 7]),
        ("x", "below", "5", 1, [0, 8]),
        ("x", "between", "2 and 5", 1, [1, 2, 3, 8, 9]),
        ("x", "outside", "5; 2", 1, [0, 6, 7]),
        ("x", "equals", "5", 1, [1, 2, 3, 9]),
        ("x", "equals", "5.0", 3, [1, 2, 3]),
        ("x", "repeats", "", 2, [2, 3]),
        ("x", "missing", "", 1, [4]),
        ("x", "unread", "", 1, [5]),
        ("word", "equals", "b", 1, [1, 2, 5, 6, 7, 9]),
        ("word", "contains", "b", 3, [1, 2, 3, 5, 6, 7]),
        ("word", "missing", "", 1, [4]),
        ("word", "repeats", "", 1, [2, 6, 7]),
    ],
)
def test_a_rule_marks_the_rows_it_says(
    table: Table, column: str, condition: str, value: str, run: int, expected: list[int]
) -> None:
    assert marked_rows(Mark("m", column, condition, value, run), table).tolist() == expected


@given(st.lists(st.booleans(), min_size=1, max_size=60), st.integers(1, 6))
def test_runs_are_those_found_by_walking(tmp_path_factory: pytest.TempPathFactory, holds: list[bool], run: int) -> None:
    path = tmp_path_factory.mktemp("runs") / "t.csv"
    path.write_text("x,y\n" + "".join(f"{int(hold)}.5,1\n" for hold in holds))
    expected = []
    for row in range(len(holds)):
        first = row
        while first > 0 and holds[first - 1]:
            first -= 1
        last = row
        while last + 1 < len(holds) and holds[last + 1]:
            last += 1
        if holds[row] and last - first + 1 >= run:
            expected.append(row)
    assert marked_rows(Mark("m", "x", "above", "1", run), read_table(path)).tolist() == expected


def test_marks_keep_apart_and_refuse_in_words(table: Table) -> None:
    study = Study.of_table(table)
    for number in range(MOST_MARKS):
        study.add_mark(new_mark(table, study.document.marks, "x", "above", str(number)))
    assert (
        len({mark.shape for mark in study.document.marks}) == MOST_MARKS
        and study.document.marks[0].name == "x is above 0"
    )
    with pytest.raises(CulvixError, match="already; take one away"):
        new_mark(table, study.document.marks, "x", "above", "77")
    study.remove_mark("x is above 0")
    for wanted, message in (
        (("word", "above", "3"), "no numbers to compare"),
        (("x", "above", "much"), "A number is wanted"),
        (("x", "between", "3"), "Two numbers are wanted"),
        (("x", "above", "inf"), "A number is wanted"),
        (("x", "above", "1"), "called “x is above 1” already"),
        (("word", "contains", " "), "should contain"),
    ):
        with pytest.raises(CulvixError, match=message):
            new_mark(table, study.document.marks, *wanted)
    study.remove_mark()
    assert not study.document.marks


def test_ranges_and_ranks() -> None:
    texts = ["20–30", "under 10", "10 to 20", "30+", "often"]
    assert in_order(texts) == ["under 10", "10 to 20", "20–30", "30+", "often"]
    assert by_range(texts, RangeEnd.LOW) == {"20–30": 20, "under 10": 10, "10 to 20": 10, "30+": 30}
    assert by_range(texts, RangeEnd.MIDDLE)["10 to 20"] == 15 and by_range(texts, RangeEnd.HIGH)["20–30"] == 30
    assert by_range(["−5 to −1", "1,5-2,5", "≥ 4"], RangeEnd.LOW) == {"−5 to −1": -5, "1,5-2,5": 1.5, "≥ 4": 4}
    assert by_rank(["low", "high"]) == {"low": 1, "high": 2}


@given(st.lists(st.text(max_size=12), max_size=8), st.sampled_from(RangeEnd))
def test_no_text_breaks_the_mapping(texts: list[str], end: RangeEnd) -> None:
    assert sorted(in_order(texts)) == sorted(texts)
    assert all(np.isfinite(value) for value in by_range(texts, end).values())


def test_marked_rows_follow_the_column(tmp_path: Path) -> None:
    study = Study.of_table(small_table(tmp_path))
    mark = Mark("heavy", "mass_g", "above", "1500", 1, SHAPES[0])
    study.add_mark(mark)
    assert study.workspace.marked(mark).tolist() == [38, 39]
    study.edit_column("mass_g", ColumnEntry(missing_codes=("1544.5",)))
    assert study.workspace.marked(mark).tolist() == [39]
    study.edit_column("mass_g", ColumnEntry(role=Role.TEXT))
    assert not study.workspace.marked(mark).size, "texts are not above a number"
    study.go_to(0)
    assert study.workspace.marked(mark).tolist() == [38, 39]
