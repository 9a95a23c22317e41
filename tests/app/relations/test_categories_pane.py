"""Pairs with a category: the list, the picture by group, and the rows of a group."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from culvix.app.relations.categories.categories_pane import CategoriesPane
from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.study.document.decisions import DecisionKind
from culvix.tables import read_table
from tests.app.driving import LEFT, opened, press, wait_until_idle, words_of

TANK, ACTIVITY = "tank", "activity_min_h"


@pytest.fixture
def pane(qtbot: QtBot, relations_window: MainWindow) -> CategoriesPane:
    """The pairs with a category, and nothing sought."""
    found: CategoriesPane = relations_window.bench.relations.stage.categories
    press(relations_window, "Categories")
    found.search.clear()
    wait_until_idle(relations_window)
    found.choose(found.model.pairs[0])
    wait_until_idle(relations_window)
    return found


def test_the_strongest_pair_is_shown_by_group_and_told_in_numbers(pane: CategoriesPane) -> None:
    assert (pane.pair.x, pane.pair.y) == (TANK, ACTIVITY) and pane.groups.names == [f"T{at}" for at in range(1, 7)]
    said = words_of(pane.margin)
    assert "η² 0.811, p < 0.001" in said and "ε² is 0.826" in said
    values = pane.hub.study.table[ACTIVITY].values
    first = values[np.array(pane.hub.study.table[TANK].text.to_list()) == "T1"]
    assert f"{np.nanmean(first):.2f}" in said and f"{np.nanstd(first, ddof=1):.2f}" in said


def test_two_categories_are_counted_and_a_bar_selects_its_rows(
    pane: CategoriesPane, relations_window: MainWindow
) -> None:
    pane.search.setText("feed strain")
    assert all({pair.x, pair.y} & {"feed", "strain"} for pair in pane.model.pairs)
    (pair,) = [each for each in pane.model.pairs if each.both]
    pane.choose(pair)
    wait_until_idle(relations_window)
    assert "Cramér's V" in words_of(pane.margin) and pane.bars.isVisible()
    pane.bars.chosen.emit(0, Qt.KeyboardModifier.NoModifier)
    name = pane.hub.study.selection.origin.split(" ", 1)[1]
    texts = np.array(pane.hub.study.table[pair.y].text.to_list())
    assert pane.hub.study.selection.rows.tolist() == np.flatnonzero(texts == name).tolist()


def test_a_click_on_a_group_selects_its_rows(pane: CategoriesPane) -> None:
    pane.groups.clicked.emit(2, 20.0)
    tanks = np.array(pane.hub.study.table[TANK].text.to_list())
    assert pane.hub.study.selection.rows.tolist() == np.flatnonzero(tanks == "T3").tolist()


def test_the_list_sorts_and_follows_decisions(pane: CategoriesPane, relations_window: MainWindow) -> None:
    head = pane.table.horizontalHeader()
    at = pane.model.heads.index("column")
    QTest.mouseClick(head.viewport(), LEFT, pos=QPoint(head.sectionViewportPosition(at) + 8, 8))
    names = [pair.y.casefold() for pair in pane.model.pairs]
    assert names in (sorted(names), sorted(names, reverse=True))
    pane.hub.study.decide(DecisionKind.EXCLUDE_VALUE, ACTIVITY, [4, 5])
    wait_until_idle(relations_window)
    (pair,) = [each for each in pane.model.pairs if (each.x, each.y) == (TANK, ACTIVITY)]
    pane.hub.study.undo()
    assert pair.lost == 2 and (pane.pair.x, pane.pair.y) == (TANK, ACTIVITY) and pane.pair.lost == 2


def test_the_margin_tells_of_the_view_that_is_shown(pane: CategoriesPane, relations_window: MainWindow) -> None:
    margin = relations_window.bench.relations.margin
    assert pane.margin.isVisible() and not margin.given.isVisible()
    press(relations_window, "Pairs")
    wait_until_idle(relations_window)
    assert not pane.margin.isVisible() and margin.given.isVisible()


def test_a_table_without_categories_says_so(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "plain.csv"
    path.write_text("a,b\n" + "".join(f"{k * 1.5},{(k * 7) % 11 + 0.25}\n" for k in range(40)), encoding="utf-8")
    assert read_table(path).rows == 40
    bench, _ = opened(window, path)
    window.acting.show_stage(STAGES.index("Relations"))
    wait_until_idle(window)
    press(window, "Categories")
    wait_until_idle(window)
    assert "No column here makes groups" in words_of(bench.relations.stage.categories)
