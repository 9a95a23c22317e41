"""The column in focus by groups: what is shown, chosen and selected."""

from pathlib import Path

import numpy as np
import polars as pl
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtGui import QGuiApplication
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from culvix.app.groups.compare.groups_pane import GroupsPane
from culvix.app.groups.stage import VIEWS, GroupsStage
from culvix.app.session.picture_settings import change_axis_scale
from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.app.widgets.choice import Choice
from culvix.stats.registry import GROUP_TESTS
from culvix.study import DecisionKind
from culvix.study.groups.comparison.compared_column import TOTAL
from tests.app.driving import LEFT, opened, wait_until_idle, words_of


@pytest.fixture
def pane(stage: GroupsStage) -> GroupsPane:
    return stage.groups


def pick(window: MainWindow, box: Choice, words: str) -> None:
    position = box.findText(words)
    assert position >= 0, f"{words} is not offered"
    box.setCurrentIndex(position)
    box.activated.emit(position)
    wait_until_idle(window)


def test_groups_are_told_with_the_size_of_the_difference_before_p(pane: GroupsPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.fields.by, "strain")
    words = words_of(pane.margin)
    first, second = words.index("difference of means"), words.index("Welch's t: t(")
    assert first < second and "lake less river" in words and "95 % interval" in words[first:second]
    assert [row.name for row in pane.chart.picture.rows] == ["lake", "river"]
    assert len(pane.differences.picture.rows) == 1 and pane.model.row_count() == 3
    assert "would be seen in four of five" in words


def test_the_way_to_the_test_can_be_answered_otherwise_and_the_answer_stays(
    pane: GroupsPane, groups_window: MainWindow
) -> None:
    pick(groups_window, pane.fields.by, "tank")
    assert "Welch's analysis of variance" in words_of(pane.margin)
    (shapes, *_) = [box for box in pane.margin.findChildren(Choice) if "fair" in box.accessibleName()]
    shapes.setCurrentIndex(2)
    shapes.activated.emit(2)
    wait_until_idle(groups_window)
    assert "Kruskal–Wallis: H(5)" in words_of(pane.margin) and "ε² of ranks" in words_of(pane.margin)
    pane.hub.set_focus("activity_min_h")
    wait_until_idle(groups_window)
    assert "Kruskal–Wallis: H(5)" in words_of(pane.margin)
    assert dict(pane.hub.study.document.view.groups_answers) == {"shapes": False}


def test_all_other_tests_come_when_they_are_asked_for(pane: GroupsPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.fields.by, "strain")
    (button,) = [each for each in pane.margin.findChildren(QPushButton) if each.text() == "All other tests"]
    button.click()
    wait_until_idle(groups_window)
    words = words_of(pane.margin)
    fitting = [kind.short for kind in GROUP_TESTS.values() if kind.fits(2, paired=False) and kind.key != "welch_t"]
    assert all(name in words for name in fitting) and "not by it" in words


def test_numbers_make_ranges_and_dates_periods(pane: GroupsPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.fields.by, "length_mm")
    assert len(pane.shown) == 4 and pane.shown[0].name.startswith("below ")
    pick(groups_window, pane.fields.parts, "in 10 ranges")
    assert len(pane.shown) == 10
    pick(groups_window, pane.fields.by, "sampled_on")
    assert all(len(group.name) == 7 for group in pane.shown), "by month"
    pick(groups_window, pane.fields.parts, "by weekday")
    assert pane.shown[0].name == "Monday"


def test_columns_are_compared_with_each_other_and_by_row(pane: GroupsPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.fields.by, "columns with each other")
    assert "Choose at least two columns" in pane.about.text()
    for name in ("length_mm", "fork_length_mm"):
        pane.fields.columns.column_toggled.emit(name, True)
        wait_until_idle(groups_window)
    assert [group.name for group in pane.shown] == ["length_mm", "fork_length_mm"]
    assert pane.fields.paired.isEnabled()
    pane.fields.paired.click()
    wait_until_idle(groups_window)
    assert "rows with both values" in pane.about.text() and "differences" in words_of(pane.margin)
    pane.fields.columns.column_toggled.emit("mass_g", True)
    wait_until_idle(groups_window)
    assert "different units" in pane.about.text() and not pane.body.isVisible()


