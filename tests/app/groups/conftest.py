"""One window on the Groups of the demo for all tests of a module."""

from collections.abc import Iterator
from pathlib import Path

import pytest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.app.groups.stage import GroupsStage
from culvix.app.shell.window import MainWindow
from culvix.study.document.choices.view import View
from tests.app.driving import shown_stage, wait_until_idle


@pytest.fixture(scope="module")
def groups_window(
    themed: QApplication, demo_path: Path, tmp_path_factory: pytest.TempPathFactory
) -> Iterator[MainWindow]:
    with shown_stage(tmp_path_factory.mktemp("window"), demo_path, "Groups") as made:
        yield made


@pytest.fixture
def stage(qtbot: QtBot, groups_window: MainWindow) -> GroupsStage:
    """The Groups of the demo with nothing chosen, and ``swim_cm_s`` in focus."""
    found: GroupsStage = groups_window.bench.page("Groups").stage
    study, usual = found.hub.study, View()
    while study.history.undoable:
        study.undo()
    chosen = {name: getattr(usual, name) for name in vars(usual) if name.startswith("groups_")}
    study.change_view(**chosen, compared_columns=())
    study.select([])
    found.groups.margin.shows_all = False
    found.show_view(0)
    found.hub.set_focus("swim_cm_s")
    found.groups.request_update()
    wait_until_idle(groups_window)
    return found
