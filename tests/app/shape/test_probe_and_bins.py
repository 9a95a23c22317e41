"""The probe with its readings, bins typed, and the box."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from culvix.app.shell.window import MainWindow
from culvix.charts.lanes.box_lane import BoxLane
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.lanes.qq_lane import QQLane
from tests.app.driving import EITHER_WAY, at, drag, opened, wait_until_idle

LENGTH = "length_mm"


def type_into(field: object, text: str) -> None:
    field.setFocus()
    field.setText(text)
    QTest.keyClick(field, Qt.Key.Key_Return)


@EITHER_WAY
def test_two_probes_tell_what_lies_between_them(window: MainWindow, demo_path: Path, upright: bool) -> None:
    bench, _ = opened(window, demo_path, upright=upright)
    shape, sample = bench.shape.stage, bench.hub.analysis.sample
    shape.probe.move(200.0)
    QTest.keySequence(window, "B")
    assert shape.probe.pinned == 200.0
    shape.probe.move(240.0)
    wait_until_idle(window)
    drag(bench, at(bench, QQLane, 200.0, -2), at(bench, QQLane, 180.0, -2))
    assert shape.probe.pinned == pytest.approx(180.0, abs=1.5) and shape.probe.value == 240.0
    x = sample.sorted
    inside = int(((x >= shape.probe.pinned) & (x <= 240.0)).sum())
    assert f"{inside:,}".replace(",", "\u202f") + " rows" in shape.probe.bar.between.text()
    shape.probe.bar.copy()
    assert "value\t240.0" in QApplication.clipboard().text() and "rows" in QApplication.clipboard().text()
    QTest.keySequence(window, "B")
    assert shape.probe.pinned is None and not shape.probe.bar.between.isVisible()


def test_every_reading_of_the_probe_can_be_typed(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    shape, sample = bench.shape.stage, bench.hub.analysis.sample
    mean, sd = sample.fit
    for name, text, value in (
        ("rank", "3", sample.sorted[2]),
        ("rank", "-1", sample.sorted[-1]),
        ("z", "+1", mean + sd),
        ("robust z", "−2", sample.median - 2 * sample.mad / 0.6745),
        ("normal expects", "97.5", mean + 1.959963984540054 * sd),
        ("percentile", "25", np.quantile(sample.sorted, 0.25)),
    ):
        type_into(shape.probe.bar.fields[name], text)
        assert shape.probe.value == pytest.approx(value), name
    for name, text in (("rank", "2.5"), ("rank", "99999"), ("percentile", "101"), ("normal expects", "0"), ("z", "x")):
        before = shape.probe.value
        type_into(shape.probe.bar.fields[name], text)
        assert window.text and shape.probe.value == before
        window.banner.hide()


def test_bins_typed_end_in_open_bins_and_the_table_adds_up(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    QTest.keySequence(window, "A")
    pane, n = bench.shape.stage.adjust_pane, bench.hub.analysis.sample.n
    assert pane.isVisible()
    type_into(pane.start, "150")
    wait_until_idle(window)
    type_into(pane.end, "300")
    wait_until_idle(window)
    type_into(pane.count, "6")
    wait_until_idle(window)
    bars = bench.hub.analysis.histogram
    assert bars.edges.tolist() == [150, 175, 200, 225, 250, 275, 300] and bars.n == n
    assert bars.below > 0 and bars.above > 0
    rows = pane.table.bins.rows
    assert len(rows) == 8 and sum(row[1] for row in rows) == n and rows[-1][3] == pytest.approx(100)
    lane = bench.shape.stage.stack.lane(HistogramLane)
    assert lane.open_bins.opts["height"] == [bars.below, bars.above]
    pane.table.copy()
    lines = QApplication.clipboard().text().split("\n")
    assert len(lines) == 9 and sum(int(line.split("\t")[1]) for line in lines[1:]) == n
    type_into(pane.end, "100")
    assert "must lie below" in window.text and study.settings.of(LENGTH).bin_end == 300 and pane.end.text() == "300"
    type_into(pane.count, "many")
    assert "not a whole number" in window.text
    pane.closed.setCurrentIndex(1)
    pane.closed.activated.emit(1)
    wait_until_idle(window)
    assert study.settings.closed == "right" and bench.hub.analysis.histogram.closed == "right"


def test_the_box_is_drawn_as_asked_and_tells_its_numbers(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    lane, pane = bench.shape.stage.stack.lane(BoxLane), bench.shape.stage.adjust_pane
    pane.notch.click()
    pane.box_points.click()
    pane.whiskers.setCurrentIndex(1)
    pane.whiskers.activated.emit(1)
    wait_until_idle(window)
    x, box = bench.hub.analysis.sample.sorted, lane.picture.box
    assert (box.low, box.high) == (x[0], x[-1]) and box.notch == bench.hub.analysis.description.ci_median
    assert lane.points.isVisible() and lane.points.rows.size > 2000
    pane.box_points.click()
    wait_until_idle(window)
    lane.view_box.hovered.emit((box.q1 + 1, 0.0))
    assert "Q1 194.30" in lane.message and "median's interval" in lane.message
    lane.view_box.hovered.emit((float(lane.flagged.x[0]), float(lane.flagged.y[0])))
    row = int(lane.flagged.rows[0])
    assert study.table["tag"].cell(row) in lane.message
    bench.hub.set_focus("mass_g")
    wait_until_idle(window)
    across = lane.view_box.viewRange()[0]
    held = lane.flagged.boundingRect()
    assert (held.left(), held.right()) == pytest.approx(across), "marks are painted wherever the axis has moved"
    bench.hub.set_focus(LENGTH)
    wait_until_idle(window)
    lane.view_box.hovered.emit(None)
    assert "whiskers: smallest and largest value" in lane.message


def test_lanes_stay_where_they_are_while_the_probe_moves(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    wait_until_idle(window)
    canvas, probe = bench.shape.stage.canvas, bench.shape.stage.probe
    values = bench.hub.study.table["length_mm"].sample.sorted
    probe.move(float(values[0]))
    wait_until_idle(window)
    sizes = set()
    for value in values[:: values.size // 80]:
        probe.move(float(value))
        QApplication.processEvents()
        sizes.add((canvas.width(), canvas.height()))
    assert len(sizes) == 1
