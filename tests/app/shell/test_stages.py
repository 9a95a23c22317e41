"""Stages are rows of a table: the workbench makes, shows and remembers each without knowing which it is."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QLabel, QWidget

from culvix.app.session.stage_page import StagePage, StageRow
from culvix.app.shell import workbench
from culvix.app.shell.commands import COMMANDS
from culvix.app.shell.stages import STAGE_ROWS, STAGES
from culvix.app.shell.window import MainWindow
from tests.app.driving import opened, wait_until_idle


class NotePage(StagePage):
    """A made-up stage: a text, and one beside it."""

    finished = 0

    def make(self, settings: QSettings) -> Iterator[None]:
        self.text = QLabel(f"notes on {self.hub.study.name}; {settings.value('notes/last', 'none')} before")
        self.place(self.text)
        yield
        self.place_margin(QLabel("beside"))
        yield

    @property
    def data(self) -> QWidget:
        return self.text

    @property
    def guide_key(self) -> str:
        return "iqr"

    def remember(self, settings: QSettings) -> None:
        settings.setValue("notes/last", "some")

    def finish(self) -> None:
        NotePage.finished += 1

    def go_on(self) -> None:
        self.text.setText("went on")


@pytest.fixture
def notes(monkeypatch: pytest.MonkeyPatch) -> int:
    """The position of one more stage, behind the others."""
    rows = (*STAGE_ROWS, StageRow("Notes", NotePage, lists_columns=True, needs_tray_room=True))
    monkeypatch.setattr(workbench, "STAGE_ROWS", rows)
    monkeypatch.setattr(workbench, "STAGES", [row.title for row in rows])
    monkeypatch.setattr(NotePage, "finished", 0)
    return len(rows) - 1


def test_a_stage_more_is_made_shown_and_remembered(notes: int, window: MainWindow, demo_path: Path) -> None:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(notes)
    wait_until_idle(window)
    page = bench.page("Notes")
    assert bench.stage == "Notes" and page.data.isVisible() and bench.is_made("Notes")
    assert page.data.text() == f"notes on {study.name}; none before"
    assert not bench.rail.isVisible() and not bench.tray.isVisible(), "it asks for the room of both"
    study.select([3])
    assert bench.tray.isVisible()
    window.layout_memory.remember()
    assert window.settings.value("notes/last") == "some"
    bench.tray.bar.went_on.emit()
    assert page.data.text() == "went on"
    window.acting.ask_guide()
    assert window.guide.isVisible() and "IQR" in " ".join(label.text() for label in window.guide.findChildren(QLabel))
    window.guide.hide()
    window.close_anyway()
    assert NotePage.finished == 1


@pytest.mark.parametrize("title", STAGES)
def test_every_stage_takes_the_keyboard_and_has_a_page_of_the_guide(
    window: MainWindow, demo_path: Path, title: str
) -> None:
    bench, _ = opened(window, demo_path)
    row = STAGE_ROWS[STAGES.index(title)]
    window.acting.show_stage(STAGES.index(title))
    wait_until_idle(window)
    page = bench.page(title)
    assert page.data.isVisible() and bench.rail.isVisible() is not row.lists_columns
    assert bench.tray.isVisible() is not row.needs_tray_room
    assert page.guide_key
    keys = [command.keys for command in COMMANDS if command.text == title]
    assert keys == [(f"Ctrl+{STAGES.index(title) + 1}",)]
