"""Real files: dialects, kinds of cells, structured formats, hostile content, the dictionary, and what is found."""

import gzip
import io
import json
import os
import sqlite3
import zipfile
from collections.abc import Callable
from pathlib import Path

import numpy as np
import polars as pl
import pytest
import zstandard
from hypothesis import given, settings
from hypothesis import strategies as st

from culvix.cli import main
from culvix.demo import Cohort
from culvix.errors import ReadError
from culvix.report.documents.intake import intake_document
from culvix.tables import Role, Table, read_table
from culvix.tables.cells.cell_kinds import KINDS, find_kinds
from culvix.tables.cells.cell_rules import apply_rules, numbers_of
from culvix.tables.checks.column_checks import suspected_codes
from culvix.tables.checks.table_checks import check_table
from culvix.tables.model.cell_texts import StoredTexts
from culvix.tables.model.column_builder import reread
from culvix.tables.model.dictionary import ColumnEntry, Dictionary, read_data_package, write_data_package
from culvix.tables.model.options.read_options import ReadOptions
from culvix.tables.text import delimited
from culvix.tables.text.dialect import Dialect
from culvix.tables.text.dialect_guess import guess_dialect


def write(folder: Path, data: bytes | str, name: str = "in.csv") -> Path:
    path = folder / name
    path.write_bytes(data.encode() if isinstance(data, str) else data)
    return path


# Dialects

DIALECTS = {
    "a,b\n1,2\n3,4\n": {},
    "a;b\n1,5;2,5\n3,5;4,5\n": {"delimiter": ";", "decimal": ","},
    "a;b\n1.234,5;2,5\n3.000,5;4,5\n1,1;2\n": {"delimiter": ";", "decimal": ",", "thousands": "."},
    "a\tb\n1\t2\n3\t4\n": {"delimiter": "\t"},
    "a|b\n1|2\n3|4\n": {"delimiter": "|"},
    "a b c\n1 2 3\n4 5 6\n": {"delimiter": " "},
    "Hatchery\nspring\n\na,b,c,d\n1,2,3,4\n5,6,7,8\n": {"preamble_rows": 3},
    "# made by hand\n# twice\na,b\n1,2\n3,4\n": {"comment": "#"},
    "#id,b\n1,2\n3,4\n": {"comment": ""},
    "1,2\n3,4\n5,6\n7,8\n": {"header_rows": 0},
    "length,mass\nmm,g\n12.1,3\n13,4\n14,5\n15,6\n": {"header_rows": 2},
    "'a','b'\n'x, y','1'\n'z','2'\n'q','3'\n": {"quote": "'"},
    'name,note\nx,"a; b; c"\ny,"d; e; f"\n': {},
    "one\n1\n2\n": {},
}


@pytest.mark.parametrize("text", DIALECTS)
def test_dialects_are_guessed_with_their_reasons(text: str, tmp_path: Path) -> None:
    dialect = guess_dialect(text.encode())
    expected = {**vars(Dialect()), **DIALECTS[text]}
    assert {k: v for k, v in vars(dialect).items() if k not in ("reasons", "questions")} == {
        k: v for k, v in expected.items() if k not in ("reasons", "questions")
    }
    assert all(dialect.reasons[part] for part in ("delimiter", "decimal", "header_rows"))
    table = read_table(write(tmp_path, text))
    first = table.columns[0]
    assert table.rows == len([line for line in text.splitlines() if line]) - _above(dialect)
    if dialect.decimal == ",":
        assert first.role is Role.MEASURE and not first.unread


def _above(dialect: Dialect) -> int:
    return dialect.header_rows + max(dialect.preamble_rows - 1, 0) + 2 * bool(dialect.comment)


def test_a_dialect_can_be_chosen_by_hand(tmp_path: Path) -> None:
    path = write(tmp_path, "x;y\n1,5;2\n3,5;4\n")
    assert read_table(path)["x"].values.tolist() == [1.5, 3.5]
    chosen = guess_dialect(path.read_bytes()).changed(decimal=".")
    column = read_table(path, ReadOptions(chosen))["x"]
    assert column.unread == 2 and column.kinds["decimal_comma"].count == 2
    assert chosen.reasons["decimal"] == "chosen by hand"
    names = read_table(path, ReadOptions(chosen.changed(header_rows=0)))
    assert [c.name for c in names] == ["column 1", "column 2"] and names.rows == 3


