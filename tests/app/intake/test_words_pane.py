"""Words are given to the codes of many columns at once, and stand wherever the codes do."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel, QPushButton, QWidget

from culvix.app.intake.words_pane import WordsPane
from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.charts.lanes.histogram_lane import HistogramLane
from tests.app.driving import wait_until_idle

LEFT = Qt.MouseButton.LeftButton
ITEMS = ["asked_often", "asked_late"]


@pytest.fixture
def bench(blank_window: MainWindow, tmp_path: Path) -> Workbench:
    draw = np.random.default_rng(3)
    rows = zip(*draw.integers(1, 5, (2, 90)), draw.normal(50, 5, 90), strict=True)
    path = tmp_path / "survey.csv"
    path.write_text(f"{','.join(ITEMS)},level\n" + "\n".join(f"{a},{b},{c:.2f}" for a, b, c in rows) + "\n")
    blank_window.resize(1280, 800)
    blank_window.opening.open_path(path)
    wait_until_idle(blank_window)
    assert blank_window.bench is not None
    return blank_window.bench


def words_pane(window: MainWindow, names: list[str]) -> WordsPane:
    assert window.bench is not None
    window.acting.show_stage(STAGES.index("Intake"))
    wait_until_idle(window)
    window.bench.intake.margin.show_columns(names)
    return window.bench.intake.margin.words


def given(window: MainWindow) -> WordsPane:
    pane = words_pane(window, ITEMS)
    pane.lines.setPlainText("1 = never\n2 = rarely\n3 = often\n4 = always")
    QTest.mouseClick(pane.give, LEFT)
    wait_until_idle(window)
    return pane


def test_the_codes_of_many_columns_get_their_words_at_once(blank_window: MainWindow, bench: Workbench) -> None:
    pane = words_pane(blank_window, ITEMS)
    assert pane.isVisible() and pane.lines.toPlainText() == "1 =\n2 =\n3 =\n4 ="
    given(blank_window)
    table = bench.hub.study.table
    assert all(table[name].words["3"] == "often" for name in ITEMS)
    assert pane.lines.toPlainText().startswith("1 = never")
    QTest.mouseClick(pane.clear, LEFT)
    wait_until_idle(blank_window)
    assert all(not bench.hub.study.table[name].words for name in ITEMS)
    bench.hub.study.undo()
    wait_until_idle(blank_window)
    assert bench.hub.study.table[ITEMS[0]].words["1"] == "never"


def test_measurements_have_no_words(blank_window: MainWindow, bench: Workbench) -> None:
    assert not words_pane(blank_window, ["level"]).isVisible()
    assert not words_pane(blank_window, ["level", *ITEMS]).isVisible()


def test_a_code_with_two_words_is_refused_and_nothing_changes(blank_window: MainWindow, bench: Workbench) -> None:
    pane = words_pane(blank_window, ITEMS)
    pane.lines.setPlainText("1 = never\n1 = always")
    QTest.mouseClick(pane.give, LEFT)
    wait_until_idle(blank_window)
    assert "two words" in blank_window.text and not bench.hub.study.table[ITEMS[0]].words


def test_ranks_are_bars_with_their_words_and_have_lanes_where_these_are_asked_for(
    blank_window: MainWindow, bench: Workbench
) -> None:
    given(blank_window)
    blank_window.acting.show_stage(STAGES.index("Shape"))
    bench.hub.set_focus(ITEMS[0])
    wait_until_idle(blank_window)
    shape = bench.shape.stage
    bars = shape.views.bars
    assert bars is not None and bars.isVisible() and not shape.lanes.isVisible()
    assert [bar.name for bar in bars.picture.bars] == ["1 never", "2 rarely", "3 often", "4 always"]
    assert "median" in bars.about.text() and not blank_window.text
    QTest.mouseClick(shape.as_lanes, LEFT)
    wait_until_idle(blank_window)
    assert not bars.isVisible() and shape.lanes.isVisible()
    axis = shape.stack.lane(HistogramLane).value_axis
    spacing, codes = axis.tickValues(0.5, 4.5, 600)[0]
    assert axis.tickStrings(codes, 1.0, spacing) == ["1 never", "2 rarely", "3 often", "4 always"]
    spacing, codes = axis.tickValues(0.5, 4.5, 160)[0]
    assert all("…" in text for text in axis.tickStrings(codes[2:], 1.0, spacing)), "shortened rather than overlapping"
    QTest.mouseClick(shape.as_lanes, LEFT)
    bench.hub.set_focus("level")
    wait_until_idle(blank_window)
    assert shape.lanes.isVisible() and not shape.as_lanes.isVisible()


def test_of_ranks_that_are_settled_no_moments_are_shown(blank_window: MainWindow, bench: Workbench) -> None:
    blank_window.acting.show_stage(STAGES.index("Shape"))
    bench.hub.set_focus(ITEMS[0])
    wait_until_idle(blank_window)
    margin = bench.shape.margin
    button = next(b for b in margin.findChildren(QPushButton) if b.text() == "Ordered codes")
    QTest.mouseClick(button, LEFT)
    wait_until_idle(blank_window)
    summary = margin.summary
    assert summary.ranks.isVisible()
    assert "median" in words(summary) and "mean" not in words(summary) and "SD (n−1)" not in words(summary)


def words(pane: QWidget) -> list[str]:
    return [label.text() for label in pane.findChildren(QLabel) if label.isVisible()]
