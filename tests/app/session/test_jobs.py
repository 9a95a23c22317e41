"""Jobs in the background, and the hub that drops what is stale."""

import threading
import time

from PyQt6.QtCore import QEvent
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.app.session.hub import Hub
from culvix.app.session.jobs import JobRunner
from culvix.app.shell.start import wait_until
from culvix.errors import Cancelled, CulvixError
from culvix.progress import Progress
from culvix.study import ColumnSettings, DecisionKind, Study

LENGTH = "length_mm"


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


def test_an_analysis_of_what_was_is_shown_nowhere(hub: Hub, study: Study) -> None:
    arrived: list[str] = []
    hub.analysed.connect(arrived.append)
    hub.request_analysis("mass_g", urgent=False)
    # Of a column that is not in view nothing else asks for the state after this.
    study.change_settings(study.settings.with_column("mass_g", ColumnSettings(bin_width=50.0)))
    assert wait_until(lambda: hub.jobs.at_rest, 20)
    assert "mass_g" not in arrived and "mass_g" not in hub.sparklines
    assert study.workspace.known_analysis("mass_g") is None


def test_a_ranking_of_what_was_is_dropped(hub: Hub, study: Study) -> None:
    heard: list[object] = []
    hub.related.connect(lambda: heard.append(hub.relations))
    hub.request_relations()
    study.decide(DecisionKind.EXCLUDE_ROW, LENGTH, [0])
    assert wait_until(lambda: hub.jobs.at_rest, 20)
    assert not heard and hub.relations is None
    hub.request_relations()
    assert wait_until(lambda: hub.jobs.at_rest, 20)
    assert len(heard) == 1 and hub.relations is not None


def test_a_job_that_ends_after_its_runner_is_gone_is_told_to_nobody(qtbot: QtBot) -> None:
    runner, begun, gone = JobRunner(), threading.Event(), threading.Event()
    told: list[object] = []

    def work(progress: Progress) -> str:
        begun.set()
        assert gone.wait(20)
        progress(0.5, "late")
        return "too late"

    runner.start("late", work, told.append, failed=told.append)
    assert begun.wait(20)
    runner.destroyed.connect(gone.set)
    runner.deleteLater()
    # The threads are waited for while the runner is taken down; a fault in one of them would fail this test.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    assert gone.is_set() and told == []
