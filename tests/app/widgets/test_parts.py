"""The parts of the window by themselves: jobs, tray, rail, margin, and what is remembered."""

import threading
import time
from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtGui import QKeySequence
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton
from pytestqt.qtbot import QtBot

from culvix.app.docks.rail import Rail
from culvix.app.docks.tray import Tray
from culvix.app.relations.stage import PairMargin
from culvix.app.session.hub import Hub
from culvix.app.session.jobs import JobRunner
from culvix.app.shape.margin import ShapeMargin
from culvix.app.shape.stage import ShapeStage
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import STAGES, first_column
from culvix.demo import Cohort
from culvix.errors import Cancelled, CulvixError
from culvix.guide import entry_for
from culvix.stats.registry import CORRELATION_KINDS, NORMALITY_TESTS, OUTLIER_METHODS
from culvix.study import Cause, DecisionKind, Study
from culvix.study.analysis.pair_analysis import analyse_pair
from culvix.tables import read_table
from tests.app.driving import settled

LENGTH = "length_mm"


@pytest.fixture
def jobs(qtbot: QtBot) -> Iterator[JobRunner]:
    runner = JobRunner()
    yield runner
    runner.shut_down()


@pytest.fixture
def hub(jobs: JobRunner, study: Study) -> Hub:
    made = Hub(study, jobs)
    made.set_focus(LENGTH)
    assert wait_until(lambda: jobs.at_rest, 20)
    return made


def words_of(widget: object) -> str:
    return " ".join(label.text() for label in widget.findChildren(QLabel) if not label.isHidden())


# Jobs


def test_a_newer_job_of_the_same_name_replaces_the_older(jobs: JobRunner) -> None:
    heard: list[object] = []
    gate = threading.Event()

    def slow(progress: object) -> str:
        gate.wait(5)
        progress(0.5, "still at it")
        return "old"

    jobs.start("work", slow, heard.append, failed=lambda error: heard.append(type(error)))
    jobs.start("work", lambda progress: "new", heard.append)
    gate.set()
    assert wait_until(lambda: jobs.at_rest, 5)
    time.sleep(0.05)
    assert wait_until(lambda: len(heard) == 2, 2) and heard == [Cancelled, "new"]


def test_a_user_error_is_told_in_its_own_words(jobs: JobRunner) -> None:
    said: list[str] = []
    jobs.failed.connect(said.append)

    def refuse(progress: object) -> None:
        raise CulvixError("The table\nis upside down.")

    jobs.start("work", refuse, said.append)
    assert wait_until(lambda: bool(said), 5) and said == ["The table is upside down."]


def test_work_off_the_interface_thread_leaves_it_free(jobs: JobRunner) -> None:
    here, there, ticks = threading.get_ident(), [], []

    def work(progress: object) -> int:
        time.sleep(0.3)
        return threading.get_ident()

    jobs.start("work", work, there.append)
    begun = time.monotonic()
    assert wait_until(lambda: ticks.append(time.monotonic()) or bool(there), 5)
    assert there[0] != here and len(ticks) > 10 and time.monotonic() - begun < 3


# Hub


def test_a_stale_analysis_is_dropped(hub: Hub, study: Study) -> None:
    arrived: list[str] = []
    hub.analysed.connect(arrived.append)
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [0])
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [1])
    assert wait_until(lambda: hub.jobs.at_rest, 10)
    assert hub.analysis.description.n == 2172 and arrived[-1] == LENGTH
    assert hub.analysis.request.key == study.workspace.request(LENGTH).key


def test_what_is_known_comes_at_once(hub: Hub, study: Study) -> None:
    arrived: list[str] = []
    hub.analysed.connect(arrived.append)
    hub.request_analysis(LENGTH)
    assert arrived == [LENGTH] and hub.jobs.at_rest
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [0])
    assert wait_until(lambda: hub.jobs.at_rest, 10)
    study.undo()
    assert hub.analysis is not None and hub.analysis.description.n == 2174, (
        "an earlier state need not be worked out again"
    )


# Tray


@pytest.fixture
def tray(hub: Hub, qtbot: QtBot) -> Tray:
    made = Tray(hub)
    qtbot.addWidget(made)
    return made


@pytest.mark.parametrize(
    ("typed", "value", "factor"),
    [
        ("211.5", 211.5, None),
        ("×10", None, 10.0),
        ("÷10", None, 0.1),
        ("/4", None, 0.25),
        ("*2", None, 2.0),
        ("−5", -5.0, None),
    ],
)
def test_corrections_are_typed_as_value_or_factor(
    tray: Tray, study: Study, typed: str, value: float | None, factor: float | None
) -> None:
    study.select([4], column=LENGTH)
    tray.bar.correction.setText(typed)
    tray.bar.decide(DecisionKind.CORRECT)
    (decision,) = study.decisions
    assert decision.value == value
    assert decision.factor == (None if factor is None else pytest.approx(factor))
    assert tray.bar.correction.text() == "" and decision.cause is Cause.UNKNOWN


@pytest.mark.parametrize("typed", ["", "many", "÷0", "×", "nan", "1e999"])
def test_what_is_no_correction_is_refused_in_words(tray: Tray, study: Study, typed: str) -> None:
    said: list[str] = []
    tray.problem.connect(said.append)
    study.select([4], column=LENGTH)
    tray.bar.correction.setText(typed)
    tray.bar.decide(DecisionKind.CORRECT)
    assert len(said) == 1 and said[0].endswith(".") and not study.decisions


def test_deciding_without_a_selection_asks_for_one(tray: Tray, study: Study) -> None:
    said: list[str] = []
    tray.problem.connect(said.append)
    tray.bar.decide(DecisionKind.KEEP)
    assert "Select" in said[0] and not study.decisions
    assert not any(button.isEnabled() for button in tray.bar.buttons.values())


