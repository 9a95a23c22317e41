"""A window for the tests that drive it."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.app.theme import apply_theme
from culvix.app.window import MainWindow


@pytest.fixture
def window(qtbot: QtBot, qapp: QApplication, tmp_path: Path) -> Iterator[MainWindow]:
    apply_theme(qapp)
    made = MainWindow(QSettings(str(tmp_path / "layout.ini"), QSettings.Format.IniFormat))
    made.resize(1280, 800)
    made.show()
    yield made
    made.close()
