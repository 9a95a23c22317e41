"""Pictures: what is drawn stands where the numbers say, in the window's lanes and in files."""

import re
import xml.etree.ElementTree as ET
from itertools import pairwise
from pathlib import Path

import numpy as np
import polars as pl
import pyqtgraph as pg
import pytest
from hypothesis import given
from hypothesis import strategies as st
from pytestqt.qtbot import QtBot

from culvix.charts.axes.value_axis import ValueAxis
from culvix.charts.export.picture_export import LaneDrawing, lanes_view, pair_svg, render_svg, shape_svg
from culvix.charts.items.row_markers import halo, stagger
from culvix.charts.items.sparkline import sparkline_of
from culvix.charts.lanes.box_lane import BoxLane
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.lanes.lane import axis_text, cut_line, round_top, wrapped
from culvix.charts.lanes.qq_lane import QQLane
from culvix.charts.lanes.span_lane import SpanLane
from culvix.charts.lanes.stack import LANES, LaneStack
from culvix.charts.palette import LIGHT
from culvix.charts.plots.scatter import PairPlot
from culvix.study import DecisionKind, Study
from culvix.study.document.choices.picture_style import PictureStyle
from culvix.study.document.choices.settings import ColumnSettings, replaced
from culvix.study.pictures.column_pictures import ShapePicture, shape_picture
from culvix.study.pictures.pair_pictures import PairPicture, pair_picture
from culvix.study.relations.pair_analysis import analyse_pair
from culvix.tables import read_table

LENGTH, FORK = PAIR = "length_mm", "fork_length_mm"
NOTHING = np.zeros(0, dtype=np.int64)


@pytest.fixture
def stack(qtbot: QtBot) -> LaneStack:
    view = pg.GraphicsLayoutWidget()
    qtbot.addWidget(view)
    view.resize(800, 600)
    made = LaneStack(view.ci)
    made.view = view  # the widget lives as long as the stack
    view.show()
    return made


def picture_of(study: Study, column: str, selected: np.ndarray = NOTHING) -> ShapePicture:
    return shape_picture(study.workspace.analysis(column), study.working, selected, study.settings)


def pair_of(study: Study, most: int = 4000) -> PairPicture:
    pair = analyse_pair(study.workspace.analysis(LENGTH), study.workspace.analysis(FORK))
    return pair_picture(pair, np.array([3, 9]), most=most)


def test_every_lane_shares_the_value_axis(stack: LaneStack, study: Study) -> None:
    stack.show_picture(picture_of(study, LENGTH), refit=True)
    ranges = [lane.view_box.viewRange()[0] for lane in stack.lanes]
    assert all(r == pytest.approx(ranges[0], abs=1e-6) for r in ranges)
    low, high = stack.picture.extent
    assert ranges[0][0] < low < high < ranges[0][1] and ranges[0][0] > 0, "the axis is fitted to the data, not to zero"
    stack.lanes[2].view_box.setXRange(100, 200, padding=0)
    assert stack.lanes[0].view_box.viewRange()[0] == pytest.approx([100, 200], abs=1e-6)
    positions = [lane.scene_position(150.0, 0.0).x() for lane in stack.lanes]
    assert max(positions) - min(positions) < 1, "the same value stands at the same place in every lane"
    stack.fit()
    assert stack.lanes[0].view_box.viewRange()[0] == pytest.approx(ranges[0])


