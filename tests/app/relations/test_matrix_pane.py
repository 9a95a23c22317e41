"""The matrix of all pairs in the Relations stage."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from culvix.app.relations.matrix_pane import MatrixPane
from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.app.widgets.choice import Choice
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study import DecisionKind, Study
from culvix.study.document.choices.view import View
from culvix.study.relations.relation_findings import MOST_COLUMNS, NOT_SEARCHED
from tests.app.driving import LEFT, opened, press, wait_until_idle, words_of


@pytest.fixture
def related(qtbot: QtBot, relations_window: MainWindow) -> tuple[Workbench, Study, MatrixPane]:
    """The matrix of the demo, with nothing chosen and nothing decided."""
    bench = relations_window.bench
    study, usual = bench.hub.study, View()
    while study.history.undoable:
        study.undo()
    names = (
        "pair",
        "matrix_order",
        "matrix_columns",
        "matrix_sides",
        "matrix_categories",
        "relations_rows",
        "pair_form",
        "pair_by",
    )
    study.change_view(**{name: getattr(usual, name) for name in names})
    bench.relations.stage.show_view(0)
    bench.hub.request_relations()
    wait_until_idle(relations_window)
    return bench, study, bench.relations.stage.matrix


def choose(window: MainWindow, box: Choice, words: str) -> None:
    box.setCurrentIndex(box.findText(words))
    box.activated.emit(box.currentIndex())
    wait_until_idle(window)


def test_a_pair_of_the_matrix_is_told_in_numbers_and_opened_with_a_key(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    bench, study, pane = related
    picture = pane.chart.picture
    assert pane.isVisible() and picture.lower is None and len(picture.smalls) == 13
    row, column = picture.names.index("growth_pct_day"), picture.names.index("activity_min_h")
    QTest.mouseClick(pane.chart, LEFT, pos=pane.chart.room.rect(row, column).center().toPoint())
    wait_until_idle(relations_window)
    assert study.document.view.pair == ("activity_min_h", "growth_pct_day") and pane.chart.pair == (row, column)
    assert "activity_min_h and growth_pct_day" in words_of(bench.relations.margin)
    assert "Pearson: +0.651, p < 0.001" in pane.chart.text_at(row, column)
    QTest.keyClick(pane.chart, Qt.Key.Key_Space)
    wait_until_idle(relations_window)
    assert bench.relations.stage.pane.canvas.isVisible() and not pane.isVisible()
    assert bench.relations.stage.pair.view.x == "activity_min_h"


def test_what_is_chosen_of_the_matrix_is_part_of_the_study(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    _, study, pane = related
    pane.below.setCurrentIndex(2)
    pane.below.activated.emit(2)
    pane.order.setCurrentIndex(2)
    pane.order.activated.emit(2)
    view = study.document.view
    assert view.matrix_sides == ("pearson", "spearman") and view.matrix_order == "name"
    assert list(pane.chart.picture.names) == sorted(pane.chart.picture.names)
    press(relations_window, "Pairs")
    assert study.document.view.relations_view == "Pairs"


def test_columns_stand_in_the_order_to_which_names_are_dragged(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    _, study, pane = related
    choose(relations_window, pane.order, "as in the table")
    chart, before = pane.chart, list(pane.chart.picture.names)
    strength = float(chart.picture.upper[2, 5])
    beside = chart.room.area.left() / 2
    above_second = QPointF(beside, chart.room.rect(1, 1).top() + 2).toPoint()
    QTest.mousePress(chart, LEFT, pos=QPointF(beside, chart.room.rect(5, 5).center().y()).toPoint())
    QTest.mouseMove(chart, above_second)
    QTest.mouseRelease(chart, LEFT, pos=above_second)
    moved = [before[0], before[5], *before[1:5], *before[6:]]
    assert list(chart.picture.names) == moved and pane.order.currentText() == "by hand"
    assert float(chart.picture.upper[1, 3]) == strength
    # With the keyboard, the column of the pair framed.
    chart.choose((1, 3))
    QTest.keyClick(chart, Qt.Key.Key_Up, Qt.KeyboardModifier.ShiftModifier)
    moved[:2] = moved[1::-1]
    assert list(chart.picture.names) == moved
    assert study.document.view.matrix_order == "hand" and list(study.document.view.matrix_columns) == moved
    # Another order does not lose it.
    choose(relations_window, pane.order, "by name")
    assert list(chart.picture.names) == sorted(before, key=str.casefold)
    choose(relations_window, pane.order, "by hand")
    assert list(chart.picture.names) == moved


def test_a_name_that_is_pressed_and_let_go_where_it_stands_moves_nothing(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    _, study, pane = related
    chart, before = pane.chart, pane.chart.picture.names
    above = QPointF(chart.room.rect(4, 4).center().x(), chart.room.area.top() / 2).toPoint()
    QTest.mousePress(chart, LEFT, pos=above)
    QTest.mouseMove(chart, above + QPoint(1, 1))
    QTest.mouseRelease(chart, LEFT, pos=above + QPoint(1, 1))
    assert chart.picture.names == before and study.document.view.matrix_order == "similarity"


def test_many_columns_have_numbers_on_both_sides(window: MainWindow, tmp_path: Path) -> None:
    draw = np.random.default_rng(2)
    base = draw.normal(size=(60, 1))
    columns = np.hstack([base + 0.3 * draw.normal(size=(60, 5)), draw.normal(size=(60, 20))]).round(3)
    pl.DataFrame(columns, schema=[f"site_{j:02}" for j in range(25)]).write_csv(tmp_path / "wide.csv")
    bench, _ = opened(window, tmp_path / "wide.csv")
    window.acting.show_stage(STAGES.index("Relations"))
    wait_until_idle(window)
    pane = bench.relations.stage.matrix
    assert pane.chart.picture.lower_name == "Spearman ρ" and "25 columns, n 60" in pane.about.text()
    ((first, last),) = pane.chart.picture.blocks
    assert set(pane.chart.picture.names[first:last]) == {f"site_{j:02}" for j in range(5)}


def test_decisions_change_the_matrix(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    _, study, pane = related
    names = pane.chart.picture.names
    at = names.index("mass_g"), names.index("length_mm")
    before = pane.chart.picture.upper[min(at), max(at)]
    study.decide(DecisionKind.EXCLUDE_ROW, "length_mm", list(range(400)))
    wait_until_idle(relations_window)
    picture = pane.chart.picture
    at = picture.names.index("mass_g"), picture.names.index("length_mm")
    assert picture.upper[min(at), max(at)] != before and int(picture.n.max()) == 1780


def test_what_was_found_of_a_pair_stands_at_its_cell_in_the_list_and_in_the_margin(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    bench, _, pane = related
    names, stage = pane.chart.picture.names, bench.relations.stage
    cell = names.index("activity_min_h"), names.index("growth_pct_day")
    assert {cell, cell[::-1]} <= set(pane.chart.marked)
    said = "but −0.784 within tank"
    assert said in pane.chart.text_at(*cell)
    stage.choose("activity_min_h", "growth_pct_day")
    wait_until_idle(relations_window)
    assert said in words_of(bench.relations.margin)
    model, column = stage.model, stage.model.heads.index("to note")
    model.sort(column)
    noted = [model.data(model.index(row, column)) for row in range(len(model.pairs))]
    assert "turns within groups" in noted[:5] and noted[-1] == ""


def test_what_was_found_goes_with_the_data_and_comes_back_with_them(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    bench, study, pane = related
    before = set(pane.chart.marked)
    heard: list[set[tuple[int, int]]] = []
    bench.hub.related.connect(lambda: heard.append(set(pane.chart.marked)))
    study.decide(DecisionKind.EXCLUDE_ROW, "length_mm", list(range(400)))
    wait_until_idle(relations_window)
    assert heard and heard[0] == set(), "nothing of the rows as they were is said of them as they are"
    study.undo()
    wait_until_idle(relations_window)
    assert set(pane.chart.marked) == before and before


def test_any_kind_of_correlation_can_stand_on_a_side(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    _, study, pane = related
    for words, key in (("Kendall τ-b", "kendall"), ("Biweight r", "biweight"), ("Winsorised r", "winsorized")):
        choose(relations_window, pane.above, words)
        picture = pane.chart.picture
        row, column = sorted((picture.names.index("activity_min_h"), picture.names.index("growth_pct_day")))
        columns = [study.table[picture.names[at]].values for at in (row, column)]
        assert picture.upper[row, column] == pytest.approx(CORRELATION_KINDS[key].run(*columns).r, abs=1e-12)
        assert CORRELATION_KINDS[key].name in pane.chart.text_at(row, column)


def test_what_stands_in_for_a_kind_that_is_not_there_yet_is_said(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    _, _, pane = related
    # Worked out once, it is there as long as the data are.
    study = pane.hub.study
    study.decide(DecisionKind.EXCLUDE_ROW, "length_mm", [3])
    wait_until_idle(relations_window)
    pane.above.setCurrentIndex(pane.above.findText("Kendall τ-b"))
    pane.above.activated.emit(pane.above.currentIndex())
    assert pane.about.text().startswith("Kendall τ-b: not worked out yet")
    assert pane.chart.picture.upper_name == "Pearson r"
    wait_until_idle(relations_window)
    assert "not worked out" not in pane.about.text() and pane.chart.picture.upper_name == "Kendall τ-b"


def test_only_rows_with_all_columns_count_where_that_is_chosen(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    bench, study, pane = related
    numeric = [study.working.sample(study.table[name]).values for name in bench.hub.relations.columns]
    complete = int(np.isfinite(numeric).all(axis=0).sum())
    choose(relations_window, pane.rows, "with all columns")
    assert set(pane.chart.picture.n[np.triu_indices(13, 1)].tolist()) == {complete}
    assert "only these count" in pane.about.text()
    assert "a value in every column" in bench.relations.stage.about.text()
    choose(relations_window, pane.rows, "with both values")
    assert pane.chart.picture.n[np.triu_indices(13, 1)].max() > complete


def test_categories_stand_beside_the_numbers_and_are_told_of(
    relations_window: MainWindow, related: tuple[Workbench, Study, MatrixPane]
) -> None:
    bench, study, pane = related
    QTest.mouseClick(pane.with_categories, LEFT)
    wait_until_idle(relations_window)
    picture = pane.chart.picture
    assert {picture.names[at] for at in picture.categories} == {"tank", "strain", "feed"}
    cell = picture.names.index("strain"), picture.names.index("swim_cm_s")
    assert "η² 0.77" in pane.chart.text_at(*cell)
    QTest.mouseClick(pane.chart, LEFT, pos=pane.chart.room.rect(*cell).center().toPoint())
    wait_until_idle(relations_window)
    assert "swim_cm_s by strain" in words_of(bench.relations.stage.categories.margin)
    assert bench.relations.stage.categories.margin.isVisible() and pane.chart.pair == cell
    QTest.keyClick(pane.chart, Qt.Key.Key_Space)
    assert study.document.view.relations_view == "Categories"
    QTest.mouseClick(bench.relations.stage.view_buttons[0], LEFT)
    QTest.mouseClick(pane.with_categories, LEFT)
    wait_until_idle(relations_window)
    assert study.document.view.matrix_categories is False and not pane.chart.picture.categories


def test_few_columns_have_a_picture_by_category(window: MainWindow, tmp_path: Path) -> None:
    draw = np.random.default_rng(7)
    site = draw.integers(0, 3, 90)
    made = {"site": [f"s{each}" for each in site], "width": (site + draw.normal(size=90)).round(3)}
    made["depth"] = draw.normal(size=90).round(3)
    pl.DataFrame(made).write_csv(tmp_path / "three.csv")
    bench, _ = opened(window, tmp_path / "three.csv")
    window.acting.show_stage(STAGES.index("Relations"))
    wait_until_idle(window)
    picture = bench.relations.stage.matrix.chart.picture
    at = picture.names.index("site"), picture.names.index("width")
    assert picture.lower is None and picture.boxes[at].shape == (3, 5)


def test_of_very_many_columns_it_is_said_that_they_are_not_looked_through(window: MainWindow, tmp_path: Path) -> None:
    values = np.random.default_rng(5).normal(size=(40, MOST_COLUMNS + 1)).round(3)
    pl.DataFrame(values, schema=[f"c{j:02}" for j in range(MOST_COLUMNS + 1)]).write_csv(tmp_path / "wide.csv")
    bench, _ = opened(window, tmp_path / "wide.csv")
    window.acting.show_stage(STAGES.index("Relations"))
    wait_until_idle(window)
    assert NOT_SEARCHED in bench.relations.stage.matrix.about.text() and not bench.relations.stage.matrix.chart.marked


def test_choosing_before_the_relations_are_there_waits_for_them(window: MainWindow, demo_path: Path) -> None:
    bench, _ = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Relations"))
    pane = bench.relations.stage.matrix
    assert bench.hub.relations is None
    for box in (pane.order, pane.above, pane.below, pane.rows):
        box.activated.emit(box.currentIndex())
    QTest.mouseClick(pane.with_categories, LEFT)
    wait_until_idle(window)
    assert bench.hub.relations is not None and pane.chart.picture is not None


def test_a_table_without_a_pair_of_numbers_has_an_empty_matrix(window: MainWindow, tmp_path: Path) -> None:
    (tmp_path / "one.csv").write_text("mass,net\n" + "".join(f"{row / 7:.2f},{'ab'[row % 2]}\n" for row in range(40)))
    bench, study = opened(window, tmp_path / "one.csv")
    window.acting.show_stage(STAGES.index("Relations"))
    wait_until_idle(window)
    study.change_view(matrix_categories=False)
    bench.hub.request_relations()
    wait_until_idle(window)
    assert bench.relations.stage.matrix.isVisible() or bench.hub.relations is not None
