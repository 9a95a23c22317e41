"""Subsets of the column in focus in the Groups stage."""

import numpy as np
import pytest
from PyQt6.QtWidgets import QMenu, QPushButton

from culvix.app.groups.stage import VIEWS, GroupsStage
from culvix.app.groups.subsets.subsets_pane import SubsetsPane
from culvix.app.shell.window import MainWindow
from culvix.report.compose import compose
from tests.app.driving import wait_until_idle, words_of
from tests.app.groups.test_groups_pane import pick


@pytest.fixture
def pane(stage: GroupsStage, groups_window: MainWindow) -> SubsetsPane:
    stage.hub.study.change_view(subset_columns=None, subset_conditions=3, subset_seed=1)
    stage.show_view(list(VIEWS).index("Subsets"))
    stage.hub.set_focus("feed_ratio")
    wait_until_idle(groups_window)
    return stage.subsets


def test_a_subset_is_told_with_both_halves_pictured_and_selected(pane: SubsetsPane, groups_window: MainWindow) -> None:
    assert [subset.name for subset in pane.model.items] == ["feed is insect and vaccinated is no"]
    words = words_of(pane.margin)
    assert "Confirmed" in words and "on the other half" in words and "the one to report" in words
    assert [row.name for row in pane.groups.picture.rows] == ["this subset", "all others"]
    assert pane.groups.picture.rows[0].n == pane.subset.rows.size
    (button,) = [each for each in pane.margin.findChildren(QPushButton) if "Select its" in each.text()]
    button.click()
    assert np.array_equal(pane.hub.study.selection.rows, pane.subset.rows)


def test_a_subset_becomes_a_mark_and_a_line_in_the_report(pane: SubsetsPane, groups_window: MainWindow) -> None:
    study, subset = pane.hub.study, pane.subset
    columns = len(study.document.derivations)
    for words in ("Mark its rows", "Keep for the report"):
        buttons = [each for each in pane.margin.findChildren(QPushButton) if each.text() == words]
        buttons[-1].click()
        wait_until_idle(groups_window)
        pane.choose(subset)
    mark = study.document.marks[-1]
    assert mark.name == subset.name and np.array_equal(study.workspace.marked(mark), subset.rows)
    assert len(study.document.derivations) == columns + 1, "both use one column"
    assert [each.name for each in pane.model.items] == [subset.name], "its column does not name it anew"
    kept = study.document.comparisons[-1]
    assert (kept.measure, kept.by) == ("feed_ratio", mark.column) and subset.figures in kept.remark
    report = compose(study.workspace)
    (section,) = [each for each in report.sections if each.key == "groups"]
    assert kept.remark in repr(section.parts)
    study.keep_comparison(kept, False)
    study.remove_mark()
    study.drop_column(mark.column)
    wait_until_idle(groups_window)


def test_fewer_conditions_and_other_columns_make_another_search(pane: SubsetsPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.conditions, "1 condition")
    assert all(len(subset.conditions) == 1 for subset in pane.model.items)
    pick(groups_window, pane.conditions, "up to 3 conditions")
    menu = QMenu()
    pane.offer_columns(menu)
    ticked = {action.text(): action for action in menu.actions()}
    assert ticked["vaccinated"].isChecked()
    ticked["vaccinated"].setChecked(False)
    wait_until_idle(groups_window)
    assert all("vaccinated" not in subset.name for subset in pane.model.items)
    assert "vaccinated" not in pane.hub.study.document.view.subset_columns


def test_a_category_is_searched_by_its_shares(pane: SubsetsPane, groups_window: MainWindow) -> None:
    pane.hub.set_focus("strain")
    wait_until_idle(groups_window)
    assert pane.model.items[0].sentence.startswith("strain is more often lake")
    assert pane.cells.picture.row_names == ("this subset", "all others")


def test_where_nothing_departs_that_is_said(pane: SubsetsPane, groups_window: MainWindow) -> None:
    pane.hub.set_focus("glucose_mmol_l")
    wait_until_idle(groups_window)
    assert not pane.model.items and "by more than chance" in words_of(pane.margin)
    pane.hub.set_focus("tag")
    wait_until_idle(groups_window)
    assert "neither numbers nor categories" in pane.about.text()
