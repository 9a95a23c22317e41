"""Conventions are switched where they stand, and what was typed or dragged is named as such."""

from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QRadioButton

from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.errors import StatisticsError
from culvix.stats.registry import NORMALITY_TESTS
from culvix.study import Study
from culvix.study.document.choices.settings import Settings, replaced
from culvix.tables.model.table import Role
from tests.app.driving import at, drag, opened, press, wait_until_idle, words_of

LENGTH = "length_mm"


@pytest.fixture
def stage(window: MainWindow, demo_path: Path) -> Iterator[tuple[Workbench, Study]]:
    yield opened(window, demo_path)


def test_quartiles_confidence_and_trim_are_switched_beside_the_summary(
    window: MainWindow, stage: tuple[Workbench, Study]
) -> None:
    bench, study = stage
    bar = bench.shape.margin.summary.conventions
    bench.hub.set_focus("fin_score")
    bench.hub.set_focus("swim_cm_s")
    wait_until_idle(window)
    x = study.table["swim_cm_s"].sample.sorted
    assert bar.quartiles.currentText().startswith("7: inclusive")
    bar.quartiles.setCurrentIndex(5)
    bar.quartiles.activated.emit(5)
    wait_until_idle(window)
    assert study.settings.quantile_type == 6
    assert bench.hub.analysis.description.q1 == pytest.approx(np.quantile(x, 0.25, method="weibull"))
    bar.confidence.setValue(99.0)
    bar.trim.setValue(20.0)
    wait_until_idle(window)
    assert (study.settings.confidence, study.settings.trim) == (0.99, 0.2)
    for _ in range(3):
        QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    assert study.settings == Settings(upright=study.settings.upright)
    assert bar.quartiles.currentText().startswith("7: inclusive")
    for wrong in ({"trim": 0.5}, {"verdict_test": "sight"}, {"trim": -0.1}):
        with pytest.raises(StatisticsError):
            replaced(study.settings, **wrong)


def test_a_percentile_stays_as_it_was_typed(window: MainWindow, stage: tuple[Workbench, Study]) -> None:
    bench, _ = stage
    bench.hub.set_focus("parasite_count")
    wait_until_idle(window)
    field = bench.shape.stage.probe.bar.fields["percentile"]
    field.setFocus()
    field.setText("80")
    QTest.keyClick(field, Qt.Key.Key_Return)
    wait_until_idle(window)
    assert field.text() == "80.0"
    bench.shape.stage.probe.step(1)
    assert field.text() != "80.0"


def test_any_test_can_give_the_verdict(window: MainWindow, stage: tuple[Workbench, Study]) -> None:
    bench, study = stage
    assert bench.hub.analysis.verdict.method == "shapiro_wilk"
    press(window, f"All {len(NORMALITY_TESTS)} tests")
    wait_until_idle(window)
    radios = bench.shape.margin.findChildren(QRadioButton)
    (other,) = [radio for radio in radios if "Anderson" in radio.toolTip() and radio.isVisible()]
    assert not other.isChecked()
    other.click()
    wait_until_idle(window)
    assert study.settings.verdict_test == "anderson_darling"
    assert bench.hub.analysis.verdict.method == "anderson_darling"
    assert ("Verdict on normality", "by Anderson–Darling") in [
        (name, message.split(" where")[0]) for name, message in study.settings.stated()
    ]
    (chosen,) = [r for r in bench.shape.margin.findChildren(QRadioButton) if r.isChecked() and r.isVisible()]
    chosen.click()
    wait_until_idle(window)
    assert study.settings.verdict_test is None and bench.hub.analysis.verdict.method == "shapiro_wilk"


@pytest.mark.parametrize("n", [3, 50, 5000, 6000])
def test_a_chosen_test_gives_way_where_it_is_not_valid(n: int) -> None:
    for key, test in NORMALITY_TESTS.items():
        found = Settings(verdict_test=key).verdict_test_at(n)
        valid = test.smallest_n <= n and (test.largest_n is None or n <= test.largest_n)
        assert (found is test) or not valid