@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16", "latin-1", "cp1252"])
@pytest.mark.parametrize("ends", ["\n", "\r\n", "\r"])
def test_encodings_and_line_ends(encoding: str, ends: str, tmp_path: Path) -> None:
    lines = ["größe,gewicht", *(f"{k},schön {k}" for k in range(40))]
    table = read_table(write(tmp_path, ends.join(lines).encode(encoding)))
    assert table.rows == 40 and table.columns[1].cell(3) == "schön 3" and table.columns[0].name == "größe"


# Kinds of cells

CELLS = {
    "error_value": ["#DIV/0!", "#VALUE!", "#REF!"],
    "missing_token": ["n.d.", "unknown", "x", "***", "not tested"],
    "range": ["10-20", "1,5 - 2,5", "3 to 4"],
    "limit": ["<0.5", ">100", "≤ 3", "<=2,5"],
    "approximate": ["ca. 22", "~22", "≈ 2,5", "about 1.5", "ca.22", "circa -3"],
    "uncertain": ["22 ± 1", "2,5±0,1", "22 +/- 1"],
    "date": ["2026-03-18", "18.03.2026", "3/18/2026", "18 Mar 2026"],
    "percent": ["5%", "5,5 %"],
    "currency": ["€12.50", "12 EUR", "1,200 €"],
    "magnitude_suffix": ["19M", "4k", "2bn", "3.1k"],
    "true_minus": ["−1.5", "−20"],
    "accounting_negative": ["(1,200.50)", "(5)"],
    "trailing_minus": ["5-", "1.5 −"],
    "decimal_point": ["1.5", "-0.25"],
    "decimal_comma": ["12,4", "-3,25", "1,5e3"],
    "thousands_mark": ["1,234,567.8", "1 234", "1'234", "1.234.567", "1.234,56"],
    "footnote": ["12.4*", "12.4†", "12.4 [2]", "12.4²"],
    "unit_suffix": ["12mm", "3.5 mm"],
    "mixed_units": ["12mm", "3.5 mm", "1.2 cm"],
    "unlike_units": ["12 mm", "3 kg"],
    "text": ["hello", "abc", "½", "4 5", "see note", "1st", "22nd", "41B", "2023-Q9", "7x9f"],
}
NUMBERS = {
    "limit": [0.5, 100, 3, 2.5],
    "approximate": [22, 22, 2.5, 1.5, 22, -3],
    "uncertain": [22, 2.5, 22],
    "percent": [5, 5.5],
    "currency": [12.5, 12, 1200],
    "magnitude_suffix": [19e6, 4e3, 2e9, 3.1e3],
    "true_minus": [-1.5, -20],
    "accounting_negative": [-1200.5, -5],
    "trailing_minus": [-5, -1.5],
    "decimal_point": [1.5, -0.25],
    "decimal_comma": [12.4, -3.25, 1.5e3],
    "thousands_mark": [1234567.8, 1234, 1234, 1234567, 1234.56],
    "footnote": [12.4] * 4,
    "unit_suffix": [12, 3.5],
    "mixed_units": [12, 3.5, 12],
}


@pytest.mark.parametrize("kind", CELLS)
def test_cells_are_told_by_kind_and_read_by_rule(kind: str) -> None:
    cells = pl.Series(CELLS[kind])
    found = find_kinds(StoredTexts(cells), np.arange(len(cells)))
    assert list(found) == [kind] and found[kind].count == len(cells) and set(found[kind].examples) <= set(CELLS[kind])
    if kind in NUMBERS:
        given = numbers_of(kind, cells, KINDS[kind].rules[0], found[kind].unit)
        assert given.tolist() == pytest.approx(NUMBERS[kind])


