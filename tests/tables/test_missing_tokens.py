"""What is written for a missing value: counted by spelling everywhere, taken back, and never where it is a level."""

import json
from pathlib import Path

import numpy as np
import pytest

from culvix.cli import main
from culvix.report.documents.profile import profile_document
from culvix.study import Study
from culvix.tables import Role, Table, read_table
from culvix.tables.cells.missing_summary import counted_as, missing_sentence, missing_spellings
from culvix.tables.model.column_builder import reread
from culvix.tables.model.dictionary import ColumnEntry, Dictionary, read_data_package, write_data_package


def read(folder: Path, text: str, said: Dictionary | None = None) -> Table:
    path = folder / "t.csv"
    path.write_text(text)
    return read_table(path, dictionary=said)


def expected(cells: list[str], missing: set[str]) -> tuple[int, int, int]:
    """n, missing and distinct as one would count them."""
    there = [cell for cell in cells if cell not in missing]
    return len(there), len(cells) - len(there), len(set(there))


HABITS = {
    "a statistics package": ("NA", ["4.1", "NA", "3.2", "NA", "5.5"], ["lake", "NA", "river", "lake", "NA"]),
    "a data frame": ("nan", ["4.1", "nan", "3.2", "", "5.5"], ["lake", "nan", "river", "lake", ""]),
    "a scripting language": ("None", ["4.1", "None", "3.2", "7", "5.5"], ["lake", "river", "mere", "pond", "None"]),
    "a database": ("NULL", ["4.1", "NULL", "3.2", "NULL", "5.5"], ["lake", "NULL", "river", "lake", "sea"]),
    "a database dump": ("\\N", ["4.1", "\\N", "3.2", "\\N", "5.5"], ["lake", "\\N", "river", "lake", "sea"]),
    "a spreadsheet": ("#N/A", ["4.1", "#N/A", "3.2", "#DIV/0!", "5.5"], ["lake", "#N/A", "river", "lake", "sea"]),
    "an old package": (".", ["4.1", ".", "3.2", ".", "5.5"], ["lake", ".", "river", "lake", "sea"]),
    "a survey": ("?", ["4.1", "?", "3.2", "?", "5.5"], ["lake", "?", "river", "lake", "?"]),
    "a hand": ("-", ["4.1", "-", "3.2", "-", "5.5"], ["lake", "-", "river", "lake", "sea"]),
    "an office": ("n/a", ["4.1", "n/a", "3.2", "N/A", "5.5"], ["lake", "n/a", "river", "lake", "N/A"]),
}


@pytest.mark.parametrize("habit", HABITS)
def test_the_habits_of_ten_programs_are_counted_as_an_analyst_would(habit: str, tmp_path: Path) -> None:
    token, level, water = HABITS[habit]
    level, water = level * 4, water * 4
    if habit == "a scripting language":
        water = [f"{cell} {k}" if cell != "None" else cell for k, cell in enumerate(water)]
    table = read(tmp_path, "level,water\n" + "".join(f"{a},{b}\n" for a, b in zip(level, water, strict=True)))
    missing = {token, "", "#DIV/0!", "N/A"}
    for name, cells in (("level", level), ("water", water)):
        column = table[name]
        n, gone, distinct = expected(cells, missing)
        assert (int(column.present.sum()), column.missing, column.distinct) == (n, gone, distinct)
        assert sum(column.missing_by.values()) == gone and column.missing_by[token] == cells.count(token)
        assert not column.unread
    assert table["level"].role is Role.MEASURE
    complete = sum(a not in missing and b not in missing for a, b in zip(level, water, strict=True))
    assert table.complete_rows == complete and token in missing_sentence(table)
    rows = np.flatnonzero(np.array([cell == token for cell in level]))
    held = [each for each in table["level"].tokens if each.spelling == token]
    assert np.array_equal(held[0].rows, rows)


LEVELS = {
    "one of three treatments": ("None", ["None", "low", "high", "None", "low"] * 6),
    "the result of a test": ("-", ["+", "-", "-", "+", "++"] * 6),
    "the only mark": ("-", ["-", "", "", "-", ""] * 6),
    "a country": ("NA", ["NA", "DE", "FR", "IT", "DE"] * 6),
    "an element": ("Na", ["Na", "K", "Ca", "Mg", "K"] * 6),
}


