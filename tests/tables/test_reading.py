"""Reading files: what is a number, what is not, what is refused, and with which words."""

import csv
import io
import os
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from hypothesis import example, given
from hypothesis import strategies as st

from culvix.demo import Cohort, last_cohort, spring_cohort
from culvix.errors import Cancelled, ReadError
from culvix.tables import Role, Table, read_table
from culvix.tables.cells.cell_parsing import parse_cells
from culvix.tables.cells.units import label_and_unit
from culvix.tables.model.cell_texts import raw_column
from culvix.tables.text.dialect_guess import guess_dialect
from culvix.tables.text.lines import unique_names

UNREADABLE = {
    "empty": (b"", "empty"),
    "blank": (b"\n \n\n", "blank lines"),
    "no rows": (b"a,b\n", "no data rows"),
    "too few fields": (b"a,b\n1,2\n3\n", "Line 3 has 1 field"),
    "too many fields": (b"a,b\n1,2\n3,4,5\n", "Line 3 has 3 fields"),
    "NUL": (b"a,b\n1,\x002\n", "line 2 holds a NUL byte"),
    "open quote": (b'a,b\n1,"2\n3,4\n', "quotation mark"),
    "no text": (bytes(range(1, 256)) * 10, "neither UTF-8 nor"),
    "torn UTF-16": ("a,b\n1,2\n".encode("utf-16")[:-1], "breaks off"),
}


@pytest.mark.parametrize("case", UNREADABLE)
def test_what_cannot_be_read_gets_a_sentence(case: str, tmp_path: Path) -> None:
    content, words = UNREADABLE[case]
    path = tmp_path / "bad.csv"
    path.write_bytes(content)
    with pytest.raises(ReadError, match=words) as caught:
        read_table(path)
    assert caught.value.sentence.endswith(".") and "bad.csv" in caught.value.sentence


def test_folders_fifos_missing_and_forbidden_files(tmp_path: Path) -> None:
    os.mkfifo(tmp_path / "pipe")
    for name, words in ((".", "is a folder"), ("pipe", "a device or a pipe"), ("none.csv", "no such file")):
        with pytest.raises(ReadError, match=words):
            read_table(tmp_path / name)
    with pytest.raises(ReadError, match="not the path"):
        read_table("a\0b")


def read(tmp_path: Path, content: str | bytes) -> Table:
    path = tmp_path / "table.csv"
    path.write_bytes(content if isinstance(content, bytes) else content.encode())
    return read_table(path)


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "latin-1"])
@pytest.mark.parametrize("end", ["\n", "\r\n", "\r"])
@pytest.mark.parametrize("delimiter", [",", ";", "\t", "|"])
def test_dialects(tmp_path: Path, encoding: str, end: str, delimiter: str) -> None:
    lines = [["größe", "fläche", "anmerkung"], *([str(k), f"{k}.5", "schöne grüße aus köln"] for k in range(40))]
    table = read(tmp_path, (end.join(delimiter.join(line) for line in lines) + end).encode(encoding))
    assert [column.name for column in table] == ["größe", "fläche", "anmerkung"] and table.rows == 40
    assert table["fläche"].sample.values.tolist() == [k + 0.5 for k in range(40)]
    assert bool(table.source.notes) == (encoding == "latin-1")


def test_nothing_is_missing_in_silence(tmp_path: Path) -> None:
    cells = ["1.5", "", "n/a", "-3e2", "12,4", " 7 ", "<0.5", "inf", "1e999", "nan", "0x10", "1_000"]
    table = read(tmp_path, "x,y\n" + "".join(f'"{cell}",1\n' for cell in cells))
    x = table["x"] if table["x"].is_numeric else None
    parsed = parse_cells(raw_column(pl.Series(cells)))
    assert x is None or x.missing_by == {"": 1, "n/a": 1, "nan": 1}
    assert np.flatnonzero(parsed.missing).tolist() == [1]
    assert np.flatnonzero(parsed.unread).tolist() == [2, 4, 6, 8, 9, 10, 11]
    assert parsed.values[[0, 3, 5, 7]].tolist() == [1.5, -300.0, 7.0, np.inf]
    coded = parse_cells(raw_column(pl.Series(["1", "-9", "-9.0", "n/a", "2"])), ["-9", "n/a"])
    assert coded.missing.tolist() == [False, True, True, True, False] and not coded.unread.any()


def test_whole_numbers_keep_every_digit(tmp_path: Path) -> None:
    table = read(tmp_path, "big,k\n9007199254740993,1\n,2\n9007199254740995,3\n9007199254740993,4\n")
    assert table["big"].role is not Role.TEXT
    exact = table["big"].sample.exact
    assert exact is not None and exact.tolist() == [2**53 + 1, 2**53 + 1, 2**53 + 3]


