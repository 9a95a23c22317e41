"""A hand that does anything, in the real window, from a seed:

    .venv/bin/python bench/window_monkey.py --runs 20 --acts 1500

After each run nothing may have gone wrong: no fault was logged, the source is the same to the last byte, the working
set is the source and the decisions in force, and with every act undone the profile is that of the table just read.
"""

import argparse
import difflib
import hashlib
import json
import logging
import os
import sys
import tempfile
import time
import traceback
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from pathlib import Path

import numpy as np
from own_state import clear_state

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtCore import QPoint, QPointF, QSettings, Qt, QTimer
from PyQt6.QtGui import QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import (
    QAbstractItemView,
    QApplication,
    QCheckBox,
    QComboBox,
    QFileDialog,
    QLineEdit,
    QPushButton,
    QWidget,
)

from culvix.__main__ import end_process
from culvix.app.lanes.lane_canvas import LaneCanvas
from culvix.app.shape.views import VIEWS
from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import make_application, wait_until
from culvix.app.shell.window import MainWindow
from culvix.demo import write_demo
from culvix.errors import CulvixError
from culvix.report.documents.profile import profile_document
from culvix.stats.shape.transform import SCALE_NAMES, Scale
from culvix.study import DecisionKind, Study
from culvix.study.analysis.working_set import WorkingSet
from culvix.tables import read_table

__all__ = ["Outcome", "run"]

_KEYS = ("K", "E", "M", "N", "Shift+N", "R", "W", "B", "F", "A", "U", "Esc", "Ctrl+F", "PgDown", "PgUp", "Ctrl+Z")
_MORE_KEYS = ("Ctrl+Shift+Z", "Alt+Right", "Alt+Left", "Ctrl+K", "Ctrl+L", "C", "F7", "F8", "F9", "Return", "Tab")
_WORDS = ("3", "-9", "1e300", "NA", "", "0.5", "abc", "<b>", "−1.5", "1,5", "999999999999999999999", "mm")
_NEVER = (
    "Quit",
    "Open a file …",
    "Open the example study",
    "Open what was copied",
    "Load dictionary",
    "Save report",
    "Quit all the same",
)
_REST = 30
_STUCK_SECONDS = 120.0
_SETTLED_ACTS = 300
_MOST_GROWTH = 1.5
"""Memory at the end may be so many times that after the first acts."""


@dataclass
class Outcome:
    """What a run came to: how many acts were done, and everything that was wrong."""

    seed: int
    acts: int = 0
    memory: tuple[float, float] = (0.0, 0.0)
    """Resident memory in MB after the first acts, and at the end."""
    wrong: list[str] = field(default_factory=list)


class _Faults(logging.Handler):
    """Remembers everything logged as an error."""

    def __init__(self) -> None:
        super().__init__(logging.ERROR)
        self.found: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        self.found.append(logging.Formatter().format(record)[-1500:])


def odd_table(folder: Path, draw: np.random.Generator) -> Path:
    """A small table of awkward columns."""
    n = int(draw.integers(5, 120))
    columns = {
        "id": [f"S-{k:03d}" for k in range(n)],
        "plain": [f"{x:.2f}" for x in draw.normal(50, 5, n)],
        "tail": [f"{x:.4g}" for x in draw.lognormal(3, 2, n)],
        "codes": [str(x) for x in draw.integers(1, 6, n)],
        "kind": draw.choice(["None", "low", "high", "NA"], n).tolist(),
        "level": draw.choice(["<0.5", "1.5", "2,5", "3 mg", "n/a", "?", "12*"], n).tolist(),
        "flat": ["7"] * n,
        "ok": draw.choice(["yes", "no", ""], n).tolist(),
        "when": [f"{k % 12 + 1:02d}/{k % 28 + 1:02d}/2025" for k in range(n)],
        "<img src=x>": [str(x) for x in draw.poisson(2, n)],
    }
    path = folder / "odd.csv"
    rows = zip(*columns.values(), strict=True)
    path.write_text("\n".join([";".join(columns), *(";".join(row) for row in rows)]) + "\n")
    return path