def test_each_unit_that_differs_is_counted_and_the_unit_read_in_is_the_columns(tmp_path: Path) -> None:
    cells = ["12 mm"] * 6 + ["1.2 cm"] * 3 + ["0.5 in"]
    path = write(tmp_path, "depth,x\n" + "".join(f"{cell},{k}\n" for k, cell in enumerate(cells)))
    plain = read_table(path)["depth"]
    found = plain.kinds["mixed_units"]
    assert found.units == (("mm", 6), ("cm", 3), ("in", 1)) and found.unit == "mm" and plain.unit is None
    read = reread(plain, ColumnEntry(rules={"mixed_units": "convert"}))
    assert read.unit == "mm" and read.values is not None
    assert read.values.tolist() == pytest.approx([12.0] * 9 + [12.7])


def test_qualified_numbers_are_read_by_rule_with_the_qualifier_kept(tmp_path: Path) -> None:
    cells = ["ca. 22", "~23", "22 ± 1", *(str(20 + k) for k in range(9))]
    path = write(tmp_path, "depth,x\n" + "".join(f"{cell},{k}\n" for k, cell in enumerate(cells)))
    plain = read_table(path)["depth"]
    assert plain.unread == 3 and {key: kind.count for key, kind in plain.kinds.items()} == {
        "approximate": 2,
        "uncertain": 1,
    }
    read = reread(plain, ColumnEntry(rules={"approximate": "number", "uncertain": "number"}))
    assert read.unread == 0 and read.values is not None and read.values[:3].tolist() == [22.0, 23.0, 22.0]
    assert read.kinds["approximate"].count == 2 and [read.cell(row) for row in range(3)] == cells[:3]


def test_commas_before_three_digits_group_unless_others_say_otherwise() -> None:
    rows = np.arange(3)
    assert list(find_kinds(StoredTexts(pl.Series(["1,234", "2,345", "12,000"])), rows)) == ["thousands_mark"]
    assert list(find_kinds(StoredTexts(pl.Series(["1,234", "2,34", "12,000"])), rows)) == ["decimal_comma"]


def test_rules_settle_a_whole_column_and_nothing_is_settled_without(tmp_path: Path) -> None:
    text = 'mass,"x"\n' + "".join(f'"{cell}",1\n' for cell in ("1.5", "2,5", "<0.5", "n/a", "", "7 g", "lost"))
    path = write(tmp_path, text)
    plain = read_table(path)["mass"]
    assert (plain.missing, plain.unread, plain.role) == (2, 4, Role.MEASURE)
    assert plain.missing_by == {"": 1, "n/a": 1}
    assert {key: kind.rows.tolist() for key, kind in plain.kinds.items()} == {
        "missing_token": [3], "limit": [2], "decimal_comma": [1], "unit_suffix": [5], "text": [6]
    }  # fmt: skip
    rules = {"decimal_comma": "number", "limit": "half", "missing_token": "missing", "unit_suffix": "number"}
    said = Dictionary({"mass": ColumnEntry(rules=rules)})
    column = read_table(path, dictionary=said)["mass"]
    assert column.values[[0, 1, 2, 5]].tolist() == [1.5, 2.5, 0.25, 7]
    assert (column.missing, column.unread) == (2, 1) and column.unread_rows.tolist() == [6]
    with pytest.raises(ReadError):
        ColumnEntry(rules={"limit": "double"})
    with pytest.raises(ReadError):
        ColumnEntry(rules={"smell": "missing"})


@settings(max_examples=60)
@given(st.lists(st.text(st.characters(codec="utf-8"), max_size=12), min_size=1, max_size=12), st.data())
def test_no_cell_breaks_the_rules(cells: list[str], data: st.DataObject) -> None:
    text = pl.Series(cells, dtype=pl.String)
    found = find_kinds(StoredTexts(text), np.arange(len(cells)))
    assert sum(kind.count for kind in found.values()) == len(cells)
    rules = {key: data.draw(st.sampled_from(kind.rules)) for key, kind in KINDS.items()}
    values, missing, unread = apply_rules(StoredTexts(text), found, rules)
    assert (np.isfinite(values).astype(int) + missing + unread == 1).all()


