"""A report compared with its source: what is the same is said to be, and every change is found."""

import random
import shutil
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication

from culvix.errors import ReadError
from culvix.report.carried import sealed
from culvix.report.formats.report_files import report_file
from culvix.report.verify import Verification, verify
from culvix.study import DecisionKind, Study
from culvix.study.document.choices.report_layout import ReportLayout, SectionChoice
from culvix.tables import read_table
from tests.report.rendering import draw

KINDS = (".html", ".pdf", ".docx")


@pytest.fixture(scope="module")
def table(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("source") / "lengths.csv"
    draws = random.Random(5)
    rows = [f"F{k},{draws.gauss(200, 25):.1f},{draws.gauss(120, 40):.1f},{'ab'[k % 2]}" for k in range(80)]
    path.write_text("\n".join(["tag,length,mass,tank", *rows]) + "\n")
    return path


@pytest.fixture(scope="module")
def study(table: Path, qapp: QApplication) -> Study:
    made = Study.of_table(read_table(table))
    made.decide(DecisionKind.CORRECT, "length", [3], factor=10, reason="in cm")
    made.change_report(ReportLayout(sections=(SectionChoice("decisions", "full"),)))
    return made


def written(study: Study, folder: Path, kind: str) -> Path:
    path = folder / f"report{kind}"
    path.write_bytes(report_file(study.workspace, kind, draw, written="2026-05-01"))
    return path


def compared(path: Path, source: Path | None = None) -> Verification:
    return verify(path, source, draw)


@pytest.mark.parametrize("kind", KINDS)
def test_an_untouched_report_is_the_same_throughout(kind: str, study: Study, tmp_path: Path) -> None:
    found = compared(written(study, tmp_path, kind))
    assert found.differences == () and found.figures > 60
    assert found.sentence == f"{found.figures} figures, {found.figures} the same."


@pytest.mark.parametrize("kind", KINDS)
def test_a_changed_cell_of_the_source_is_found(kind: str, study: Study, table: Path, tmp_path: Path) -> None:
    lines = table.read_text().splitlines()
    tag, length, mass, tank = lines[40].split(",")
    lines[40] = f"{tag},{float(length) + 0.1:.1f},{mass},{tank}"
    other = tmp_path / "other.csv"
    other.write_text("\n".join(lines) + "\n")
    found = compared(written(study, tmp_path, kind), other)
    assert found.differing and "its checksum differs" in found.differences[0]
    assert any("column/length/mean is" in each for each in found.differences)


def test_single_changed_bytes_are_all_found(study: Study, tmp_path: Path) -> None:
    draws = random.Random(11)
    for kind in KINDS:
        path = written(study, tmp_path, kind)
        whole = path.read_bytes()
        for _ in range(2):
            place = draws.randrange(len(whole))
            path.write_bytes(whole[:place] + bytes([whole[place] ^ (1 << draws.randrange(8))]) + whole[place + 1 :])
            try:
                assert compared(path).differences, f"{kind}, byte {place}"
            except ReadError as refused:
                assert refused.sentence


def test_a_figure_forged_with_its_seal_is_found_by_computing(study: Study, tmp_path: Path) -> None:
    path = written(study, tmp_path, ".html")
    text = path.read_text()
    shown = f">{study.workspace.analysis('mass').style.statistic(study.workspace.analysis('mass').figures['mean'])}<"
    assert shown in text
    forged = text.replace(shown, ">999.9<")
    head, _, _ = forged.rpartition("culvix-seal:")
    path.write_bytes(sealed((head + "culvix-seal:" + "0" * 64 + " -->\n").encode()))
    found = compared(path)
    assert found.differing == 0 and any("says “999.9”" in each for each in found.differences)
    assert not any("seal" in each for each in found.differences)


def test_a_table_that_moved_is_asked_for_and_taken(study: Study, table: Path, tmp_path: Path) -> None:
    away, path = tmp_path / "away.csv", written(study, tmp_path, ".html")
    shutil.move(table, away)
    try:
        with pytest.raises(ReadError, match=r"lengths\.csv"):
            compared(path)
        found = compared(path, away)
        assert found.differing == 0
    finally:
        shutil.move(away, table)


def test_what_is_no_report_is_refused_in_a_sentence(tmp_path: Path) -> None:
    for name, data in {
        "a.txt": b"hello",
        "b.html": b"<!DOCTYPE html><p>x",
        "c.pdf": b"%PDF-1.4\n",
        "d.docx": b"PK\x03\x04",
    }.items():
        path = tmp_path / name
        path.write_bytes(data)
        with pytest.raises(ReadError) as refused:
            compared(path)
        assert refused.value.sentence.endswith(".")
    with pytest.raises(ReadError, match="cannot be read"):
        compared(tmp_path / "none.html")
