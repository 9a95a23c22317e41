"""One window on the Relations of the demo for all tests of a module, where each can begin anew in it."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.app.shell.window import MainWindow
from tests.app.driving import shown_stage


@pytest.fixture(scope="module")
def relations_window(
    themed: QApplication, demo_path: Path, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[MainWindow]:
    with shown_stage(tmp_path_factory.mktemp("window"), demo_path, "Relations") as made:
        yield made


@pytest.fixture
def window(qtbot: QtBot, shared_window: MainWindow) -> MainWindow:
    return shared_window
