"""The window without a mouse: what Tab reaches, whose the letters are, and a whole review by keys."""

import importlib.util
import re
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractItemView, QApplication, QFileDialog, QPushButton, QTableView, QWidget
from pytestqt.qtbot import QtBot

from culvix.app.shell.commands import COMMANDS
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.study.document.decisions import Cause
from tests.app.driving import opened, press, wait_until_idle

DOCS = Path(__file__).parents[3]
CTRL = Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def window(qtbot: QtBot, shared_window: MainWindow) -> MainWindow:
    return shared_window


def reached(window: MainWindow, most: int = 200) -> list[QWidget]:
    """What Tab comes to, from where the keyboard is, until it is there again."""
    found: list[QWidget] = []
    for _ in range(most):
        focus = QApplication.focusWidget()
        assert focus is not None, "the keyboard is lost"
        if focus in found:
            break
        found.append(focus)
        QTest.keyClick(focus, Qt.Key.Key_Tab)
    return found


@pytest.mark.parametrize("stage", STAGES)
def test_tab_goes_round_every_stage_and_stays_in_no_table(window: MainWindow, demo_path: Path, stage: str) -> None:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index(stage))
    wait_until_idle(window)
    window.activateWindow()
    bench.focus_data()
    found = reached(window)
    assert 5 < len(found) < 200 and not study.selection
    for view in window.findChildren(QTableView):
        assert not view.tabKeyNavigation()
    if stage == "Relations":
        assert bench.relations.stage.matrix.chart in found
        bench.relations.stage.show_view(1)
        wait_until_idle(window)
        assert bench.relations.stage.table in reached(window)
    if stage == "Shape":
        assert (
            bench.shape.stage.bin_width in found
            and bench.shape.stage.picture_button in found
            and bench.shape.stage.rule in found
        )


