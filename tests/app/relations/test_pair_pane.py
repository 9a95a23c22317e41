"""The picture of a pair: its forms, its groups, what is drawn around, and what is told beside it."""

from itertools import pairwise
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from culvix.app.relations.pairs.pair_pane import PairPane
from culvix.app.relations.stage import RelationsStage
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.widgets.choice import Choice
from culvix.charts.export.picture_files import PictureSize, picture_image
from culvix.study import DecisionKind, Study
from culvix.study.document.choices.view import View
from culvix.study.relations.pair_forms import PAIR_FORMS
from tests.app.driving import LEFT, press, wait_until_idle, words_of

ACTIVITY, GROWTH = "activity_min_h", "growth_pct_day"
NONE, CONTROL = Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ControlModifier


@pytest.fixture
def window(qtbot: QtBot, relations_window: MainWindow) -> MainWindow:
    return relations_window


@pytest.fixture
def stage(window: MainWindow) -> RelationsStage:
    """The Relations with the pair of activity and growth, and nothing else chosen."""
    found: RelationsStage = window.bench.relations.stage
    study, usual = found.hub.study, View()
    names = ("pair_parts", "pair_form", "pair_by", "pair_groups", "pair_styles", "pair_controls")
    study.change_view(**{name: getattr(usual, name) for name in names})
    study.select([])
    found.pane.free.setChecked(False)
    found.show_view(1)
    found.choose(ACTIVITY, GROWTH)
    wait_until_idle(window)
    found.pane.canvas.plot.fit()
    return found


@pytest.fixture
def pane(stage: RelationsStage) -> PairPane:
    return stage.pane


@pytest.fixture
def study(pane: PairPane) -> Study:
    return pane.hub.study


def pick(window: MainWindow, box: Choice, words: str) -> None:
    """Choose ``words`` in a list."""
    box.setCurrentIndex(box.findText(words))
    box.activated.emit(box.currentIndex())
    wait_until_idle(window)


def where(pane: PairPane, x: float, y: float) -> QPoint:
    """Where a place of the scatter lies in the canvas."""
    at = pane.canvas.plot.view_box.mapViewToScene(QPointF(x, y))
    found: QPoint = pane.canvas.mapFromScene(at)
    return found


def trace(pane: PairPane, places: list[tuple[float, float]], keys: Qt.KeyboardModifier = NONE) -> None:
    """Press at the first of ``places`` in the scatter, move over the others, and let go."""
    view, points = pane.canvas.viewport(), [where(pane, *place) for place in places]
    QTest.mousePress(view, LEFT, keys, points[0])
    for start, end in pairwise(points):
        for step in range(1, 5):
            QTest.mouseMove(view, start + (end - start) * step / 4)
            QTest.qWait(12)
    QTest.mouseRelease(view, LEFT, keys, points[-1])
    assert wait_until(lambda: pane.hub.jobs.at_rest, 20)


def values(study: Study) -> tuple[np.ndarray, np.ndarray]:
    return study.table[ACTIVITY].values, study.table[GROWTH].values


def test_a_rectangle_drawn_over_the_points_selects_the_rows_within(pane: PairPane, study: Study) -> None:
    trace(pane, [(20, 1.2), (25, 1.6)])
    x, y = values(study)
    rows = study.selection.rows
    reach = [float(side) * 1.5 for side in pane.canvas.plot.view_box.viewPixelSize()]
    sure = (x > 20 + reach[0]) & (x < 25 - reach[0]) & (y > 1.2 + reach[1]) & (y < 1.6 - reach[1])
    could = (x > 20 - reach[0]) & (x < 25 + reach[0]) & (y > 1.2 - reach[1]) & (y < 1.6 + reach[1])
    assert set(np.flatnonzero(sure)) <= set(rows) <= set(np.flatnonzero(could)) and sure.sum() > 50
    assert "rectangle" in study.selection.origin
    assert pane.canvas.plot.selected.rows.tolist() == rows.tolist()


def test_a_free_shape_leaves_out_what_it_goes_around(pane: PairPane, study: Study, window: MainWindow) -> None:
    press(window, "Free shape")
    trace(pane, [(15, 0.8), (30, 0.8), (30, 1.9), (28, 1.9), (28, 1.0), (15, 1.0)])
    x, y = values(study)
    rows = study.selection.rows
    assert rows.size and not ((x[rows] < 27) & (y[rows] > 1.1)).any()
    assert (y[rows] > 1.2).any() and (x[rows] < 20).any()


def test_with_a_modifier_rows_come_beside_those_selected(pane: PairPane, study: Study) -> None:
    plot = pane.canvas.plot
    plot.picked.emit(np.array([4, 7]), NONE)
    plot.picked.emit(np.array([7, 9]), CONTROL)
    assert study.selection.rows.tolist() == [4, 9]
    plot.picked.emit(np.array([9, 12]), Qt.KeyboardModifier.ShiftModifier)
    assert study.selection.rows.tolist() == [4, 9, 12]