awkward = st.text(st.characters(codec="utf-8", exclude_characters="\r\n\0"), max_size=8)


@settings(max_examples=25)
@given(
    st.integers(1, 4).flatmap(lambda k: st.lists(st.lists(awkward, min_size=k, max_size=k), min_size=2, max_size=6)),
    st.sampled_from([",", ";", "\t", "|"]),
)
def test_any_cells_in_any_dialect_are_read_or_refused_in_words(
    tmp_path_factory: pytest.TempPathFactory, rows: list[list[str]], delimiter: str
) -> None:
    import csv

    text = io.StringIO()
    csv.writer(text, delimiter=delimiter, quoting=csv.QUOTE_ALL, lineterminator="\n").writerows(rows)
    path = write(tmp_path_factory.mktemp("fuzz"), text.getvalue())
    try:
        table = read_table(path, ReadOptions(Dialect(delimiter=delimiter)))
    except ReadError as error:
        assert error.sentence.endswith(".")
        return
    padded = len(table.columns) == len(rows[0]) - 1
    assert not padded or all(not row[-1].strip() for row in rows)
    assert table.rows == len(rows) - 1 and (padded or len(table.columns) == len(rows[0]))
    for position, column in enumerate(table):
        assert [column.cell(row) for row in range(table.rows)] == [row[position] for row in rows[1:]]
    assert intake_document(table)["source"]["rows"] == table.rows


# Other files


@pytest.fixture(scope="module")
def frame() -> pl.DataFrame:
    return pl.DataFrame(
        {
            "tag": ["A1", "A2", "A3"],
            "length_mm": [12.5, None, 1e-300],
            "n": [2**53 + 1, 2, 3],
            "ok": [True, False, None],
        }
    )


def _sheet(frame: pl.DataFrame) -> bytes:
    """A spreadsheet written by hand: the open format is a zip archive of XML files."""
    rows = [frame.columns, *frame.rows()]
    cells = "".join(
        "<row>" + "".join(f'<c t="inlineStr"><is><t>{"" if v is None else v}</t></is></c>' for v in row) + "</row>"
        for row in rows
    )
    main_space = 'xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"'
    relations = 'xmlns="http://schemas.openxmlformats.org/package/2006/relationships"'
    office = "http://schemas.openxmlformats.org/officeDocument/2006/relationships"
    sheet_type = "application/vnd.openxmlformats-officedocument.spreadsheetml"
    parts = {
        "[Content_Types].xml": '<Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types">'
        f'<Override PartName="/xl/workbook.xml" ContentType="{sheet_type}.sheet.main+xml"/>'
        f'<Override PartName="/xl/worksheets/sheet1.xml" ContentType="{sheet_type}.worksheet+xml"/></Types>',
        "_rels/.rels": f'<Relationships {relations}><Relationship Id="r1" Type="{office}/officeDocument" '
        'Target="xl/workbook.xml"/></Relationships>',
        "xl/workbook.xml": f'<workbook {main_space} xmlns:r="{office}"><sheets><sheet name="fish" sheetId="1" '
        'r:id="r1"/></sheets></workbook>',
        "xl/_rels/workbook.xml.rels": f'<Relationships {relations}><Relationship Id="r1" Type="{office}/worksheet" '
        'Target="worksheets/sheet1.xml"/></Relationships>',
        "xl/worksheets/sheet1.xml": f"<worksheet {main_space}><sheetData>{cells}</sheetData></worksheet>",
    }
    data = io.BytesIO()
    with zipfile.ZipFile(data, "w") as archive:
        for name, text in parts.items():
            archive.writestr(name, text)
    return data.getvalue()


def _database(frame: pl.DataFrame) -> bytes:
    with sqlite3.connect(":memory:") as database:
        database.execute("create table fish (tag text, length_mm real, n integer, ok integer)")
        database.executemany("insert into fish values (?, ?, ?, ?)", frame.rows())
        database.execute("create view short as select tag from fish")
        database.commit()
        return database.serialize()


