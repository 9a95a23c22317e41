"""One window for all tests of a module."""

import pytest
from pytestqt.qtbot import QtBot

from culvix.app.shell.window import MainWindow


@pytest.fixture
def window(qtbot: QtBot, shared_window: MainWindow) -> MainWindow:
    return shared_window
