"""Files that could hurt: what they ask for is looked at before it is given, and the next file opens."""

import gzip
import io
import json
import os
import re
import sqlite3
import zipfile
from collections.abc import Callable
from pathlib import Path

import polars as pl
import pytest
import xlsxwriter
from reading_fuzz import FORMATS, cases, read_case

from culvix.errors import Cancelled, ReadError
from culvix.report.documents.intake import intake_document
from culvix.tables import read_table
from culvix.tables.model.options.read_options import ReadOptions
from culvix.tables.reading.library_output import library_output_to_log


@pytest.mark.parametrize("form", FORMATS)
def test_odd_and_damaged_files_are_read_or_refused_in_a_sentence(form: str, tmp_path: Path) -> None:
    failures = [read_case(form, seed, data, tmp_path) for seed, data in cases(form, 0, 25)]
    assert not [failure for failure in failures if failure is not None]


def sheet(rows: str = "", *, dimension: str = "", strings: str = "", names: tuple[str, ...] = ("first",)) -> bytes:
    """A workbook whose first sheet holds the XML of ``rows``."""
    data = io.BytesIO()
    book = xlsxwriter.Workbook(data, {"in_memory": True})
    for name in names:
        page = book.add_worksheet(name)
        if name != "empty":
            page.write_row(0, 0, ["x", "y"])
            page.write_row(1, 0, [1, 2])
    book.close()
    out = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(data.getvalue())) as old, zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as new:
        for member in old.namelist():
            text = old.read(member).decode()
            if member.endswith("sheet1.xml") and rows:
                text = re.sub(r"<sheetData>.*</sheetData>", f"<sheetData>{rows}</sheetData>", text, flags=re.S)
            if member.endswith("sheet1.xml") and dimension:
                text = re.sub(r'<dimension ref="[^"]*"/>', f'<dimension ref="{dimension}"/>', text)
            if member.endswith("sharedStrings.xml") and strings:
                text = strings
            new.writestr(member, text)
    return out.getvalue()


def open_sheet(rows: str) -> bytes:
    space = "urn:oasis:names:tc:opendocument:xmlns"
    spaces = f'xmlns:office="{space}:office:1.0" xmlns:table="{space}:table:1.0" xmlns:text="{space}:text:1.0"'
    content = (
        f"<office:document-content {spaces}><office:body><office:spreadsheet>"
        f'<table:table table:name="t">{rows}</table:table></office:spreadsheet></office:body></office:document-content>'
    )
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet")
        archive.writestr("content.xml", content)
    return data.getvalue()


def database(*statements: str) -> bytes:
    with sqlite3.connect(":memory:") as made:
        for statement in ("create table z (a)", "insert into z values (1)", *statements):
            made.execute(statement)
        made.commit()
        return made.serialize()


def written(frame: pl.DataFrame, how: str) -> bytes:
    data = io.BytesIO()
    getattr(frame, how)(data)
    return data.getvalue()


def constant(value: float | str | None, times: int) -> pl.DataFrame:
    series = pl.Series("a", [value], dtype=pl.Null if value is None else None)
    return series.extend_constant(value, times).to_frame()


FAR = '<row r="1"><c r="A1"><v>1</v></c></row><row r="1048576"><c r="XFD1048576"><v>2</v></c></row>'
CELL = '<table:table-cell office:value-type="string"><text:p>a</text:p></table:table-cell>'
REPEATED_ROW = f'<table:table-row table:number-rows-repeated="9000000">{CELL}</table:table-row>'
REPEATED_CELL = CELL.replace(" office", ' table:number-columns-repeated="99000000" office')
WIDE = "hex(zeroblob(2000))"
ENDLESS = "with recursive n(k) as (select 1 union all select k + 1 from n)"
TRAPS: dict[str, tuple[str, Callable[[], bytes]]] = {
    "a far cell": ("a.xlsx", lambda: sheet(FAR)),
    "a far cell in other quotes": ("a.xlsx", lambda: sheet(FAR.replace('"', "'"))),
    "a document type": ("a.xlsx", lambda: sheet(strings='<!DOCTYPE x [<!ENTITY a "b">]><sst/>')),
    "strings without end": ("a.xlsx", lambda: sheet(strings="<sst>" + "<si/>" * 10_100_000 + "</sst>")),
    "a row repeated": ("a.ods", lambda: open_sheet(REPEATED_ROW)),
    "a cell repeated": ("a.ods", lambda: open_sheet(f"<table:table-row>{REPEATED_CELL}</table:table-row>")),
    "lines": ("a.csv.gz", lambda: gzip.compress(b"a\n" + b"1\n" * 21_000_000)),
    "letters": ("a.csv.gz", lambda: gzip.compress(b"a,b\n" + b"xxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxxx,2\n" * 3_000_000)),
    "empty columns": ("a.csv.gz", lambda: gzip.compress(b"," * 9999 + b"\n" + (b"," * 9999 + b"\n") * 3000)),
    "a view without end": ("a.sqlite", lambda: database(f"create view a as {ENDLESS} select {WIDE} as h from n")),
    "a cell without end": ("a.sqlite", lambda: database("create view a as select hex(zeroblob(90000000)) as h from z")),
    "a constant column": ("a.parquet", lambda: written(constant(1.0, 12_000_000), "write_parquet")),
    "a constant text": ("a.parquet", lambda: written(constant("x" * 100, 2_000_000), "write_parquet")),
    "nothing, often": ("a.arrow", lambda: written(constant(None, 12_000_000), "write_ipc")),
    "names without end": ("a.json", lambda: json.dumps([{f"k{k}": 1} for k in range(30_000)]).encode()),
    "brackets without end": ("a.json", lambda: b"[" * 1_000_000),
}  # fmt: skip


