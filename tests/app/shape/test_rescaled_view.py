"""The column in focus on another scale."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtTest import QTest
from scipy import stats as oracle

from culvix.app.shape.transform_view import TransformView
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.stats.display import signed
from culvix.study import Study
from culvix.study.analysis.workspace import Workspace
from culvix.study.document.decisions import DecisionKind
from culvix.study.document.document_format import decode_document, encode_document
from tests.app.driving import opened, press, shown_view, wait_until_idle


def test_another_scale_stands_beside_and_becomes_a_column_that_follows(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    bench.hub.set_focus("mass_g")
    shown_view(window, "Alt+2")
    view = bench.shape.stage.views.rescaled
    view.scale.setCurrentIndex(1)
    view.scale.activated.emit(1)
    wait_until_idle(window)
    assert study.settings.of("mass_g").axis == "log10" and "Skewness +8.92 → −0.18" in view.about.text()
    view.stacks[0].probe_moved.emit(100.0)
    assert view.stacks[1].lanes[0].probe.value() == pytest.approx(2.0, abs=0.01)
    press(window, "Adopt as new column")
    wait_until_idle(window)
    name = "log10_mass_g"
    assert bench.hub.focus == name and study.table[name].sample.n == study.table["mass_g"].sample.n
    assert bench.shape.stage.views.view == "One column" and bench.shape.stage.stack.picture.title == "log10 mass_g"
    assert name in [column.name for column in bench.rail.model.columns]
    study.decide(DecisionKind.EXCLUDE_VALUE, "mass_g", [10])
    study.decide(DecisionKind.CORRECT, "mass_g", [11], value=1000.0)
    wait_until_idle(window)
    values = study.working.sample(study.table[name]).values
    assert np.isnan(values[10]) and values[11] == pytest.approx(3.0)
    assert bench.hub.analysis.sample.values[11] == pytest.approx(3.0)
    for _ in range(3):
        QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    assert name not in study.table and bench.hub.focus in study.table
    QTest.keySequence(window, "Ctrl+Y")
    wait_until_idle(window)
    assert name in study.table
    shown_view(window, "Alt+2")
    bench.hub.set_focus("parasite_count")
    wait_until_idle(window)
    assert view.scale.currentText() == "ln(1 + x)" and "Skewness" in view.about.text(), "counts of 0 are taken, too"
    view.scale.setCurrentIndex(0)
    view.scale.activated.emit(0)
    wait_until_idle(window)
    assert "above 0" in view.about.text() and not view.adopt.isEnabled(), "counts of 0 have no logarithm"


def rescaled(window: MainWindow, path: Path, scale: int) -> tuple[Workbench, Study, TransformView]:
    """The mass on the scale at the place ``scale`` of the list."""
    bench, study = opened(window, path)
    bench.hub.set_focus("mass_g")
    shown_view(window, "Alt+2")
    view = bench.shape.stage.views.rescaled
    view.scale.setCurrentIndex(scale)
    view.scale.activated.emit(scale)
    wait_until_idle(window)
    return bench, study, view


def test_the_scale_is_a_setting_that_is_undone(window: MainWindow, demo_path: Path) -> None:
    _, study, view = rescaled(window, demo_path, 1)
    assert [act.label for act in study.history.acts] == ["change the axis of mass_g measured → log10"]
    before = view.about.text()
    QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    assert study.settings.of("mass_g").axis == "measured"
    QTest.keySequence(window, "Ctrl+Y")
    wait_until_idle(window)
    assert view.about.text() == before


def test_excluded_values_are_on_neither_side(window: MainWindow, demo_path: Path) -> None:
    bench, study, view = rescaled(window, demo_path, 1)
    flagged = bench.hub.analysis.flags.rows
    study.decide(DecisionKind.EXCLUDE_VALUE, "mass_g", flagged)
    wait_until_idle(window)
    for stack in view.stacks:
        assert stack.picture.n == study.table["mass_g"].sample.n - flagged.size
    logs = np.log10(np.delete(study.table["mass_g"].values, flagged))
    skewness = bench.hub.analysis.description.skewness
    expected = oracle.skew(logs[np.isfinite(logs)], bias=False)
    assert f"Skewness {signed(skewness)} → {signed(expected)}" in view.about.text()


def test_the_probe_stands_at_the_same_rows_on_both_sides(window: MainWindow, demo_path: Path) -> None:
    _, study, view = rescaled(window, demo_path, 1)
    x = study.table["mass_g"].sample.sorted
    for value in (float(x[40]), float(x[x.size // 2]), float(x[-3])):
        view.stacks[0].probe_moved.emit(value)
        assert view.stacks[1].lanes[0].probe.value() == pytest.approx(np.log10(value))
        view.stacks[1].probe_moved.emit(float(np.log10(value)))
        assert view.stacks[0].lanes[0].probe.value() == pytest.approx(value)


def test_a_column_adopted_is_written_to_the_document(window: MainWindow, demo_path: Path) -> None:
    _, study, _ = rescaled(window, demo_path, 1)
    press(window, "Adopt as new column")
    wait_until_idle(window)
    document = decode_document(encode_document(study.document))
    again = Workspace.of(document, study.table.as_read)
    made = again.table["log10_mass_g"].sample.values
    assert np.array_equal(made, study.table["log10_mass_g"].sample.values, equal_nan=True)