@pytest.mark.parametrize("case", LEVELS)
def test_what_is_evidently_a_level_is_one_with_its_reason(case: str, tmp_path: Path) -> None:
    token, cells = LEVELS[case]
    table = read(tmp_path, "x,y\n" + "".join(f"{cell},{k % 7}\n" for k, cell in enumerate(cells)))
    column = table["x"]
    assert token not in column.missing_by and column.missing == cells.count("")
    (held,) = column.tokens
    assert held.spelling == token and held.level


def test_a_code_of_two_letters_is_missing_where_other_columns_write_it_too(tmp_path: Path) -> None:
    table = read(tmp_path, "x,y\n" + "NA,1\nDE,NA\nFR,3\nIT,4\n" * 5)
    assert table["x"].missing_by == {"NA": 5} and table["y"].missing_by == {"NA": 5}


def test_yes_and_no_with_gaps_stay_yes_and_no(tmp_path: Path) -> None:
    table = read(tmp_path, "ok,y\nTRUE,1\nFALSE,2\nNA,3\nTRUE,4\n")
    assert table["ok"].role is Role.YES_NO and table["ok"].sample.values[[0, 1, 3]].tolist() == [1, 0, 1]


def test_a_token_is_taken_back_for_a_column_and_for_the_table(tmp_path: Path) -> None:
    text = "a,b\n" + "1,NA\nNA,x\n3,y\n4,z w\n" * 3
    said = Dictionary({"b": ColumnEntry(not_missing=("NA",))})
    table = read(tmp_path, text, said)
    assert table["a"].missing == 3 and table["b"].missing == 0 and table["b"].distinct == 4
    whole = read(tmp_path, text, Dictionary(not_missing=("NA",)))
    assert whole["a"].missing == 0 and whole["a"].unread == 3 and whole["b"].missing == 0
    column = read(tmp_path, text)["b"]
    kept = counted_as(column, ColumnEntry(), "NA", missing=False)
    assert reread(column, kept).missing == 0
    assert counted_as(column, kept, "NA", missing=True) == ColumnEntry()


def test_a_level_can_be_counted_as_missing(tmp_path: Path) -> None:
    table = read(tmp_path, "x,y\n" + "None,1\nlow,2\nhigh,3\n" * 5)
    (spelling,) = missing_spellings(table.columns)
    assert not spelling.is_missing and "one of 3 values" in spelling.about
    entry = counted_as(table["x"], ColumnEntry(), "None", missing=True)
    assert reread(table["x"], entry).missing == 5


def test_tokens_stand_in_documents_and_come_back_from_the_dictionary(tmp_path: Path) -> None:
    table = read(tmp_path, "a,b\n" + "1,NA\n,x\nNA,y\n4,z w\n" * 3, Dictionary(not_missing=("?",)))
    document = profile_document(Study.of_table(table).workspace)
    a, b = document["columns"]
    assert a["missing_by"] == {"": 3, "NA": 3} and a["missing"] == 6 and a["n"] == 6
    assert b["missing_by"] == {"NA": 3} and b["distinct"] == 3 and document["format"] == "culvix-profile/2"
    said = Dictionary({"a": ColumnEntry(missing_codes=("-9",), not_missing=("NA",))}, not_missing=("?",))
    data = write_data_package(table.columns, table.source, table.source.dialect, said)
    field = json.loads(data)["resources"][0]["schema"]["fields"][1]
    assert field["missingValues"] == ["", "NA"]
    back = read_data_package(data)
    assert back.of("a") == said.of("a") and back.not_missing == ("?",) and back.of("b") == ColumnEntry()


def test_a_token_is_taken_back_on_the_command_line(tmp_path: Path) -> None:
    path, out = tmp_path / "t.csv", tmp_path / "o.json"
    path.write_text("a,b\nNA,1\nXX,2\nNA,3\nYYY,4\n")
    for options, missing in (([], 2), (["--not-missing", "NA"], 0)):
        assert main(["profile", str(path), "-o", str(out), *options]) == 0
        assert json.loads(out.read_text())["columns"][0]["missing"] == missing