@pytest.mark.parametrize("case", TRAPS)
def test_a_trap_is_refused_and_the_next_file_opens(case: str, tmp_path: Path) -> None:
    name, make = TRAPS[case]
    path = tmp_path / name
    path.write_bytes(make())
    with pytest.raises(ReadError) as refused:
        read_table(path)
    assert refused.value.sentence.endswith(".") and len(refused.value.sentence) < 400
    path = tmp_path / "next.csv"
    path.write_text("a,b\n1,2.5\n3,4.5\n")
    assert read_table(path).rows == 2


def test_a_database_that_only_computes_is_stopped(tmp_path: Path) -> None:
    path = tmp_path / "a.sqlite"
    path.write_bytes(database(f"create view a as {ENDLESS} select count(*) as c from n"))
    heard = []

    def progress(share: float, doing: str) -> None:
        heard.append(doing)
        if len(heard) > 20:
            raise Cancelled("Cancelled.")

    with pytest.raises(Cancelled):
        read_table(path, progress=progress)


def test_a_library_that_gives_up_ends_in_a_sentence(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    class Panic(BaseException):
        pass

    def give_up(*_: object, **__: object) -> None:
        raise Panic("index out of bounds")

    monkeypatch.setattr("culvix.tables.reading.structured.pl.scan_parquet", give_up)
    path = tmp_path / "a.parquet"
    path.write_bytes(b"PAR1" + bytes(40))
    with pytest.raises(ReadError, match="gave up on it"):
        read_table(path)


def test_what_a_library_prints_when_it_gives_up_is_not_for_the_terminal(capfd: pytest.CaptureFixture[str]) -> None:
    with library_output_to_log():
        os.write(2, b"thread panicked")
    os.write(2, b"heard")
    assert capfd.readouterr().err == "heard"


def test_a_database_with_a_log_and_names_that_are_no_text(tmp_path: Path) -> None:
    path = tmp_path / "log.sqlite"
    with sqlite3.connect(path) as made:
        made.execute("pragma journal_mode = wal")
        made.execute("create table fish (tag, mass)")
        made.execute("insert into fish values ('a', 1.5)")
        made.commit()
        made.execute("insert into fish values (cast(x'4bf66c6e' as text), 2.5)")
        made.commit()
        before = path.read_bytes()
        table = read_table(path)
    assert table["mass"].sample.values.tolist() == [1.5, 2.5] and table["tag"].cell(1) == "Köln"
    assert path.read_bytes()[:100] == before[:100]


def test_names_in_a_database_that_are_no_text_can_be_asked_for(tmp_path: Path) -> None:
    data = database("create table Kxln (Zxe, b)", "insert into Kxln values (1.5, 'a')", "drop table z")
    path = tmp_path / "a.sqlite"
    path.write_bytes(data.replace(b"Kxln", b"K\xf6ln").replace(b"Zxe", b"Z\xf6e"))
    table = read_table(path, ReadOptions(part="Köln"))
    assert [column.name for column in table] == ["Zöe", "b"] and table["Zöe"].cell(0) == "1.5"


def test_errors_of_a_spreadsheet_are_counted_as_in_a_text(tmp_path: Path) -> None:
    cells = '<c r="B2"><v>7</v></c><c r="C2" t="e"><v>#DIV/0!</v></c>'
    heads = '<c r="B1" t="inlineStr"><is><t>a</t></is></c><c r="C1" t="inlineStr"><is><t>b</t></is></c>'
    more = "".join(f'<row r="{r}"><c r="B{r}"><v>{r}.5</v></c><c r="C{r}"><v>{r}</v></c></row>' for r in range(3, 9))
    path = tmp_path / "a.xlsx"
    path.write_bytes(sheet(f'<row r="1">{heads}</row><row r="2">{cells}</row>{more}'))
    column = read_table(path)["b"]
    text = tmp_path / "a.csv"
    text.write_text("a,b\n7,#DIV/0!\n" + "".join(f"{r}.5,{r}\n" for r in range(3, 9)))
    for found in (column, read_table(text)["b"]):
        assert found.missing_by == {"#DIV/0!": 1} and found.kinds["error_value"].rows.tolist() == [0]
    # The range is told in cells of the sheet, whose first column is empty.
    part = read_table(path, ReadOptions(cells="C1:C4"))
    assert [c.name for c in part] == ["b"] and part["b"].sample.values[1:].tolist() == [3, 4]


LENGTH_MASS = ["length mm", "mass g"]
SHEETS = {
    "without names": ([[1.5, 2], [3.5, 4], [5.5, 1]], ["column 1", "column 2"], 3),
    "two lines of names": ([["length", "mass"], ["mm", "g"], *[[k + 0.5, k] for k in range(4)]], LENGTH_MASS, 4),
    "no line half filled": ([["a"], [None, 1], [None, None, 2]], None, 0),
}  # fmt: skip


@pytest.mark.parametrize("case", SHEETS)
def test_lines_of_names_in_a_sheet(case: str, tmp_path: Path) -> None:
    rows, names, count = SHEETS[case]
    data = io.BytesIO()
    book = xlsxwriter.Workbook(data, {"in_memory": True})
    page = book.add_worksheet("s")
    for number, row in enumerate(rows):
        page.write_row(number, 0, row)
    book.close()
    path = tmp_path / "a.xlsx"
    path.write_bytes(data.getvalue())
    table = read_table(path)
    if names is not None:
        assert [column.name for column in table] == names and table.rows == count
    assert intake_document(table)["source"]["rows"] == table.rows
    assert read_table(path, ReadOptions(header_rows=0)).columns[0].name == "column 1"


def test_an_empty_first_sheet_names_the_others(tmp_path: Path) -> None:
    path = tmp_path / "a.xlsx"
    path.write_bytes(sheet(names=("empty", "fish")))
    with pytest.raises(ReadError, match=r"The sheet empty is empty; there are also fish\."):
        read_table(path)
    assert read_table(path, ReadOptions(part="fish"))["x"].sample.values.tolist() == [1]


JSON = {
    "records": '[{"a": 1, "b": "x"}, {"a": 2.5, "b": null}]',
    "under a name": '{"count": 2, "data": [{"a": 1, "b": "x"}, {"a": 2.5}]}',
    "columns": '{"a": [1, 2.5], "b": ["x", null]}',
    "cells by row": '{"a": {"0": 1, "1": 2.5}, "b": {"0": "x", "1": null}}',
    "names and rows": '{"columns": ["a", "b"], "data": [[1, "x"], [2.5, null]]}',
    "rows": '[["a", "b"], [1, "x"], [2.5, null]]',
    "lines": '{"a": 1, "b": "x"}\n{"a": 2.5, "b": null}\n',
}


@pytest.mark.parametrize("case", JSON)
def test_json_in_its_common_shapes(case: str, tmp_path: Path) -> None:
    path = tmp_path / "a.json"
    path.write_text(JSON[case])
    table = read_table(path)
    assert table["a"].sample.values.tolist() == [1, 2.5] and table["b"].cell(0) == "x" and table["b"].missing == 1


def test_rarer_types_of_columnar_files(tmp_path: Path) -> None:
    frame = pl.DataFrame(
        {
            "took": pl.Series([1500, 250, None]).cast(pl.Duration("ms")),
            "at": pl.Series([0, 10**9, 2 * 10**9]).cast(pl.Time),
            "price": pl.Series(["1.50", "2.25", "3.00"]).cast(pl.Decimal(10, 2)),
            "raw": pl.Series([b"\x00", b"ab", None]),
            "list": pl.Series([[1, 2], [3], None]),
            "none": pl.Series([None] * 3, dtype=pl.Null),
        }
    )
    for name, how in (("a.parquet", "write_parquet"), ("a.arrow", "write_ipc")):
        path = tmp_path / name
        path.write_bytes(written(frame, how))
        table = read_table(path)
        assert table["took"].raw.numbers[:2].tolist() == [1.5, 0.25] and table["price"].raw.numbers[1] == 2.25
        assert table["list"].cell(0) == "[1, 2]" and table["raw"].cell(1) == "(2 bytes)"
        assert any("durations" in note for note in table.source.notes)