def test_dragging_along_the_lane_of_a_column_selects_its_values(pane: PairPane, study: Study) -> None:
    pane.canvas.lanes[0].interval.emit(20.0, 22.0, True, NONE)
    x, y = values(study)
    assert study.selection.in_column(ACTIVITY).tolist() == np.flatnonzero((x >= 20) & (x <= 22)).tolist()
    pane.canvas.lanes[1].interval.emit(1.2, 1.3, True, NONE)
    assert study.selection.in_column(GROWTH).tolist() == np.flatnonzero((y >= 1.2) & (y <= 1.3)).tolist()


def test_lanes_stand_on_the_axes_of_the_scatter_and_move_with_it(
    pane: PairPane, study: Study, window: MainWindow
) -> None:
    canvas = pane.canvas
    assert canvas.lanes[0].isVisible() and canvas.lanes[1].isVisible()
    canvas.plot.view_box.setRange(xRange=(18, 24), yRange=(1.0, 1.5), padding=0)
    across, up = canvas.plot.view_box.viewRange()
    assert canvas.lanes[0].view_box.viewRange()[0] == across and canvas.lanes[1].view_box.viewRange()[0] == up
    canvas.lanes[1].view_box.setXRange(1.1, 1.2, padding=0)
    assert canvas.plot.view_box.viewRange()[1] == pytest.approx([1.1, 1.2])
    for lane, edge in ((canvas.lanes[0], "left"), (canvas.lanes[0], "right")):
        here, there = (getattr(each.view_box.sceneBoundingRect(), edge)() for each in (lane, canvas.plot))
        assert here == pytest.approx(there, abs=1.5)
    press(window, "lanes")
    wait_until_idle(window)
    assert not canvas.lanes[0].isVisible() and "lanes" not in study.document.view.pair_parts


@pytest.mark.parametrize("form", ["ranks", "residuals"])
def test_a_form_is_drawn_on_axes_of_its_own_and_kept(
    pane: PairPane, study: Study, window: MainWindow, form: str
) -> None:
    pick(window, pane.form, PAIR_FORMS[form])
    assert study.document.view.pair_form == form and pane.details.form.key == form
    (left, right), (bottom, top) = pane.canvas.plot.view_box.viewRange()
    x, y = pane.details.form.view.x_values, pane.details.form.view.y_values
    assert left < x.min() < x.max() < right and bottom < y.min() < y.max() < top
    assert not pane.canvas.lanes[0].isVisible()
    trace(pane, [(left, bottom), (right, top)])
    assert study.selection.rows.size == x.size


def test_only_columns_that_may_measure_the_same_have_differences(
    stage: RelationsStage, pane: PairPane, window: MainWindow
) -> None:
    assert pane.form.findText("differences") < 0
    stage.choose("length_mm", "fork_length_mm")
    wait_until_idle(window)
    pick(window, pane.form, "differences")
    assert len(pane.details.form.levels) == 3
    assert "concordance" in words_of(stage.margin) and "bias" in words_of(stage.margin)


def test_groups_stand_out_with_their_coefficients_and_are_chosen_by_name(
    stage: RelationsStage, pane: PairPane, study: Study, window: MainWindow
) -> None:
    pick(window, pane.by, "tank")
    assert study.document.view.pair_by == "tank" and len(pane.chips.buttons) == 6
    assert len(pane.canvas.plot.pair.groups) == 6 and not pane.canvas.plot.pair.points.rows.size
    assert "within all of them, means taken out: r\u00a0−0.784" in words_of(stage.margin)
    assert "−0.809" in pane.chips.buttons["T1"].text()
    before = {group.name: group.style for group in pane.canvas.plot.pair.groups}
    assert set(before.values()) == set(range(6))
    for name in ("T5", "T6", "T2", "T4"):
        pane.chips.buttons[name].click()
        wait_until_idle(window)
    assert [group.name for group in pane.canvas.plot.pair.groups] == ["T1", "T3"]
    assert study.document.view.pair_groups == ("T1", "T3")
    # A group keeps its mark while others come and go, until it is given another.
    assert [group.style for group in pane.canvas.plot.pair.groups] == [before["T1"], before["T3"]]
    pane.chips.style_menu("T1").actions()[before["T3"]].trigger()
    wait_until_idle(window)
    assert [group.style for group in pane.canvas.plot.pair.groups] == [before["T3"], before["T1"]]
    pane.chips.style_menu("T3").actions()[before["T5"]].trigger()
    wait_until_idle(window)
    assert [group.style for group in pane.canvas.plot.pair.groups] == [before["T3"], before["T5"]]
    assert "2 of 6 groups" in words_of(pane)
    pick(window, pane.by, "no groups")
    assert not pane.canvas.plot.pair.groups and not pane.chips.isVisible() and pane.canvas.plot.pair.line is not None


