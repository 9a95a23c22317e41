"""Which lines hold names: numbers that are names, values that are none, lines of units, and doubt."""

from pathlib import Path

import pytest

from culvix.tables import read_table
from culvix.tables.text.dialect_guess import guess_dialect
from culvix.tables.text.header import infer_header

NAMES_OF_NUMBERS = {
    "years in a sequence": "1940,1950,1960,1970\n12.5,13,14.5,11\n12,13.5,14,10.5\n11,15.5,12,13\n",
    "places from 0": ",0,1,2\na,5.5,6,7\nb,3,4.5,5\nc,3,3,2.2\n",
    "words and years": "Country,Code,2019,2020,2021\nAlbania,ALB,1.5,2.5,3.5\nBelgium,BEL,11.5,21.5,31.5\n",
    "quoted names": '"1","5","9"\n4,5,6\n5,4,4\n6,6,5\n',
    "a word in the corner": "id,7,11\n1,5.5,6\n2,3.5,4\n3,2.5,4\n",
    "whole above decimals": "10,40,20\n0.5,0.25,0.75\n0.4,0.35,0.15\n0.6,0.45,0.55\n",
}


@pytest.mark.parametrize("case", NAMES_OF_NUMBERS)
def test_a_line_of_numbers_is_taken_for_names_by_evidence(case: str) -> None:
    dialect = guess_dialect(NAMES_OF_NUMBERS[case].encode())
    assert dialect.header_rows == 1 and dialect.reasons["header_rows"]


VALUES = {
    "decimals": "1.5,2.5\n3.5,4.5\n5.5,6.5\n7.5,8.5\n",
    "the same number twice": "1,1,2\n2,3,4\n4,5,1\n2,2,2\n",
    "one line": "1,2,3\n",
}


@pytest.mark.parametrize("case", VALUES)
def test_values_are_no_names(case: str) -> None:
    dialect = guess_dialect(VALUES[case].encode())
    assert dialect.header_rows == 0 and not dialect.questions


def test_in_doubt_it_is_asked_and_a_click_reads_the_other_way(tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text("3,8\n1,2\n4,9\n2,7\n6,1\n")
    table = read_table(path)
    (asked,) = table.source.questions
    assert asked.kind == "header_or_values" and table.rows == 5
    (names,) = [choice for choice in asked.choices if choice.label == "Names"]
    again = read_table(path, table.source.options.answered(table.source.dialect, names.change))
    assert [column.name for column in again] == ["3", "8"] and again.rows == 4


@pytest.mark.parametrize("cell", ["NA", "<0.5", "absent", "", "12 mg", "n/a", "not measured", "5-"])
def test_a_first_row_of_values_is_not_swallowed_as_a_second_line_of_names(cell: str, tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text(f"site,level,depth\nA,{cell},{cell}\n" + "B,1.5,2\nC,2.5,3\nD,3.5,1\nE,1,2\n")
    table = read_table(path)
    assert [column.name for column in table] == ["site", "level", "depth"] and table.rows == 5
    assert table["level"].cell(0) == cell


def test_units_and_lower_levels_are_lines_of_names() -> None:
    assert infer_header([["length", "mass"], ["mm", "g"], *[["1", "2"]] * 4]).rows == 2
    levels = [["2020", "", "2021", ""], ["mean", "sd", "mean 2", "sd 2"], *[["1", "2", "3", "4.5"]] * 5]
    assert infer_header(levels).rows == 2


def test_words_that_may_be_names_or_values_are_asked_about() -> None:
    inferred = infer_header([["a", "b"], ["lost", "gone"], *[["1", "2"]] * 5])
    assert inferred.rows == 1 and [asked.kind for asked in inferred.questions] == ["second_header"]
