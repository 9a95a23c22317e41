"""Every control that Tab reaches has a name, Tab comes round, and no control keeps it."""

from pathlib import Path

import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.app.widgets.accessible import spoken_name
from tests.app.driving import opened, wait_until_idle

_MOST = 150


def walked(window: MainWindow) -> list[QWidget]:
    """The controls that have the keyboard one after the other as Tab is pressed, until it is back at the first."""
    seen: list[QWidget] = []
    for _ in range(_MOST):
        here = QApplication.focusWidget()
        assert here is not None
        if here in seen:
            return seen
        seen.append(here)
        QTest.keyClick(here, Qt.Key.Key_Tab)
    raise AssertionError(f"Tab is not back after {_MOST} controls")


@pytest.mark.parametrize("stage", STAGES)
def test_tab_reaches_named_controls_and_comes_round(window: MainWindow, demo_path: Path, stage: str) -> None:
    bench, _ = opened(window, demo_path)
    window.activateWindow()
    bench.hub.set_focus("length_mm")
    window.acting.show_stage(STAGES.index(stage))
    wait_until_idle(window)
    bench.focus_data()
    controls = walked(window)
    assert len(controls) > 8
    unnamed = [each for each in controls if not spoken_name(each)]
    nameless = [f"{type(each).__name__} in {type(each.parentWidget()).__name__}" for each in unnamed]
    assert nameless == []
    assert all(each.isVisibleTo(window) for each in controls)