def test_upright_the_same_value_stands_equally_high_in_every_lane(stack: LaneStack, study: Study) -> None:
    stack.choose(list(LANES))
    stack.show_picture(picture_of(study, LENGTH), refit=True)
    seen, kept = stack.lanes[0].view_box.viewRange()[0], list(stack.lanes)
    study.change_settings(replaced(study.settings, upright=True))
    stack.show_picture(picture_of(study, LENGTH), refit=False)
    assert stack.names == list(LANES) and stack.upright and not set(stack.lanes) & set(kept)
    assert stack.lanes[0].view_box.viewRange()[0] == pytest.approx(seen), "what is in view stays in view"
    for value in (50.0, 150.0, 400.0):
        positions = [lane.scene_position(value, 0.0).y() for lane in stack.lanes]
        assert max(positions) - min(positions) < 1
    for before, lane in pairwise(stack.lanes):
        assert before.sceneBoundingRect().right() <= lane.sceneBoundingRect().left() + 1
    for lane in stack.lanes:
        low, high = lane.view_box.viewRange()[1]
        here, dearer, higher = (lane.scene_position(*at) for at in ((200.0, low), (210.0, low), (200.0, high)))
        assert dearer.y() < here.y() and dearer.x() == pytest.approx(here.x())
        assert higher.x() > here.x() + 10 and higher.y() == pytest.approx(here.y())
        # A pixel is as much as it is on the screen, along either axis.
        by_value, by_height = lane.view_box.viewPixelSize()
        assert (here.y() - dearer.y()) * by_value == pytest.approx(10.0)
        assert (higher.x() - here.x()) * by_height == pytest.approx(high - low)
        back = lane.view_box.mapSceneToView(higher)
        assert (back.x(), back.y()) == pytest.approx((200.0, high))
    shown = stack.bearer.value_axis
    assert stack.bearer is stack.lanes[0] and shown.range == pytest.approx(seen) and "length" in shown.labelText
    study.change_settings(replaced(study.settings, upright=False))
    stack.show_picture(picture_of(study, LENGTH), refit=False)
    assert stack.lanes == kept, "the way back is short"


@given(st.floats(-1e9, 1e9), st.floats(1e-6, 1e9), st.integers(20, 400))
def test_numbers_under_a_narrow_lane_have_room_beside_each_other(low: float, reach: float, size: int) -> None:
    axis = ValueAxis("bottom", upright=True)
    high = low + reach
    if high - low < 1e-9 * max(abs(low), 1.0):
        return
    (step, values), *_ = axis.tickValues(low, high, size)
    wide = [axis.text_width(text) for text in axis.tickStrings(values, 1.0, step)]
    positions = [(value - low) / (high - low) * size for value in values]
    for (left, right), (one, other) in zip(pairwise(positions), pairwise(wide), strict=True):
        assert right - left >= (one + other) / 2, "no number runs into the next"
    assert all(abs(value / step - round(value / step)) < 1e-6 for value in values), "at multiples of the step"


@given(st.text(max_size=80), st.integers(1, 4), st.integers(1, 40))
def test_words_are_broken_into_lines_that_fit(message: str, most: int, room: int) -> None:
    lines = wrapped(message, most, lambda line: len(line) <= room)
    assert 1 <= len(lines) <= most and all(len(line) <= room for line in lines)
    told = " ".join(filter(None, message.split(" ")))
    if " ".join(lines) != told:
        assert any(line.endswith("…") for line in lines)
        assert told.startswith(lines[0].removesuffix("…"))
    if len(told) <= room:
        assert lines == [told]


def test_the_axis_stays_when_a_decision_is_made(stack: LaneStack, study: Study) -> None:
    stack.show_picture(picture_of(study, LENGTH), refit=True)
    before = stack.lanes[0].view_box.viewRange()[0]
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, study.workspace.analysis(LENGTH).flags.most)
    stack.show_picture(picture_of(study, LENGTH), refit=False)
    assert stack.lanes[0].view_box.viewRange()[0] == before
    stack.fit()
    assert stack.lanes[0].view_box.viewRange()[0][0] > 100


@pytest.mark.parametrize(("scale", "total"), [("counts", 2174), ("percent", 100), ("density", 0.2)])
def test_bars_say_what_their_scale_means(stack: LaneStack, study: Study, scale: str, total: float) -> None:
    chosen = study.settings.of(LENGTH)
    study.change_settings(study.settings.with_column(LENGTH, type(chosen)(scale=scale)))
    picture = picture_of(study, LENGTH)
    stack.show_picture(picture, refit=True)
    lane = stack.lane(HistogramLane)
    assert lane.bars.opts["height"].sum() == pytest.approx(total)
    assert scale != "counts" or picture.axis_of_bars == "rows per 5 mm"
    x, y = lane.curve.getData()
    area = float(np.sum((y[1:] + y[:-1]) / 2 * np.diff(x))) / (picture.histogram.width * lane.bars.opts["height"].sum())
    assert area == pytest.approx(1, abs=0.01), "curve and bars cover the same area"