def test_the_tray_lists_whole_records_the_most_doubtful_first(tray: Tray, hub: Hub, study: Study) -> None:
    model = tray.model
    heads = model.heads
    assert heads[:6] == ["row", "tag", LENGTH, "flagged by", "decision", "cause"]
    assert {column.name for column in study.table} <= set(heads)
    agreement = hub.analysis.flags.agreement_on(model.rows)
    assert (np.diff(agreement) <= 0).all()
    first = [model.data(model.index(0, position)) for position in range(5)]
    row = int(model.rows[0])
    assert first[1] == study.table["tag"].cell(row) and first[3] == "3 of 3" and first[4] == ""
    study.decide(DecisionKind.CORRECT, LENGTH, [row], factor=10, reason="in cm")
    assert "→" in model.data(model.index(0, 2)) and model.data(model.index(0, 4)) == "correct ×10"


# Rail


def test_the_rail_narrows_and_steps(hub: Hub, qtbot: QtBot) -> None:
    rail = Rail(hub)
    qtbot.addWidget(rail)
    chosen: list[str] = []
    rail.chosen.connect(chosen.append)
    rail.search.setText("LENGTH")
    shown = [rail.view.model().index(k, 0).data() for k in range(rail.view.model().rowCount())]
    assert shown == [LENGTH, "fork_length_mm"]
    rail.view.setCurrentIndex(rail.view.model().index(0, 0))
    rail.step(1)
    rail.step(1)
    assert chosen == [LENGTH, "fork_length_mm"]


# Margin


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
    pair.show_pair(analyse_pair(study.workspace.analysis(LENGTH), study.workspace.analysis("mass_g")), 0.95)
    assert all(kind.name in words_of(pair) for kind in CORRELATION_KINDS.values())


def test_keeping_a_finding_settles_it(hub: Hub, qtbot: QtBot, study: Study, cohort: Cohort) -> None:
    margin = ShapeMargin(hub)
    qtbot.addWidget(margin)
    margin.refresh()
    finding = next(f for f in hub.analysis.findings(study.working) if f.kind == "other_unit")
    study.decide(DecisionKind.EXCLUDE_VALUE, LENGTH, [int(finding.rows[0])], reason="mine")
    margin.resolve(finding, finding.proposals[-1])
    assert study.working.decision_on(LENGTH, int(finding.rows[0])).reason == "mine", (
        "an earlier decision is not overruled"
    )
    assert len(study.decisions[1].rows) == finding.rows.size - 1


# Window


def test_the_sizes_of_the_panes_are_remembered(qtbot: QtBot, tmp_path: Path, demo_path: Path) -> None:
    file = str(tmp_path / "layout.ini")
    sizes = []
    for turn in range(2):
        window = MainWindow(QSettings(file, QSettings.Format.IniFormat))
        # The screen without a display is small, so only the panes are asked about, not the place on it.
        window.resize(1300, 820)
        window.show()
        window.opening.open_path(demo_path)
        assert wait_until(lambda window=window: window.bench is not None and window.jobs.at_rest, 30)
        window.acting.show_stage(STAGES.index("Shape"))
        if turn == 0:
            window.bench.across.setSizes([260, 700, 300])
        QApplication.sendPostedEvents()
        sizes.append(window.bench.across.sizes())
        window.close_anyway()
    assert sizes[0] == sizes[1] and sizes[0][0] > 220


def test_opening_a_second_table_replaces_the_first(qtbot: QtBot, tmp_path: Path, demo_path: Path) -> None:
    other = tmp_path / "other.csv"
    other.write_text("a,b\n" + "".join(f"{k},{k * k % 13}\n" for k in range(40)))
    window = MainWindow(QSettings(str(tmp_path / "l.ini"), QSettings.Format.IniFormat))
    window.show()
    for path, rows in ((demo_path, 2180), (other, 40), (demo_path, 2180)):
        before = window.bench
        window.opening.open_path(path)
        assert wait_until(lambda before=before: window.bench is not before and window.jobs.at_rest, 30)
        assert window.bench.hub.study.table.rows == rows
    keys = [action.shortcut() for action in window.actions_of_study if not action.shortcut().isEmpty()]
    assert len({key.toString() for key in keys}) == len(keys) and QKeySequence("Ctrl+R") in keys
    window.close_anyway()


def test_the_first_column_opened_is_a_measurement(tmp_path: Path) -> None:
    def first(text: str) -> str | None:
        path = tmp_path / "t.csv"
        path.write_text(text)
        return first_column(Study.of_table(read_table(path)))

    assert first("tag,ok,mass\na1,yes,1.5\na2,no,2.5\na3,no,2\n") == "mass"
    assert first("tag,ok\na1,yes\na2,no\na3,no\n") == "ok" and first("name\nann\nbob\nann\n") == "name"


def test_the_window_keeps_its_width_whatever_the_names_are(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / f"{'a_survey_of_households_with_a_long_name_' * 2}.csv"
    names = ["household_income_before_tax_and_transfers_eur", "satisfaction_with_the_neighbourhood_1_to_10"]
    path.write_text(",".join(names) + "\n" + "".join(f"{k * k}.25,{k % 7}.5\n" for k in range(60)))
    assert window.width() == 1280
    window.opening.open_path(path)
    assert wait_until(lambda: window.bench is not None and window.jobs.at_rest, 30)
    for position in range(len(STAGES)):
        window.acting.show_stage(position)
        window.jobs.busy.emit("searching the tightest half of the rows", 0.4)
        settled(window)
        assert window.width() == 1280 >= window.minimumSizeHint().width(), STAGES[position]
        window.jobs.idle.emit()
