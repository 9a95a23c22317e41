"""One window on the Relations of the demo for all tests of a module, where each can begin anew in it."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from tests.app.driving import blank, opened, settled


@pytest.fixture(scope="module")
def relations_window(
    themed: QApplication, demo_path: Path, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[MainWindow]:
    with blank(tmp_path_factory.mktemp("window")) as made:
        opened(made, demo_path)
        made.acting.show_stage(STAGES.index("Relations"))
        settled(made)
        yield made


@pytest.fixture
def window(qtbot: QtBot, shared_window: MainWindow) -> MainWindow:
    return shared_window