def test_bins_by_hand_are_named_so_and_read_while_dragged(window: MainWindow, stage: tuple[Workbench, Study]) -> None:
    bench, study = stage
    shape = bench.shape.stage
    assert shape.rule.currentText() == "Freedman–Diaconis"
    lane = shape.stack.lane(HistogramLane)
    before = lane.message
    edges = bench.hub.analysis.histogram.edges
    drag(bench, at(bench, HistogramLane, float(edges[1]), 0), at(bench, HistogramLane, float(edges[1]) + 20, 0))
    wait_until_idle(window)
    assert study.settings.of(LENGTH).bin_width is not None
    assert shape.rule.currentText() == "chosen by hand" and lane.message != before
    shape.rule.setCurrentIndex(1)
    shape.rule.activated.emit(1)
    wait_until_idle(window)
    assert study.settings.of(LENGTH).bin_width is None and shape.rule.findText("chosen by hand") < 0
    shape.bin_width.setFocus()
    shape.bin_width.setText("12")
    QTest.keyClick(shape.bin_width, Qt.Key.Key_Return)
    wait_until_idle(window)
    assert shape.rule.currentText() == "chosen by hand"


def test_the_table_is_judged_for_a_second_file_too(window: MainWindow, demo_path: Path, tmp_path: Path) -> None:
    opened(window, demo_path)
    path = tmp_path / "other.csv"
    path.write_text("depth,flow\n" + "".join(f"{k},{'' if k % 4 == 0 else k * 2.5}\n" for k in range(40)))
    first = window.bench
    window.opening.open_path(path)
    assert wait_until(lambda: window.bench is not first and window.jobs.at_rest, 30)
    window.acting.show_stage(STAGES.index("Survey"))
    wait_until_idle(window)
    margin = window.bench.survey.margin
    assert margin.quality is not None and margin.quality.complete == 30
    assert "10 missing" in words_of(margin) or "missing" in words_of(margin)


def test_a_size_is_converted_with_its_unit_and_pixels_are_shown(
    window: MainWindow, stage: tuple[Workbench, Study]
) -> None:
    button = stage[0].shape.stage.picture_button
    button.width_field.setValue(160.0)
    button.height_field.setValue(110.0)
    button.dpi.setValue(254)
    assert button.pixels.text() == "1600 × 1100 pixels"
    for unit, width in (("cm", 16.0), ("pixels", 1600.0), ("mm", 160.0)):
        button.unit.setCurrentText(unit)
        button.unit.activated.emit(button.unit.currentIndex())
        assert button.width_field.value() == pytest.approx(width, abs=0.05) and "1600 × 1100" in button.pixels.text()
    button.width_field.setValue(0.0)
    assert "lies between" in button.pixels.text()


def test_hidden_lanes_are_said_on_the_button(window: MainWindow, stage: tuple[Workbench, Study]) -> None:
    shape = stage[0].shape.stage
    assert shape.lanes.text() == "Lanes"
    shape.lanes.chosen.emit(["histogram", "box"])
    assert "hidden" in shape.lanes.text() and "Q-Q" in shape.lanes.toolTip()


def test_the_rail_makes_room_for_a_column_that_gets_numbers(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "levels.csv"
    path.write_text("level,flow\n" + "".join(f"{('low', 'mid', 'high')[k % 3]},{k * 1.5}\n" for k in range(30)))
    bench, _ = opened(window, path)
    view = bench.rail.view
    bench.hub.edit_columns(["level"], lambda entry: replace(entry, role=Role.IDENTIFIER))
    wait_until_idle(window)
    before = view.visualRect(view.model().index(0, 0))
    numbers = {"low": 1.0, "mid": 2.0, "high": 3.0}
    bench.hub.edit_columns(["level"], lambda entry: replace(entry, role=Role.ORDERED, mapping=numbers))
    wait_until_idle(window)
    first, second = (view.visualRect(view.model().index(position, 0)) for position in (0, 1))
    assert first.height() > before.height() and second.top() > first.bottom()
