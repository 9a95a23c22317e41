"""The report is saved from the window in every format, each with the same figures."""

import json
from pathlib import Path

import polars as pl

from culvix.app.shell.window import MainWindow
from culvix.report.carried import read_carried
from culvix.report.formats.report_files import REPORT_FORMATS
from culvix.report.report_reading import carried_in
from tests.app.driving import opened, rest


def test_every_format_is_saved_with_the_same_figures(window: MainWindow, demo_path: Path, tmp_path: Path) -> None:
    opened(window, demo_path)
    paths = {suffix: tmp_path / f"report{suffix}" for suffix in REPORT_FORMATS}
    for path in paths.values():
        window.saving.save_report(path)
        rest(window)
        assert path.exists() and "saved" in window.text, window.text
    checked = [paths[suffix] for suffix in (".html", ".pdf", ".docx")]
    figures = [read_carried(carried_in(path, path.read_bytes())[1]).figures for path in checked]
    assert figures[0] == figures[1] == figures[2] and len(figures[0]) > 200
    sheet = pl.read_excel(paths[".xlsx"], sheet_name="Figures")
    assert sheet["key"].to_list() == [key for key, _, _ in figures[0]]
    columns = json.loads(paths[".json"].read_text())["columns"]
    assert "length_mm" in [column["name"] for column in columns]
    assert "| " in paths[".md"].read_text() and list((tmp_path / "report-pictures").glob("*.svg"))
