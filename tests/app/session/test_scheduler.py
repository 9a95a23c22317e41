"""Panes take turns, and what the window asks for a file ends in a file or in nothing."""

import time
from pathlib import Path

import polars as pl
import pytest
from PyQt6.QtCore import QObject
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QWidget
from pytestqt.qtbot import QtBot

from culvix.app.session.scheduler import TaskQueue
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.study import DecisionKind
from tests.app.driving import opened, rest


class Pane(QObject):
    """Writes down what it does, and when."""

    def __init__(self, done: list[tuple[str, float]], name: str, takes: float = 0.0) -> None:
        super().__init__()
        self.done, self.name, self.takes = done, name, takes

    def act(self) -> None:
        self.began = time.perf_counter()
        time.sleep(self.takes)
        self.done.append((self.name, time.perf_counter()))


def test_one_thing_is_done_at_a_time_in_the_order_it_was_asked_for(themed: QApplication) -> None:
    line, done = TaskQueue(), []
    first, second, third, urgent, gone = (Pane(done, name, 0.01) for name in ("1", "2", "3", "urgent", "gone"))
    line.take(first.act)
    assert [name for name, _ in done] == ["1"], "nothing is waited for while nothing else was done just now"
    for pane in (second, gone, third, second):
        line.take(pane.act)
    line.take(urgent.act, ahead=True)
    gone.deleteLater()
    assert len(done) == 1 and not line.at_rest
    between: list[int] = []
    # The event loop comes round between two of them: what it has to paint or answer is not kept waiting.
    assert wait_until(lambda: between.append(len(done)) is None and line.at_rest, 5, pause=1, still=1)
    assert [name for name, _ in done] == ["1", "urgent", "2", "3"], "asked for twice it is done once; the dead are left"
    assert {2, 3} <= set(between)
    QTest.qWait(20)
    line.take(third.act)
    assert done[-1][0] == "3" and line.at_rest


def test_what_was_changed_is_painted_before_what_comes_soon(qtbot: QtBot, themed: QApplication) -> None:
    """However long the change took: both in one go would hold up the window."""
    line, done, painted = TaskQueue(), [], []

    class Sheet(QWidget):
        def paintEvent(self, _: QPaintEvent | None) -> None:
            painted.append(len(done))

    sheet = Sheet()
    qtbot.addWidget(sheet)
    sheet.show()
    qtbot.waitUntil(lambda: bool(painted))
    painted.clear()
    first, second, ahead = (Pane(done, name, 0.01) for name in ("first", "second", "ahead"))

    class Changing(QObject):
        def act(self) -> None:
            first.act()
            sheet.update()
            line.soon(second.act)
            line.soon(second.act)
            line.soon(ahead.act, ahead=True)

    changing = Changing()
    line.soon(changing.act)
    assert not done and not line.at_rest, "not at once, even where nothing else was done just now"
    assert wait_until(lambda: line.at_rest and len(done) == 3, 5, pause=1, still=1)
    assert [name for name, _ in done] == ["first", "ahead", "second"] and painted == [1]
    for before, after in ((first, ahead), (ahead, second)):
        ended = dict(done)[before.name]
        assert after.began - ended > 0.0015, "the window has a moment for what the hand does, however long one took"


@pytest.mark.parametrize("chosen", [True, False])
def test_every_file_is_asked_for_and_written(
    window: MainWindow, demo_path: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, chosen: bool
) -> None:
    _, study = opened(window, demo_path)
    study.decide(DecisionKind.EXCLUDE_ROW, "length_mm", [830])
    proposed: list[str] = []

    def answer(parent: object, title: str, suggested: str, kinds: str) -> tuple[str, str]:
        proposed.append(suggested)
        assert kinds and title
        return (str(tmp_path / Path(suggested).name) if chosen else "", "")

    monkeypatch.setattr(QFileDialog, "getSaveFileName", answer)
    for ask in (
        window.saving.ask_report,
        window.saving.ask_survey,
        window.saving.ask_cleaned,
        window.saving.ask_flagged,
        window.saving.ask_save_dictionary,
    ):
        ask()
        rest(window)
    names = ["report.html", "survey.xlsx", "cleaned.csv", "flagged.csv", "datapackage.json"]
    names = [f"{demo_path.stem}-{name}" if name != names[-1] else name for name in names]
    assert [Path(path).name for path in proposed] == names and {Path(path).parent for path in proposed} == {
        demo_path.parent
    }
    written = {path.name: path for path in tmp_path.iterdir() if path.is_file() and path.suffix != ".ini"}
    if not chosen:
        assert not written and "saved" not in window.text
        return
    assert set(written) == set(names)
    cleaned = pl.read_csv(written[names[2]], infer_schema=False)
    assert cleaned.height == study.table.rows - 1 and "831" not in cleaned["row"].to_list()
    survey = pl.read_excel(written[names[1]])
    assert survey.height == len(study.table.columns)
    assert "exclude row" in written[names[0]].read_text(encoding="utf-8")
    monkeypatch.setattr(QFileDialog, "getOpenFileName", lambda *_: (str(written[names[4]]), ""))
    # Decisions would be asked for first.
    study.undo()
    bench = window.bench
    window.saving.ask_dictionary()
    assert wait_until(lambda: window.bench is not bench and window.jobs.at_rest, 20), "read again under the dictionary"