def test_a_group_is_selected_in_picture_and_list_and_a_pair_in_the_differences(
    pane: GroupsPane, groups_window: MainWindow
) -> None:
    pick(groups_window, pane.fields.by, "tank")
    study, chart = pane.hub.study, pane.chart
    at = next(y for y in range(chart.height()) if chart.row_at(y) == 2) + 5
    QTest.mouseClick(chart, LEFT, pos=QPoint(chart.width() // 2, at))
    assert np.array_equal(study.selection.rows, pane.shown[2].rows)
    row = pane.differences.picture.rows[0]
    QTest.mouseClick(pane.differences, LEFT, pos=QPoint(40, 20))
    both = [group.rows for group in pane.shown if group.name in (row.first, row.second)]
    assert np.array_equal(study.selection.rows, np.sort(np.concatenate(both)))


def test_the_numbers_sort_and_are_copied_with_all_their_digits(pane: GroupsPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.fields.by, "tank")
    pane.table.sortByColumn(pane.model.heads.index("mean"), Qt.SortOrder.DescendingOrder)
    means = [group.description.mean for group in pane.model.items]
    assert means[:-1] == sorted(means[:-1], reverse=True)
    total = pane.model.items[-1]
    assert total.name == TOTAL and total.sample.n == sum(group.sample.n for group in pane.shown)
    QTest.keyClick(pane.table, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    lines = [line.split("\t") for line in QGuiApplication.clipboard().text().splitlines()]
    assert lines[0] == pane.model.heads and [float(line[3]) for line in lines[1:]] == means


def test_any_statistic_stands_in_the_list_in_the_order_chosen(pane: GroupsPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.fields.by, "tank")
    pane.table.sortByColumn(pane.model.heads.index("mean"), Qt.SortOrder.DescendingOrder)
    pane.statistics.chosen.emit(["l_scale", "mean", "distinct"])
    assert pane.model.heads == ["group", "n", "missing", "L-scale", "mean", "distinct", "flagged"]
    assert [group.name for group in pane.model.items] == [*(f"T{k}" for k in range(1, 7)), TOTAL]
    group = pane.model.items[0]
    assert pane.model.lines[1][3] == repr(group.description.l_scale)
    assert pane.model.lines[1][5] == str(group.description.distinct)
    pane.statistics.chosen.emit([])
    assert "skew G1" in pane.model.heads, "none chosen: the usual ones"


def test_what_is_flagged_among_all_columns_is_selected(pane: GroupsPane, groups_window: MainWindow) -> None:
    pane.hub.study.change_view(compared_columns=("length_mm", "fork_length_mm"), groups_paired=False)
    pick(groups_window, pane.fields.by, "columns with each other")
    assert "As one sample" in words_of(pane.margin)
    flags = pane.compared.pooled_flags
    (button,) = [each for each in pane.margin.findChildren(QPushButton) if each.text().startswith("length_mm: ")]
    button.click()
    assert np.array_equal(pane.hub.study.selection.rows, flags.rows["length_mm"])


def test_a_decision_changes_the_groups(pane: GroupsPane, groups_window: MainWindow) -> None:
    pick(groups_window, pane.fields.by, "strain")
    before = pane.shown[0].sample.n
    pane.hub.study.decide(DecisionKind.EXCLUDE_VALUE, "swim_cm_s", pane.shown[0].rows[:50])
    wait_until_idle(groups_window)
    assert pane.shown[0].sample.n == before - 50


def test_a_column_without_numbers_is_referred_to_the_other_view(pane: GroupsPane, groups_window: MainWindow) -> None:
    pane.hub.set_focus("feed")
    wait_until_idle(groups_window)
    assert "Two categories" in pane.about.text() and not pane.body.isVisible()


def test_a_table_without_groups_says_so(blank_window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "one.csv"
    pl.DataFrame({"x": np.random.default_rng(2).normal(size=40).round(3)}).write_csv(path)
    opened(blank_window, path)
    blank_window.acting.show_stage(STAGES.index("Groups"))
    wait_until_idle(blank_window)
    stage = blank_window.bench.page("Groups").stage
    assert "No column here makes groups" in stage.groups.about.text()
    stage.show_view(list(VIEWS).index("Two categories"))
    wait_until_idle(blank_window)
    assert "Two columns that make groups are needed" in stage.crossed.about.text()


def test_groups_stand_on_the_scale_of_the_column_and_codes_as_bars(pane: GroupsPane, groups_window: MainWindow) -> None:
    pane.hub.set_focus("mass_g")
    wait_until_idle(groups_window)
    pick(groups_window, pane.fields.by, "tank")
    change_axis_scale(pane.hub, "log")
    wait_until_idle(groups_window)
    assert not pane.chart.picture.scale.is_measured and "axis" in pane.chart.picture.title
    assert max(row.mean for row in pane.chart.picture.rows) < 10, "places on a log axis"
    pane.hub.set_focus("fin_score")
    wait_until_idle(groups_window)
    rows = pane.chart.picture.rows
    assert list(pane.chart.picture.ticks) == [0, 1, 2, 3, 4] and not rows[0].values.size
    for row in rows:
        assert sum(share for _, share in row.bars) == pytest.approx(1)
    assert "ordered codes are ranks" in words_of(pane.margin) and "Kruskal–Wallis" in words_of(pane.margin)


def test_a_comparison_is_kept_for_the_report_and_let_go(pane: GroupsPane, groups_window: MainWindow) -> None:
    def button() -> QPushButton:
        return next(each for each in pane.margin.findChildren(QPushButton) if "report" in each.text())

    pick(groups_window, pane.fields.by, "tank")
    study = pane.hub.study
    for comparison in study.document.comparisons:
        study.keep_comparison(comparison, False)
    button().click()
    wait_until_idle(groups_window)
    assert [each.needed for each in study.document.comparisons] == [("swim_cm_s", "tank")]
    assert button().text() == "In the report" and button().isChecked()
    pick(groups_window, pane.fields.by, "strain")
    assert not button().isChecked(), "another one is not kept yet"
    pick(groups_window, pane.fields.by, "tank")
    button().click()
    wait_until_idle(groups_window)
    assert not study.document.comparisons
