"""The Intake stage: the file read another way, columns described, cells settled, dictionaries saved and loaded."""

import time
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QItemSelectionModel, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from culvix.app.intake.first_rows import FirstRows
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.progress import Progress
from culvix.stats.shape.transform import Scale
from culvix.study import DecisionKind
from culvix.tables import Role
from culvix.tables.checks.table_checks import check_table
from culvix.tables.model.dictionary import load_data_package
from tests.report.rendering import html_of

TEXT = (
    "Report\nof the hatchery\n"
    + "name;mass_g;score\n"
    + "".join(
        f"fish {k};{k % 7},{k % 10};{cell}\n" for k, cell in enumerate(["1", "3*", "<0.5", "n/a", "", "7 g"] * 10)
    )
)


@pytest.fixture
def window(blank_window: MainWindow, tmp_path: Path) -> MainWindow:
    made = blank_window
    path = tmp_path / "mixed.csv"
    path.write_text(TEXT)
    made.opening.open_path(path)
    assert wait_until(lambda: made.bench is not None and made.jobs.at_rest, 30), made.text
    made.acting.show_stage(STAGES.index("Intake"))
    return made


def bench_of(window: MainWindow) -> Workbench:
    assert window.bench is not None
    return window.bench


def press(window: MainWindow, message: str) -> None:
    (button,) = [b for b in bench_of(window).intake.stage.findChildren(QPushButton) if b.text() == message]
    QTest.mouseClick(button, Qt.MouseButton.LeftButton)


def settle(window: MainWindow) -> None:
    assert wait_until(lambda: window.jobs.at_rest, 20), window.text


def test_the_first_rows_stand_as_in_the_file_with_the_reasons_of_the_reading(window: MainWindow) -> None:
    intake = bench_of(window).intake.stage
    assert intake.rows.heads == ["name", "mass_g", "score"] and intake.rows.index(1, 2).data() == "3*"
    bar = intake.bar
    assert (bar.delimiter.currentText(), bar.decimal.currentText()) == ("semicolon", "comma")
    assert (bar.preamble.value(), bar.headers.value()) == (2, 1)
    assert "1 column with a decimal point, 1 with a comma" in intake.why.text()
    press(window, "Read again so")
    assert "change something first" in window.text


def test_the_first_rows_follow_the_words_and_the_file_is_read_so(window: MainWindow) -> None:
    bench = bench_of(window)
    intake = bench.intake.stage
    intake.bar.decimal.setCurrentText("point")
    intake.bar.headers.setValue(0)
    intake.bar.preamble.setValue(3)
    assert wait_until(lambda: intake.rows.heads[0] == "column 1" and window.jobs.at_rest, 20)
    assert intake.rows.index(0, 0).data() == "fish 0" and "As it would be read" in intake.why.text()
    assert bench.hub.study.table.columns[0].name == "name"
    press(window, "Read again so")
    assert wait_until(lambda: bench_of(window).intake.stage is not intake and window.jobs.at_rest, 20), window.text
    table = bench_of(window).hub.study.table
    assert [column.name for column in table] == ["column 1", "column 2", "column 3"] and table.rows == 60
    assert table["column 2"].kinds["decimal_comma"].count == 60 and bench_of(window).stage == "Intake"
    bench_of(window).intake.stage.bar.delimiter.setCurrentText("tab")
    press(window, "Read again so")
    assert wait_until(lambda: len(bench_of(window).hub.study.table.columns) == 1 and window.jobs.at_rest, 20)


def test_a_part_is_read_and_its_rows_keep_their_numbers(window: MainWindow) -> None:
    bar = bench_of(window).intake.stage.bar
    bar.first.setText("11")
    bar.last.setText("many")
    press(window, "Read again so")
    assert "last row must be a whole number" in window.text
    bar.last.setText("50")
    bar.how.setCurrentIndex(1)
    bar.sample_size.setText("12")
    item = bar.columns.list.item(0)
    assert item is not None and bar.columns.text() == "all 3 columns"
    item.setCheckState(Qt.CheckState.Unchecked)
    before = bench_of(window)
    press(window, "Read again so")
    assert wait_until(lambda: bench_of(window) is not before and window.jobs.at_rest, 20), window.text
    table = bench_of(window).hub.study.table
    assert [column.name for column in table] == ["mass_g", "score"] and table.rows == 12
    numbers = table.numbers_of(np.arange(12))
    assert numbers.min() >= 11 and numbers.max() <= 50 and "random sample of 12 rows" in window.text
    assert bench_of(window).intake.stage.rows.headerData(0, Qt.Orientation.Vertical) == str(numbers[0])
    bar = bench_of(window).intake.stage.bar
    assert bar.columns.text() == "2 of 3 columns" and bar.sample_size.text() == "12" and bar.unchanged


