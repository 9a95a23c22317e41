"""The matrix of all pairs in the Relations stage."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest

from culvix.app.relations.matrix_pane import MatrixPane
from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.study import DecisionKind, Study
from culvix.study.relations.relation_findings import MOST_COLUMNS, NOT_LOOKED
from tests.app.driving import LEFT, opened, press, settled, words_of


@pytest.fixture
def related(window: MainWindow, demo_path: Path) -> tuple[Workbench, Study, MatrixPane]:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Relations"))
    settled(window)
    return bench, study, bench.relations.stage.matrix


def test_a_pair_of_the_matrix_is_told_in_numbers_and_opened_with_a_key(
    window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    bench, study, pane = related
    picture = pane.chart.picture
    assert pane.isVisible() and picture.lower is None and len(picture.smalls) == 13
    row, column = picture.names.index("growth_pct_day"), picture.names.index("activity_min_h")
    QTest.mouseClick(pane.chart, LEFT, pos=pane.chart.room.rect(row, column).center().toPoint())
    settled(window)
    assert study.document.view.pair == ("activity_min_h", "growth_pct_day") and pane.chart.pair == (row, column)
    assert "activity_min_h and growth_pct_day" in words_of(bench.relations.margin)
    assert "Pearson: +0.651, p < 0.001" in pane.chart.text_at(row, column)
    QTest.keyClick(pane.chart, Qt.Key.Key_Space)
    settled(window)
    assert bench.relations.stage.pane.canvas.isVisible() and not pane.isVisible()
    assert bench.relations.stage.pair.view.x == "activity_min_h"


def test_what_is_chosen_of_the_matrix_is_part_of_the_study(
    window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    _, study, pane = related
    pane.below.setCurrentIndex(2)
    pane.below.activated.emit(2)
    pane.order.setCurrentIndex(2)
    pane.order.activated.emit(2)
    view = study.document.view
    assert view.matrix_sides == ("pearson", "spearman") and view.matrix_order == "name"
    assert list(pane.chart.picture.names) == sorted(pane.chart.picture.names)
    press(window, "Pairs")
    assert study.document.view.relations_view == "Pairs"


def test_many_columns_have_numbers_on_both_sides(window: MainWindow, tmp_path: Path) -> None:
    draw = np.random.default_rng(2)
    base = draw.normal(size=(60, 1))
    columns = np.hstack([base + 0.3 * draw.normal(size=(60, 5)), draw.normal(size=(60, 20))]).round(3)
    pl.DataFrame(columns, schema=[f"site_{j:02}" for j in range(25)]).write_csv(tmp_path / "wide.csv")
    bench, _ = opened(window, tmp_path / "wide.csv")
    window.acting.show_stage(STAGES.index("Relations"))
    settled(window)
    pane = bench.relations.stage.matrix
    assert pane.chart.picture.lower_name == "Spearman ρ" and "25 columns, n 60" in pane.about.text()
    ((first, last),) = pane.chart.picture.blocks
    assert set(pane.chart.picture.names[first:last]) == {f"site_{j:02}" for j in range(5)}


def test_decisions_change_the_matrix(window: MainWindow, related: tuple[Workbench, Study, MatrixPane]) -> None:
    _, study, pane = related
    names = pane.chart.picture.names
    at = names.index("mass_g"), names.index("length_mm")
    before = pane.chart.picture.upper[min(at), max(at)]
    study.decide(DecisionKind.EXCLUDE_ROW, "length_mm", list(range(400)))
    settled(window)
    picture = pane.chart.picture
    at = picture.names.index("mass_g"), picture.names.index("length_mm")
    assert picture.upper[min(at), max(at)] != before and int(picture.n.max()) == 1780


def test_what_was_found_of_a_pair_stands_at_its_cell_in_the_list_and_in_the_margin(
    window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    bench, _, pane = related
    names, stage = pane.chart.picture.names, bench.relations.stage
    cell = names.index("activity_min_h"), names.index("growth_pct_day")
    assert {cell, cell[::-1]} <= set(pane.chart.marked)
    said = "but −0.784 within tank"
    assert said in pane.chart.text_at(*cell)
    stage.choose("activity_min_h", "growth_pct_day")
    settled(window)
    assert said in words_of(bench.relations.margin)
    model, column = stage.model, stage.model.heads.index("to note")
    model.sort(column)
    noted = [model.data(model.index(row, column)) for row in range(len(model.pairs))]
    assert "turns within groups" in noted[:5] and noted[-1] == ""


def test_what_was_found_goes_with_the_data_and_comes_back_with_them(
    window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    bench, study, pane = related
    before = set(pane.chart.marked)
    heard: list[set[tuple[int, int]]] = []
    bench.hub.related.connect(lambda: heard.append(set(pane.chart.marked)))
    study.decide(DecisionKind.EXCLUDE_ROW, "length_mm", list(range(400)))
    settled(window)
    assert heard and heard[0] == set(), "nothing of the rows as they were is said of them as they are"
    study.undo()
    settled(window)
    assert set(pane.chart.marked) == before and before


def test_of_very_many_columns_it_is_said_that_they_are_not_looked_through(window: MainWindow, tmp_path: Path) -> None:
    values = np.random.default_rng(5).normal(size=(40, MOST_COLUMNS + 1)).round(3)
    pl.DataFrame(values, schema=[f"c{j:02}" for j in range(MOST_COLUMNS + 1)]).write_csv(tmp_path / "wide.csv")
    bench, _ = opened(window, tmp_path / "wide.csv")
    window.acting.show_stage(STAGES.index("Relations"))
    settled(window)
    assert NOT_LOOKED in bench.relations.stage.matrix.about.text() and not bench.relations.stage.matrix.chart.marked