def test_the_box_lane_marks_each_state_by_its_own_shape(stack: LaneStack, study: Study) -> None:
    flagged = study.workspace.analysis(LENGTH).flags.rows
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, flagged[:2])
    study.decide(DecisionKind.CORRECT, LENGTH, flagged[2:3], factor=10)
    stack.show_picture(picture_of(study, LENGTH, flagged[3:5]), refit=True)
    lane = stack.lane(BoxLane)

    def rows(item: object) -> list[int]:
        return sorted(item.rows.tolist())

    assert rows(lane.excluded) == flagged[:2].tolist() and rows(lane.corrected) == [flagged[2]]
    assert rows(lane.flagged) == sorted(flagged[3:].tolist()) and rows(lane.selected) == sorted(flagged[3:5].tolist())
    old, new = lane.moves.getData()[0]
    assert new == pytest.approx(10 * old)
    widths = {pen.widthF() for _, _, pen, _ in lane.flagged.styles}
    assert len(widths) > 1, "rings are heavier with each method that agrees"
    assert halo(3)["size"] > halo(500)["size"]


def test_the_qq_lane_runs_through_the_points(stack: LaneStack, study: Study) -> None:
    picture = picture_of(study, FORK)
    stack.show_picture(picture, refit=True)
    lane = stack.lane(QQLane)
    drawn = np.concatenate([item.x for item in (lane.points, lane.flagged)])
    assert sorted(drawn) == pytest.approx(sorted(picture.qq.value))
    (x0, x1), (z0, z1) = lane.line.getData()
    mean, sd = picture.reference
    assert ((x0 + x1) / 2, (x1 - x0) / (z1 - z0)) == pytest.approx((mean, sd))
    inside = (picture.qq.value >= picture.qq.low) & (picture.qq.value <= picture.qq.high)
    assert inside.mean() > 0.85, "a nearly normal column stays in its band"


def test_the_span_lane_shows_spans_or_says_why_not(stack: LaneStack, study: Study) -> None:
    study.change_settings(study.settings.with_methods(["iqr_fences", "grubbs", "dixon"]))
    picture = picture_of(study, LENGTH)
    stack.show_picture(picture, refit=True)
    lane = stack.lane(SpanLane)
    result = study.workspace.analysis(LENGTH).flags.results["iqr_fences"]
    assert (lane.spans.opts["x0"], lane.spans.opts["x1"]) == ([result.lower], [result.upper])
    assert [item.toPlainText() for item, _ in lane.notes] == [
        "Made for 3 to 30 values; n is 2174.",
        "z 7.241, critical 4.225, p < 0.001: 0 below, 1 above",
    ]
    fences = len(picture.spans) - 1
    assert lane.interval_at(result.upper + 1, fences) == (np.nextafter(result.upper, np.inf), np.inf)
    assert lane.interval_at((result.lower + result.upper) / 2, fences) is None
    assert "outside fences" in lane.reading(result.upper + 1) and "inside all" in lane.reading(result.upper - 1)


def test_a_click_on_a_bar_means_its_values_under_either_edge_convention(stack: LaneStack, study: Study) -> None:
    lane = stack.lane(HistogramLane)
    for closed in ("left", "right"):
        study.change_settings(type(study.settings)(closed=closed))
        picture = picture_of(study, LENGTH)
        stack.show_picture(picture, refit=True)
        bars = picture.histogram
        position = int(np.argmax(bars.counts))
        low, high = lane.interval_at(float(bars.edges[position : position + 2].mean()), bars.counts[position] / 2)
        values = study.table[LENGTH].sample.sorted
        assert ((values >= low) & (values <= high)).sum() == bars.counts[position]
        assert lane.interval_at(float(bars.edges[position]) + 0.1, bars.counts[position] * 2) is None