def _written(frame: pl.DataFrame, how: str) -> bytes:
    data = io.BytesIO()
    getattr(frame, how)(data)
    return data.getvalue()


FILES: dict[str, Callable[[pl.DataFrame], bytes]] = {
    "t.csv": lambda frame: _written(frame, "write_csv"),
    "t.csv.gz": lambda frame: gzip.compress(_written(frame, "write_csv")),
    "t.csv.zst": lambda frame: zstandard.compress(_written(frame, "write_csv")),
    "t.parquet": lambda frame: _written(frame, "write_parquet"),
    "t.arrow": lambda frame: _written(frame, "write_ipc"),
    "t.ndjson": lambda frame: _written(frame, "write_ndjson"),
    "t.json": lambda frame: _written(frame, "write_json"),
    "t.xlsx": _sheet,
    "t.sqlite": _database,
}


@pytest.mark.parametrize("name", FILES)
def test_every_format_gives_the_same_table(name: str, frame: pl.DataFrame, tmp_path: Path) -> None:
    table = read_table(write(tmp_path, FILES[name](frame), name))
    assert [column.name for column in table] == frame.columns and table.rows == 3
    assert table["length_mm"].values.tolist()[::2] == [12.5, 1e-300] and table["length_mm"].missing == 1
    assert table["n"].integers.tolist() == [2**53 + 1, 2, 3]
    assert [table["tag"].cell(row) for row in range(3)] == ["A1", "A2", "A3"]
    assert table["ok"].sample.values[:2].tolist() == [1, 0] or table["ok"].role is Role.YES_NO
    document = intake_document(table)
    assert document["source"]["kind"] and (document["dialect"]["delimiter"] == ",") == name.startswith("t.csv")


def test_parts_of_a_file_are_chosen_by_name(frame: pl.DataFrame, tmp_path: Path) -> None:
    database = write(tmp_path, _database(frame), "t.sqlite")
    table = read_table(database, ReadOptions(part="short"))
    assert len(table.columns) == 1 and table.source.parts == ("fish", "short") and table.source.part == "short"
    sheet = write(tmp_path, _sheet(frame), "t.xlsx")
    part = read_table(sheet, ReadOptions(part="fish", cells="A1:B3"))
    assert [column.name for column in part] == ["tag", "length_mm"] and part.rows == 2
    for wrong in ({"part": "no"}, {"cells": "B3"}, {"cells": "ZZ900:ZZ901"}):
        with pytest.raises(ReadError):
            read_table(sheet, ReadOptions(**wrong))


HOSTILE: dict[str, tuple[str, bytes]] = {
    "cut gzip": ("a.csv.gz", gzip.compress(b"a,b\n1,2\n" * 2000)[:60]),
    "bad zstd": ("a.csv.zst", zstandard.compress(b"a,b\n1,2\n" * 20000)[:-6]),
    "gzip bomb": ("a.csv.gz", gzip.compress(bytes(1 << 20) * 400)),
    "cut parquet": ("a.parquet", b"PAR1" + bytes(100)),
    "cut arrow": ("a.arrow", b"ARROW1\0\0" + bytes(40)),
    "cut zip": ("a.xlsx", b"PK\x03\x04" + bytes(50)),
    "cut database": ("a.sqlite", b"SQLite format 3\0" + bytes(200)),
    "ragged json": ("a.ndjson", b'{"a": 1}\n{"a": \n'),
    "scalars": ("a.json", b"[1, 2, 3]"),
    "pdf": ("a.csv", b"%PDF-1.7 something"),
    "nul": ("a.csv", b"a,b\n1,\0\n"),
    "open quote": ("a.csv", b'a,b\n1,"2\n3,4\n'),
    "long line": ("a.csv", b"a,b\n" + b"9" * (1 << 24) + b"\n"),
    "too many columns": ("a.csv", b",".join(b"c%d" % k for k in range(30_000)) + b"\n"),
    "blank sheet": ("a.csv", b"\n\n \n"),
}


