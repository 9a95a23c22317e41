"""The statistics of a line are searched, ticked, put into order and kept as sets, beside the lines."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtTest import QTest

from culvix.app.shell.window import MainWindow
from culvix.app.survey.stage import SurveyStage
from culvix.app.survey.statistics_pane import StatisticsPane
from culvix.study.analysis.survey.order import SurveyOrder
from culvix.study.analysis.survey.sets import statistic_sets
from tests.app.driving import wait_until_idle

LEFT = Qt.MouseButton.LeftButton


@pytest.fixture
def survey(blank_window: MainWindow, tmp_path: Path) -> Iterator[SurveyStage]:
    draw = np.random.default_rng(8)
    path = tmp_path / "wide.csv"
    heads = [f"column_with_a_long_name_{each}" for each in range(40)]
    body = "\n".join(",".join(f"{x:.2f}" for x in draw.normal(1_234_567, 5_000, 40)) for _ in range(30))
    path.write_text(",".join(heads) + "\n" + body + "\n")
    blank_window.resize(1280, 800)
    blank_window.opening.open_path(path)
    wait_until_idle(blank_window)
    assert blank_window.bench is not None
    yield blank_window.bench.survey.stage


def test_the_names_stay_in_view_when_the_lines_move_sideways(survey: SurveyStage) -> None:
    survey.chooser.sets.setCurrentText("every statistic")
    survey.chooser.sets.activated.emit(survey.chooser.sets.currentIndex())
    view, bar = survey.view, survey.view.horizontalScrollBar()
    before = view.over.geometry()
    bar.setValue(bar.maximum())
    assert bar.maximum() > 0 and view.over.geometry() == before and view.over.isVisible()
    assert view.over.columnViewportPosition(0) == 0 and view.columnViewportPosition(0) < 0
    view.verticalScrollBar().setValue(view.verticalScrollBar().maximum())
    assert view.over.verticalScrollBar().value() == view.verticalScrollBar().value() > 0
    assert view.over.rowAt(5) == view.rowAt(5)


def test_a_cell_reached_with_keys_does_not_stay_under_the_names(survey: SurveyStage) -> None:
    view = survey.view
    view.horizontalScrollBar().setValue(view.horizontalScrollBar().maximum())
    view.scrollTo(survey.lines.index(0, 3))
    assert view.columnViewportPosition(3) >= view.over.width() - 1


def test_a_click_on_a_name_chooses_the_line_and_one_on_its_head_sorts(survey: SurveyStage) -> None:
    view = survey.view
    at = view.over.visualRect(survey.lines.index(3, 0)).center()
    QTest.mouseClick(view.over.viewport(), LEFT, pos=at)
    assert survey.chosen == ["column_with_a_long_name_3"]
    heads = view.frozen_heads
    for falling in (False, True):
        QTest.mouseClick(heads.viewport(), LEFT, pos=heads.rect().center() - heads.rect().topLeft() - _to_first(heads))
        assert survey.lines.order == SurveyOrder("column", descending=falling)
    assert survey.chosen == ["column_with_a_long_name_3"], "what is chosen stays chosen"


def _to_first(heads: object) -> object:
    """From the middle of the heads to the middle of the first one."""
    middle = heads.rect().center()
    middle.setX(middle.x() - heads.sectionSize(0) // 2)
    middle.setY(0)
    return middle


def test_no_number_is_shortened(survey: SurveyStage) -> None:
    metrics = survey.view.fontMetrics()
    for position in range(2, len(survey.lines.heads)):
        for row in range(survey.lines.row_count()):
            shown = str(survey.lines.index(row, position).data() or "")
            assert metrics.horizontalAdvance(shown) <= survey.view.columnWidth(position) - 12, shown


def test_statistics_are_found_ticked_and_dragged_while_the_lines_follow(survey: SurveyStage) -> None:
    QTest.mouseClick(survey.statistics, LEFT)
    pane = survey.chooser
    assert pane.isVisible() and pane.sets.currentText() == "usual"
    QTest.keyClicks(pane.list.search, "kurtosis")
    shown = [item for k in range(pane.list.list.count()) if not (item := pane.list.list.item(k)).isHidden()]
    assert shown and all("kurtosis" in item.text() for item in shown)
    pane.list.search.clear()
    pane.list.tick("l_kurtosis")
    assert survey.fields[-1] == "l_kurtosis" and pane.sets.currentText() == "chosen by hand" and pane.isVisible()
    pane.list.list.setCurrentRow(1)
    QTest.keyClick(pane.list.list, Qt.Key.Key_Up, Qt.KeyboardModifier.ControlModifier)
    assert survey.fields[:2] == ["findings", "role"]
    QTest.mouseClick(survey.statistics, LEFT)
    assert not pane.isVisible()


def test_sets_are_chosen_kept_and_taken_up_again(survey: SurveyStage, tmp_path: Path) -> None:
    pane = survey.chooser
    pane.sets.setCurrentText("five numbers")
    pane.sets.activated.emit(pane.sets.currentIndex())
    assert survey.fields == list(statistic_sets()["five numbers"])
    pane.list.tick("cv")
    QTest.keyClicks(pane.name, "mine")
    QTest.keyClick(pane.name, Qt.Key.Key_Return)
    assert pane.sets.currentText() == "mine" and pane.drop.isEnabled()
    settings = QSettings(str(tmp_path / "p.ini"), QSettings.Format.IniFormat)
    pane.remember(settings)
    again = StatisticsPane(survey.hub, survey.fields)
    again.recall(settings)
    assert again.own_sets == {"mine": tuple(survey.fields)} and again.sets.currentText() == "mine"
    settings.setValue("survey/sets", "[no sets")
    again.recall(settings)
    assert again.own_sets == {}
    QTest.mouseClick(pane.drop, LEFT)
    assert pane.own_sets == {} and pane.sets.currentText() == "chosen by hand"


def test_a_set_needs_a_name_that_no_other_has(survey: SurveyStage) -> None:
    said: list[str] = []
    survey.hub.message.connect(said.append)
    for name in ("", "usual"):
        survey.chooser.name.setText(name)
        QTest.mouseClick(survey.chooser.keep, LEFT)
    assert len(said) == 2 and survey.chooser.own_sets == {}


def test_lines_are_put_worst_first_or_by_the_size_of_a_statistic(survey: SurveyStage) -> None:
    names = [survey.order.itemText(k) for k in range(survey.order.count())]
    assert names[:2] == ["order of the table", "worst first"] and "size of skew G1" in names
    survey.order.setCurrentIndex(names.index("size of skew G1"))
    survey.order.activated.emit(survey.order.currentIndex())
    sizes = [abs(row.analysis.description.skewness) for row in survey.lines.rows]
    assert sizes == sorted(sizes, reverse=True)
    assert survey.view.heads.sortIndicatorSection() == 2 + survey.lines.fields.index("skewness")
    survey.order.setCurrentIndex(0)
    survey.order.activated.emit(0)
    assert survey.lines.rows[0].column.name.endswith("_0") and survey.view.heads.sortIndicatorSection() == -1


def test_the_convention_is_changed_where_the_numbers_stand(survey: SurveyStage) -> None:
    survey.chooser.decimals.setValue(4)
    assert survey.hub.study.settings.decimals == 4
    survey.chooser.conventions.quartiles.setCurrentIndex(5)
    survey.chooser.conventions.quartiles.activated.emit(5)
    assert survey.hub.study.settings.quantile_type == 6
