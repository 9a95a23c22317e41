"""The Outliers stage by hand: walking, deciding, dragging a limit, trying another value, several columns at once."""

import hashlib
from pathlib import Path

import numpy as np
import polars as pl
import pytest
from PyQt6.QtCore import QPoint
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QLabel

from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.charts.lanes.points_lane import PointsLane
from culvix.charts.lanes.span_lane import SpanLane
from culvix.demo import Cohort
from culvix.stats.display import count
from culvix.study import DecisionKind, Study
from tests.app.driving import LEFT, drag, opened, press, rest

LENGTH = "length_mm"


@pytest.fixture
def stage(window: MainWindow, demo_path: Path) -> tuple[Workbench, Study]:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Outliers"))
    bench.hub.set_focus(LENGTH)
    wait_until_idle(window)
    return bench, study


def wait_until_idle(window: MainWindow) -> None:
    for _ in range(2):
        rest(window)
        QTest.qWait(40)


def cells(bench: Workbench, head: str) -> list[str]:
    model = bench.outliers.stage.list.model
    position = model.heads.index(head)
    return [str(model.index(line, position).data()) for line in range(model.row_count())]


def position(bench: Workbench, lane: type, x: float, y: float) -> QPoint:
    stack = bench.outliers.stage.stack
    return bench.outliers.stage.canvas.mapFromScene(stack.lane(lane).scene_position(x, y))


def impact(bench: Workbench) -> str:
    return " ".join(label.text() for label in bench.outliers.margin.impact.findChildren(QLabel) if label.isVisible())


def test_flagged_values_are_walked_with_keys_and_decided(
    window: MainWindow, stage: tuple[Workbench, Study], cohort: Cohort, demo_path: Path
) -> None:
    bench, study = stage
    digest = hashlib.sha256(demo_path.read_bytes()).hexdigest()
    flags = bench.hub.preview.flags
    assert bench.outliers.stage.list.model.row_count() == flags.rows.size == 20
    assert cells(bench, "methods")[:8] == ["3 of 3"] * 8 and cells(bench, "row")[0] == "831"
    assert cells(bench, "z-score")[:9] == ["●"] * 8 + [""]
    QTest.keySequence(window, "N")
    wait_until_idle(window)
    assert study.selection.rows.tolist() == [830] and bench.tray.model.rows.tolist() == [830]
    assert "Row 831 left out alone" in impact(bench)
    bench.outliers.margin.history.initials.setText("mk")
    QTest.keySequence(window, "E")
    wait_until_idle(window)
    assert study.working.decision_on(LENGTH, 830).by == "mk" and cells(bench, "decision")[0] == "exclude value"
    assert bench.outliers.margin.done.text() == "1 of 20 decided" and "2 173" in impact(bench).replace("\u202f", " ")
    QTest.keySequence(window, "N")
    QTest.keySequence(window, "M")
    wait_until_idle(window)
    second = int(study.decisions[1].rows[0])
    assert study.decisions[1].kind is DecisionKind.MISSING and second != 830
    bench.outliers.stage.list.narrow.setCurrentIndex(1)
    bench.outliers.stage.list.request_refresh()
    wait_until_idle(window)
    assert bench.outliers.stage.list.model.row_count() == 18
    history = bench.outliers.margin.history
    assert history.list.count() == 3 and "exclude value" in history.list.item(1).text()
    history.list.itemActivated.emit(history.list.item(2))
    wait_until_idle(window)
    assert not study.decisions and history.list.item(0).font().strikeOut() and study.history.redoable is not None
    assert bench.outliers.stage.list.model.row_count() == 20
    assert hashlib.sha256(demo_path.read_bytes()).hexdigest() == digest


def test_a_rule_decides_about_all_it_means(window: MainWindow, stage: tuple[Workbench, Study], cohort: Cohort) -> None:
    bench, study = stage
    pane = bench.outliers.margin.rule
    assert pane.which.currentText() == "all values flagged by at least 3 methods" and "8 values" in pane.about.text()
    pane.which.setCurrentIndex(pane.which.count() - 1)
    pane.which.activated.emit(pane.which.currentIndex())
    assert pane.low.isVisible() and not pane.apply.isEnabled()
    pane.high.setText("fifty")
    pane.high.editingFinished.emit()
    assert "not an end" in pane.about.text()
    pane.high.setText("50")
    pane.high.editingFinished.emit()
    assert "5 values" in pane.about.text()
    press(window, "Decide")
    wait_until_idle(window)
    (made,) = study.decisions
    assert (made.rows + 1).tolist() == sorted(cohort.planted("unit_cm").rows)
    assert made.rule.text == "all values up to 50" and "nothing left" in pane.about.text()
    assert "all values up to 50" in bench.outliers.margin.history.list.item(0).text()