def test_a_column_that_stands_behind_the_pair_is_named_and_held_fixed(
    stage: RelationsStage, study: Study, window: MainWindow
) -> None:
    stage.choose("length_mm", "mass_g")
    wait_until_idle(window)
    (link,) = [b for b in stage.margin.given.findChildren(QPushButton) if "fork_length_mm: r" in b.text()]
    link.click()
    wait_until_idle(window)
    assert study.document.view.pair_controls == ("fork_length_mm",)
    assert "fork_length_mm held fixed" in words_of(stage.margin) and "Pearson r partial" in words_of(stage.margin)


def test_selected_rows_are_told_with_the_pair_without_them(
    stage: RelationsStage, study: Study, window: MainWindow
) -> None:
    x, y = values(study)
    rows = np.flatnonzero(x > 25)
    study.select(rows)
    wait_until_idle(window)
    without = np.corrcoef(x[x <= 25], y[x <= 25])[0, 1]
    said = words_of(stage.margin)
    assert f"without +{without:.3f}" in said and f"without them {x.size - rows.size:,}".replace(",", "\u202f") in said
    study.select([])
    wait_until_idle(window)
    assert not stage.margin.chosen.isVisible()


def test_another_column_of_the_rows_beside_keeps_what_is_drawn(pane: PairPane, study: Study) -> None:
    before = pane.canvas.plot.pair
    study.select([5])
    assert wait_until(lambda: pane.hub.jobs.at_rest, 20)
    after = pane.canvas.plot.pair
    assert after.points is before.points and after.selected.rows.tolist() == [5]


def test_the_kind_read_first_is_chosen_for_the_whole_study_and_undone(
    stage: RelationsStage, study: Study, window: MainWindow
) -> None:
    def order() -> list[str]:
        of_all = words_of(stage.margin).split("All rows in use")[1].split("Least-squares")[0]
        return sorted(("Spearman ρ", "Pearson r", "Kendall τ-b"), key=of_all.index)

    assert order() == ["Spearman ρ", "Pearson r", "Kendall τ-b"]
    (box,) = [each for each in stage.margin.findChildren(Choice) if each.findText("as suggested") == 0]
    box.setCurrentIndex(box.findText("Kendall"))
    box.activated.emit(box.currentIndex())
    wait_until_idle(window)
    assert study.settings.correlation == "kendall"
    assert "Kendall, as chosen for the study" in words_of(stage.margin)
    assert order() == ["Kendall τ-b", "Pearson r", "Spearman ρ"]
    study.undo()
    wait_until_idle(window)
    assert study.settings.correlation is None and "as chosen for the study" not in words_of(stage.margin)


@pytest.mark.parametrize("view", [0, 1])
def test_what_is_shown_is_saved_as_a_picture(
    stage: RelationsStage, study: Study, window: MainWindow, view: int, tmp_path: Path
) -> None:
    stage.show_view(view)
    pick(window, stage.pane.by, "tank")
    assert window.bench.page("Relations").picture_button is stage.picture_button
    make, name = stage.picture_button.maker()
    image = picture_image(make, PictureSize(600, 420, "pixels", 96))
    shades = {image.pixelColor(x, y).name() for x in range(0, 600, 2) for y in range(0, 420, 2)}
    assert (image.width(), image.height()) == (600, 420) and study.name in name
    assert len(shades) > 20


def test_the_scale_of_either_axis_is_chosen_beside_the_pair(
    window: MainWindow, stage: RelationsStage, study: Study
) -> None:
    def choose(name: str, words: str) -> None:
        boxes = [box for box in stage.margin.findChildren(Choice) if box.accessibleName().endswith(f"of {name}")]
        pick(window, boxes[0], words)

    choose(GROWTH, "log")
    assert study.settings.of(GROWTH).scale_of_axis == "log" and "log axis" in stage.pane.canvas.plot.pair.y_title
    assert stage.pane.canvas.plot.pair.x_scale.is_measured
    study.undo()
    wait_until_idle(window)
    assert stage.pane.canvas.plot.pair.y_scale.is_measured


def test_a_corrected_row_stands_where_it_is_and_comes_from_where_it_was(
    window: MainWindow, pane: PairPane, study: Study
) -> None:
    before = float(study.table[ACTIVITY].values[7])
    study.decide(DecisionKind.CORRECT, ACTIVITY, [7], value=21.5)
    wait_until_idle(window)
    plot = pane.canvas.plot
    assert plot.corrected.rows.tolist() == [7] and float(plot.pair.corrected.values[0]) == 21.5
    assert plot.moves.getData()[0].tolist() == [before, 21.5]
    study.undo()
    wait_until_idle(window)
    assert not plot.corrected.rows.size and not plot.moves.getData()[0].size
