"""Settings dragged on the lanes: bandwidth, limits, valid range, and the lanes themselves."""

from pathlib import Path

import pytest
from PyQt6.QtCore import QPoint, QSettings, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from culvix.app.shell.window import MainWindow
from culvix.charts.lanes.density_lane import DensityLane
from culvix.charts.lanes.span_lane import SpanLane
from culvix.study.document.decisions import DecisionKind
from tests.app.driving import EITHER_WAY, at, drag, opened, wait_until_idle

LENGTH = "length_mm"


def type_into(field: object, text: str) -> None:
    field.setFocus()
    field.setText(text)
    QTest.keyClick(field, Qt.Key.Key_Return)


@EITHER_WAY
def test_the_bandwidth_is_dragged_by_the_side_of_the_kernel(window: MainWindow, demo_path: Path, upright: bool) -> None:
    bench, study = opened(window, demo_path, upright=upright)
    bench.shape.stage.stack.choose(["density", "box"])
    wait_until_idle(window)
    lane, curve = bench.shape.stage.stack.lane(DensityLane), bench.hub.analysis.density
    side = float(lane.sides.getData()[1][0])
    start = at(bench, DensityLane, lane.centre + curve.bandwidth, side)
    drag(bench, start, at(bench, DensityLane, lane.centre + 20.0, side))
    wait_until_idle(window)
    chosen = study.settings.of(LENGTH).bandwidth
    assert chosen == pytest.approx(20.0, abs=1.5) and len(f"{chosen:g}") <= 5, "a round number"
    assert bench.hub.analysis.density.bandwidth == pytest.approx(chosen)
    assert bench.shape.stage.adjust_pane.bandwidth.text() == f"{chosen:g}"
    QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    assert study.settings.of(LENGTH).bandwidth is None and not bench.shape.stage.adjust_pane.bandwidth.text()


@EITHER_WAY
def test_the_end_of_a_span_sets_the_limit_of_its_method(window: MainWindow, demo_path: Path, upright: bool) -> None:
    bench, study = opened(window, demo_path, upright=upright)
    lane = bench.shape.stage.stack.lane(SpanLane)
    mean, sd = study.table[LENGTH].sample.fit
    for position, key in enumerate(study.settings.methods):
        y = position if upright else len(study.settings.methods) - 1 - position
        upper = lane.picture.spans[position].upper
        drag(bench, at(bench, SpanLane, upper, y), at(bench, SpanLane, 350.0, y))
        wait_until_idle(window)
        result = bench.hub.analysis.flags.results[key]
        assert result.upper == pytest.approx(350.0, abs=3.0), key
        assert study.settings.limits[key] != 3.0
    assert study.settings.limits["z_score"] == pytest.approx((350 - mean) / sd, abs=0.1)
    assert bench.shape.stage.methods.limit_fields["z_score"].value() == pytest.approx(
        study.settings.limits["z_score"], abs=0.01
    )
    assert not study.selection, "a dragged end is no selection"


@EITHER_WAY
def test_the_ends_of_the_valid_range_are_dragged(window: MainWindow, demo_path: Path, upright: bool) -> None:
    bench, study = opened(window, demo_path, upright=upright)
    study.set_valid_range(LENGTH, (100.0, 300.0))
    study.change_settings(study.settings.with_methods(["valid_range"]))
    wait_until_idle(window)
    drag(bench, at(bench, SpanLane, 100.0, 0), at(bench, SpanLane, 150.0, 0))
    wait_until_idle(window)
    low, high = study.workspace.bounds(LENGTH)
    assert low == pytest.approx(150, abs=3) and high == 300.0
    x = study.table[LENGTH].sample.sorted
    assert bench.hub.analysis.flags.rows.size == int(((x < low) | (x > high)).sum())


@EITHER_WAY
def test_the_line_between_lanes_is_dragged_and_its_place_remembered(
    window: MainWindow, demo_path: Path, tmp_path: Path, upright: bool
) -> None:
    bench, _ = opened(window, demo_path, upright=upright)
    stack = bench.shape.stage.stack

    def sizes() -> list[float]:
        rooms = [lane.geometry() for lane in stack.lanes]
        return [room.width() if upright else room.height() for room in rooms]

    before = sizes()
    line = bench.shape.stage.canvas.mapFromScene(stack.lanes[0].sceneBoundingRect().bottomRight())
    start, by = (QPoint(line.x(), 200), QPoint(25, 0)) if upright else (QPoint(300, line.y()), QPoint(0, 25))
    drag(bench, start, start + by)
    after = sizes()
    assert after[0] == pytest.approx(before[0] + 25, abs=3) and after[1] == pytest.approx(before[1] - 25, abs=3)
    assert sum(after) == pytest.approx(sum(before), abs=4)
    settings = QSettings(str(tmp_path / "other.ini"), QSettings.Format.IniFormat)
    bench.shape.stage.remember(settings)
    heights = dict(stack.heights)
    stack.size_lanes({})
    bench.shape.stage.recall(settings)
    assert stack.heights == pytest.approx(heights)


def test_lanes_are_chosen_put_in_order_and_sized_with_keys(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    shape, keys = bench.shape.stage, bench.shape.stage.lanes.list
    ctrl = Qt.KeyboardModifier.ControlModifier

    def with_the_list_open() -> None:
        assert QApplication.activePopupWidget() is not None
        QTest.keyClick(keys, Qt.Key.Key_Down, ctrl)
        QTest.keyClick(keys, Qt.Key.Key_Down)
        QTest.keyClick(keys, Qt.Key.Key_Space)
        QTest.keyClick(keys, Qt.Key.Key_Up)
        shown.append([lane.pixels[1] for lane in shape.stack.lanes])
        QTest.keyClick(keys, "+")
        QApplication.activePopupWidget().close()

    shown: list[list[float]] = []
    QTimer.singleShot(0, with_the_list_open)
    QTest.keySequence(window, "L")
    assert shape.stack.names == ["box", "histogram", "spans"], "the histogram a place down, Q-Q not ticked any more"
    wait_until_idle(window)
    before, after = shown[0], [lane.pixels[1] for lane in shape.stack.lanes]
    assert after[1] > before[1] + 10 and after[0] < before[0] and sum(after) == pytest.approx(sum(before), abs=3)
    # At an end, and without a tick, nothing happens.
    keys.setCurrentRow(0)
    QTest.keyClick(keys, Qt.Key.Key_Up, ctrl)
    keys.setCurrentRow(keys.count() - 1)
    QTest.keyClick(keys, Qt.Key.Key_Down, ctrl)
    QTest.keyClick(keys, "-")
    assert shape.stack.names == ["box", "histogram", "spans"]


def test_settings_are_undone_and_redone_with_decisions(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    type_into(bench.shape.stage.bin_width, "10")
    wait_until_idle(window)
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [77])
    wait_until_idle(window)
    assert "exclude" in window.undo_action.text()
    QTest.keySequence(window, "Ctrl+Z")
    QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    assert not study.decisions and study.settings.of(LENGTH).bin_width is None
    assert (
        bench.shape.stage.bin_width.text() == ""
        and "the bin width of length_mm by the rule → 10" in window.redo_action.text()
    )
    QTest.keySequence(window, "Ctrl+Y")
    wait_until_idle(window)
    assert study.settings.of(LENGTH).bin_width == 10 and bench.hub.analysis.histogram.width == 10
