"""The margin of the Shape stage by itself: every role, every test, cells and findings settled."""

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton
from pytestqt.qtbot import QtBot

from culvix.app.docks.finding_card import FindingCard
from culvix.app.docks.rail import Rail
from culvix.app.relations.stage import PairMargin
from culvix.app.session.hub import Hub
from culvix.app.shape.margin import ShapeMargin
from culvix.app.shape.stage import ShapeStage
from culvix.app.shell.start import wait_until
from culvix.demo import Cohort
from culvix.guide import entry_for
from culvix.stats.registry import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS
from culvix.study import DecisionKind, Study
from culvix.study.relations.pair_analysis import analyse_pair
from culvix.study.relations.pair_details import pair_details

LENGTH = "length_mm"


def words_of(widget: object) -> str:
    return " ".join(label.text() for label in widget.findChildren(QLabel) if not label.isHidden())


def test_the_margin_speaks_for_every_role(hub: Hub, qtbot: QtBot, study: Study) -> None:
    margin = ShapeMargin(hub)
    qtbot.addWidget(margin)
    margin.show()
    for column in study.table:
        hub.set_focus(column.name)
        assert wait_until(lambda: hub.jobs.at_rest, 20)
        message = words_of(margin)
        assert "nan" not in message.lower() and "p = 0.000" not in message
        if column.is_numeric:
            assert "Summary" in message and "Normality" in message and "Findings" in message
        else:
            assert "Most frequent" in message or column.missing == study.table.rows
    hub.set_focus("vaccinated")
    margin.apply_pending()
    assert "not a question" in words_of(margin) and "W 0." not in words_of(margin)


def test_the_margin_shows_every_test_on_demand(hub: Hub, qtbot: QtBot) -> None:
    margin = ShapeMargin(hub)
    qtbot.addWidget(margin)
    margin.refresh()
    assert "Lilliefors" not in words_of(margin)
    (more,) = [b for b in margin.findChildren(QPushButton) if b.text() == "All 7 tests"]
    QTest.mouseClick(more, Qt.MouseButton.LeftButton)
    QApplication.sendPostedEvents()
    assert all(name in words_of(margin) for name in ("Lilliefors", "Anderson–Darling", "Jarque–Bera"))


def test_cells_that_are_no_numbers_are_settled_with_one_click(hub: Hub, qtbot: QtBot, study: Study) -> None:
    margin, rail = ShapeMargin(hub), Rail(hub)
    for widget in (margin, rail):
        qtbot.addWidget(widget)
    hub.set_focus("glucose_mmol_l")
    assert wait_until(lambda: hub.jobs.at_rest, 20)
    assert "62 cells: decimal comma" in words_of(margin)
    (read,) = [button for button in margin.findChildren(QPushButton) if button.text() == "Read as number"]
    QTest.mouseClick(read, Qt.MouseButton.LeftButton)
    assert wait_until(lambda: hub.jobs.at_rest and hub.analysis is not None, 20)
    assert study.table["glucose_mmol_l"].unread == 0 and hub.analysis.description.n == 2157
    QApplication.sendPostedEvents()
    assert "settled: read the number in it" in words_of(margin)
    # The missing tokens of the column have a card of their own.
    offered = [button for button in margin.findChildren(QPushButton) if button.text() == "Leave unread"]
    (back,) = [button for button in offered if "all 62 cells" in button.toolTip()]
    QTest.mouseClick(back, Qt.MouseButton.LeftButton)
    assert wait_until(lambda: hub.jobs.at_rest and hub.analysis is not None, 20)
    assert hub.analysis.description.n == 2095


def test_the_window_walks_the_table_of_methods(hub: Hub, qtbot: QtBot, study: Study) -> None:
    """Every method of the table can be chosen, has its lane and its mark, and every coefficient is shown."""
    stage, margin = ShapeStage(hub), ShapeMargin(hub)
    for widget in (stage, margin):
        qtbot.addWidget(widget)
    assert list(stage.methods.method_boxes) == list(OUTLIER_METHODS)
    assert set(stage.methods.limit_fields) == {key for key, method in OUTLIER_METHODS.items() if method.limit}
    for box in stage.methods.method_boxes.values():
        if not box.isChecked():
            box.click()
    assert wait_until(lambda: hub.jobs.at_rest, 20)
    assert study.settings.methods == tuple(OUTLIER_METHODS)
    assert list(hub.analysis.flags.results) == list(OUTLIER_METHODS)
    margin.normality.all_tests = True
    margin.refresh()
    asked: list[str] = []
    margin.asked.connect(asked.append)
    for mark in margin.findChildren(QLabel):
        if mark.property("asks") is not None:
            QTest.mouseClick(mark, Qt.MouseButton.LeftButton)
    assert set(asked) >= {*NORMALITY_TESTS, "mean", "sd", "q1", "iqr", "skewness", "mad_scaled", "n", "unread"}
    assert all(entry_for(key) for key in asked)
    pair = PairMargin(hub)
    qtbot.addWidget(pair)
    found = analyse_pair(study.workspace.analysis(LENGTH), study.workspace.analysis("mass_g"))
    pair.show_pair(pair_details(found), 0.95)
    assert wait_until(lambda: hub.jobs.at_rest, 20)
    assert all(kind.name in words_of(pair) for kind in CORRELATION_KINDS.values())


def test_keeping_a_finding_settles_it(hub: Hub, qtbot: QtBot, study: Study, cohort: Cohort) -> None:
    finding = next(f for f in hub.analysis.findings(study.working) if f.kind == "other_unit")
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [int(finding.rows[0])], reason="mine")
    card = FindingCard(hub, finding)
    qtbot.addWidget(card)
    card.resolve(finding.proposals[-1])
    assert study.working.decision_on(LENGTH, int(finding.rows[0])).reason == "mine", (
        "an earlier decision is not overruled"
    )
    assert len(study.decisions[1].rows) == finding.rows.size - 1
