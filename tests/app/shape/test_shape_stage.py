"""The Shape stage by hand: everything that can be dragged, typed and picked there, read back from the study."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, QSettings, Qt, QTimer
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.charts.export.picture_files import PictureSize
from culvix.charts.lanes.box_lane import BoxLane
from culvix.charts.lanes.density_lane import DensityLane
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.lanes.qq_lane import QQLane
from culvix.charts.lanes.span_lane import SpanLane
from culvix.study.document.decisions import DecisionKind
from culvix.study.document.settings import ColumnSettings
from culvix.study.pictures.group_forms import FORMS
from tests.app.driving import EITHER_WAY, LEFT, at, drag, opened, press, rest, settled, words_of

LENGTH = "length_mm"


def type_into(field: object, text: str) -> None:
    field.setFocus()
    field.setText(text)
    QTest.keyClick(field, Qt.Key.Key_Return)


@EITHER_WAY
def test_the_bandwidth_is_dragged_by_the_side_of_the_kernel(window: MainWindow, demo_path: Path, upright: bool) -> None:
    bench, study = opened(window, demo_path, upright=upright)
    bench.shape.stage.stack.choose(["density", "box"])
    settled(window)
    lane, curve = bench.shape.stage.stack.lane(DensityLane), bench.hub.analysis.density
    side = float(lane.sides.getData()[1][0])
    start = at(bench, DensityLane, lane.centre + curve.bandwidth, side)
    drag(bench, start, at(bench, DensityLane, lane.centre + 20.0, side))
    settled(window)
    chosen = study.settings.of(LENGTH).bandwidth
    assert chosen == pytest.approx(20.0, abs=1.5) and len(f"{chosen:g}") <= 5, "a round number"
    assert bench.hub.analysis.density.bandwidth == pytest.approx(chosen)
    assert bench.shape.stage.adjust_pane.bandwidth.text() == f"{chosen:g}"
    QTest.keySequence(window, "Ctrl+Z")
    settled(window)
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
        settled(window)
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
    settled(window)
    drag(bench, at(bench, SpanLane, 100.0, 0), at(bench, SpanLane, 150.0, 0))
    settled(window)
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
    settled(window)
    before, after = shown[0], [lane.pixels[1] for lane in shape.stack.lanes]
    assert after[1] > before[1] + 10 and after[0] < before[0] and sum(after) == pytest.approx(sum(before), abs=3)
    # At an end, and without a tick, nothing happens.
    keys.setCurrentRow(0)
    QTest.keyClick(keys, Qt.Key.Key_Up, ctrl)
    keys.setCurrentRow(keys.count() - 1)
    QTest.keyClick(keys, Qt.Key.Key_Down, ctrl)
    QTest.keyClick(keys, "-")
    assert shape.stack.names == ["box", "histogram", "spans"]


@EITHER_WAY
def test_two_probes_tell_what_lies_between_them(window: MainWindow, demo_path: Path, upright: bool) -> None:
    bench, _ = opened(window, demo_path, upright=upright)
    shape, sample = bench.shape.stage, bench.hub.analysis.sample
    shape.set_probe(200.0)
    QTest.keySequence(window, "B")
    assert shape.pin_value == 200.0
    shape.set_probe(240.0)
    drag(bench, at(bench, QQLane, 200.0, -2), at(bench, QQLane, 180.0, -2))
    assert shape.pin_value == pytest.approx(180.0, abs=1.5) and shape.probe_value == 240.0
    x = sample.sorted
    inside = int(((x >= shape.pin_value) & (x <= 240.0)).sum())
    assert f"{inside:,}".replace(",", "\u202f") + " rows" in shape.probe_bar.between.text()
    shape.probe_bar.copy()
    assert "value\t240.0" in QApplication.clipboard().text() and "rows" in QApplication.clipboard().text()
    QTest.keySequence(window, "B")
    assert shape.pin_value is None and not shape.probe_bar.between.isVisible()


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
        type_into(shape.probe_bar.fields[name], text)
        assert shape.probe_value == pytest.approx(value), name
    for name, text in (("rank", "2.5"), ("rank", "99999"), ("percentile", "101"), ("normal expects", "0"), ("z", "x")):
        before = shape.probe_value
        type_into(shape.probe_bar.fields[name], text)
        assert window.text and shape.probe_value == before
        window.banner.hide()


def test_bins_typed_end_in_open_bins_and_the_table_adds_up(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    QTest.keySequence(window, "A")
    pane, n = bench.shape.stage.adjust_pane, bench.hub.analysis.sample.n
    assert pane.isVisible()
    type_into(pane.start, "150")
    settled(window)
    type_into(pane.end, "300")
    settled(window)
    type_into(pane.count, "6")
    settled(window)
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
    settled(window)
    assert study.settings.closed == "right" and bench.hub.analysis.histogram.closed == "right"


def test_the_box_is_drawn_as_asked_and_tells_its_numbers(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    lane, pane = bench.shape.stage.stack.lane(BoxLane), bench.shape.stage.adjust_pane
    pane.notch.click()
    pane.box_points.click()
    pane.whiskers.setCurrentIndex(1)
    pane.whiskers.activated.emit(1)
    settled(window)
    x, box = bench.hub.analysis.sample.sorted, lane.picture.box
    assert (box.low, box.high) == (x[0], x[-1]) and box.notch == bench.hub.analysis.description.ci_median
    assert lane.points.isVisible() and lane.points.rows.size > 2000
    pane.box_points.click()
    settled(window)
    lane.view_box.hovered.emit((box.q1 + 1, 0.0))
    assert "Q1 194.30" in lane.said and "median's interval" in lane.said
    lane.view_box.hovered.emit((float(lane.flagged.x[0]), float(lane.flagged.y[0])))
    row = int(lane.flagged.rows[0])
    assert study.table["tag"].cell(row) in lane.said
    bench.hub.set_focus("mass_g")
    settled(window)
    across = lane.view_box.viewRange()[0]
    held = lane.flagged.boundingRect()
    assert (held.left(), held.right()) == pytest.approx(across), "marks are painted wherever the axis has moved"
    bench.hub.set_focus(LENGTH)
    settled(window)
    lane.view_box.hovered.emit(None)
    assert "whiskers: smallest and largest value" in lane.said


def test_settings_are_undone_and_redone_with_decisions(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    type_into(bench.shape.stage.bin_width, "10")
    settled(window)
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [77])
    settled(window)
    assert "exclude" in window.undo_action.text()
    QTest.keySequence(window, "Ctrl+Z")
    QTest.keySequence(window, "Ctrl+Z")
    settled(window)
    assert not study.decisions and study.settings.of(LENGTH).bin_width is None
    assert (
        bench.shape.stage.bin_width.text() == ""
        and "the bin width of length_mm by the rule → 10" in window.redo_action.text()
    )
    QTest.keySequence(window, "Ctrl+Y")
    settled(window)
    assert study.settings.of(LENGTH).bin_width == 10 and bench.hub.analysis.histogram.width == 10


def shown_view(window: MainWindow, bench: Workbench, key: str) -> None:
    QTest.keySequence(window, key)
    settled(window)


def test_groups_stand_on_one_axis_and_two_are_compared(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    bench.hub.set_focus("swim_cm_s")
    shown_view(window, bench, "Alt+3")
    view = bench.shape.stage.views.groups
    view.choose("strain")
    settled(window)
    strain, x = study.table["strain"].text.to_numpy(), study.table["swim_cm_s"].sample.values
    assert view.chart.names == ["lake", "river"]
    edges = view.split.form.bars.edges
    for group in view.split.groups:
        own = x[(strain == group.name) & np.isfinite(x)]
        assert group.sample.n == own.size and group.description.median == pytest.approx(np.median(own))
        assert view.split.rest(group.name) == pytest.approx(
            np.histogram(x[(strain != group.name)], edges)[0] / (strain != group.name).sum(),
            abs=2e-3,
        )
    view.order.setCurrentText("median")
    view.order.activated.emit(1)
    assert view.chart.names == ["river", "lake"], "the highest first"
    view.one.setCurrentText("river")
    view.other.setCurrentText("lake")
    view.other.activated.emit(1)
    assert "river less lake: mean +" in view.about.text()
    river = view.split.group("river")
    for form in ("density", "dots", "cumulative", "qq"):
        view.form.setCurrentText(FORMS[form])
        view.form.activated.emit(view.form.currentIndex())
        settled(window)
        top, below = view.chart.shown[0]
        assert view.split.form.key == form and (top.name, below.name) == ("river", "lake")
        assert view.split.group("river").sample.n == river.sample.n and not top.heights.size
        # Dots cannot be outlined; in every other form the other group's line runs over this one's.
        assert (top.ghost is None) == (form == "dots") and top.filled == (form == "density")
        assert (view.chart.points.x.size > 0) == (form in ("dots", "qq"))
        assert (top.normal is not None) == (form == "qq")
    view.form.setCurrentIndex(0)
    view.form.activated.emit(0)
    settled(window)
    view.chart.clicked.emit(0, 50.0)
    rows = study.selection.rows
    position = int(np.searchsorted(edges, 50.0, side="right")) - 1
    assert (
        rows.tolist()
        == np.flatnonzero((strain == "river") & (x >= edges[position]) & (x < edges[position + 1])).tolist()
    )
    bench.hub.set_focus("mass_g")
    settled(window)
    assert view.split.column == "mass_g" and view.split.by == "strain"
    # What arrives for a column that is looked at no more is not drawn under the name of the next.
    for name in ("swim_cm_s", "tank", "feed_ratio"):
        bench.hub.set_focus(name)
    settled(window)
    assert view.split.column == "feed_ratio" and "feed" in view.chart.plot.axis("bottom").labelText


def test_another_scale_stands_beside_and_becomes_a_column_that_follows(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    bench.hub.set_focus("mass_g")
    shown_view(window, bench, "Alt+2")
    view = bench.shape.stage.views.rescaled
    view.scale.setCurrentIndex(1)
    view.scale.activated.emit(1)
    settled(window)
    assert study.settings.of("mass_g").axis == "log10" and "Skewness +8.92 → −0.18" in view.about.text()
    view.stacks[0].probe_moved.emit(100.0)
    assert view.stacks[1].lanes[0].probe.value() == pytest.approx(2.0, abs=0.01)
    press(window, "Adopt as new column")
    settled(window)
    name = "log10_mass_g"
    assert bench.hub.focus == name and study.table[name].sample.n == study.table["mass_g"].sample.n
    assert bench.shape.stage.views.view == "One column" and bench.shape.stage.stack.picture.title == "log10 mass_g"
    assert name in [column.name for column in bench.rail.model.columns]
    study.decide(DecisionKind.EXCLUDE_VALUE, "mass_g", [10])
    study.decide(DecisionKind.CORRECT, "mass_g", [11], value=1000.0)
    settled(window)
    values = study.working.sample(study.table[name]).values
    assert np.isnan(values[10]) and values[11] == pytest.approx(3.0)
    assert bench.hub.analysis.sample.values[11] == pytest.approx(3.0)
    for _ in range(3):
        QTest.keySequence(window, "Ctrl+Z")
    settled(window)
    assert name not in study.table and bench.hub.focus in study.table
    QTest.keySequence(window, "Ctrl+Y")
    settled(window)
    assert name in study.table
    shown_view(window, bench, "Alt+2")
    bench.hub.set_focus("parasite_count")
    settled(window)
    assert "above 0" in view.about.text() and not view.adopt.isEnabled(), "counts of 0 have no logarithm"


def test_the_real_picture_is_picked_from_a_line_up(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    bench.hub.set_focus("swim_cm_s")
    shown_view(window, bench, "Alt+5")
    view = bench.shape.stage.views.lineup
    lineup = view.chart.lineup
    assert lineup is not None and lineup.n == 2180 and view.chart.pick is None
    # Neither the rail nor the margin tells which one it is, as long as it can still be picked.
    assert bench.hub.veiled == "swim_cm_s" and bench.shape.margin.summary.isHidden()
    shown_view(window, bench, "Alt+1")
    assert bench.hub.veiled is None and not bench.shape.margin.summary.isHidden()
    shown_view(window, bench, "Alt+5")
    assert bench.hub.veiled == "swim_cm_s"
    QTest.mouseClick(
        view.chart, LEFT, Qt.KeyboardModifier.NoModifier, view.chart.panel(lineup.position).center().toPoint()
    )
    (pick,) = study.workspace.picks_of("swim_cm_s")
    assert pick.right and "p = 0.05" in view.about.text() and pick.seed == lineup.seed
    settled(window)
    assert bench.hub.veiled is None and not bench.shape.margin.summary.isHidden()
    press(window, "Another line-up")
    settled(window)
    wrong = (view.chart.lineup.position + 1) % 20
    view.chart.setFocus()
    view.chart.pointed = 0
    for _ in range(wrong):
        QTest.keyClick(view.chart, Qt.Key.Key_Right)
    QTest.keyClick(view.chart, Qt.Key.Key_Return)
    assert [p.right for p in study.workspace.picks_of("swim_cm_s")] == [True, False] and "p = 1" in view.about.text()
    QTest.keyClick(view.chart, Qt.Key.Key_Return)
    assert len(study.document.picks) == 2, "once told, nothing more can be picked"
    bench.shape.margin.apply_pending()
    assert "Line-up" in words_of(bench.shape.margin.normality)


def test_several_columns_are_put_on_one_axis(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    shown_view(window, bench, "Alt+4")
    pane = bench.shape.stage.views.several
    assert pane.chart.names[0] == LENGTH and len(pane.chart.names) > 5
    pane.axis.setCurrentIndex(2)
    settled(window)
    assert pane.chart.plot.axis("right").isVisible(), "each on its own axis says its ends"
    assert pane.chart.strips.boundingRect().left() == pytest.approx(0.0, abs=0.2)


@pytest.mark.parametrize("position", range(5))
def test_pictures_are_saved_as_large_as_said(
    window: MainWindow, demo_path: Path, tmp_path: Path, position: int
) -> None:
    bench, _ = opened(window, demo_path)
    bench.shape.stage.show_view(position)
    settled(window)
    button = bench.shape.stage.picture_button
    button.show_size(PictureSize(80, 60, "mm", 200))
    made = {}
    for form in ("PNG", "SVG", "PDF"):
        button.form.setCurrentText(form)
        button.save(tmp_path / f"picture.{form.lower()}")
        made[form] = (tmp_path / f"picture.{form.lower()}").read_bytes()
    image = QImage.fromData(made["PNG"])
    assert (image.width(), image.height()) == (630, 472) and image.dotsPerMeterX() == pytest.approx(200 / 0.0254, abs=1)
    shades = {image.pixel(x, y) for x in range(0, 630, 7) for y in range(0, 472, 7)}
    assert len(shades) > 8, "something is drawn"
    assert b'width="80mm" height="60mm"' in made["SVG"] and made["PDF"].startswith(b"%PDF")
    assert all(len(data) < 1_000_000 for data in made.values())
    button.copy()
    assert QApplication.clipboard().image().size() == image.size()


def test_a_picture_of_an_impossible_size_is_refused(window: MainWindow, demo_path: Path, tmp_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    button = bench.shape.stage.picture_button
    button.width_field.setValue(5000)
    button.save(tmp_path / "no.png")
    assert "The width of a picture lies between" in window.text and not (tmp_path / "no.png").exists()
    button.show_size(PictureSize())
    button.save(tmp_path / "missing" / "no.png")
    assert "cannot be written" in window.text
    bench.hub.set_focus("tank")
    settled(window)
    button.save(tmp_path / "no.png")
    assert "no picture" in window.text


def test_what_is_hidden_is_made_anew_when_it_is_shown(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    window.acting.show_stage(0)
    bench.hub.set_focus("mass_g")
    settled(window)
    assert "131.65" not in words_of(bench.shape.margin)
    window.acting.show_stage(2)
    assert wait_until(lambda: "131.65" in words_of(bench.shape.margin), 5)
    assert bench.shape.stage.canvas.line_at(QPointF(0, 5)) is None


def test_what_changed_while_a_stage_was_hidden_shows_in_it_afterwards(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)

    def listed(name: str) -> int:
        return next(row.analysis.description.n for row in bench.survey.stage.lines.rows if row.column.name == name)

    before = listed("swim_cm_s")
    study.decide(DecisionKind.EXCLUDE_ROW, LENGTH, range(100))
    bench.hub.set_focus("mass_g")
    settled(window)
    assert listed("swim_cm_s") == before, "a hidden list is not made anew with every decision"
    window.acting.show_stage(STAGES.index("Survey"))
    assert wait_until(lambda: window.jobs.at_rest and listed("swim_cm_s") == before - 100, 10)
    said = study.dictionary.of("mass_g")
    study.edit_column("mass_g", replace(said, unit="lb"))
    settled(window)
    window.acting.show_stage(STAGES.index("Intake"))
    settled(window)
    heads = bench.intake.stage.rows.heads
    chosen = {index.column() for index in bench.intake.stage.view.selectionModel().selectedColumns()}
    assert chosen == {heads.index("mass_g")}, "the column in focus is the one in hand"


def test_another_column_is_painted_after_it_was_drawn(window: MainWindow, demo_path: Path) -> None:
    """Both in one go would hold the window twice as long."""
    bench, _ = opened(window, demo_path)
    for name in ("mass_g", LENGTH):
        bench.hub.set_focus(name)
        settled(window)
    canvas = bench.shape.stage.canvas
    before = canvas.viewport().grab().toImage()
    bench.hub.set_focus("mass_g")
    assert bench.shape.stage.shown == "mass_g" and canvas.painting_owed, "drawn at once, not painted yet"
    assert wait_until(lambda: not canvas.painting_owed, 2, pause=1, still=1)
    assert canvas.viewport().grab().toImage() != before
    # A change of the same column is painted as it comes.
    bench.shape.stage.set_probe(100.0)
    assert not canvas.painting_owed
    # A stage that is shown again paints its lanes when the rest of it stands.
    window.acting.show_stage(STAGES.index("Survey"))
    window.acting.show_stage(STAGES.index("Shape"))
    assert canvas.painting_owed
    settled(window)
    assert not canvas.painting_owed


def test_views_are_as_large_as_each_other_and_turning_back_moves_nothing(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    before = bench.shape.stage.canvas.geometry()
    lanes = [lane.geometry() for lane in bench.shape.stage.stack.lanes]
    for key in ("Alt+2", "Alt+3", "Alt+4", "Alt+5"):
        shown_view(window, bench, key)
        assert not bench.shape.stage.canvas.isVisible() and not bench.shape.stage.probe_bar.isVisible()
    shown_view(window, bench, "Alt+1")
    assert bench.shape.stage.canvas.geometry() == before and bench.shape.stage.probe_bar.isVisible()
    assert [lane.geometry() for lane in bench.shape.stage.stack.lanes] == lanes
    bench.hub.set_focus("tank")
    settled(window)
    assert "no numbers" in words_of(bench.shape.stage) and not bench.shape.stage.canvas.isVisible()
    bench.hub.set_focus(LENGTH)
    settled(window)
    assert bench.shape.stage.canvas.isVisible()


def test_the_lanes_stand_before_the_tests_are_done(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    study.change_settings(study.settings.with_column("mass_g", ColumnSettings(bin_width=7.0)))
    hub, seen = bench.hub, []
    bench.shape.stage.lanes_shown.drawn.connect(lambda preview, _: seen.append((preview.column.name, hub.analysis)))
    hub.set_focus("mass_g")
    # What is wanted at leisure does not put off what is looked at.
    hub.request_analysis("mass_g", urgent=False)
    rest(window)
    assert seen == [("mass_g", None)]
    assert hub.analysis is not None and hub.preview is hub.analysis and bench.shape.stage.shown == "mass_g"
    assert hub.analysis.verdict.sentence == study.workspace.analysis("mass_g").verdict.sentence


def test_a_stage_is_made_when_it_is_asked_for(window: MainWindow, demo_path: Path) -> None:
    window.opening.open_path(demo_path)
    assert wait_until(lambda: window.bench is not None, 30, pause=1, still=1)
    bench = window.bench
    assert bench is not None and not bench.is_made("Relations")
    window.acting.show_stage(STAGES.index("Shape"))
    assert bench.shape.stage.isVisible()
    assert wait_until(bench.shape.margin.isVisible, 2, pause=1, still=1), "the margin follows at once"
    rest(window)
    assert bench.is_made("Relations") and bench.shape.stage.shown == bench.hub.focus
    assert bench.intake.margin.names == (bench.hub.focus,) and bench.intake.stage.rows.row_count() == 200


def test_several_columns_are_drawn_over_each_other(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    bench.shape.stage.show_view(3)
    settled(window)
    pane = bench.shape.stage.views.several
    pane.compare([LENGTH, "fork_length_mm", "fin_score"])
    settled(window)
    apart = pane.chart.strips.boundingRect()
    pane.form.setCurrentIndex(1)
    settled(window)
    over = pane.chart.strips.boundingRect()
    assert apart.bottom() > 2 and over.bottom() == pytest.approx(1.1) and over.top() < -0.4
    ticks = pane.chart.labels
    assert [name for _, name in ticks] == [LENGTH, "fork_length_mm", "fin_score"]
    assert [position for position, _ in ticks] == sorted((position for position, _ in ticks), reverse=True)
    strip = pane.chart.shown[0][0]
    peak = bench.hub.analysis.density.x[np.argmax(bench.hub.analysis.density.y)]
    d = bench.hub.analysis.description
    assert strip.curve[0][np.argmax(strip.curve[1])] == pytest.approx((peak - d.mean) / d.sd, abs=0.02)
    assert pane.chart.shown[0][2].curve is None and pane.maker() is not None
    # Values far from all curves are not in view, and are counted instead.
    low, high = pane.chart.plot.view_box.viewRange()[0]
    far = bench.hub.analysis.sample.values[bench.hub.analysis.flags.rows]
    beyond = np.unique((far[np.isfinite(far)] - d.mean) / d.sd)
    beyond = np.count_nonzero((beyond < low) | (beyond > high))
    assert beyond and dict(pane.chart.notes)[ticks[0][0]] == f"{beyond} beyond"
    bench.hub.set_focus("fork_length_mm")
    settled(window)
    assert pane.chart.names[0] == "fork_length_mm", "what is in focus lies above the others"
    again = pane.maker()(600, 400)
    assert again.names == pane.chart.names and again.strips.boundingRect() == over