def test_columns_without_a_picture_say_so(stack: LaneStack, study: Study) -> None:
    study.decide(DecisionKind.EXCLUDE_ROW, LENGTH, range(study.table.rows))
    stack.show_picture(picture_of(study, LENGTH), refit=True)
    assert all(lane._note.text for lane in stack.lanes[:3])
    assert sparkline_of(study.workspace.analysis(LENGTH)) is None
    stack.show_picture(picture_of(study, "vaccinated"), refit=True)
    assert stack.lane(HistogramLane).reading(1.0) == "", "no row is in use, so the probe reads nothing"


def test_strips_keep_the_shape(study: Study) -> None:
    strip = sparkline_of(study.workspace.analysis(LENGTH))
    assert strip.heights.max() == 1 and strip.heights.size <= 40
    assert list(strip.box) == sorted(strip.box) and all(0 <= position <= 1 for position in strip.box)
    assert strip.far.size and strip.far.min() >= 0 and strip.far.max() <= 1


def numbers(svg: str) -> int:
    return svg.count("<use ") + svg.count("<path") + svg.count("<rect")


def test_files_are_small_well_formed_vectors_with_words(qtbot: QtBot, study: Study) -> None:
    shape = shape_svg(shape_picture(study.workspace.analysis(LENGTH), study.working, NOTHING, qq_points=300))
    pair = pair_svg(pair_of(study, most=800))
    for svg, message in (
        (shape, ("length (mm)", "rows per 5 mm", "normal quantile")),
        (pair, ("length (mm)", "fork length (mm)")),
    ):
        root = ET.fromstring(svg)
        assert root.tag.endswith("svg") and len(svg) < 400_000 and numbers(svg) > 100
        texts = {"".join(element.itertext()).strip() for element in root.iter() if element.tag.endswith("text")}
        assert set(message) <= texts
        assert "NaN" not in svg and "nan" not in svg and "Sans Serif" not in svg
        # What is used is there once, and what occurs often is used.
        shapes = {element.get("id") for element in root.iter() if element.get("id")}
        used = [e.get("{http://www.w3.org/1999/xlink}href")[1:] for e in root.iter() if e.tag.endswith("use")]
        assert set(used) <= shapes and len(used) > 10 * len(set(used)) > 0


def test_a_picture_is_the_same_whatever_was_drawn_before_it_in_the_same_view(qtbot: QtBot, study: Study) -> None:
    analyses = [study.workspace.analysis(column.name) for column in study.table.numeric]
    pictures = [shape_picture(analysis, study.working, NOTHING, study.settings) for analysis in analyses]
    study.change_settings(study.settings.with_column(LENGTH, ColumnSettings(axis_scale="log")))
    study.change_settings(replaced(study.settings, picture_style=PictureStyle(palette="greys", grid=True)))
    pictures += [shape_picture(study.workspace.analysis(LENGTH), study.working, np.arange(9), study.settings)]
    study.change_settings(replaced(study.settings, picture_style=PictureStyle(), upright=True))
    pictures += [shape_picture(study.workspace.analysis(name), study.working, NOTHING, study.settings) for name in PAIR]
    alone = [shape_svg(picture, 500, 300) for picture in pictures]
    assert len(set(alone)) == len(pictures)
    drawing = LaneDrawing()
    order = np.random.default_rng(3).permutation(2 * len(pictures)) % len(pictures)
    for place in order:
        assert drawing.svg(pictures[place], 500, 300) == alone[place]


