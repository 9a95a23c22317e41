"""The views of the Shape stage: line-up, several columns, pictures of them, and what is painted when."""

from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPointF, Qt
from PyQt6.QtGui import QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from culvix.app.shape.views import VIEWS
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.charts.export.picture_files import PictureSize
from culvix.study.document.choices.settings import ColumnSettings
from culvix.study.document.decisions import DecisionKind
from tests.app.driving import LEFT, opened, press, rest, shown_view, wait_until_idle, words_of

LENGTH = "length_mm"


def test_the_real_picture_is_picked_from_a_line_up(window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    bench.hub.set_focus("swim_cm_s")
    shown_view(window, "Alt+5")
    view = bench.shape.stage.views.lineup
    lineup = view.chart.lineup
    assert lineup is not None and lineup.n == 2180 and view.chart.pick is None
    # Neither the rail nor the margin tells which one it is, as long as it can still be picked.
    assert bench.hub.veiled == "swim_cm_s" and bench.shape.margin.summary.isHidden()
    shown_view(window, "Alt+1")
    assert bench.hub.veiled is None and not bench.shape.margin.summary.isHidden()
    shown_view(window, "Alt+5")
    assert bench.hub.veiled == "swim_cm_s"
    QTest.mouseClick(
        view.chart, LEFT, Qt.KeyboardModifier.NoModifier, view.chart.panel(lineup.position).center().toPoint()
    )
    (pick,) = study.workspace.picks_of("swim_cm_s")
    assert pick.right and "p = 0.05" in view.about.text() and pick.seed == lineup.seed
    wait_until_idle(window)
    assert bench.hub.veiled is None and not bench.shape.margin.summary.isHidden()
    press(window, "Another line-up")
    wait_until_idle(window)
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


def test_views_are_made_while_the_window_rests(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    wait_until_idle(window)
    views = bench.shape.stage.views
    pages = views.count()
    for position in range(len(VIEWS)):
        bench.shape.stage.show_view(position)
        wait_until_idle(window)
    assert views.count() == pages, "a turn to a view makes nothing"


def test_several_columns_are_put_on_one_axis(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    shown_view(window, "Alt+4")
    pane = bench.shape.stage.views.several
    assert pane.chart.names[0] == LENGTH and len(pane.chart.names) > 5
    pane.axis.setCurrentIndex(2)
    wait_until_idle(window)
    assert pane.chart.plot.axis("right").isVisible(), "each on its own axis says its ends"
    assert pane.chart.rows.boundingRect().left() == pytest.approx(0.0, abs=0.2)


@pytest.mark.parametrize("position", range(5))
def test_pictures_are_saved_as_large_as_said(
    window: MainWindow, demo_path: Path, tmp_path: Path, position: int
) -> None:
    bench, _ = opened(window, demo_path)
    bench.shape.stage.show_view(position)
    wait_until_idle(window)
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


def test_what_is_hidden_is_made_anew_when_it_is_shown(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    window.acting.show_stage(0)
    bench.hub.set_focus("mass_g")
    wait_until_idle(window)
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
    wait_until_idle(window)
    assert listed("swim_cm_s") == before, "a hidden list is not made anew with every decision"
    window.acting.show_stage(STAGES.index("Survey"))
    assert wait_until(lambda: window.jobs.at_rest and listed("swim_cm_s") == before - 100, 10)
    said = study.dictionary.of("mass_g")
    study.edit_column("mass_g", replace(said, unit="lb"))
    wait_until_idle(window)
    window.acting.show_stage(STAGES.index("Intake"))
    wait_until_idle(window)
    heads = bench.intake.stage.rows.heads
    chosen = {index.column() for index in bench.intake.stage.view.selectionModel().selectedColumns()}
    assert chosen == {heads.index("mass_g")}, "the column in focus is the one in hand"


def test_another_column_is_painted_after_it_was_drawn(window: MainWindow, demo_path: Path) -> None:
    """Both in one go would hold the window twice as long."""
    bench, _ = opened(window, demo_path)
    for name in ("mass_g", LENGTH):
        bench.hub.set_focus(name)
        wait_until_idle(window)
    canvas = bench.shape.stage.canvas
    before = canvas.viewport().grab().toImage()
    bench.hub.set_focus("mass_g")
    assert bench.shape.stage.shown == "mass_g" and canvas.painting_pending, "drawn at once, not painted yet"
    assert wait_until(lambda: not canvas.painting_pending, 2, pause=1, still=1)
    assert canvas.viewport().grab().toImage() != before
    # A change of the same column is painted as it comes.
    bench.shape.stage.probe.move(100.0)
    assert not canvas.painting_pending
    # A stage that is shown again paints its lanes when the rest of it stands.
    window.acting.show_stage(STAGES.index("Survey"))
    window.acting.show_stage(STAGES.index("Shape"))
    assert canvas.painting_pending
    wait_until_idle(window)
    assert not canvas.painting_pending


def test_views_are_as_large_as_each_other_and_turning_back_moves_nothing(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    before = bench.shape.stage.canvas.geometry()
    lanes = [lane.geometry() for lane in bench.shape.stage.stack.lanes]
    for key in ("Alt+2", "Alt+3", "Alt+4", "Alt+5"):
        shown_view(window, key)
        assert not bench.shape.stage.canvas.isVisible() and not bench.shape.stage.probe.bar.isVisible()
    shown_view(window, "Alt+1")
    assert bench.shape.stage.canvas.geometry() == before and bench.shape.stage.probe.bar.isVisible()
    assert [lane.geometry() for lane in bench.shape.stage.stack.lanes] == lanes
    bench.hub.set_focus("tank")
    wait_until_idle(window)
    assert bench.shape.stage.views.bars.isVisible() and not bench.shape.stage.canvas.isVisible()
    bench.hub.set_focus(LENGTH)
    wait_until_idle(window)
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


def test_a_stage_is_made_when_it_is_asked_for(blank_window: MainWindow, demo_path: Path) -> None:
    blank_window.opening.open_path(demo_path)
    assert wait_until(lambda: blank_window.bench is not None, 30, pause=1, still=1)
    bench = blank_window.bench
    assert bench is not None and not bench.is_made("Relations")
    blank_window.acting.show_stage(STAGES.index("Shape"))
    assert bench.shape.stage.isVisible()
    assert wait_until(bench.shape.margin.isVisible, 2, pause=1, still=1), "the margin follows at once"
    rest(blank_window)
    assert bench.is_made("Relations") and bench.shape.stage.shown == bench.hub.focus
    assert bench.intake.margin.names == (bench.hub.focus,) and bench.intake.stage.rows.row_count() == 2180


def test_several_columns_are_drawn_over_each_other(blank_window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(blank_window, demo_path)
    bench.shape.stage.show_view(3)
    wait_until_idle(blank_window)
    pane = bench.shape.stage.views.several
    pane.compare([LENGTH, "fork_length_mm", "fin_score"])
    wait_until_idle(blank_window)
    apart = pane.chart.rows.boundingRect()
    pane.form.setCurrentIndex(1)
    wait_until_idle(blank_window)
    over = pane.chart.rows.boundingRect()
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
    wait_until_idle(blank_window)
    assert pane.chart.names[0] == "fork_length_mm", "what is in focus lies above the others"
    again = pane.maker()(600, 400)
    assert again.names == pane.chart.names and again.rows.boundingRect() == over