class _Hand:
    """Does one act after the other."""

    def __init__(self, window: MainWindow, draw: np.random.Generator) -> None:
        self.window, self.draw = window, draw
        self.acts: tuple[Callable[[], None], ...] = (
            *(self.key,) * 6,
            *(self.press,) * 6,
            *(self.click,) * 5,
            *(self.drag,) * 4,
            *(self.select,) * 4,
            *(self.decide,) * 4,
            *(self.focus,) * 4,
            *(self.stage,) * 2,
            *(self.combo,) * 3,
            *(self.type_words,) * 3,
            self.view,
            self.wheel,
            self.settings,
            self.describe,
            self.undo,
            self.derive,
            self.size,
        )

    @property
    def study(self) -> Study:
        assert self.window.bench is not None
        return self.window.bench.hub.study

    def one(self) -> str:
        """Do any act; its name is returned."""
        act = self.acts[int(self.draw.integers(len(self.acts)))]
        try:
            act()
        except CulvixError:
            # Refused in a sentence, as the window would show it.
            return f"{act.__name__} refused"
        return act.__name__

    def _any(self, kind: type[QWidget]) -> QWidget | None:
        seen = [each for each in self.window.findChildren(kind) if each.isVisible() and each.isEnabled()]
        return seen[int(self.draw.integers(len(seen)))] if seen else None

    def key(self) -> None:
        keys = (*_KEYS, *_MORE_KEYS)
        focus = QApplication.focusWidget() or self.window
        QTest.keySequence(focus, keys[int(self.draw.integers(len(keys)))])

    def press(self) -> None:
        button = self._any(QPushButton if self.draw.random() < 0.8 else QCheckBox)
        if button is not None and button.text() not in _NEVER and "…" not in button.text():  # type: ignore[attr-defined]
            QTest.mouseClick(button, Qt.MouseButton.LeftButton)

    def click(self) -> None:
        view = self._any(QAbstractItemView)
        if view is None:
            return
        port = view.viewport()  # type: ignore[attr-defined]
        at = QPoint(int(self.draw.integers(max(port.width(), 1))), int(self.draw.integers(max(port.height(), 1))))
        keys = (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier)
        QTest.mouseClick(port, Qt.MouseButton.LeftButton, keys[int(self.draw.integers(3))], at)

    def _canvas(self) -> QWidget | None:
        bench = self.window.bench
        assert bench is not None
        seen = [each.viewport() for each in bench.stages.findChildren(LaneCanvas) if each.isVisible()]
        return seen[0] if seen else None

    def drag(self) -> None:
        canvas = self._canvas()
        if canvas is None:
            return
        positions = [
            QPoint(int(self.draw.integers(max(canvas.width(), 1))), int(self.draw.integers(max(canvas.height(), 1))))
            for _ in range(2)
        ]
        QTest.mousePress(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, positions[0])
        QTest.mouseMove(canvas, positions[1])
        QTest.mouseRelease(canvas, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, positions[1])

    def wheel(self) -> None:
        canvas = self._canvas()
        if canvas is None:
            return
        at = QPointF(float(self.draw.integers(max(canvas.width(), 1))), 40.0)
        keys = Qt.KeyboardModifier.ControlModifier if self.draw.random() < 0.3 else Qt.KeyboardModifier.NoModifier
        turn = QPoint(0, int(self.draw.choice([-1200, -120, 120, 1200])))
        none, phase = Qt.MouseButton.NoButton, Qt.ScrollPhase.NoScrollPhase
        event = QWheelEvent(at, QPointF(canvas.mapToGlobal(at)), QPoint(), turn, none, keys, phase, False)
        QApplication.sendEvent(canvas, event)

    def select(self) -> None:
        rows = self.study.table.rows
        self.study.select(self.draw.integers(0, rows, int(self.draw.integers(0, min(rows, 40)))), "anywhere")

    def decide(self) -> None:
        study = self.study
        numeric = study.table.numeric
        if not numeric:
            return
        column = numeric[int(self.draw.integers(len(numeric)))]
        rows = self.draw.integers(0, study.table.rows, int(self.draw.integers(1, 6)))
        kind = list(DecisionKind)[int(self.draw.integers(len(DecisionKind)))]
        how: dict[str, object] = {}
        if kind is DecisionKind.CORRECT:
            other = numeric[int(self.draw.integers(len(numeric)))].name
            choices = ({"factor": 10.0}, {"value": 3.5}, {"factor": 1.8, "shift": 32.0}, {"swapped": other})
            how = choices[int(self.draw.integers(len(choices)))]
        study.decide(kind, column.name, rows, reason="tried", **how)

    def focus(self) -> None:
        assert self.window.bench is not None
        columns = self.study.table.columns
        self.window.bench.hub.set_focus(columns[int(self.draw.integers(len(columns)))].name)

    def stage(self) -> None:
        self.window.acting.show_stage(int(self.draw.integers(len(STAGES))))

    def view(self) -> None:
        QTest.keySequence(self.window, f"Alt+{int(self.draw.integers(1, len(VIEWS) + 1))}")

    def combo(self) -> None:
        box = self._any(QComboBox)
        if isinstance(box, QComboBox) and box.count():
            box.setCurrentIndex(int(self.draw.integers(box.count())))
            box.activated.emit(box.currentIndex())

    def type_words(self) -> None:
        line = self._any(QLineEdit)
        if isinstance(line, QLineEdit):
            line.setFocus()
            line.setText(_WORDS[int(self.draw.integers(len(_WORDS)))])
            QTest.keyClick(line, Qt.Key.Key_Return)

    def settings(self) -> None:
        study = self.study
        keys = list(study.settings.limits)
        key = keys[int(self.draw.integers(len(keys)))]
        study.change_settings(study.settings.with_limit(key, float(study.settings.limits[key]) * 1.01))

    def describe(self) -> None:
        columns = self.study.table.columns
        name = columns[int(self.draw.integers(len(columns)))].name
        message = _WORDS[int(self.draw.integers(len(_WORDS)))]
        assert self.window.bench is not None
        self.window.bench.hub.edit_columns([name], lambda entry: replace(entry, label=message or None))

    def undo(self) -> None:
        if self.draw.random() < 0.7:
            self.window.acting.undo()
        else:
            self.window.acting.redo()

    def derive(self) -> None:
        numeric = self.study.table.numeric
        if numeric and len(self.study.table.columns) < 30:
            column = numeric[int(self.draw.integers(len(numeric)))]
            kind = str(self.draw.choice([key for key in SCALE_NAMES if key not in ("box_cox", "yeo_johnson")]))
            self.study.derive(column.name, Scale(kind))

    def size(self) -> None:
        self.window.resize(int(self.draw.integers(700, 1900)), int(self.draw.integers(500, 1100)))