def test_blank_lines_one_column_and_odd_names(tmp_path: Path) -> None:
    table = read(tmp_path, "\n\na,a,,<script>\n1,2,3,4\n\n5,6,7,\n")
    assert [c.name for c in table] == ["a", "a (2)", "column 3", "<script>"] and table.rows == 2
    assert table["<script>"].missing == 1 and any("blank line" in note for note in table.source.notes)
    assert read(tmp_path, "x\n1\n\n3\n")["x"].missing == 1
    assert unique_names(["a", "a", "a (2)", ""]).names == ("a", "a (3)", "a (2)", "column 4")


def test_five_thousand_columns(tmp_path: Path) -> None:
    line = ",".join(f"c{k}" for k in range(5000))
    table = read(tmp_path, line + "\n" + (",".join(["1.5"] * 5000) + "\n") * 3)
    assert len(table.numeric) == 5000


@pytest.mark.parametrize(
    ("name", "cells", "role"),
    [
        ("id", ["3", "1", "2", "9"], Role.IDENTIFIER),
        ("postcode", ["01234", "99999", "01234"], Role.IDENTIFIER),
        ("k", [str(k) for k in range(1, 30)], Role.IDENTIFIER),
        ("flag", ["0", "1", "1", "0"], Role.YES_NO),
        ("ok", ["Yes", "no", "no", ""], Role.YES_NO),
        ("fin_score", ["0", "3", "1", "3"], Role.ORDERED),
        ("n_eggs", ["340", "120", "120"], Role.COUNT),
        ("mass_g", ["340", "120", "120"], Role.MEASURE),
        ("t", ["-1", "4", "4"], Role.MEASURE),
        ("birth year", ["1990", "2001", "2001"], Role.DATE),
        ("day", ["2026-03-18", "2026-03-19", "2026-03-18"], Role.DATE),
        ("tag", ["H-1", "H-2", "H-3"], Role.IDENTIFIER),
        ("tank", ["T1", "T2", "T1"], Role.CATEGORY),
        ("note", [f"free text number {k}" for k in range(50)], Role.TEXT),
        ("none", ["", "", ""], Role.TEXT),
    ],
)
def test_roles(tmp_path: Path, name: str, cells: list[str], role: Role) -> None:
    table = read(tmp_path, f"{name},z\n" + "".join(f"{cell},x\n" for cell in cells))
    assert table[name].role is role and table[name].reason
    assert table[name].is_numeric == (role in (Role.MEASURE, Role.COUNT, Role.ORDERED, Role.YES_NO))


def test_units() -> None:
    assert label_and_unit("length_mm") == ("length", "mm")
    assert label_and_unit("oxygen_mg_l") == ("oxygen", "mg/l")
    assert label_and_unit("depth (m)") == ("depth", "m")
    assert label_and_unit("temp_min") == ("temp min", None) and label_and_unit("mass") == (None, None)


def test_cancelling_stops_the_reading(demo_path: Path) -> None:
    def progress(share: float, doing: str) -> None:
        if share >= 0.3:
            raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        read_table(demo_path, progress=progress)


_cell = st.text(st.characters(codec="utf-8", exclude_characters="\0\r", exclude_categories=["Cs"]), max_size=8)


@example([(":", "", "end"), ("", "", "end"), ("", "", "end"), ("0", "", "end")])
@given(st.lists(st.tuples(_cell, _cell, st.just("end")), min_size=1, max_size=12))
def test_what_was_written_is_what_is_read(
    tmp_path_factory: pytest.TempPathFactory, rows: list[tuple[str, ...]]
) -> None:
    text = io.StringIO()
    csv.writer(text, lineterminator="\n", quoting=csv.QUOTE_ALL).writerows([("first", "second", "third"), *rows])
    path = tmp_path_factory.mktemp("round") / "t.csv"
    path.write_text(text.getvalue(), encoding="utf-8", newline="")
    if guess_dialect(path.read_bytes()).delimiter != ",":
        return
    table = read_table(path)
    assert [tuple(column.cell(row) for column in table) for row in range(table.rows)] == rows


# The demo


def test_demo_is_the_same_everywhere(cohort: Cohort) -> None:
    again = spring_cohort()
    assert again.csv == cohort.csv and again.key == cohort.key
    assert len(cohort.rows) == 2180 and len(last_cohort().rows) == 1940


def test_planted_troubles_are_in_the_table(demo_table: Table, cohort: Cohort) -> None:
    def planted(kind: str) -> list[int]:
        return [row - 1 for row in cohort.planted(kind).rows]

    assert demo_table.repeated_rows.tolist() == planted("duplicate_rows")
    assert demo_table["cortisol_ng_ml"].unread_rows.tolist() == planted("limit_cells")
    assert demo_table["glucose_mmol_l"].unread_rows.tolist() == planted("decimal_comma")
    oxygen = demo_table["oxygen_mg_l"].sample.values
    assert np.flatnonzero(oxygen == -9).tolist() == planted("missing_code")
    length = demo_table["length_mm"].sample.values
    assert np.flatnonzero(length < 40).tolist() == planted("unit_cm")
    assert demo_table["tag"].role is Role.IDENTIFIER and demo_table["fin_score"].role is Role.ORDERED
    assert demo_table["vaccinated"].sample.n == 2180
