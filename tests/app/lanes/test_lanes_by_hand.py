"""What the mouse does in a lane, whichever way its values run: select, add, zoom, move, fit, read."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.charts.lanes.box_lane import BoxLane
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.lanes.qq_lane import QQLane
from culvix.study import Study
from culvix.study.document.choices.settings import replaced
from tests.app.driving import EITHER_WAY, LEFT, at, drag, opened, rest, wait_until_idle

LENGTH = "length_mm"
CTRL, SHIFT, ALT = (getattr(Qt.KeyboardModifier, f"{name}Modifier") for name in ("Control", "Shift", "Alt"))
NONE, MIDDLE = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.MiddleButton


@pytest.fixture
def upright() -> bool:
    """To the right, but where a test asks for either way."""
    return False


@pytest.fixture
def bench(window: MainWindow, demo_path: Path, upright: bool) -> Workbench:
    return opened(window, demo_path, upright=upright)[0]


@pytest.fixture
def study(bench: Workbench) -> Study:
    return bench.hub.study


def turn_wheel(bench: Workbench, where: QPoint, by: int, keys: Qt.KeyboardModifier = NONE) -> None:
    view, none = bench.shape.stage.canvas.viewport(), Qt.MouseButton.NoButton
    position = QPointF(view.mapToGlobal(where))
    event = QWheelEvent(
        QPointF(where), position, QPoint(), QPoint(0, by), none, keys, Qt.ScrollPhase.NoScrollPhase, False
    )
    QApplication.sendEvent(view, event)


def seen(bench: Workbench) -> np.ndarray:
    ranges = [lane.view_box.viewRange()[0] for lane in bench.shape.stage.stack.lanes]
    assert all(found == pytest.approx(ranges[0]) for found in ranges), "all lanes show the same values"
    return np.array(ranges[0])


@EITHER_WAY
def test_rows_are_added_and_taken_out_again(bench: Workbench, study: Study) -> None:
    x, view = study.table[LENGTH].sample.values, bench.shape.stage.canvas.viewport()
    bench.shape.stage.probe.move(210.0)
    drag(bench, at(bench, BoxLane, 360, 0.9), at(bench, BoxLane, 416, 0.9))
    high = np.flatnonzero(x > 370)
    assert study.selection.rows.tolist() == high.tolist()
    # With Shift what is dragged over is added, with Ctrl a bar's rows are, and once more they are out.
    QTest.qWait(40)
    bars = bench.shape.stage.stack.picture.histogram
    position = int(np.argmax(bars.counts))
    inside = np.flatnonzero((x >= bars.edges[position]) & (x < bars.edges[position + 1]))
    where = at(bench, HistogramLane, float(bars.edges[position : position + 2].mean()), bars.counts[position] / 3)
    QTest.mouseClick(view, LEFT, CTRL, where)
    assert study.selection.rows.tolist() == np.union1d(high, inside).tolist()
    QTest.qWait(QApplication.doubleClickInterval() + 20)
    QTest.mouseClick(view, LEFT, CTRL, where)
    assert study.selection.rows.tolist() == high.tolist()
    QTest.qWait(QApplication.doubleClickInterval() + 20)
    QTest.mouseClick(view, LEFT, SHIFT, where)
    assert study.selection.rows.tolist() == np.union1d(high, inside).tolist()
    # A click on nothing selects nothing.
    QTest.mouseClick(view, LEFT, NONE, at(bench, BoxLane, 340.0, 0.8))
    assert not study.selection


def test_a_mark_is_its_row(bench: Workbench, study: Study) -> None:
    lane = bench.shape.stage.stack.lane(QQLane)
    row = int(np.nanargmax(study.table[LENGTH].sample.values))
    spot = int(np.flatnonzero(lane.flagged.rows == row)[0])
    where = at(bench, QQLane, float(lane.flagged.x[spot]), float(lane.flagged.y[spot]))
    QTest.mouseMove(bench.shape.stage.canvas.viewport(), where)
    QTest.mouseClick(bench.shape.stage.canvas.viewport(), LEFT, NONE, where)
    assert study.selection.rows.tolist() == [row]
    assert bench.tray.model.rows.tolist() == [row]
    assert lane.mark_under(float(lane.flagged.x[spot]), float(lane.flagged.y[spot])).tolist() == [row]
    assert not lane.mark_under(float(lane.flagged.x[spot]), 0.0).size


@EITHER_WAY
def test_the_axis_is_zoomed_moved_and_fitted(window: MainWindow, bench: Workbench, upright: bool) -> None:
    fitted, where = seen(bench), at(bench, BoxLane, 300.0, 0.8)
    turn_wheel(bench, where, 120)
    near = seen(bench)
    assert np.ptp(near) < np.ptp(fitted) and near[0] < 300 < near[1]
    share = [(300.0 - ends[0]) / np.ptp(ends) for ends in (fitted, near)]
    assert share[0] == pytest.approx(share[1], abs=0.01), "the value under the pointer stays under it"
    # What is dragged with the middle button goes with the pointer, along the axis only.
    view, start = bench.shape.stage.canvas.viewport(), at(bench, BoxLane, 250.0, 0.0)
    end = start + (QPoint(15, -60) if upright else QPoint(60, 15))
    heights = bench.shape.stage.stack.lane(BoxLane).view_box.viewRange()[1]
    drag(bench, start, end, button=MIDDLE)
    moved = seen(bench)
    assert np.ptp(moved) == pytest.approx(np.ptp(near)) and moved[0] < near[0]
    carried = (
        bench.shape.stage.stack.lane(BoxLane).view_box.mapSceneToView(bench.shape.stage.canvas.mapToScene(end)).x()
    )
    assert carried == pytest.approx(250.0, abs=2 * np.ptp(near) / 300)
    assert bench.shape.stage.stack.lane(BoxLane).view_box.viewRange()[1] == pytest.approx(heights)
    QTest.keySequence(window, "F")
    assert seen(bench) == pytest.approx(fitted)
    turn_wheel(bench, where, -120)
    assert np.ptp(seen(bench)) > np.ptp(fitted)
    QTest.mouseDClick(view, LEFT, NONE, where)
    QTest.mouseRelease(view, LEFT, NONE, where)
    assert seen(bench) == pytest.approx(fitted)


def test_the_probe_comes_to_the_pointer_and_goes_on_by_keys(window: MainWindow, bench: Workbench) -> None:
    view, shape = bench.shape.stage.canvas.viewport(), bench.shape.stage
    QTest.mouseClick(view, LEFT, ALT, at(bench, BoxLane, 250.0, 0.8))
    assert shape.probe.value == pytest.approx(250.0, abs=1.5) and not bench.hub.study.selection
    x = bench.hub.analysis.sample.sorted
    above = x[x > shape.probe.value]
    QTest.keySequence(window, "Alt+Up")
    assert shape.probe.value == above[0]
    QTest.keySequence(window, "Alt+Right")
    assert shape.probe.value == above[above > above[0]][0]
    QTest.keySequence(window, "Alt+Down")
    QTest.keySequence(window, "Alt+Left")
    assert shape.probe.value == x[x < above[0]][-1]


def test_stacked_dots_stand_on_each_other(window: MainWindow, bench: Workbench, study: Study) -> None:
    bench.hub.set_focus("parasite_count")
    bench.shape.stage.stack.choose(["points", "box"])
    study.change_settings(replaced(study.settings, stacked_points=True))
    rest(window)
    QTest.qWait(30)
    lane = bench.shape.stage.stack.lane_called("points")
    items = (lane.points, lane.flagged)
    positions = np.concatenate([np.column_stack((item.x, item.y)) for item in items])
    assert len(np.unique(positions.round(9), axis=0)) == len(positions), "no dot hides another one"
    for value in np.unique(positions[:, 0])[:5]:
        heights = np.sort(positions[positions[:, 0] == value][:, 1])
        assert heights[0] == 0 and np.ptp(np.diff(heights)) < 1e-9, "without gaps from the foot up"
    row = int(lane.points.rows[0])
    study.select([row], column=bench.hub.focus)
    QTest.qWait(30)
    assert (lane.selected.x[0], lane.selected.y[0]) == (lane.points.x[0], lane.points.y[0])


@EITHER_WAY
def test_lanes_are_as_large_as_was_said_after_a_turn(window: MainWindow, bench: Workbench, upright: bool) -> None:
    stack = bench.shape.stage.stack
    stack.size_lanes({"histogram": 300.0, "box": 100.0, "Q-Q": 100.0, "spans": 100.0})
    bench.shape.stage.probe.move(230.0)
    bench.shape.stage.probe.pin(180.0)
    wait_until_idle(window)
    before = [lane.pixels[1] for lane in stack.lanes]
    QTest.keySequence(window, "U")
    rest(window)
    QTest.qWait(30)
    assert stack.upright is not upright
    after = [lane.pixels[1] for lane in stack.lanes]
    for sizes in (before, after):
        shares = np.array(sizes) / sum(sizes)
        assert shares == pytest.approx([0.5, 1 / 6, 1 / 6, 1 / 6], abs=0.03)
    assert all(lane.probe.value() == 230.0 and lane.probe.isVisible() for lane in stack.lanes)
    assert all(lane.pinned.value() == 180.0 and lane.pinned.isVisible() for lane in stack.lanes)
    QTest.keySequence(window, "Ctrl+Z")
    rest(window)
    QTest.qWait(30)
    assert stack.upright is upright and [lane.pixels[1] for lane in stack.lanes] == pytest.approx(before, abs=2)
