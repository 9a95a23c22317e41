"""What stands around a table: separators, preambles, footers, totals, ragged lines, aligned columns, row names."""

from pathlib import Path

import pytest

from culvix.errors import ReadError
from culvix.tables import Table, read_table
from culvix.tables.model.options.read_options import ReadOptions
from culvix.tables.reading.preview import preview
from culvix.tables.text.ragged import RaggedLines


def read(folder: Path, text: str, options: ReadOptions | None = None) -> Table:
    path = folder / "t.csv"
    path.write_text(text)
    return read_table(path, options or ReadOptions())


WHOLE = {
    "sep line": "sep=;\na;b\n1;2,5\n3;4,5\n",
    "padded preamble": "Report;;\nspring;;\na;b;c\n1;2,5;x\n3;4,5;y\n",
    "trailing delimiters": "a,b,\n1,2.5,\n3,4.5,\n",
    "trailing delimiters below": "a,b\n1,2.5,\n3,4.5,\n",
    "aligned": "a     b\n1   2.5\n3   4.5\n",
    "aligned with spaces inside": "a         b\n1         2.5\n3         4.5\n",
    "no quotes": "a,b\n1,2.5\n3,4.5\n",
}


@pytest.mark.parametrize("case", WHOLE)
def test_the_same_numbers_whatever_stands_around_them(case: str, tmp_path: Path) -> None:
    table = read(tmp_path, WHOLE[case])
    assert [c.name for c in table][:2] == ["a", "b"] and "column" not in " ".join(c.name for c in table)
    assert table["a"].sample.values.tolist() == [1, 3] and table["b"].sample.values.tolist() == [2.5, 4.5]


def test_names_of_rows_without_a_name_of_their_own(tmp_path: Path) -> None:
    table = read(tmp_path, "a,b\nr1,1,2.5\nr2,3,4.5\n")
    assert [c.name for c in table] == ["column 1", "a", "b"] and table["a"].sample.values.tolist() == [1, 3]
    assert any("one name less" in note for note in table.source.notes)


RAGGED = "a,b,c\n1,2,3\n4,5\n6,7,8\n9,10,11,12\n13,14,15,\nSource: me\n"


def test_ragged_lines_are_named_and_have_a_way_in(tmp_path: Path) -> None:
    with pytest.raises(RaggedLines) as refused:
        read(tmp_path, RAGGED)
    error = refused.value
    assert error.lines == (3, 5, 6, 7) and "Line 3 has 2 fields" in error.sentence and "footer" in error.sentence
    ways = {choice.change["ragged"]: choice for choice in error.choices}
    assert set(ways) == {"filled", "left out"}
    filled = read(tmp_path, RAGGED, ReadOptions().answered(None, ways["filled"].change))
    assert filled["a"].raw.numbers[:4].tolist() == [1, 4, 6, 13] and filled["c"].missing == 2
    assert filled.numbers_of(filled["a"].raw.nonnumeric_rows).tolist() == [6] and "filled" in " ".join(
        filled.source.notes
    )
    left = read(tmp_path, RAGGED, ReadOptions(ragged="left out"))
    assert left["a"].sample.values.tolist() == [1, 6] and left.number_of(1) == 3
    assert left.source.options.ragged == "left out" and "4 lines" in " ".join(left.source.notes)


def test_lines_that_are_left_out_keep_the_numbers_of_lines_below(tmp_path: Path) -> None:
    with pytest.raises(ReadError):
        read(tmp_path, 'a,b\n1,2\n"x\n', ReadOptions(ragged="left out"))
    quoted = read(tmp_path, 'a,b\n"two\nlines",2\n3\n4,5\n', ReadOptions(ragged="left out"))
    assert quoted["a"].cell(0) == "two\nlines" and quoted.number_of(1) == 3


def test_a_total_below_the_rows_is_asked_about_and_left_out_on_an_answer(tmp_path: Path) -> None:
    text = "pond,x,y\nA,1,2.5\nB,3,4\nC,5,6\nD,1,1\nTotal,10,13.5\n"
    table = read(tmp_path, text)
    (asked,) = table.source.questions
    assert asked.kind == "total_row" and table["x"].sample.values.sum() == 20
    (leave,) = [choice for choice in asked.choices if not choice.in_force]
    again = read(tmp_path, text, table.source.options.answered(table.source.dialect, leave.change))
    assert again["x"].sample.values.sum() == 10 and not again.source.questions
    assert read(tmp_path, text.replace("Total", "all ponds")).source.questions
    assert read(tmp_path, text.replace("Total", "E")).source.questions[0].sentence.count("sums of x and y")
    assert not read(tmp_path, text.replace("Total,10,13.5", "E,10,13")).source.questions


def test_a_padded_footer_is_asked_about(tmp_path: Path) -> None:
    table = read(tmp_path, "pond,x,y\nA,1,2\nB,3,4\nC,5,6\nD,2,2\nSource: the office,,\n")
    assert [asked.kind for asked in table.source.questions] == ["footer"]


@pytest.mark.parametrize("quote", ["", "'"])
@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
def test_without_quotes_marks_are_letters(quote: str, delimiter: str, tmp_path: Path) -> None:
    path = tmp_path / "t.csv"
    path.write_text(delimiter.join(("a", "b")) + "\n" + delimiter.join(('5" pipe', "1")) + "\n")
    base = read_table(path).source.dialect
    assert base is not None
    options = ReadOptions(base.changed(quote=quote, delimiter=delimiter, header_rows=1))
    table = read_table(path, options)
    assert table["a"].cell(0) == '5" pipe' and preview(path, options) is not None


def test_a_column_may_have_any_name_the_program_uses_inside(tmp_path: Path) -> None:
    names = ["n", "text", "count", "row", "key", "kind", "len", "column_0", "0"]
    rows = "".join(",".join(f"w{k % 3}{j}" for j in range(len(names))) + "\n" for k in range(9))
    table = read(tmp_path, ",".join(names) + "\n" + rows)
    assert [column.name for column in table] == names
    for column in table:
        assert column.most_frequent()[0][1] == 3 and column.distinct == 3