@pytest.mark.parametrize("case", HOSTILE)
def test_hostile_files_get_a_sentence(case: str, tmp_path: Path) -> None:
    name, data = HOSTILE[case]
    with pytest.raises(ReadError) as refused:
        read_table(write(tmp_path, data, name))
    assert refused.value.sentence.endswith(".") and "Traceback" not in refused.value.sentence
    assert len(refused.value.sentence) < 400


def test_an_archive_that_is_no_spreadsheet_and_one_that_is_a_bomb(tmp_path: Path) -> None:
    for members in ({"readme.txt": b"hi"}, {"xl/workbook.xml": bytes(1 << 28) + b" " * 1000}):
        data = io.BytesIO()
        with zipfile.ZipFile(data, "w", zipfile.ZIP_DEFLATED) as archive:
            for name, content in members.items():
                archive.writestr(name, content)
        with pytest.raises(ReadError):
            read_table(write(tmp_path, data.getvalue(), "a.xlsx"))


def test_a_file_changed_while_it_is_read_is_told(tmp_path: Path) -> None:
    path = write(tmp_path, "a,b\n" + "1,2\n" * 1000)

    def meddle(share: float, doing: str) -> None:
        if doing.startswith("reading in.csv"):
            with open(path, "ab") as file:
                file.write(b"3,4\n")
            os.utime(path, ns=(1, 1))

    with pytest.raises(ReadError, match="changed while it was read"):
        read_table(path, progress=meddle)


# Dictionary


def test_what_the_data_package_says_is_what_comes_back(demo_path: Path, demo_table: Table) -> None:
    said = Dictionary(
        {
            "length_mm": ColumnEntry(label="total length", unit="mm", valid_range=(10.0, 600.0)),
            "oxygen_mg_l": ColumnEntry(missing_codes=("-9",), valid_range=(0.0, None)),
            "cortisol_ng_ml": ColumnEntry(rules={"limit": "half"}),
            "glucose_mmol_l": ColumnEntry(rules={"decimal_comma": "number"}, role=Role.MEASURE),
            "feed": ColumnEntry(role=Role.ORDERED, order=("insect", "standard", "high oil"),
                                mapping={"insect": 1.0, "standard": 2.0, "high oil": 3.0}),
        },
        "Measured at the spring sorting.",
    )  # fmt: skip
    table = read_table(demo_path, dictionary=said)
    assert table["oxygen_mg_l"].missing == 14 and table["cortisol_ng_ml"].unread == 0
    assert table["glucose_mmol_l"].unread == 0 and set(np.unique(table["feed"].values)) == {1.0, 2.0, 3.0}
    data = write_data_package(table.columns, table.source, table.source.dialect, said)
    package = json.loads(data)
    fields = {field["name"]: field for field in package["resources"][0]["schema"]["fields"]}
    assert fields["length_mm"]["constraints"] == {"minimum": 10.0, "maximum": 600.0}
    assert fields["oxygen_mg_l"]["missingValues"] == ["", "-9"] and fields["feed"]["categoriesOrdered"]
    back = read_data_package(data)
    assert back.provenance == said.provenance
    for name, entry in said.entries.items():
        assert back.of(name) == entry
    again = read_table(demo_path, dictionary=back)
    assert intake_document(again) == intake_document(table)
    assert write_data_package(again.columns, again.source, again.source.dialect, back) == data


def test_a_table_schema_of_others_is_taken_whole() -> None:
    field = {"name": "x", "title": "weight", "unit": "g", "type": "number", "constraints": {"minimum": 0}}
    package = {"resources": [{"schema": {"missingValues": ["", "NA"], "fields": [field]}}]}
    entry = read_data_package(json.dumps(package).encode()).of("x")
    assert entry == ColumnEntry(label="weight", unit="g", valid_range=(0.0, None), missing_codes=("NA",))
    for bad in (b"{", b"[]", b"{}", b'{"resources": []}', b'{"resources": [{"schema": {"fields": [{"type": "x"}]}}]}'):
        with pytest.raises(ReadError):
            read_data_package(bad)
    wrong = json.loads(json.dumps(package))
    wrong["resources"][0]["schema"]["fields"][0]["constraints"] = {"minimum": 5, "maximum": 1}
    with pytest.raises(ReadError):
        read_data_package(json.dumps(wrong).encode())


