"""Parts of a report by themselves: what a spreadsheet, a word processor and a mail make of them."""

import csv
import io
from pathlib import Path

import numpy as np
import polars as pl
import pytest

from culvix.errors import WriteError
from culvix.report.compose import compose
from culvix.report.formats.fragments import fragment_html, fragment_text
from culvix.report.formats.part_files import part_file, part_kinds
from culvix.report.formats.report_files import write_report
from culvix.report.formats.workbook import table_file, tables_in
from culvix.report.parts import Figure, Head, Listing, Numbers, Paragraph, Sheet, TableBlock
from culvix.study import Study
from tests.report.rendering import draw, png

TABLE = TableBlock(
    "Loss <by> tank",
    (Head("Tank"), Head("Mean", True), Head("Note")),
    (
        (("=1+1",), (Figure("m", -1234.56789, "−1\u202f234.57"),), ("a\tb",)),
        (("<b>T2</b>",), (Figure("m2", 0.1, "0.10"),), ("n = ", Figure("n", 7, "7"))),
    ),
)


def test_numbers_in_rich_text_are_read_by_a_spreadsheet_and_in_plain_text_exact() -> None:
    html = fragment_html(TABLE, png)
    assert ">-1234.57<" in html and ">0.10<" in html and "&lt;b&gt;T2" in html and "Loss &lt;by&gt; tank" in html
    lines = [line.split("\t") for line in fragment_text(TABLE).split("\n")]
    assert lines[0] == ["Tank", "Mean", "Note"] and lines[1] == ["=1+1", "-1234.56789", "a b"]
    assert lines[2][1:] == ["0.1", "n = 7"]


def test_a_sheet_is_copied_with_all_its_parts() -> None:
    numbers = Numbers((("mean", (Figure("m", 2.5, "2.50"),)),))
    sheet = Sheet("a", "a\x00b", "measure", (numbers, Paragraph(("Words & more",)), Listing((("one",), ("two",)))))
    assert fragment_text(sheet) == "a␀b\nmean\t2.5\nWords & more\n• one\n• two"
    html = fragment_html(sheet, png)
    assert "<h3>a␀b</h3>" in html or "<h3>a" in html
    assert "Words &amp; more" in html and html.count("<li>") == 2 and ">2.50<" in html


def test_a_table_is_a_file_whose_figures_are_exact_and_whose_text_is_no_formula() -> None:
    rows = list(csv.reader(io.StringIO(table_file(TABLE, ".csv").decode())))
    assert rows[1][0] == "'=1+1" and float(rows[1][1]) == -1234.56789
    frame = pl.read_excel(io.BytesIO(table_file(TABLE, ".xlsx")))
    assert frame["Mean"].to_list() == [-1234.56789, 0.1] and frame["Tank"].to_list() == ["=1+1", "<b>T2</b>"]
    with pytest.raises(WriteError, match=r"not \.txt"):
        table_file(TABLE, ".txt")


def test_a_spreadsheet_of_a_report_has_every_table_and_every_figure(study: Study, tmp_path: Path) -> None:
    path = tmp_path / "r.xlsx"
    write_report(study.workspace, path, draw)
    report = compose(study.workspace)
    sheets = pl.read_excel(path, sheet_id=0)
    tables = [table for section in report.sections for table in tables_in(section.parts)]
    assert len(sheets) == len(tables) + 1 and len({name.lower() for name in sheets}) == len(sheets)
    figures = sheets["Figures"]
    assert figures["key"].to_list() == [figure.key for figure in report.figures]
    known = {figure.key: figure.value for figure in report.figures}
    means = figures.filter(pl.col("key") == "column/length_mm/mean")["value"].to_list()
    assert np.allclose([float(mean) for mean in means], known["column/length_mm/mean"], rtol=1e-12) and means
    first = path.read_bytes()
    write_report(study.workspace, path, draw)
    assert path.read_bytes() == first


def test_pictures_are_saved_as_vectors_or_as_pixels(study: Study) -> None:
    blocks = []
    compose(study.workspace, pictured=blocks.append)
    block = next(each for each in blocks if each.name == "lanes/length_mm")
    assert part_file(block, ".svg", draw).startswith(b"<svg") and part_file(block, ".PNG", draw)[1:4] == b"PNG"
    assert set(part_kinds(block)) == {".svg", ".png"} and set(part_kinds(TABLE)) == {".csv", ".xlsx"}
    with pytest.raises(WriteError, match=r"\.svg or \.png"):
        part_file(block, ".jpeg", draw)
