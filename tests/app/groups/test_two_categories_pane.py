"""Two categories against each other in the Groups stage."""

import numpy as np
import pytest
from PyQt6.QtTest import QTest

from culvix.app.groups.compare.two_categories_pane import TwoCategoriesPane
from culvix.app.groups.stage import VIEWS, GroupsStage
from culvix.app.shell.window import MainWindow
from culvix.study.analysis.grouping import grouping
from tests.app.driving import LEFT, wait_until_idle, words_of
from tests.app.groups.test_groups_pane import pick


@pytest.fixture
def pane(stage: GroupsStage, groups_window: MainWindow) -> TwoCategoriesPane:
    stage.show_view(list(VIEWS).index("Two categories"))
    wait_until_idle(groups_window)
    return stage.crossed


def test_a_pair_of_categories_has_its_counts_and_its_test(pane: TwoCategoriesPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.down, "feed")
    pick(groups_window, pane.across, "vaccinated")
    study = pane.hub.study
    codes = [grouping(study.table[name]).codes for name in ("feed", "vaccinated")]
    assert pane.chart.picture.words[1][0] == str(np.sum((codes[0] == 1) & (codes[1] == 0)))
    assert "Cramér's V" in words_of(pane.margin) and "expected counts are below 5" in words_of(pane.margin)
    assert "rows" in pane.about.text()


def test_choosing_the_same_column_twice_exchanges_both(pane: TwoCategoriesPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.down, "tank")
    pick(groups_window, pane.across, "feed")
    pick(groups_window, pane.down, "feed")
    assert (pane.down.currentText(), pane.across.currentText()) == ("feed", "tank")
    assert pane.crossed.down.by == "feed"


def test_cells_show_what_was_chosen_down_to_values_of_the_column_in_focus(
    pane: TwoCategoriesPane, groups_window: MainWindow
) -> None:
    pick(groups_window, pane.cells, "% of the row")
    assert all(word.endswith("%") for row in pane.chart.picture.words for word in row)
    pick(groups_window, pane.cells, "values of the column in focus")
    assert pane.crossed.measure == "swim_cm_s" and pane.chart.picture.quartiles is not None
    pane.hub.set_focus("tank")
    wait_until_idle(groups_window)
    assert "has no numbers" in pane.about.text() and not pane.area.isVisible()


def test_a_cell_is_clicked_and_its_rows_are_selected(pane: TwoCategoriesPane, groups_window: MainWindow) -> None:
    QTest.mouseClick(pane.chart, LEFT, pos=pane.chart.cell(2, 1).center().toPoint())
    wait_until_idle(groups_window)
    assert np.array_equal(pane.hub.study.selection.rows, pane.crossed.rows_of(2, 1))
