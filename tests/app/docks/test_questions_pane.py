"""The list of open questions: walked with a key, answered in place, and its number in the top strip falls."""

from pathlib import Path

import pytest
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from culvix.app.docks.questions_pane import QuestionsPane
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.study import Study
from culvix.study.analysis.findings.open_questions import ORDERS, open_questions
from culvix.study.analysis.workspace import Workspace
from tests.app.driving import opened, wait_until_idle


@pytest.fixture
def window(blank_window: MainWindow) -> MainWindow:
    """A window of its own: what is left to answer depends on all that was done before."""
    return blank_window


@pytest.fixture
def pane(window: MainWindow, demo_path: Path) -> QuestionsPane:
    bench, _ = opened(window, demo_path)
    wait_until_idle(window)
    QTest.keySequence(window, "J")
    wait_until_idle(window)
    assert bench.shows_questions and bench.questions.isVisible()
    return bench.questions


def answer(pane: QuestionsPane, text: str) -> None:
    (button,) = [each for each in pane.card.findChildren(QPushButton) if each.text() == text]
    button.click()


def test_the_worst_comes_first_and_a_key_goes_to_the_next(window: MainWindow, pane: QuestionsPane) -> None:
    graves = [each.finding.grave for each in pane.questions]
    assert graves == sorted(graves, reverse=True) and graves[0]
    assert wait_until(lambda: window.strip.questions.text() == f"{len(pane.questions)} open", 10)
    assert window.bench.hub.focus == pane.questions[0].finding.column
    QTest.keySequence(window, "J")
    wait_until_idle(window)
    assert pane.list.currentRow() == 1 and window.bench.hub.focus == pane.questions[1].finding.column
    QTest.keySequence(window, "Shift+J")
    assert not window.bench.shows_questions


def test_an_answer_settles_the_question_and_the_next_one_is_at_hand(window: MainWindow, pane: QuestionsPane) -> None:
    study, first, second = window.bench.hub.study, *pane.questions[:2]
    many = len(pane.questions)
    answer(pane, first.finding.proposals[0].label)
    wait_until_idle(window)
    assert study.working.decided(first.finding.column).size >= first.finding.rows.size
    assert first.key not in [each.key for each in pane.questions]
    assert pane.current is not None and pane.current.key == second.key
    assert window.bench.hub.focus == second.finding.column
    assert len(pane.questions) < many
    assert wait_until(lambda: window.strip.questions.text() == f"{len(pane.questions)} open", 10)
    QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    assert first.key in [each.key for each in pane.questions]


def test_show_selects_the_rows_of_the_question(window: MainWindow, pane: QuestionsPane) -> None:
    finding = pane.current.finding
    answer(pane, "Show")
    wait_until_idle(window)
    assert window.bench.hub.study.selection.in_column(finding.column).tolist() == sorted(finding.rows.tolist())


def test_questions_are_listed_by_column_or_by_kind(window: MainWindow, pane: QuestionsPane) -> None:
    pane.order.setCurrentIndex(list(ORDERS).index("column"))
    pane.order.activated.emit(pane.order.currentIndex())
    wait_until_idle(window)
    positions = [each.position for each in pane.questions]
    assert positions == sorted(positions)


def test_every_open_question_is_listed_once_in_every_order(study: Study, demo_path: Path) -> None:
    workspace: Workspace = study.workspace
    for column in study.table.numeric:
        workspace.analysis(column.name)
    expected = {
        (column.name, finding.kind, finding.rows.tobytes())
        for column in study.table.numeric
        for finding in workspace.analysis(column.name).findings(study.working)
        if not finding.resolved
    }
    for order in ORDERS:
        found = open_questions(workspace, order)
        assert len(found) == len(expected) and {each.key for each in found} == expected
