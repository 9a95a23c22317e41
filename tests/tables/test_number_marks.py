"""Decimal and thousands marks: judged from all columns, asked where both readings stand."""

from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from culvix.tables import Role, Table, read_table
from culvix.tables.model.options.read_options import ReadOptions
from culvix.tables.text.dialect_guess import guess_dialect
from culvix.tables.text.number_marks import infer_marks


def read(folder: Path, text: str, options: ReadOptions | None = None) -> Table:
    path = folder / "t.csv"
    path.write_text(text)
    return read_table(path, options or ReadOptions())


def numbers(table: Table, name: str) -> list[float]:
    return table[name].sample.values.tolist()


def test_a_point_before_three_digits_beside_decimal_commas_groups_thousands(tmp_path: Path) -> None:
    table = read(tmp_path, "pond;catch;share\nA;870;0,5\nB;1.040;1,5\nC;12.310;2,5\n")
    assert numbers(table, "catch") == [870, 1040, 12310] and numbers(table, "share") == [0.5, 1.5, 2.5]
    assert not table.source.questions and table.source.dialect is not None
    assert (table.source.dialect.decimal, table.source.dialect.thousands) == (",", ".")


def test_each_column_is_read_as_it_is_written_where_the_file_mixes_marks(tmp_path: Path) -> None:
    table = read(tmp_path, "a;b;c\n1.25;0,5;1.25\n2.5;1,75;2.375\n7.75;2,5;0.5\n")
    assert numbers(table, "a") == [1.25, 2.5, 7.75] and numbers(table, "b") == [0.5, 1.75, 2.5]
    assert numbers(table, "c") == [1.25, 2.375, 0.5]
    assert "column b" in guess_dialect((tmp_path / "t.csv").read_bytes()).reasons["decimal"]


def test_decimal_commas_in_quotes_between_commas(tmp_path: Path) -> None:
    table = read(tmp_path, 'a,b\n"1,5",x\n"2,25",y\n"1.200,75",z\n')
    assert numbers(table, "a") == [1.5, 2.25, 1200.75]


@pytest.mark.parametrize(
    ("cells", "first", "other"),
    [
        (["1.080", "990", "2.170"], [1080, 990, 2170], [1.08, 990, 2.17]),
        (["1.234", "5.678", "9.012"], [1.234, 5.678, 9.012], [1234, 5678, 9012]),
    ],
)
def test_where_both_readings_stand_it_is_asked_with_both_results(
    cells: list[str], first: list[float], other: list[float], tmp_path: Path
) -> None:
    table = read(tmp_path, "x;y\n" + "".join(f"{cell};k\n" for cell in cells))
    assert numbers(table, "x") == first
    (asked,) = table.source.questions
    assert asked.kind == "decimal_or_thousands" and [choice.in_force for choice in asked.choices].count(True) == 1
    gives = {choice.gives for choice in asked.choices}
    assert any(cells[0] in given for given in gives) and any(cells[0].replace(".", "") in given for given in gives)
    (wanted,) = [choice for choice in asked.choices if not choice.in_force]
    again = read(tmp_path, (tmp_path / "t.csv").read_text(), table.source.options.answered(
        table.source.dialect, wanted.change))  # fmt: skip
    assert numbers(again, "x") == other and not again.source.questions


def test_grouped_thousands_beside_certain_points_are_read(tmp_path: Path) -> None:
    table = read(tmp_path, 'n,x\n"1,080",1.5\n990,2.5\n"1,234,567",3.75\n')
    assert numbers(table, "n") == [1080, 990, 1234567] and not table["n"].unread


def test_with_a_decimal_comma_a_stray_point_is_no_number_in_silence(tmp_path: Path) -> None:
    table = read(tmp_path, "x;y\n" + "1,5;2,5\n" * 30 + "2.5;1,5\n")
    assert table["x"].unread == 1 and list(table["x"].kinds) == ["decimal_point"]


def test_marks_far_below_the_first_lines_count_too(tmp_path: Path) -> None:
    lines = ["1.080;k"] * 20_000 + ["1.080,5;k"] * 2_000
    table = read(tmp_path, "x;y\n" + "\n".join(lines) + "\n")
    assert set(np.unique(table["x"].sample.values)) == {1080, 1080.5}


@given(st.lists(st.floats(-9e6, 9e6).map(lambda x: round(x, 2)), min_size=3, max_size=20), st.booleans())
def test_what_is_written_by_one_convention_is_read_by_it(values: list[float], comma: bool) -> None:
    written = [f"{value:,.2f}" for value in values]
    if comma:
        written = [text.translate(str.maketrans(",.", ".,")) for text in written]
    inferred = infer_marks([written], ["x"], ";")
    assert inferred.marks.decimal == ("," if comma else ".") and not inferred.questions


def test_signs_and_units_around_numbers_say_nothing_of_their_marks(tmp_path: Path) -> None:
    table = read(tmp_path, "x;y\n" + "<0.5;1.080\nNA;990\n12.5;2.170\n13.25;1.5\n" * 3)
    assert table["x"].role is Role.MEASURE and table.source.dialect is not None
    assert table.source.dialect.decimal == "." and numbers(table, "y")[:3] == [1.08, 990, 2.17]