def test_a_dragged_limit_changes_spans_counts_list_and_impact(
    window: MainWindow, stage: tuple[Workbench, Study]
) -> None:
    bench, study = stage
    before = impact(bench)
    span = bench.hub.preview.flags.results["z_score"]
    view = bench.outliers.stage.canvas.viewport()
    drag(bench, position(bench, SpanLane, span.upper, 2), position(bench, SpanLane, 260.0, 2), view)
    wait_until_idle(window)
    limit = study.settings.limits["z_score"]
    assert limit == pytest.approx((260 - 211.88) / 27.64, abs=0.06)
    now = bench.hub.preview.flags
    x = study.table[LENGTH].values
    assert now.results["z_score"].upper == pytest.approx(260, abs=2)
    assert (
        bench.outliers.stage.list.model.row_count()
        == now.rows.size
        == int((np.abs(x - 211.877) > limit * 27.637).sum())
    )
    assert impact(bench) != before and f"0 of {now.rows.size} decided" == bench.outliers.margin.done.text()
    bench.outliers.stage.list.least.setCurrentIndex(2)
    bench.outliers.stage.list.request_refresh()
    wait_until_idle(window)
    assert set(cells(bench, "methods")) == {"3 of 3"}


def test_trying_another_value_changes_every_number_and_records_nothing(
    window: MainWindow, stage: tuple[Workbench, Study]
) -> None:
    bench, study = stage
    study.select([830], column=LENGTH)
    press(window, "What if")
    wait_until_idle(window)
    before, outliers = impact(bench), bench.outliers.stage
    lane = outliers.stack.lane(PointsLane)
    (at,), (height,) = lane.mover.getData()
    assert at == 412.0
    seen = []
    outliers.hand.moved.connect(lambda found: seen.append((found, impact(bench), len(lane.ghost.getData()[0]))))
    drag(
        bench,
        position(bench, PointsLane, at, height),
        position(bench, PointsLane, 300.0, height),
        outliers.canvas.viewport(),
    )
    wait_until_idle(window)
    held = [entry for entry in seen if entry[0] is not None]
    assert held and held[-1][0].value == pytest.approx(300, abs=2) and "what if" in held[-1][1] and held[-1][2] == 1
    assert held[-1][0].figures.mean < bench.hub.preview.description.mean
    assert seen[-1][0] is None and impact(bench) == before and float(lane.mover.getData()[0][0]) == 412.0
    assert not study.decisions and not study.history.acts


def test_several_columns_at_once(window: MainWindow, stage: tuple[Workbench, Study], cohort: Cohort) -> None:
    bench, study = stage
    press(window, "Several columns")
    view = bench.outliers.stage.distances
    view.choose((LENGTH, "mass_g", "fork_length_mm"))
    wait_until_idle(window)
    planted = np.array([row for kind in ("unit_cm", "two_on_board") for row in cohort.planted(kind).rows]) - 1
    assert np.isin(planted, view.found.flagged).all() and "robust distance" in view.about.text()
    study.select([830], column=LENGTH)
    wait_until_idle(window)
    assert view.bars.isVisible() and view.bars.names[0] == LENGTH and view.bars.shares[0] > 0.5
    press(window, "Select those beyond")
    assert np.array_equal(study.selection.rows, view.found.flagged)
    bench.outliers.stage.list.scope.setCurrentIndex(1)
    bench.outliers.stage.list.request_refresh()
    wait_until_idle(window)
    distances = [name for name in cells(bench, "column") if " with " in name]
    assert len(distances) == view.found.flagged.size
    view.choose((LENGTH, "parasite_count"))
    wait_until_idle(window)
    assert "half of the values are equal" in view.about.text() and view.canvas.isHidden()


