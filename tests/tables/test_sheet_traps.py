"""Spreadsheets made to take all memory or time, or to end the process: each is refused with a sentence."""

import io
import zipfile
from pathlib import Path

import pytest
import xlsxwriter

from culvix.errors import ReadError
from culvix.tables import read_table


def _workbook(path: Path, *changes: tuple[str, str]) -> Path:
    buffer = io.BytesIO()
    with xlsxwriter.Workbook(buffer) as book:
        sheet = book.add_worksheet("fish")
        for row, cells in enumerate((("mass", "net"), (1.5, 2), (2.5, 3), (3.5, 4))):
            sheet.write_row(row, 0, cells)
    with zipfile.ZipFile(buffer) as old, zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as new:
        for name in old.namelist():
            text = old.read(name).decode()
            for before, after in changes if name.endswith("sheet1.xml") else ():
                assert before in text
                text = text.replace(before, after)
            new.writestr(name, text)
    return path


def _document(path: Path, rows: str) -> Path:
    names = "urn:oasis:names:tc:opendocument:xmlns"
    text = (
        f'<office:document-content xmlns:office="{names}:office:1.0" xmlns:table="{names}:table:1.0" '
        f'xmlns:text="{names}:text:1.0"><office:body><office:spreadsheet><table:table table:name="fish">{rows}'
        "</table:table></office:spreadsheet></office:body></office:document-content>"
    )
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("mimetype", "application/vnd.oasis.opendocument.spreadsheet", zipfile.ZIP_STORED)
        archive.writestr("META-INF/manifest.xml", "<manifest/>")
        archive.writestr("content.xml", text)
    return path


def _cell(text: str, more: str = "") -> str:
    return f'<table:table-cell office:value-type="string"{more}><text:p>{text}</text:p></table:table-cell>'


@pytest.mark.parametrize(
    "change",
    [
        ('r="4"', 'r="2147483648"'),
        ('r="4"', 'r="4294967297"'),
        ('r="A4"', 'r="A2147483648"'),
        ('r="B4"', 'r="ZZZZZZ4"'),
        ('ref="A1:B4"', 'ref="A1:XFD2147483648"'),
        ('ref="A1:B4"', 'ref="A1:ZZZZZZZ4"'),
    ],
)
def test_a_cell_where_no_sheet_has_one(tmp_path: Path, change: tuple[str, str]) -> None:
    with pytest.raises(ReadError, match="no sheet reaches so far"):
        read_table(_workbook(tmp_path / "x.xlsx", change))


def test_the_same_workbook_is_read_as_it_is(tmp_path: Path) -> None:
    assert read_table(_workbook(tmp_path / "x.xlsx")).rows == 3


def _blanks(many: int) -> str:
    return f'a<text:s text:c="{many}"/>'


def _row(cells: str, times: int = 1) -> str:
    return f'<table:table-row table:number-rows-repeated="{times}">{cells}</table:table-row>'


@pytest.mark.parametrize(
    "rows",
    [
        _row(_cell(_blanks(10**9))),
        _row(_cell("a"), 10**9),
        _row(_cell("a"), 99_999_999_999),
        _row(_cell("a", f' table:number-columns-repeated="{10**9}"')),
        _row("<table:table-cell/>", 10**9) + _row(_cell("a")),
        _row(_cell(_blanks(100_000)), 10**6),
    ],
)
def test_repeats_that_no_table_has(tmp_path: Path, rows: str) -> None:
    with pytest.raises(ReadError):
        read_table(_document(tmp_path / "x.ods", rows))


def test_a_document_that_ends_with_a_million_empty_rows_is_read(tmp_path: Path) -> None:
    rows = "".join(f"<table:table-row>{_cell(text)}{_cell('b')}</table:table-row>" for text in ("mass", "1", "2"))
    empty = '<table:table-cell table:number-columns-repeated="16382"/>'
    rows += f'<table:table-row table:number-rows-repeated="1048573">{empty}</table:table-row>'
    assert read_table(_document(tmp_path / "x.ods", rows)).rows == 2


def test_a_library_that_gives_up_ends_no_process_but_its_own(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("culvix.tables.reading.sheet_process.COMMAND", ("-c", "import os; os.abort()"))
    with pytest.raises(ReadError, match="cannot be read"):
        read_table(_workbook(tmp_path / "x.xlsx"))