def test_decisions_are_not_lost_by_reading_again(window: MainWindow) -> None:
    study = bench_of(window).hub.study
    study.decide(DecisionKind.KEEP, "mass_g", [0])
    bench_of(window).intake.stage.bar.headers.setValue(0)
    press(window, "Read again so")
    assert "undo before it is read another way" in window.text and bench_of(window).hub.study is study


def test_decisions_made_while_the_file_is_read_again_are_not_lost(window: MainWindow) -> None:
    study = bench_of(window).hub.study
    bench_of(window).intake.stage.bar.headers.setValue(0)
    press(window, "Read again so")
    study.decide(DecisionKind.KEEP, "mass_g", [0])
    assert wait_until(lambda: "made meanwhile" in window.text and window.jobs.at_rest, 20), window.text
    assert bench_of(window).hub.study is study and len(study.decisions) == 1 and bench_of(window).isVisible()


def test_reading_again_keeps_what_was_made_and_says_what_is_gone(window: MainWindow) -> None:
    before = bench_of(window)
    study = before.hub.study
    study.derive("mass_g", Scale("sqrt"))
    study.set_reviewed("score", True)
    study.sign("ab")
    before.intake.stage.bar.last.setText("50")
    press(window, "Read again so")
    assert wait_until(lambda: bench_of(window) is not before and window.jobs.at_rest, 20), window.text
    new = bench_of(window).hub.study
    assert "sqrt_mass_g" in new.table and (new.document.reviewed, new.document.initials) == (("score",), "ab")
    assert "1 step made before cannot be undone any more" in window.text


def test_a_range_declared_elsewhere_stands_in_its_fields_and_is_changed_there(window: MainWindow) -> None:
    bench = bench_of(window)
    study, fields = bench.hub.study, bench.intake.margin.fields.fields
    bench.hub.set_focus("mass_g")
    study.set_valid_range("mass_g", (5.0, 90.0))
    assert (fields["smallest"].text(), fields["largest"].text()) == ("5", "90")
    fields["smallest"].setText("7")
    fields["smallest"].editingFinished.emit()
    assert wait_until(lambda: study.workspace.bounds("mass_g") == (7.0, 90.0) and window.jobs.at_rest, 20)
    study.undo()
    assert study.workspace.bounds("mass_g") == (5.0, 90.0) and fields["smallest"].text() == "5"


def test_a_column_is_described_and_its_cells_settled(window: MainWindow, tmp_path: Path) -> None:
    bench = bench_of(window)
    study, margin = bench.hub.study, bench.intake.margin
    bench.intake.stage.view.setCurrentIndex(bench.intake.stage.rows.index(0, 2))
    assert bench.hub.focus == "score" and study.table["score"].unread == 30

    def typed(name: str, text: str) -> None:
        field = margin.fields.fields[name]
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
        settle(window)

    typed("unit", "points")
    typed("missing codes", "n/a 7")
    typed("smallest", "1")
    typed("largest", "0")
    assert "begins below its end" in window.text
    typed("largest", "many")
    assert "must be a number" in window.text
    typed("largest", "9")
    column = study.table["score"]
    assert (column.unit, study.workspace.bounds(column.name), column.missing) == ("points", (1.0, 9.0), 20)
    box = margin.rules["limit"]
    box.setCurrentIndex(box.findText("take half the limit"))
    box.activated.emit(box.currentIndex())
    settle(window)
    assert (study.table["score"].values == 0.25).sum() == 10
    window.acting.undo()
    assert (study.table["score"].values == 0.25).sum() == 0 and study.table["score"].unread == 30
    window.acting.redo()
    margin.fields.role.setCurrentText(str(Role.TEXT))
    margin.fields.role.activated.emit(margin.fields.role.currentIndex())
    settle(window)
    assert not study.table["score"].is_numeric
    margin.fields.role.setCurrentText("as judged")
    margin.fields.role.activated.emit(0)
    settle(window)
    said = study.dictionary
    window.saving.save_dictionary(tmp_path / "datapackage.json")
    window.saving.save_dictionary(tmp_path / "no" / "such" / "place.json")
    settle(window)
    window.opening.open_path(study.table.source.path)
    assert wait_until(lambda: bench_of(window) is not bench and window.jobs.at_rest, 20)
    fresh = bench_of(window)
    assert fresh.hub.study.table["score"].missing == 20
    window.saving.load_dictionary(tmp_path / "datapackage.json")
    assert wait_until(lambda: bench_of(window) is not fresh and window.jobs.at_rest, 20)
    again = bench_of(window).hub.study
    assert again.dictionary.of("score") == said.of("score") and again.table["score"].missing == 20
    window.saving.load_dictionary(tmp_path / "none.json")
    assert "cannot be read" in window.text


