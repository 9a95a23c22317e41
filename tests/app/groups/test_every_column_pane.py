"""All columns by the same groups in the Groups stage."""

import pytest
from PyQt6.QtCore import QPoint
from PyQt6.QtTest import QTest

from culvix.app.groups.compare.every_column_pane import EveryColumnPane
from culvix.app.groups.stage import VIEWS, GroupsStage
from culvix.app.shell.window import MainWindow
from tests.app.driving import LEFT, wait_until_idle, words_of
from tests.app.groups.test_groups_pane import pick


@pytest.fixture
def pane(stage: GroupsStage, groups_window: MainWindow) -> EveryColumnPane:
    stage.show_view(list(VIEWS).index("All columns"))
    pick(groups_window, stage.every.fields.by, "feed")
    return stage.every


def test_the_columns_that_differ_are_named(pane: EveryColumnPane) -> None:
    assert "13 columns by feed" in pane.about.text()
    assert "1 column differs by feed" in words_of(pane.margin) and "feed_ratio" in words_of(pane.margin)
    assert pane.chart.row_count == 13 and pane.chart.minimumHeight() > pane.chart.row_height * 13


def test_a_click_compares_one_alone(pane: EveryColumnPane, stage: GroupsStage, groups_window: MainWindow) -> None:
    y = round(pane.chart.first_row + pane.chart.row_height / 2)
    QTest.mouseClick(pane.chart, LEFT, pos=QPoint(60, y))
    wait_until_idle(groups_window)
    assert pane.hub.focus == "feed_ratio" and stage.groups.isVisible() and not pane.isVisible()
    assert stage.groups.compared.measure == "feed_ratio" and stage.groups.compared.by == "feed"


def test_a_column_of_numbers_leaves_its_own_row_out(pane: EveryColumnPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.fields.by, "mass_g")
    assert "mass_g" not in [column.name for column in pane.columns] and len(pane.columns) == 12
    assert len(pane.columns[0].row.groups) == 4, "ranges of it"
    made = pane.maker()
    assert made is not None
    picture = made[0](900, 300)
    assert picture.height() >= picture.minimumHeight() > 300, "no row is cut off"
