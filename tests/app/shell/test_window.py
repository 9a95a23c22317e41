"""The real window, driven with real mouse and key events, without a display."""

import time
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QMimeData, QPoint, QPointF, Qt, QUrl
from PyQt6.QtGui import QDropEvent, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel
from pytestqt.qtbot import QtBot

from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.charts.items.row_markers import stagger
from culvix.charts.lanes.box_lane import BoxLane
from culvix.charts.lanes.cumulative_lane import CumulativeLane
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.lanes.points_lane import PointsLane
from culvix.charts.lanes.qq_lane import QQLane
from culvix.charts.lanes.stack import LANES
from culvix.demo import Cohort
from culvix.errors import Cancelled
from tests.app.driving import EITHER_WAY, at, click, drag, opened, press, rest
from tests.tables.test_reading import UNREADABLE

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def window(qtbot: QtBot, shared_window: MainWindow) -> MainWindow:
    return shared_window


def test_from_the_demo_to_a_report_that_holds_the_reason(window: MainWindow, demo_path: Path, tmp_path: Path) -> None:
    bench, study = opened(window, demo_path)
    assert bench.hub.focus == "length_mm" and "2\u202f180 of 2\u202f180" in window.strip.rows.whole
    picture = bench.shape.stage.stack.picture
    assert picture is not None
    box = bench.shape.stage.stack.lane(BoxLane)
    position = int(np.argmax(picture.flagged.values))
    x, y = box.flagged.x[position], box.flagged.y[position]
    click(bench, at(bench, BoxLane, x, y))
    assert wait_until(lambda: study.selection.rows.tolist() == [int(picture.flagged.rows[position])], 3)
    row = int(study.selection.rows[0])
    assert bench.tray.model.rows.tolist() == [row] and bench.shape.stage.stack.lane(QQLane).selected.rows.size == 1
    QTest.keyClicks(bench.tray.bar.reason, "two fish on one board")
    bench.tray.bar.cause.setCurrentIndex(1)
    QTest.mouseClick(bench.tray.bar.buttons[next(k for k in bench.tray.bar.buttons if k == "exclude value")], LEFT)
    rest(window)
    assert study.working.excluded("length_mm").tolist() == [row]
    assert bench.hub.analysis is not None and bench.hub.analysis.description.n == 2173
    assert bench.tray.model.data(bench.tray.model.index(0, bench.tray.model.heads.index("reason"))).startswith("two")
    QTest.keySequence(window, "Ctrl+Z")
    rest(window)
    assert bench.hub.analysis.description.n == 2174 and not study.decisions
    QTest.keySequence(window, "Ctrl+Shift+Z")
    rest(window)
    assert bench.hub.analysis.description.n == 2173
    window.saving.save_report(tmp_path / "report.html")
    assert wait_until(lambda: "Report saved" in window.text, 60), window.text
    html = (tmp_path / "report.html").read_text()
    assert "two fish on one board" in html and "exclude value" in html and html.count("<svg") == 19