def test_scope_passes_and_suggestion(window: MainWindow, stage: tuple[Workbench, Study]) -> None:
    bench, study = stage
    outliers = bench.outliers.stage
    assert "generalised ESD" in outliers.suggestion.text()
    press(window, "Use it")
    wait_until_idle(window)
    assert "generalized_esd" in study.settings.methods and outliers.take.isHidden()
    press(window, "Another pass")
    assert "decided nothing" in window.text or "Nothing was decided" in window.text
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, bench.hub.preview.flags.most)
    wait_until_idle(window)
    press(window, "Another pass")
    wait_until_idle(window)
    assert (
        study.document.pass_number == 2
        and "Pass 2 begins" in window.text
        and outliers.another.text() == "Pass 2 · another"
    )
    outliers.within.setCurrentText("within tank")
    outliers.within.activated.emit(outliers.within.currentIndex())
    wait_until_idle(window)
    assert study.settings.of(LENGTH).flag_within == "tank"
    assert "6 groups of tank" in bench.hub.preview.flags.results["z_score"].note
    bench.hub.set_focus("tank")
    assert "far from the rest" in outliers.message.text()


def test_what_was_decided_is_saved(window: MainWindow, stage: tuple[Workbench, Study], tmp_path: Path) -> None:
    bench, study = stage
    study.select([830], column=LENGTH)
    QTest.keySequence(window, "X")
    asked = bench.tray.bar.exchanging
    asked.other.setCurrentText("fork_length_mm")
    before = [study.table[name].cell(830) for name in (LENGTH, "fork_length_mm")]
    assert f"{LENGTH} {before[0]} → {before[1]}" in asked.text.toolTip() and not study.decisions
    QTest.mouseClick(asked.yes, LEFT)
    wait_until_idle(window)
    assert study.decisions[0].swapped == "fork_length_mm"
    from culvix.report.documents.cleaned_data import cleaned_frame, flagged_frame

    for name, make in (("clean.parquet", cleaned_frame), ("flags.csv", flagged_frame)):
        window.saving.save_frame(tmp_path / name, make)
        rest(window)
        assert name in window.text
    frame = pl.read_parquet(tmp_path / "clean.parquet")
    row = frame.filter(pl.col("row") == 831)
    assert row["fork_length_mm"][0] == 412.0 and row[LENGTH][0] == study.table["fork_length_mm"].values[830]
    assert pl.read_csv(tmp_path / "flags.csv").height > 100 and "apostrophe" in window.text
    window.saving.save_frame(tmp_path / "no.where" / "x.csv", cleaned_frame)
    rest(window)
    assert "cannot be written" in window.text
    bench.outliers.stage.add_column.menu().actions()[-1].trigger()
    wait_until_idle(window)
    assert "flags_length_mm" in study.table and "Added the column" in window.text


def test_columns_looked_at_together_are_ticked_in_a_menu(window: MainWindow, stage: tuple[Workbench, Study]) -> None:
    bench, _ = stage
    press(window, "Several columns")
    view = bench.outliers.stage.distances
    view.choose((LENGTH, "mass_g"))
    menu = view.columns.menu()
    menu.aboutToShow.emit()
    ticked = [action.text() for action in menu.actions() if action.isChecked()]
    assert ticked == [LENGTH, "mass_g"]
    next(action for action in menu.actions() if action.text() == "fork_length_mm").trigger()
    wait_until_idle(window)
    assert view.names == (LENGTH, "mass_g", "fork_length_mm") and "fork_length_mm" in view.about.text()
    view.choose((LENGTH, "mass_g"))
    next(action for action in menu.actions() if action.text() == LENGTH).trigger()
    assert "at least two" in window.text and view.names == (LENGTH, "mass_g")


def test_what_chance_alone_flags_stands_under_the_spans(window: MainWindow, stage: tuple[Workbench, Study]) -> None:
    bench, study = stage
    message = bench.outliers.stage.chance.text
    wait_until_idle(window)
    flags = bench.hub.preview.flags.results
    n = bench.hub.preview.flag_basis.n
    assert f"normal column of {count(n)} rows" in message.text()
    assert f"fences {flags['iqr_fences'].rows.size} ({0.00698 * n:.0f})" in message.text()
    before = message.text()
    study.change_settings(study.settings.with_limit("iqr_fences", 3.0))
    wait_until_idle(window)
    flagged = bench.hub.preview.flags.results["iqr_fences"].rows.size
    assert message.text() != before and f"fences {flagged} (" in message.text()
