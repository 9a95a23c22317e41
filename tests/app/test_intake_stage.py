"""The Intake stage: the file read another way, columns described, cells settled, dictionaries saved and loaded."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from culvix.app.start import wait_until
from culvix.app.window import MainWindow
from culvix.app.workbench import STAGES, Workbench
from culvix.study import DecisionKind
from culvix.tables import Role

TEXT = (
    "Report\nof the hatchery\n"
    + "name;mass_g;score\n"
    + "".join(
        f"fish {k};{k % 7},{k % 10};{cell}\n" for k, cell in enumerate(["1", "3*", "<0.5", "n/a", "", "7 g"] * 10)
    )
)


@pytest.fixture
def window(qtbot: QtBot, tmp_path: Path) -> Iterator[MainWindow]:
    made = MainWindow(QSettings(str(tmp_path / "layout.ini"), QSettings.Format.IniFormat))
    made.resize(1280, 800)
    made.show()
    path = tmp_path / "mixed.csv"
    path.write_text(TEXT)
    made.open_path(path)
    assert wait_until(lambda: made.bench is not None and made.jobs.at_rest, 30), made.words
    made.show_stage(STAGES.index("Intake"))
    yield made
    made.close()


def bench_of(window: MainWindow) -> Workbench:
    assert window.bench is not None
    return window.bench


def press(window: MainWindow, words: str) -> None:
    (button,) = [b for b in bench_of(window).intake.findChildren(QPushButton) if b.text() == words]
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def test_the_first_rows_stand_as_in_the_file_with_the_reasons_of_the_reading(window: MainWindow) -> None:
    intake = bench_of(window).intake
    assert intake.rows.heads == ["name", "mass_g", "score"] and intake.rows.index(1, 2).data() == "3*"
    assert (intake.delimiter.currentText(), intake.decimal.currentText()) == (
        "between fields: semicolon",
        "decimal comma",
    )
    assert (
        intake.preamble.value() == 2
        and intake.headers.value() == 1
        and "write their numbers with a comma" in intake.why.text()
    )
    press(window, "Read again so")
    assert "change something first" in window.words


def test_a_file_is_read_another_way(window: MainWindow) -> None:
    intake = bench_of(window).intake
    intake.decimal.setCurrentText("decimal point")
    intake.headers.setValue(0)
    intake.preamble.setValue(3)
    press(window, "Read again so")
    assert wait_until(lambda: bench_of(window).intake is not intake and window.jobs.at_rest, 20), window.words
    table = bench_of(window).hub.study.table
    assert [column.name for column in table] == ["column 1", "column 2", "column 3"] and table.rows == 60
    assert table["column 2"].kinds["decimal_comma"].count == 60 and bench_of(window).stage == "Intake"
    bench_of(window).intake.delimiter.setCurrentText("between fields: tab")
    press(window, "Read again so")
    assert wait_until(lambda: len(bench_of(window).hub.study.table.columns) == 1 and window.jobs.at_rest, 20)


def test_decisions_are_not_lost_by_reading_again(window: MainWindow) -> None:
    study = bench_of(window).hub.study
    study.decide(DecisionKind.KEEP, "mass_g", [0])
    bench_of(window).intake.headers.setValue(0)
    press(window, "Read again so")
    assert "undo before it is read another way" in window.words and bench_of(window).hub.study is study


def test_a_column_is_described_and_its_cells_settled(window: MainWindow, tmp_path: Path) -> None:
    bench = bench_of(window)
    study, margin = bench.hub.study, bench.intake_margin
    bench.intake.view.setCurrentIndex(bench.intake.rows.index(0, 2))
    assert bench.hub.focus == "score" and study.table["score"].unread == 40

    def typed(name: str, text: str) -> None:
        field = margin.fields[name]
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)

    typed("unit", "points")
    typed("missing codes", "n/a 7")
    typed("smallest", "1")
    typed("largest", "0")
    assert "begins below its end" in window.words
    typed("largest", "many")
    assert "must be a number" in window.words
    typed("largest", "9")
    column = study.table["score"]
    assert (column.unit, column.valid_range, column.missing) == ("points", (1.0, 9.0), 20)
    box = margin.rules["limit"]
    box.setCurrentIndex(box.findText("take half the limit"))
    box.activated.emit(box.currentIndex())
    assert (study.table["score"].values == 0.25).sum() == 10
    margin.role.setCurrentText(str(Role.TEXT))
    margin.role.activated.emit(margin.role.currentIndex())
    assert not study.table["score"].is_numeric and wait_until(lambda: window.jobs.at_rest, 20)
    margin.role.setCurrentText("as judged")
    margin.role.activated.emit(0)
    said = study.dictionary
    window.save_dictionary(tmp_path / "datapackage.json")
    window.save_dictionary(tmp_path / "no" / "such" / "place.json")
    assert wait_until(lambda: window.jobs.at_rest, 20)
    window.open_path(study.table.source.path)
    assert wait_until(lambda: bench_of(window) is not bench and window.jobs.at_rest, 20)
    fresh = bench_of(window)
    assert fresh.hub.study.table["score"].missing == 10
    window.load_dictionary(tmp_path / "datapackage.json")
    assert wait_until(lambda: bench_of(window) is not fresh and window.jobs.at_rest, 20)
    again = bench_of(window).hub.study
    assert again.dictionary.of("score") == said.of("score") and again.table["score"].missing == 20
    window.load_dictionary(tmp_path / "none.json")
    assert "cannot be read" in window.words