# What is found


def test_the_troubles_of_the_demo_are_found_and_nothing_else(demo_table: Table, cohort: Cohort) -> None:
    document = intake_document(demo_table)
    columns = {column["name"]: column for column in document["columns"]}
    found: set[tuple[str, tuple[str, ...]]] = set()
    names = {"limit": "limit_cells", "decimal_comma": "decimal_comma", "missing_token": "missing_tokens"}
    for name, column in columns.items():
        for kind, cells in column["cells"].items():
            found.add((names[kind], (name,)))
            assert tuple(cells["rows"]) == cohort.planted(names[kind]).rows
        for code in column["suspected_codes"]:
            found.add(("missing_code", (name,)))
            assert tuple(code["rows"]) == cohort.planted("missing_code").rows and code["value"] == -9
        found |= {(finding["kind"], (name,)) for finding in column["findings"]}
        if column["role"] in ("identifier", "ordered"):
            found.add((column["role"], (name,)))
    for finding in document["findings"]:
        found.add((finding["kind"].replace("_columns", ""), tuple(finding["columns"])))
    belongs = ("limit_cells", "decimal_comma", "missing_code", "missing_tokens", "duplicate_rows", "collinear")
    belongs = (*belongs, "identifier", "ordered")
    assert found == {(trouble.kind, trouble.columns) for trouble in cohort.key if trouble.kind in belongs}
    assert document["source"]["duplicate_rows"] == len(cohort.planted("duplicate_rows").rows)


def test_codes_are_suspected_by_isolation_nines_and_sign(tmp_path: Path) -> None:
    draw = np.random.default_rng(0)
    core = np.round(draw.normal(50, 5, 200))
    for codes, expected in (([-999.0] * 4, -999), ([999.0] * 2, 999), ([-1.0] * 2, -1), ([300.0] * 3, 300)):
        path = write(tmp_path, "x,y\n" + "".join(f"{v:g},a\n" for v in (*core, *codes)))
        (code,) = suspected_codes(read_table(path)["x"].sample)
        assert code.value == expected and code.rows.tolist() == list(range(200, 200 + len(codes))) and code.reason
    for none in ([71.0], [99.0], [-1.0, -2.0], [66.0] * 3):
        path = write(tmp_path, "x,y\n" + "".join(f"{v:g},a\n" for v in (*core, *none)))
        assert suspected_codes(read_table(path)["x"].sample) == []


def test_columns_are_compared(tmp_path: Path) -> None:
    draw = np.random.default_rng(1)
    x = draw.normal(20, 4, 300)
    columns = {
        "inch": x,
        "cm": 2.54 * x,
        "fahrenheit": 1.8 * x + 32,
        "near": x + draw.normal(0, 0.1, 300),
        "apart": draw.normal(size=300),
        "speed_max": draw.random(300),
        "speed_min": 1 + draw.random(300),
        "twice": draw.integers(0, 9, 300),
        "flat": np.full(300, 7.0),
    }
    columns["again"] = columns["twice"]
    names = list(columns)
    lines = [",".join(names), *(",".join(repr(float(columns[n][row])) for n in names) for row in range(300))]
    table = read_table(write(tmp_path, "\n".join(lines)))
    found = {(f.kind, f.columns) for f in check_table(table)}
    # What hangs together is one finding, whatever the pairs.
    assert ("collinear_columns", ("inch", "cm", "fahrenheit", "near")) in found
    assert ("duplicate_columns", ("twice", "again")) in found
    assert ("swapped_labels", ("speed_min", "speed_max")) in found
    assert not any("apart" in columns for _, columns in found)
    kinds = {c["name"]: [f["kind"] for f in c["findings"]] for c in intake_document(table)["columns"]}
    assert kinds["flat"] == ["constant"] and not kinds["apart"]


