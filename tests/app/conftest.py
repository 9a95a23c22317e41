"""Windows for the tests that drive them, each gone when its test is over."""

from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.app.session.hub import Hub
from culvix.app.session.jobs import JobRunner
from culvix.app.shell.start import wait_until
from culvix.app.shell.theme import apply_theme
from culvix.app.shell.window import MainWindow
from culvix.study import Study
from culvix.study.analysis.analysis_cache import AnalysisCache
from culvix.study.analysis.result_cache import ALL_PARTS, PartCache
from culvix.tables import Table, read_table
from culvix.tables.model.options.read_options import PLAIN, ReadOptions
from culvix.tables.model.table import Column
from tests.app.driving import blank


@pytest.fixture(scope="session")
def themed(qapp: QApplication) -> QApplication:
    """The application in its theme, put on once: every widget there is would be dressed again."""
    apply_theme(qapp)
    return qapp


@pytest.fixture(scope="session", autouse=True)
def demo_read_once(demo_path: Path, demo_table: Table) -> Iterator[None]:
    """The demo is read, and what its columns come to is worked out, once for all windows: most tests open it."""
    kept: dict[Column, PartCache] = {}
    parts_of = AnalysisCache.parts

    def read(path: Path, options: ReadOptions = PLAIN, **more: Any) -> Table:
        plain = path == demo_path and options == PLAIN and more.get("dictionary") is None
        return demo_table if plain else read_table(path, options, **more)

    def parts(cache: AnalysisCache, column: Column) -> PartCache:
        if column.name in demo_table and demo_table[column.name] is column:
            return kept.setdefault(column, PartCache(ALL_PARTS))
        return parts_of(cache, column)

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("culvix.app.shell.controllers.opening.read_table", read)
        patch.setattr(AnalysisCache, "parts", parts)
        yield


@pytest.fixture
def blank_window(qtbot: QtBot, themed: QApplication, tmp_path: Path) -> Iterator[MainWindow]:
    """A window without a table."""
    with blank(tmp_path) as made:
        yield made


@pytest.fixture(scope="module")
def shared_window(themed: QApplication, tmp_path_factory: pytest.TempPathFactory) -> Iterator[MainWindow]:
    """One window for all tests of a module: `opened` begins anew in it, which is much sooner done than opening."""
    with blank(tmp_path_factory.mktemp("window")) as made:
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