def test_several_columns_are_described_at_once(window: MainWindow) -> None:
    bench = bench_of(window)
    study, margin = bench.hub.study, bench.intake.margin
    bench.hub.edit_columns(["mass_g"], lambda entry: replace(entry, unit="g", valid_range=(0.0, 9.0)))
    settle(window)
    bench.intake.stage.view.selectColumn(1)
    model = bench.intake.stage.view.selectionModel()
    flags = QItemSelectionModel.SelectionFlag.Select | QItemSelectionModel.SelectionFlag.Columns
    model.select(bench.intake.stage.rows.index(0, 2), flags)
    assert margin.names == ("mass_g", "score") and margin.title.text() == "2 columns"
    codes, unit = margin.fields.fields["missing codes"], margin.fields.fields["unit"]
    assert unit.text() == "" and unit.placeholderText() == "various"
    codes.setFocus()
    QTest.keyClicks(codes, "n/a")
    QTest.keyClick(codes, Qt.Key.Key_Return)
    settle(window)
    assert [study.dictionary.of(name).missing_codes for name in ("mass_g", "score")] == [("n/a",), ("n/a",)]
    assert study.dictionary.of("mass_g").unit == "g" and study.dictionary.of("mass_g").valid_range == (0.0, 9.0)
    assert margin.names == ("mass_g", "score")
    (yes_no,) = [a for a in bench.rail.role_menu("score").actions() if a.text() == "identifier"]
    yes_no.trigger()
    settle(window)
    assert study.table["score"].role is Role.IDENTIFIER


