"""The program ends in order, whatever was looked at before."""

import os
import subprocess
import sys
from pathlib import Path

import pytest

from culvix.app.shell.stages import STAGES

PROGRAM = """
import sys
from pathlib import Path
from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication
from culvix.app.shell import start
from culvix.app.shell.stages import STAGES

def looked_through(window):
    for name in sys.argv[2:]:
        yield lambda: window.acting.show_stage(STAGES.index(name))
    yield lambda: None

def begin(window):
    steps = None
    def step():
        nonlocal steps
        if window.bench is None or not window.jobs.at_rest:
            return
        steps = steps or looked_through(window)
        act = next(steps, None)
        if act is not None:
            act()
            return
        timer.stop()
        window.close_anyway()
        QApplication.quit()
    timer = QTimer(window, interval=30)
    timer.timeout.connect(step)
    timer.start()

shown = start.MainWindow.show
def show(self):
    shown(self)
    begin(self)
start.MainWindow.show = show
sys.exit(start.run_window(Path(sys.argv[1])))
"""


@pytest.mark.parametrize("stages", [("Groups",), tuple(STAGES)], ids=["one", "all"])
def test_it_ends_without_a_fault(stages: tuple[str, ...], demo_path: Path, tmp_path: Path) -> None:
    home = {"HOME": str(tmp_path), "XDG_CONFIG_HOME": str(tmp_path / "c"), "XDG_STATE_HOME": str(tmp_path / "s")}
    environment = {**os.environ, **home, "QT_QPA_PLATFORM": "offscreen"}
    command = [sys.executable, "-c", PROGRAM, str(demo_path), *stages]
    ended = subprocess.run(command, env=environment, capture_output=True, timeout=240, check=False)
    assert (ended.returncode, ended.stderr.decode()) == (0, "")
