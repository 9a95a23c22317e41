"""What Culvix remembers, in the window: seen, and erased by kind and age."""

import os
import time
from pathlib import Path

import pytest
from PyQt6.QtCore import Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication

from culvix.app.shell.dialogs.remembered_dialog import RememberedDialog
from culvix.app.shell.window import MainWindow
from culvix.places import data_folder, make_private
from tests.app.driving import opened, rest


def test_what_is_ticked_and_old_enough_goes_and_what_is_open_stays(
    window: MainWindow, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setenv("XDG_DATA_HOME", str(tmp_path))
    pasted = make_private(data_folder() / "pasted")
    for name, age in (("old.tsv", 30), ("open.tsv", 30), ("new.tsv", 0)):
        (pasted / name).write_text("a\tb\n1\t2\n3\t5\n")
        os.utime(pasted / name, (time.time() - age * 86400,) * 2)
    opened(window, pasted / "open.tsv")
    rest(window)
    seen: list[str] = []

    def answer() -> None:
        dialog = QApplication.activeModalWidget()
        assert isinstance(dialog, RememberedDialog)
        assert not dialog.erase.isEnabled()
        QTest.mouseClick(dialog.ticks["pasted"], Qt.MouseButton.LeftButton, pos=dialog.ticks["pasted"].rect().center())
        dialog.ticks["pasted"].setChecked(True)
        dialog.days.setValue(7)
        QTest.mouseClick(dialog.erase, Qt.MouseButton.LeftButton)
        seen.append(dialog.outcome.text())
        dialog.accept()

    QTimer.singleShot(0, answer)
    window.opening.preferring.ask_remembered()
    assert seen == ["1 entry erased."] and sorted(each.name for each in pasted.iterdir()) == ["new.tsv", "open.tsv"]
