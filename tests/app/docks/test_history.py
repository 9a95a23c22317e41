"""The history reads as what was done, and leads back and forth; steps of one gesture are one act."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from culvix.app.docks.history_pane import HistoryPane
from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.stats.shape.transform import Scale
from culvix.study import Study
from culvix.study.document.choices.settings import replaced
from culvix.study.document.decisions import Cause, DecisionKind
from culvix.study.document.history.messages import act_text
from culvix.tables.model.dictionary import ColumnEntry
from tests.app.driving import opened, wait_until_idle

LEFT = Qt.MouseButton.LeftButton
LENGTH = "length_mm"


@pytest.fixture
def stage(window: MainWindow, demo_path: Path) -> Iterator[tuple[Workbench, Study, HistoryPane]]:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Outliers"))
    wait_until_idle(window)
    yield bench, study, bench.outliers.margin.history


def lines(pane: HistoryPane) -> list[str]:
    return [pane.list.item(position).text() for position in range(pane.list.count())]


def click(pane: HistoryPane, position: int) -> None:
    at = pane.list.visualItemRect(pane.list.item(position)).center()
    QTest.mouseClick(pane.list.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, at)


def test_acts_tell_what_where_from_to_and_why(study: Study) -> None:
    cell, other = (study.table[name].cell(830) for name in (LENGTH, "mass_g"))
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [830], cause=Cause.ENTRY, reason="two fish")
    study.decide(DecisionKind.CORRECT, LENGTH, [830], value=41.2)
    study.decide(DecisionKind.CORRECT, LENGTH, [830], swapped="mass_g")
    study.decide(DecisionKind.MISSING, LENGTH, [1, 2, 3])
    study.decide_on(DecisionKind.KEEP, {LENGTH: [7, 2], "mass_g": [4]})
    study.change_settings(replaced(study.settings, notch=True))
    study.derive(LENGTH, Scale("ln"))
    study.edit_column("mass_g", ColumnEntry(label="Mass"))
    study.begin_pass()
    assert [act_text(study.table, act) for act in study.history.acts] == [
        f"exclude value {LENGTH} {cell}, row 831: entry, “two fish”",
        f"{LENGTH} {cell} → 41.2 in row 831",
        f"{LENGTH} {cell} → {other}, exchanged with mass_g in row 831",
        f"treat as missing: {LENGTH}, 3 rows",
        "keep: 3 values in 2 columns",
        "change the notch off → on",
        f"add the column ln_{LENGTH}",
        "describe mass_g",
        "begin pass 2",
    ]


def test_a_click_previews_and_a_second_goes_there(
    window: MainWindow, stage: tuple[Workbench, Study, HistoryPane]
) -> None:
    _, study, pane = stage
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    study.change_settings(study.settings.with_limit("z_score", 2.5))
    study.decide(DecisionKind.KEEP, LENGTH, [1])
    wait_until_idle(window)
    assert len(lines(pane)) == 4 and lines(pane)[1] == "2  change the limit of z-score 3 → 2.5"
    click(pane, 2)
    assert pane.about.text() == "Would undo 1 decision and 1 other act. Click again to go there."
    assert len(study.decisions) == 2
    click(pane, 2)
    wait_until_idle(window)
    assert len(study.decisions) == 1 and study.settings.limits["z_score"] == 3
    pane.list.setFocus()
    pane.list.setCurrentRow(0)
    QTest.keyClick(pane.list, Qt.Key.Key_Return)
    wait_until_idle(window)
    assert len(study.decisions) == 2
    pane.all_acts.click()
    wait_until_idle(window)
    assert len(lines(pane)) == 3 and not any("limit" in line for line in lines(pane))


def test_undo_says_what_it_took_back(window: MainWindow, stage: tuple[Workbench, Study, HistoryPane]) -> None:
    _, study, _ = stage
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [830], reason="two fish")
    QTest.keySequence(window, "Ctrl+Z")
    assert window.strip.note.toolTip().startswith(f"Undone: exclude value {LENGTH} ")
    assert "two fish" in window.strip.note.toolTip()
    QTest.keySequence(window, "Ctrl+Y")
    assert window.strip.note.toolTip().startswith("Done again: exclude value")
    study.decide(DecisionKind.KEEP, LENGTH, [1])
    assert not window.strip.note.toolTip()


def test_steps_of_one_gesture_are_one_act(window: MainWindow, stage: tuple[Workbench, Study, HistoryPane]) -> None:
    bench, study, _ = stage
    field = bench.outliers.stage.methods.limit_fields["z_score"]
    for _ in range(5):
        field.stepUp()
    assert study.settings.limits["z_score"] == pytest.approx(3.5) and len(study.history.acts) == 1
    field.editingFinished.emit()
    field.stepUp()
    assert len(study.history.acts) == 2
    study.undo()
    study.undo()
    assert study.settings.limits["z_score"] == 3


def test_a_gesture_does_not_go_on_over_another_act(study: Study) -> None:
    hand = object()
    study.change_settings(replaced(study.settings, alpha=0.04), hand)
    study.decide(DecisionKind.KEEP, LENGTH, [0])
    study.change_settings(replaced(study.settings, alpha=0.03), hand)
    assert len(study.history.acts) == 3
    study.undo()
    study.change_settings(replaced(study.settings, alpha=0.02), hand)
    assert [act.label for act in study.history.acts][2] == "change the level α 0.04 → 0.02"