def test_a_file_far_from_zero_is_that_of_the_same_values_near_it(qtbot: QtBot, tmp_path: Path) -> None:
    """Files have few digits; what is drawn lies where it does without the offset, to a fraction of a pixel."""
    near = np.random.default_rng(2).normal(0, 1, 800).round(3)
    positions = []
    for offset in (0, 100_000_000):
        pl.DataFrame({"x": near + offset}).write_csv(tmp_path / f"{offset}.csv", float_precision=3)
        study = Study.of_table(read_table(tmp_path / f"{offset}.csv"))
        lanes = ["histogram", "density", "box", "Q-Q", "cumulative", "spans"]
        root = ET.fromstring(render_svg(lanes_view(picture_of(study, "x"), 600, 450, lanes=lanes), 600, 450))
        bars = [
            [float(e.get(key)) for key in ("x", "y", "width", "height")] for e in root.iter() if e.tag[-4:] == "rect"
        ]
        curves = [e.get("d") for e in root.iter() if e.tag.endswith("path") and len(e.get("d")) > 600]
        points = [np.array([pair.split(",") for pair in re.findall(r"[-.\d]+,[-.\d]+", d)], float) for d in curves]
        positions.append((np.array(bars), points))
    (bars, curves), (far_bars, far_curves) = positions
    assert bars.shape == far_bars.shape and len(bars) > 20 and np.abs(bars - far_bars).max() < 0.6
    assert len(curves) == len(far_curves) >= 4
    for one, other in zip(curves, far_curves, strict=True):
        for corner in (one.min(axis=0) - other.min(axis=0), one.max(axis=0) - other.max(axis=0)):
            assert np.abs(corner).max() < 1.0
        assert np.unique(other[:, 0]).size > 20, "a curve, and no steps"


def test_no_picture_of_a_long_column_is_large(qtbot: QtBot, tmp_path: Path) -> None:
    """All lanes at once, of a column with far more flagged values than can be told apart."""
    values = np.random.default_rng(5).standard_t(3, 200_000).round(4)
    pl.DataFrame({"heavy": values}).write_csv(tmp_path / "long.csv")
    study = Study.of_table(read_table(tmp_path / "long.csv"))
    picture = picture_of(study, "heavy")
    view = lanes_view(picture, 600, 450, lanes=list(LANES))
    svg = render_svg(view, 600, 450)
    assert ET.fromstring(svg).tag.endswith("svg") and 50_000 < len(svg) < 1_000_000
    flagged = study.workspace.analysis("heavy").flags.rows
    assert flagged.size > 4000 and f'stroke="{LIGHT.flagged.lower()}"' in svg
    assert svg.count("<rect") < picture.histogram.counts.size, "empty bins are not drawn"


def test_pairs_mark_flagged_and_selected_rows(qtbot: QtBot, study: Study) -> None:
    pair = pair_of(study)
    plot = PairPlot()
    plot.show_pair(pair, refit=True)
    flagged = np.union1d(*(study.workspace.analysis(name).flags.rows for name in (LENGTH, FORK)))
    assert set(plot.flagged.rows) <= set(flagged.tolist()) and set(study.workspace.analysis(LENGTH).flags.rows) <= set(
        plot.flagged.rows
    )
    assert sorted(plot.selected.rows) == [3, 9]
    assert plot.points.rows.size + plot.flagged.rows.size == 2174
    ends = plot.line.getData()
    assert np.polyfit(*ends, 1) == pytest.approx([pair.line.slope, pair.line.intercept])
    assert pair_of(study, most=100).points.rows.size == 100


def test_small_helpers() -> None:
    assert cut_line(1.0, 0.0, (-5, 5), (-2, 3)) == ([-2.0, 3.0], [-2.0, 3.0])
    assert cut_line(0.0, 1.0, (-5, 5), (-2, 3)) == ([-5, 5], [1.0, 1.0])
    assert cut_line(1.0, 100.0, (-5, 5), (-2, 3)) == ([], [])
    assert axis_text("<b>") == "&lt;b&gt;" and len(axis_text("x" * 300)) < 70
    assert [round_top(v) >= v for v in (0.003, 7, 99, 12345)] == [True] * 4
    spread = stagger(np.arange(1000))
    assert abs(spread.mean()) < 0.01 and np.abs(spread).max() <= 1 and np.unique(spread).size == 1000