def _resident() -> float:
    """Resident memory of this process in MB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") / 1e6


def _close_popups() -> None:
    popup = QApplication.activePopupWidget()
    if popup is not None:
        popup.close()
    dialog = QApplication.activeModalWidget()
    if dialog is not None:
        dialog.close()


def run(seed: int, acts: int) -> Outcome:
    """One run of ``acts`` acts from ``seed``."""
    make_application(offscreen=True)
    QFileDialog.getOpenFileName = staticmethod(lambda *_, **__: ("", ""))  # type: ignore[assignment, method-assign]
    QFileDialog.getSaveFileName = staticmethod(lambda *_, **__: ("", ""))  # type: ignore[assignment, method-assign]
    outcome, draw, faults = Outcome(seed), np.random.default_rng(seed), _Faults()
    logging.getLogger("culvix").addHandler(faults)
    hook = sys.excepthook
    sys.excepthook = lambda kind, error, trace: logging.getLogger("culvix").error("", exc_info=(kind, error, trace))
    closing = QTimer(interval=20)
    closing.timeout.connect(_close_popups)
    closing.start()
    with tempfile.TemporaryDirectory() as folder:
        path = write_demo(Path(folder)) if seed % 2 else odd_table(Path(folder), draw)
        before = hashlib.sha256(path.read_bytes()).hexdigest()
        window = MainWindow(QSettings(f"{folder}/layout.ini", QSettings.Format.IniFormat))
        window.show()
        window.opening.open_path(path)
        try:
            if not _rested(window) or window.bench is None:
                outcome.wrong.append(f"not opened: {window.text}")
                return outcome
            hand = _Hand(window, draw)
            last: list[str] = []
            for number in range(acts):
                last = [*last[-8:], hand.one()]
                outcome.acts += 1
                if number == _SETTLED_ACTS:
                    outcome.memory = (_resident(), 0.0)
                QApplication.sendPostedEvents()
                if number % _REST == 0 and not _rested(window):
                    outcome.wrong.append(f"act {number}: still busy after {_STUCK_SECONDS:g} s; {last}")
                    break
                if faults.found:
                    outcome.wrong += [f"act {number} ({', '.join(last)}): {found}" for found in faults.found]
                    break
            outcome.memory = (outcome.memory[0] or _resident(), _resident())
            if outcome.memory[1] > _MOST_GROWTH * outcome.memory[0]:
                outcome.wrong.append("memory grew from {:.0f} to {:.0f} MB".format(*outcome.memory))
            try:
                outcome.wrong += _checked(window, path, before)
            except Exception as error:  # whatever goes wrong is what is looked for
                outcome.wrong.append("".join(traceback.format_exception(error))[-1500:])
        finally:
            window.close_anyway()
            closing.stop()
            logging.getLogger("culvix").removeHandler(faults)
            sys.excepthook = hook
    return outcome


def _rested(window: MainWindow) -> bool:
    return wait_until(lambda: window.bench is not None and window.jobs.at_rest, _STUCK_SECONDS, pause=2, still=2)


def _checked(window: MainWindow, path: Path, before: str) -> list[str]:
    """What does not hold once the hand is gone."""
    wrong = []
    if not _rested(window) or window.bench is None:
        return ["never came to rest"]
    study = window.bench.hub.study
    if hashlib.sha256(path.read_bytes()).hexdigest() != before:
        wrong.append("the source was changed")
    again = WorkingSet.of(study.table, study.decisions)
    for column in study.table.numeric:
        if not np.array_equal(study.working.sample(column).values, again.sample(column).values, equal_nan=True):
            wrong.append(f"{column.name}: the working set is not the source and the decisions")
    study.go_to(0)
    table = read_table(path, study.table.source.options, dictionary=study.dictionary)
    fresh = Study.of_table(table, study.settings, dictionary=study.dictionary)
    differences = _differences(profile_document(fresh.workspace), profile_document(study.workspace))
    if differences:
        wrong.append(f"undone to its beginning, the study is not what reading the table gives:\n{differences}")
    return wrong


def _differences(fresh: object, undone: object, lines: int = 60) -> str:
    """The first ``lines`` lines of how the second document differs from the first; nothing where it does not."""
    texts = [json.dumps(each, indent=1, sort_keys=True, default=str).splitlines() for each in (fresh, undone)]
    return "\n".join(list(difflib.unified_diff(*texts, "just read", "undone", lineterm="", n=8))[:lines])


def _main() -> int:
    parser = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    parser.add_argument("--runs", type=int, default=20)
    parser.add_argument("--acts", type=int, default=1500)
    parser.add_argument("--seed", type=int, default=0)
    options = parser.parse_args()
    failed = 0
    for seed in range(options.seed, options.seed + options.runs):
        begun = time.perf_counter()
        outcome = run(seed, options.acts)
        failed += bool(outcome.wrong)
        took, (first, last) = time.perf_counter() - begun, outcome.memory
        print(f"seed {seed}: {outcome.acts} acts in {took:.0f} s, {first:.0f} → {last:.0f} MB", flush=True)
        for each in outcome.wrong:
            print(f"  {each}", flush=True)
    return min(failed, 1)


if __name__ == "__main__":
    status = _main()
    clear_state()
    end_process(status)
