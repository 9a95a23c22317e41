"""The window as a window: icon, full screen, a second one, widths remembered for each stage, the guide beside it."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QProcess, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel
from pytestqt.qtbot import QtBot

from culvix.app.shell.controllers import opening
from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.study import DecisionKind
from tests.app.driving import opened, wait_until_idle


def test_the_application_has_an_icon_and_the_title_names_the_study(window: MainWindow, demo_path: Path) -> None:
    opened(window, demo_path)
    icon = window.windowIcon()
    assert not icon.isNull() and icon.pixmap(64, 64).width() == 64
    assert window.windowTitle().endswith(" — Culvix")


def test_it_fills_the_screen_and_comes_back(window: MainWindow) -> None:
    window.show()
    QTest.keySequence(window, "F11")
    assert window.isFullScreen()
    QTest.keySequence(window, "F11")
    assert not window.isFullScreen()


@pytest.mark.parametrize("starts", [True, False])
def test_a_second_window_is_a_program_of_its_own(
    window: MainWindow, monkeypatch: pytest.MonkeyPatch, starts: bool
) -> None:
    begun: list[list[str]] = []

    class Started(QProcess):
        @staticmethod
        def startDetached(program: str, arguments: list[str]) -> tuple[bool, int]:
            begun.append([program, *arguments])
            return starts, 1

    monkeypatch.setattr(opening, "QProcess", Started)
    QTest.keySequence(window, "Ctrl+Shift+N")
    assert begun and begun[0][1:] == ["-P", "-m", "culvix"]
    assert ("could not be opened" in window.text) is not starts


def test_each_stage_keeps_the_widths_it_was_given(window: MainWindow, demo_path: Path, qtbot: QtBot) -> None:
    bench, _ = opened(window, demo_path)
    window.resize(1400, 850)
    window.show()
    wait_until_idle(window)
    before = bench.across.sizes()
    wider = [before[0], before[1] - 90, before[2] + 90]
    bench.across.setSizes(wider)
    bench.across.splitterMoved.emit(before[0] + before[1] - 90, 2)
    window.acting.show_stage(STAGES.index("Outliers"))
    wait_until_idle(window)
    bench.across.setSizes(before)
    bench.across.splitterMoved.emit(before[0] + before[1], 2)
    window.acting.show_stage(STAGES.index("Shape"))
    wait_until_idle(window)
    assert bench.across.sizes()[2] == pytest.approx(wider[2], abs=4)
    window.acting.show_stage(STAGES.index("Outliers"))
    wait_until_idle(window)
    assert bench.across.sizes()[2] == pytest.approx(before[2], abs=4)
    window.layout_memory.remember()
    window.close_anyway()
    again = MainWindow(window.settings)
    qtbot.addWidget(again)
    assert opened(again, demo_path)[0].sizes["Shape"][2] == pytest.approx(wider[2], abs=4)
    again.close_anyway()


def test_esc_puts_the_guide_away_first_and_a_link_leads_on(window: MainWindow, demo_path: Path) -> None:
    _, study = opened(window, demo_path)
    study.select([3], column="length_mm")
    wait_until_idle(window)
    window.guide.open_at("mean")
    paragraphs = [label for label in window.guide.findChildren(QLabel) if 'href="' in label.text()]
    assert paragraphs
    key = paragraphs[0].text().split('href="')[1].split('"')[0]
    paragraphs[0].linkActivated.emit(key)
    assert window.guide.text != "Mean"
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert not window.guide.isVisible() and study.selection.in_column("length_mm").size == 1
    QTest.keyClick(window, Qt.Key.Key_Escape)
    assert study.selection.in_column("length_mm").size == 0


def test_a_hint_stands_at_the_first_look_at_a_stage_and_never_again(window: MainWindow, demo_path: Path) -> None:
    opened(window, demo_path)
    hint = window.hinting.hint
    assert hint.isVisible() and "bar's foot" in hint.text.text() and not window.text
    QTest.mouseClick(hint.understood, Qt.MouseButton.LeftButton)
    assert not hint.isVisible()
    window.acting.show_stage(STAGES.index("Outliers"))
    assert hint.isVisible() and "next flagged value" in hint.text.text()
    for stage in ("Shape", "Outliers"):
        window.acting.show_stage(STAGES.index(stage))
        assert not hint.isVisible()


def test_lanes_are_told_in_a_sentence(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    study.select([3, 4], column="length_mm")
    wait_until_idle(window)
    sentence = bench.shape.stage.canvas.accessibleDescription()
    assert sentence.startswith("length (mm): 2\N{NARROW NO-BREAK SPACE}174 values from 20.10 to 412.00; ")
    assert "median " in sentence and "flagged" in sentence and sentence.endswith("2 rows selected.")
    study.decide(DecisionKind.EXCLUDE_VALUE, "length_mm", [3])
    wait_until_idle(window)
    assert "1 value excluded" in bench.shape.stage.canvas.accessibleDescription()
