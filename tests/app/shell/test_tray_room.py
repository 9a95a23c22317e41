"""The row tray folds to its title while nothing is selected, and opens with a selection."""

from pathlib import Path

import pytest
from PyQt6.QtTest import QTest

from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.study import Study
from tests.app.driving import opened, wait_until_idle


@pytest.fixture
def open_bench(window: MainWindow, demo_path: Path) -> tuple[Workbench, Study]:
    bench, study = opened(window, demo_path)
    bench.hub.set_focus("length_mm")
    wait_until_idle(window)
    return bench, study


def test_a_selection_opens_it_and_without_one_the_lanes_have_its_room(
    window: MainWindow, open_bench: tuple[Workbench, Study]
) -> None:
    bench, study = open_bench
    lanes = bench.shape.stage.canvas.height()
    assert not bench.tray.table.isVisible() and bench.tray.bar.title.isVisible() and not bench.tray_room.is_open
    study.select([3, 5], "two rows", column="length_mm")
    wait_until_idle(window)
    assert bench.tray.table.isVisible() and bench.tray.bar.reason.isVisible()
    assert bench.shape.stage.canvas.height() < lanes - 60
    study.select([])
    wait_until_idle(window)
    assert not bench.tray.table.isVisible() and bench.shape.stage.canvas.height() == lanes


def test_asked_to_stay_open_it_lists_the_flagged_rows_and_does_so_the_next_time(
    window: MainWindow, open_bench: tuple[Workbench, Study]
) -> None:
    bench, _ = open_bench
    QTest.keySequence(window, "F9")
    wait_until_idle(window)
    assert bench.tray.table.isVisible() and bench.tray.model.row_count() == bench.hub.analysis.flags.rows.size
    bench.down.moveSplitter(bench.down.height() - 260, 1)
    wait_until_idle(window)
    bench.remember(window.settings)
    assert window.settings.value("layout/tray-open", type=bool)
    assert abs(window.settings.value("layout/tray-height", type=int) - 260) < 12


def test_beside_a_list_of_rows_it_has_only_the_acts(window: MainWindow, open_bench: tuple[Workbench, Study]) -> None:
    bench, study = open_bench
    window.acting.show_stage(STAGES.index("Outliers"))
    wait_until_idle(window)
    assert not bench.tray.bar.reason.isVisible()
    study.select([3], "a row", column="length_mm")
    wait_until_idle(window)
    assert bench.tray.bar.reason.isVisible() and not bench.tray.table.isVisible()
    window.acting.show_stage(STAGES.index("Shape"))
    wait_until_idle(window)
    assert bench.tray.table.isVisible()