def test_identifiers_and_large_numbers_are_told(tmp_path: Path) -> None:
    rows = [f"{k:05d},{'A' + str(k)},{2**60 + k},\n" for k in range(60)]
    rows[7] = rows[7].replace("A7", "A8")
    table = read_table(write(tmp_path, "code,tag,big,none\n" + "".join(rows)))
    found = {c["name"]: {f["kind"]: f["rows"] for f in c["findings"]} for c in intake_document(table)["columns"]}
    assert found["tag"] == {"near_unique": [8, 9]} and set(found["code"]) == {"leading_zeros"}
    assert set(found["none"]) == {"empty"} and "large_integers" in found["big"]


def test_inspect_writes_the_intake_document(
    demo_path: Path, tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    out = tmp_path / "i.json"
    assert main(["inspect", str(demo_path), "-o", str(out)]) == 0
    document = json.loads(out.read_text())
    assert document["format"] == "culvix-intake/2" and document["source"]["columns"] == 18
    assert set(document["dialect"]) == {
        "delimiter", "quote", "decimal", "thousands", "encoding", "header_rows", "preamble_rows", "comment", "reasons"
    }  # fmt: skip
    assert main(["inspect", str(tmp_path / "no.csv"), "-o", str(out)]) == 2
    assert capsys.readouterr().err.count("\n") == 1


def test_a_line_that_never_ends_is_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("culvix.tables.reading.sources.LONGEST_LINE", 1000)
    with pytest.raises(ReadError, match=r"Line 4 of in.csv is longer than"):
        read_table(write(tmp_path, "a,b\n1,2\n3,4\n" + "7" * 3000))
    assert read_table(write(tmp_path, "a,b\n" + "1,2\n" * 3000)).rows == 3000


def _poisoned(sheet: bytes, heading: str, reference: str) -> bytes:
    """The same spreadsheet, whose sheet declares entities and uses one in its first cell."""
    data = io.BytesIO()
    with zipfile.ZipFile(io.BytesIO(sheet)) as old, zipfile.ZipFile(data, "w") as new:
        for name in old.namelist():
            text = old.read(name).decode()
            if name.endswith("sheet1.xml"):
                text = heading + text.replace("<t>tag</t>", f"<t>{reference}</t>", 1)
            new.writestr(name, text)
    return data.getvalue()


def test_entities_in_a_spreadsheet_bring_nothing_in(frame: pl.DataFrame, tmp_path: Path) -> None:
    secret = tmp_path / "secret.txt"
    secret.write_text("not for the table")
    layers = "".join(f'<!ENTITY e{k} "{f"&e{k - 1};" * 10}">' for k in range(1, 12))
    for heading, reference in (
        (f'<!DOCTYPE w [<!ENTITY out SYSTEM "file://{secret}">]>', "&out;"),
        (f'<!DOCTYPE w [<!ENTITY e0 "boom">{layers}]>', "&e11;"),
    ):
        path = write(tmp_path, _poisoned(_sheet(frame), heading, reference), "t.xlsx")
        try:
            table = read_table(path)
        except ReadError as error:
            assert error.sentence.startswith("t.xlsx is damaged")
        else:
            words = " ".join(column.name for column in table)
            assert "not for the table" not in words and words.count("boom") < 2


def test_as_many_columns_as_said_are_read_and_more_refused(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    # Twenty thousand of them take longer than a suite has for one test.
    monkeypatch.setattr(delimited, "MOST_COLUMNS", 2_000)

    def wide(columns: int) -> Path:
        head = ",".join(f"c{position}" for position in range(columns))
        return write(tmp_path, head + "\n" + "\n".join(",".join(["1.5"] * columns) for _ in range(3)) + "\n")

    table = read_table(wide(2_000))
    assert len(table.columns) == 2_000 and table["c1999"].sample.values.tolist() == [1.5] * 3
    with pytest.raises(ReadError, match="at most 2\N{NARROW NO-BREAK SPACE}000 are read"):
        read_table(wide(2_001))


def test_reading_twice_gives_the_same(demo_path: Path) -> None:
    first, again = (intake_document(read_table(demo_path)) for _ in range(2))
    assert first == again
