"""Windows for the tests that drive them, each gone when its test is over."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QSettings
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.app.shell.theme import apply_theme
from culvix.app.shell.window import MainWindow


@pytest.fixture(scope="session")
def themed(qapp: QApplication) -> QApplication:
    """The application in its theme, put on once: every widget there is would be dressed again."""
    apply_theme(qapp)
    return qapp


@pytest.fixture
def blank_window(qtbot: QtBot, themed: QApplication, tmp_path: Path) -> Iterator[MainWindow]:
    """A window without a table."""
    made = MainWindow(QSettings(str(tmp_path / "layout.ini"), QSettings.Format.IniFormat))
    made.resize(1280, 800)
    made.show()
    yield made
    made.close_anyway()
    made.deleteLater()
    # Nothing else does so between tests, and hundreds of windows would be kept and dressed.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


@pytest.fixture
def window(blank_window: MainWindow) -> MainWindow:
    return blank_window
