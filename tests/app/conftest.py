"""Windows for the tests that drive them, each gone when its test is over."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.app.session.hub import Hub
from culvix.app.session.jobs import JobRunner
from culvix.app.shell.start import wait_until
from culvix.app.shell.theme import apply_theme
from culvix.app.shell.window import MainWindow
from culvix.study import Study
from tests.app.driving import blank


@pytest.fixture(scope="session")
def themed(qapp: QApplication) -> QApplication:
    """The application in its theme, put on once: every widget there is would be dressed again."""
    apply_theme(qapp)
    return qapp


@pytest.fixture
def blank_window(qtbot: QtBot, themed: QApplication, tmp_path: Path) -> Iterator[MainWindow]:
    """A window without a table."""
    with blank(tmp_path) as made:
        yield made


@pytest.fixture
def window(blank_window: MainWindow) -> MainWindow:
    return blank_window


@pytest.fixture
def jobs(qtbot: QtBot) -> Iterator[JobRunner]:
    """Background work without a window."""
    runner = JobRunner()
    yield runner
    runner.shut_down()


@pytest.fixture
def hub(jobs: JobRunner, study: Study) -> Hub:
    """A hub without a window, turned to the lengths of the demo."""
    made = Hub(study, jobs)
    made.set_focus("length_mm")
    assert wait_until(lambda: jobs.at_rest, 20)
    return made