def test_selecting_in_lanes_tray_and_relations_is_one_selection(blank_window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(blank_window, demo_path)
    bars = bench.shape.stage.stack.picture.histogram
    position = int(np.argmax(bars.counts))
    middle = float(bars.edges[position : position + 2].mean())
    # Clear of the probe line, which would take the click for itself.
    bench.shape.stage.probe.move(300.0)
    click(bench, at(bench, HistogramLane, middle, bars.counts[position] / 3))
    assert wait_until(lambda: study.selection.rows.size == bars.counts[position], 3)
    drag(bench, at(bench, BoxLane, 360, 0.9), at(bench, BoxLane, 416, 0.9))
    values = study.table["length_mm"].sample.values
    assert wait_until(lambda: study.selection.rows.tolist() == np.flatnonzero(values > 370).tolist(), 3)
    first = bench.tray.table.visualRect(bench.tray.model.index(0, 0)).center()
    QTest.mouseClick(bench.tray.table.viewport(), LEFT, Qt.KeyboardModifier.NoModifier, first)
    assert study.selection.rows.size == 1 and bench.tray.model.rows.size == 2
    QTest.keySequence(blank_window, "Ctrl+5")
    press(blank_window, "Pairs")
    rest(blank_window)
    assert bench.stage == "Relations" and bench.relations.stage.pair is not None
    assert bench.relations.stage.pane.canvas.plot.selected.rows.tolist() == study.selection.rows.tolist()
    shown = " ".join(label.text() for label in bench.relations.margin.findChildren(QLabel))
    assert "Without the 20 flagged rows" in shown and "+0.912" in shown and "+0.999" in shown
    QTest.keySequence(blank_window, "Esc")
    assert not study.selection and bench.tray.bar.title.text() == "Flagged rows"


def test_probe_is_dragged_typed_and_read_in_every_lane(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    shape = bench.shape.stage
    drag(bench, at(bench, QQLane, shape.probe.value, -2), at(bench, QQLane, 250.0, -2))
    assert wait_until(lambda: abs((shape.probe.value or 0) - 250) < 2, 3)
    assert all(lane.probe.value() == shape.probe.value for lane in shape.stack.lanes)
    shape.probe.bar.fields["percentile"].setText("50")
    QTest.keyClick(shape.probe.bar.fields["percentile"], Qt.Key.Key_Return)
    assert shape.probe.value == pytest.approx(bench.hub.analysis.description.median)
    assert all(lane.answer_item.text() for lane in shape.stack.lanes)
    QTest.keySequence(window, "Alt+Right")
    assert shape.probe.value > bench.hub.analysis.description.median
    shape.probe.bar.fields["value"].setText("many")
    QTest.keyClick(shape.probe.bar.fields["value"], Qt.Key.Key_Return)
    assert "not a number" in window.text


def test_findings_settle_from_the_margin_and_settings_act_at_once(
    window: MainWindow, demo_path: Path, cohort: Cohort
) -> None:
    bench, study = opened(window, demo_path)
    press(window, "×10")
    rest(window)
    assert [d.text for d in study.decisions] == ["correct ×10"]
    assert [row + 1 for row in study.decisions[0].rows] == list(cohort.planted("unit_cm").rows)
    assert bench.rail.model.open["length_mm"][0] == 2
    bench.shape.stage.methods.limit_fields["z_score"].setValue(2.0)
    rest(window)
    assert bench.hub.analysis.flags.results["z_score"].rows.size > 50
    bench.shape.stage.bin_width.setText("10")
    QTest.keyClick(bench.shape.stage.bin_width, Qt.Key.Key_Return)
    rest(window)
    assert bench.hub.analysis.histogram.width == 10
    bench.shape.stage.bin_width.setText("1e-9")
    QTest.keyClick(bench.shape.stage.bin_width, Qt.Key.Key_Return)
    assert "more than 2000 bins" in window.text and study.settings.of("length_mm").bin_width == 10
    QTest.keySequence(window, "R")
    assert study.document.reviewed == ("length_mm",)
    QTest.keySequence(window, "PgDown")
    rest(window)
    assert bench.hub.focus == "fork_length_mm"


@pytest.mark.parametrize("case", [*UNREADABLE, "folder"])
def test_a_bad_file_says_so_and_loses_nothing(window: MainWindow, demo_path: Path, tmp_path: Path, case: str) -> None:
    bench, study = opened(window, demo_path)
    study.decide("keep", "length_mm", [0])  # type: ignore[arg-type]
    bad = tmp_path / "bad.csv"
    if case == "folder":
        bad.mkdir()
    else:
        bad.write_bytes(UNREADABLE[case][0])
    window.opening.open_path(bad)
    assert wait_until(lambda: "bad.csv" in window.text, 10)
    assert window.bench is bench and len(study.decisions) == 1


def test_a_dropped_file_opens_and_odd_tables_stand(blank_window: MainWindow, tmp_path: Path) -> None:
    nonnumeric_rows = tmp_path / "odd.csv"
    nonnumeric_rows.write_text("<script>,one,empty,word\n" + "".join(f"{k % 7}.5,3,,x\n" for k in range(30)))
    data = QMimeData()
    data.setUrls([QUrl.fromLocalFile(str(nonnumeric_rows))])
    none = Qt.KeyboardModifier.NoModifier
    event = QDropEvent(QPointF(5, 5), Qt.DropAction.CopyAction, data, LEFT, none)
    blank_window.dropEvent(event)
    assert wait_until(lambda: blank_window.bench is not None and blank_window.jobs.at_rest, 20)
    for column in ("<script>", "one", "empty", "word"):
        blank_window.bench.hub.set_focus(column)
        rest(blank_window)
        message = " ".join(label.text() for label in blank_window.findChildren(QLabel) if label.isVisible())
        assert "nan" not in message.lower().split() and "0.000" not in message
    blank_window.acting.show_stage(STAGES.index("Relations"))
    rest(blank_window)


def test_long_work_shows_progress_and_can_be_cancelled(window: MainWindow, demo_path: Path) -> None:
    opened(window, demo_path)
    heard: list[object] = []

    def endless(progress) -> None:
        while True:
            progress(0.5, "counting fish")
            time.sleep(0.005)

    window.jobs.start("endless", endless, heard.append, failed=heard.append)
    assert wait_until(window.strip.cancel.isVisible, 5) and "counting fish" in window.strip.doing.text()
    QTest.mouseClick(window.strip.cancel, LEFT)
    assert wait_until(lambda: window.jobs.at_rest and not window.strip.cancel.isVisible(), 5)
    assert len(heard) == 1 and isinstance(heard[0], Cancelled)


def test_the_guide_opens_at_what_is_in_view(window: MainWindow, demo_path: Path) -> None:
    opened(window, demo_path)
    QTest.keySequence(window, "F1")
    assert window.guide.isVisible() and window.guide.text == "Shapiro–Wilk"
    window.acting.show_stage(STAGES.index("Relations"))
    rest(window)
    window.acting.ask_guide()
    assert window.guide.text == "Pearson"
    window.guide.search.setText("medcouple")
    shown = [k for k in range(window.guide.list.count()) if not window.guide.list.item(k).isHidden()]
    assert 1 < len(shown) < 6
    window.guide.close()


def test_a_fault_in_a_job_is_said_and_logged(window: MainWindow, caplog: pytest.LogCaptureFixture) -> None:
    window.jobs.start("broken", lambda progress: 1 / 0, lambda outcome: None)
    assert wait_until(lambda: "fault" in window.text, 5)
    assert "ZeroDivisionError" in caplog.text


@EITHER_WAY
def test_bins_are_dragged_by_their_edges(window: MainWindow, demo_path: Path, upright: bool) -> None:
    bench, study = opened(window, demo_path, upright=upright)
    analysis = bench.hub.analysis
    assert analysis is not None and analysis.histogram is not None
    first, width = float(analysis.histogram.edges[0]), analysis.histogram.width
    far = first + 30 * width
    # The thirtieth edge is drawn out to where the sixtieth was: bins of twice the width from the same start.
    drag(bench, at(bench, HistogramLane, far, 0), at(bench, HistogramLane, first + 60 * width, 0))
    rest(window)
    chosen = study.settings.of("length_mm")
    assert chosen.bin_width == pytest.approx(2 * width, rel=0.03) and chosen.bin_start == first
    assert len(f"{chosen.bin_width:g}") <= 6 and bench.shape.stage.bin_width.text() == f"{chosen.bin_width:g}"
    bars = bench.hub.analysis.histogram  # type: ignore[union-attr]
    assert bars is not None and bars.width == pytest.approx(chosen.bin_width) and bars.edges[0] == first
    assert bars.below == bars.above == 0 and not study.selection
    # The first edge moves the start; nothing is left below it.
    start = at(bench, HistogramLane, first, 0)
    drag(bench, start, at(bench, HistogramLane, first - 0.7 * bars.width, 0))
    rest(window)
    moved = bench.hub.analysis.histogram  # type: ignore[union-attr]
    assert moved is not None and moved.edges[0] < first and moved.width == pytest.approx(bars.width)
    assert moved.counts.sum() == analysis.sample.n
    # Elsewhere in the lane a drag selects values, as before.
    drag(bench, at(bench, HistogramLane, 390, 60), at(bench, HistogramLane, 420, 60))
    assert study.selection
    bench.shape.stage.rule.setCurrentIndex(1)
    bench.shape.stage.rule.activated.emit(1)
    assert study.settings.of("length_mm").bin_width is None and study.settings.of("length_mm").bin_start is None


def test_the_wheel_with_ctrl_makes_bins_wider(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Shape"))
    rest(window)
    view = bench.shape.stage.canvas.viewport()
    position = QPointF(at(bench, HistogramLane, 210, 50))
    wheel = QWheelEvent(
        position, QPointF(view.mapToGlobal(position.toPoint())), QPoint(), QPoint(0, 120), Qt.MouseButton.NoButton,
        Qt.KeyboardModifier.ControlModifier, Qt.ScrollPhase.NoScrollPhase, False,
    )  # fmt: skip
    QApplication.sendEvent(view, wheel)
    rest(window)
    assert study.settings.of("length_mm").bin_width == 10.0


def test_lanes_are_chosen_put_in_order_and_remembered(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Shape"))
    rest(window)
    shape = bench.shape.stage
    ticks = {shape.lanes.list.item(row).text(): shape.lanes.list.item(row) for row in range(len(LANES))}  # type: ignore[union-attr]
    for name in ("Q-Q", "box"):
        ticks[name].setCheckState(Qt.CheckState.Unchecked)  # type: ignore[union-attr]
    for name in ("points", "cumulative"):
        ticks[name].setCheckState(Qt.CheckState.Checked)  # type: ignore[union-attr]
    assert shape.stack.names == ["histogram", "spans", "points", "cumulative"]
    shape.probe.move(213.3)
    cumulative = shape.stack.lane(CumulativeLane)
    x = bench.hub.analysis.sample.sorted  # type: ignore[union-attr]
    assert cumulative.reading(213.3).startswith(f"{100 * (x <= 213.3).mean():.1f} % of")
    assert cumulative.reading(x[0] - 1).startswith("0.0 %") and cumulative.reading(x[-1]).startswith("100.0 %")
    assert all(lane.geometry().height() > 60 for lane in shape.stack.lanes)
    ranges = [lane.view_box.viewRange()[0] for lane in shape.stack.lanes]
    assert all(found == pytest.approx(ranges[0]) for found in ranges)
    points = shape.stack.lane(PointsLane)
    row = int(np.flatnonzero(study.table["length_mm"].sample.values == 412.0)[0])
    click(bench, at(bench, PointsLane, 412.0, float(stagger(np.array([row]))[0])))
    assert study.selection.rows.tolist() == [row] and points.selected.x.tolist() == [412.0]
    for item in ticks.values():
        item.setCheckState(Qt.CheckState.Unchecked)  # type: ignore[union-attr]
    assert len(shape.stack.names) == 1 and "At least one lane" in window.text
    shape.stack.choose(["spans", "histogram"])
    window.opening.open_path(demo_path)
    assert wait_until(lambda: window.bench is not bench and window.jobs.at_rest, 30)
    assert window.bench is not None and window.bench.shape.stage.stack.names == ["spans", "histogram"]