def test_bins_are_set_by_keys(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    QTest.keySequence(window, "A")
    wait_until_idle(window)
    bench.focus_data()
    found = reached(window)
    assert bench.shape.stage.adjust_pane.start in found and bench.shape.stage.bin_width in found
    for field, typed in ((bench.shape.stage.bin_width, "10"), (bench.shape.stage.adjust_pane.start, "0")):
        field.setFocus(Qt.FocusReason.TabFocusReason)
        QTest.keyClicks(field, typed)
        QTest.keyClick(field, Qt.Key.Key_Return)
        wait_until_idle(window)
    chosen = study.settings.of("length_mm")
    assert (chosen.bin_width, chosen.bin_start) == (10.0, 0.0) and not study.decisions


def test_the_picture_panel_is_gone_through_with_tab(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    button = bench.shape.stage.picture_button
    menu = button.menu()
    menu.popup(window.mapToGlobal(window.rect().center()))
    order = []
    for _ in range(16):
        focus = QApplication.focusWidget()
        assert focus is not None
        order.append(focus)
        QTest.keyClick(focus, Qt.Key.Key_Tab)
    fields = [button.title, button.axis, button.width_field, button.height_field, button.unit, button.dpi, button.form]
    style = [field for _, field in button.style_fields.rows]
    assert order == [*fields, *style, button.copy_button, button.save_button]
    menu.close()


def test_the_keyboard_is_not_lost_with_what_had_it(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    window.activateWindow()
    window.context.tell("Something to read.")
    (close,) = [button for button in window.banner.findChildren(QPushButton) if button.text() == "Close"]
    close.setFocus()
    close.click()
    wait_until_idle(window)
    assert QApplication.focusWidget() is not None and not window.banner.isVisible()
    gone = QWidget(bench)
    gone.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
    gone.show()
    gone.setFocus()
    gone.deleteLater()
    assert wait_until(lambda: QApplication.focusWidget() is not None, 5)


def test_a_reason_without_a_selection_is_asked_for_in_words(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    bench.focus_data()
    QTest.keySequence(window, "Ctrl+L")
    assert "Select one or more values first" in window.text
    QTest.keyClicks(QApplication.focusWidget(), "keep")
    assert not study.decisions and bench.tray.bar.reason.text() == "" and bench.rail.search.text() == ""


def keys_told(path: Path) -> set[str]:
    """Every key in the first cells of the tables of a document, ranges and lists written out."""
    told: set[str] = set()
    for line in path.read_text(encoding="utf-8").splitlines():
        if line.startswith("| ") and not line.startswith("|---"):
            told |= {key.strip() for key in re.split(r"[,;]| or | to ", line.split("|")[1]) if key.strip()}
    return told


SPELLED = {"PgDown": "Page Down", "PgUp": "Page Up", "Return": "Enter"}


@pytest.mark.parametrize("command", [c for c in COMMANDS if c.keys], ids=lambda command: command.text)
def test_the_list_of_keys_has_every_command(command: object) -> None:
    told = keys_told(DOCS / "docs" / "keys.md")
    for key in command.keys:  # type: ignore[attr-defined]
        assert SPELLED.get(key, key) in told, key


def test_the_list_of_keys_is_made_from_the_commands() -> None:
    place = importlib.util.spec_from_file_location("make_keys", DOCS / "docs" / "make_keys.py")
    made = importlib.util.module_from_spec(place)
    place.loader.exec_module(made)
    assert (DOCS / "docs" / "keys.md").read_text(encoding="utf-8") == made.keys_document(), "run docs/make_keys.py"


def test_keys_are_told_once_and_the_readme_tells_no_others() -> None:
    every = [key for command in COMMANDS for key in command.keys]
    assert len(every) == len(set(every))
    readme, all_keys = keys_told(DOCS / "README.md"), keys_told(DOCS / "docs" / "keys.md")
    known = {SPELLED.get(key, key) for key in every}
    assert {key for key in readme if key in known or re.fullmatch(r"(Ctrl|Alt|Shift)\+\S+|[A-Z]|F\d", key)} <= all_keys


def test_a_whole_review_by_keys(
    window: MainWindow, demo_path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    bench, study = opened(window, demo_path)
    saved = iter([str(tmp_path / "length.png"), str(tmp_path / "report.html")])
    monkeypatch.setattr(QFileDialog, "getSaveFileName", staticmethod(lambda *_, **__: (next(saved), "")))
    QTest.keySequence(window, "Ctrl+4")
    wait_until_idle(window)
    view = bench.outliers.stage.list.view
    assert QApplication.focusWidget() is view
    QTest.keyClick(view, Qt.Key.Key_N)
    reasons = {1: "typed in cm", 2: "drifted"}
    for number in range(10):
        digit = 1 + number % 2
        QTest.keyClicks(view, str(digit))
        if number < 2:
            QTest.keyClick(view, Qt.Key.Key_L, CTRL)
            QTest.keyClicks(bench.tray.bar.reason, reasons[digit])
            QTest.keyClick(bench.tray.bar.reason, Qt.Key.Key_Return)
        else:
            QTest.keyClick(view, Qt.Key.Key_Return)
        wait_until_idle(window)
        assert QApplication.focusWidget() is view
    causes = list(Cause)
    told = [(decision.cause, decision.reason, decision.rows.size) for decision in study.decisions]
    assert told == [(causes[1 + k % 2], reasons[1 + k % 2], 1) for k in range(10)]
    assert len({int(decision.rows[0]) for decision in study.decisions}) == 10
    QTest.keySequence(window, "Ctrl+3")
    wait_until_idle(window)
    bench.shape.stage.bin_width.setFocus(Qt.FocusReason.TabFocusReason)
    QTest.keyClicks(bench.shape.stage.bin_width, "8")
    QTest.keyClick(bench.shape.stage.bin_width, Qt.Key.Key_Return)
    wait_until_idle(window)
    assert bench.hub.analysis.histogram.width == 8
    bench.shape.stage.picture_button.save_button.setFocus()
    QTest.keyClick(bench.shape.stage.picture_button.save_button, Qt.Key.Key_Space)
    assert (tmp_path / "length.png").stat().st_size > 1000
    QTest.keySequence(window, "Ctrl+R")
    assert wait_until(lambda: (tmp_path / "report.html").exists(), 180)
    html = (tmp_path / "report.html").read_text()
    assert "typed in cm" in html and "drifted" in html


def test_lists_that_are_no_data_answer_letters_themselves(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    view = bench.rail.view
    view.setFocus()
    QTest.keyClick(view, Qt.Key.Key_M)
    wait_until_idle(window)
    assert bench.hub.focus == "mass_g" and not study.decisions
    assert isinstance(view, QAbstractItemView)
    QTest.keyClick(view, Qt.Key.Key_Return)
    assert QApplication.focusWidget() is bench.shape.stage.canvas
    press(window, "Reviewed")
    assert study.document.reviewed == ("mass_g",)