def test_texts_are_put_in_order_and_given_numbers(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "depth.csv"
    path.write_text("depth,y\n" + "".join(f"{cell},{k}\n" for k, cell in enumerate(["5 to 10", "under 5", "10+"] * 9)))
    window.opening.open_path(path)
    assert wait_until(lambda: "depth" in bench_of(window).hub.study.table and window.jobs.at_rest, 20)
    bench = bench_of(window)
    window.acting.show_stage(STAGES.index("Intake"))
    bench.hub.set_focus("depth")
    order, study = bench.intake.margin.order, bench.hub.study
    assert wait_until(order.isVisible, 2, pause=1, still=1) and order.order == ["under 5", "5 to 10", "10+"]
    order.buttons["Middle"].click()
    settle(window)
    column = study.table["depth"]
    assert column.role is Role.MEASURE and column.sample.values[:3].tolist() == [7.5, 5.0, 10.0]
    assert order.caution.isVisible() and "equal steps" in order.caution.text()
    order.list.setCurrentCell(0, 0)
    order.buttons["By rank"].click()
    settle(window)
    assert study.table["depth"].role is Role.ORDERED
    order.list.setCurrentCell(0, 0)
    order.buttons["Higher"].click()
    settle(window)
    assert study.dictionary.of("depth").order == ("5 to 10", "under 5", "10+")
    assert study.table["depth"].sample.values[:3].tolist() == [1.0, 2.0, 3.0]
    order.list.item(2, 1).setText("forty")  # type: ignore[union-attr]
    assert "must be a number" in window.text
    order.list.item(2, 1).setText("40")  # type: ignore[union-attr]
    settle(window)
    assert study.table["depth"].sample.values.max() == 40


def test_rows_are_named_and_the_origin_of_the_table_is_told(window: MainWindow, tmp_path: Path) -> None:
    bench = bench_of(window)
    study = bench.hub.study
    bench.intake.stage.provenance.setPlainText("Weighed by hand in March; the small fish were missed.")
    bench.intake.stage.finish()
    bench.intake.stage.key.setCurrentText("score")
    bench.intake.stage.key.activated.emit(bench.intake.stage.key.currentIndex())
    settle(window)
    assert study.table.label_column is study.table["score"]
    kinds = {found.kind for found in check_table(study.table)}
    assert "repeated_key" in kinds
    assert "the small fish were missed" in html_of(study.workspace)
    window.saving.save_dictionary(tmp_path / "d.json")
    again = load_data_package(tmp_path / "d.json")
    assert (again.key, again.provenance) == (("score",), study.dictionary.provenance)
    window.acting.undo()
    assert study.dictionary.key == () and bench.intake.stage.key.currentText() == "name"


def test_what_was_copied_is_opened(window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    monkeypatch.setattr("culvix.app.shell.controllers.pasting.data_folder", lambda: tmp_path / "data")
    clipboard.setText("a\tb\n1\t2\n3\t4\n")
    window.opening.open_copied()
    assert wait_until(lambda: "b" in bench_of(window).hub.study.table and window.jobs.at_rest, 20), window.text
    source = bench_of(window).hub.study.table.source
    assert source.path.parent == tmp_path / "data" / "pasted" and source.path.read_text().startswith("a\tb")
    clipboard.setText("  ")
    window.opening.open_copied()
    assert "holds no text" in window.text


def test_the_first_rows_are_there_while_a_long_file_is_read(window: MainWindow, tmp_path: Path) -> None:
    bench = bench_of(window)
    path = tmp_path / "long.csv"
    path.write_text("tag,x,y\n" + "".join(f"L{row},{row},{row / 7:.6f}\n" for row in range(400_000)))
    begun = time.perf_counter()
    window.opening.open_path(path)
    assert wait_until(window.opening.arriving.isVisible, 10)
    seen = time.perf_counter() - begun
    assert window.opening.arriving.view.rows.index(2, 0).data() == "L2" and window.jobs.running("opening")
    assert "fields with it" in window.opening.arriving.why.text() and not bench.isVisible()
    window.jobs.cancel_loud()
    assert (
        bench.isVisible() and not window.opening.arriving.isVisible() and bench_of(window) is bench and not window.text
    )
    begun = time.perf_counter()
    assert window.jobs.wait_for_threads(5000)
    # Generous bounds: the figures themselves are measured beside the library's own reading.
    assert seen < 2 and time.perf_counter() - begun < 2


def test_what_was_begun_for_a_table_ends_with_it(window: MainWindow) -> None:
    bench = bench_of(window)
    came = []

    def slow(progress: Progress) -> int:
        for step in range(400):
            progress(step / 400, "counting")
            time.sleep(0.005)
        return 1

    bench.hub.start("slow work", slow, came.append, quiet=True)
    window.opening.open_path(bench.hub.study.table.source.path)
    assert wait_until(lambda: window.bench is not bench and window.jobs.at_rest, 20)
    assert not came and not window.jobs.running("slow work") and window.jobs.wait_for_threads(1000)


def opened_rows(window: MainWindow, path: Path) -> FirstRows:
    """The rows of another table, which takes the place of the one before."""
    before = bench_of(window)
    window.opening.open_path(path)
    assert wait_until(
        lambda: window.bench not in (None, before) and window.bench.intake.stage.rows.row_count() > 0, 60
    ), window.text
    return bench_of(window).intake.stage.rows


def test_the_rows_are_shown_to_the_last(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "long.csv"
    path.write_text("a,b\n" + "".join(f"{row}.5,{'wet' if row == 2600 else f'{row}.25'}\n" for row in range(2750)))
    rows = opened_rows(window, path)
    assert rows.row_count() == 2750 and rows.last_number == "2\N{NARROW NO-BREAK SPACE}750"
    for row in (2749, 0, 2600, 1333):
        assert rows.index(row, 0).data() == f"{row}.5" and rows.headerData(row, Qt.Orientation.Vertical) is not None
    unread = Qt.ItemDataRole.ToolTipRole
    assert rows.index(2600, 1).data(unread) == "Not read as a number" and rows.index(2599, 1).data(unread) is None


def test_of_a_wide_table_every_column_is_shown(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "wide.csv"
    lines = (",".join(f"{row}.{each}" for each in range(330)) for row in range(90))
    path.write_text(",".join(f"c{each}" for each in range(330)) + "\n" + "\n".join(lines) + "\n")
    rows = opened_rows(window, path)
    assert [rows.index(row, 329).data() for row in (0, 71, 89)] == ["0.329", "71.329", "89.329"]
