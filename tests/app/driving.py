"""What a hand does to the window: real mouse and key events, without a display."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import fields
from pathlib import Path

import pytest
from PyQt6.QtCore import QEvent, QPoint, QPointF, QSettings, Qt
from PyQt6.QtGui import QMouseEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QLabel, QPushButton, QWidget

from culvix.app.shell.stages import STAGES
from culvix.app.shell.start import wait_until
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench, first_column
from culvix.charts.lanes.lane import Lane
from culvix.charts.lanes.stack import DEFAULT_LANES
from culvix.study import Study
from culvix.study.document.choices.view import View
from culvix.study.document.history.history import History

LEFT = Qt.MouseButton.LeftButton


def rest(window: MainWindow) -> None:
    assert wait_until(lambda: window.jobs.at_rest and window.opening.at_rest, 30), window.strip.doing.text()


def wait_until_idle(window: MainWindow) -> None:
    rest(window)
    # The strip tells how far stages are a moment after the work has come to rest.
    assert wait_until(lambda: not window.strip.waiting, 10)
    QTest.qWait(40)


def words_of(widget: object) -> str:
    return " ".join(label.text() for label in widget.findChildren(QLabel))


EITHER_WAY = pytest.mark.parametrize("upright", [False, True], ids=["to the right", "upwards"])
"""Which way values run: what a hand does is the same."""


@contextmanager
def shown_stage(folder: Path, table: Path, stage: str) -> Iterator[MainWindow]:
    """A window on ``stage`` of the table at ``table``."""
    with blank(folder) as made:
        opened(made, table)
        made.acting.show_stage(STAGES.index(stage))
        wait_until_idle(made)
        yield made


@contextmanager
def blank(folder: Path) -> Iterator[MainWindow]:
    """A window without a table, whose layout is written to ``folder``."""
    made = MainWindow(QSettings(str(folder / "layout.ini"), QSettings.Format.IniFormat))
    made.resize(1280, 800)
    made.show()
    yield made
    made.close_anyway()
    made.deleteLater()
    # Nothing else does so between tests, and hundreds of windows would be kept and dressed.
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)


def opened(window: MainWindow, path: Path, *, upright: bool = False) -> tuple[Workbench, Study]:
    """The file at ``path`` in the Shape stage; ``upright`` is asked for with the key for it.

    Where it is open already, nothing is decided, chosen or selected any more.
    """
    if window.bench is not None:
        # A dialog of the test before may have had the keyboard.
        window.activateWindow()
        assert QTest.qWaitForWindowActive(window)
    if window.bench is not None and window.bench.hub.study.table.source.path == path:
        begun_anew(window.bench)
    else:
        before = window.bench
        window.opening.open_path(path)
        assert wait_until(lambda: window.bench not in (None, before) and window.jobs.at_rest, 30), window.text
        assert window.bench is not None
    window.acting.show_stage(STAGES.index("Shape"))
    rest(window)
    study = window.bench.hub.study
    if upright:
        QTest.keySequence(window, "U")
        rest(window)
        QTest.qWait(30)
    assert study.settings.upright is window.bench.shape.stage.stack.upright is upright
    return window.bench, study


def begun_anew(bench: Workbench) -> None:
    """Let the study be what it was when its table had been opened, and every pane look as it did."""
    hub, study = bench.hub, bench.hub.study
    study.go_to(0)
    study.resume(History((study.document,)))
    study.select([])
    study.change_view(**{each.name: getattr(View(), each.name) for each in fields(View) if each.name != "stage"})
    hub.veil(None)
    first = first_column(study)
    if first is not None:
        hub.set_focus(first)
    stage = bench.shape.stage
    stage.stack.choose(DEFAULT_LANES)
    stage.lanes.show_names(DEFAULT_LANES)
    stage.stack.size_lanes({})
    stage.adjust.setChecked(False)
    stage.show_view(0)
    stage.stack.fit()


def at(bench: Workbench, kind: type[Lane], x: float, y: float) -> QPoint:
    """Where a place of a lane lies in the canvas."""
    return bench.shape.stage.canvas.mapFromScene(bench.shape.stage.stack.lane(kind).scene_position(x, y))


def click(bench: Workbench, where: QPoint, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    QTest.mouseClick(bench.shape.stage.canvas.viewport(), LEFT, keys, where)


def drag(
    bench: Workbench, start: QPoint, end: QPoint, view: QWidget | None = None, button: Qt.MouseButton = LEFT
) -> None:
    """Press at ``start``, move to ``end`` and let go, over the lanes or another view."""
    view = view or bench.shape.stage.canvas.viewport()
    pull(view, start, end, button)
    QTest.mouseRelease(view, button, Qt.KeyboardModifier.NoModifier, end)


def pull(
    view: QWidget,
    start: QPoint,
    end: QPoint,
    button: Qt.MouseButton = LEFT,
    keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier,
) -> None:
    """Press at ``start`` and move to ``end``, without letting go."""
    QTest.mouseMove(view, start)
    QTest.mousePress(view, button, keys, start)
    for step in range(1, 6):
        here = QPointF(start) + (QPointF(end) - QPointF(start)) * step / 5
        position = QPointF(view.mapToGlobal(here))
        # The button held down is part of the event, which a plain mouseMove leaves out.
        event = QMouseEvent(QEvent.Type.MouseMove, here, position, Qt.MouseButton.NoButton, button, keys)
        QApplication.sendEvent(view, event)
        QTest.qWait(20)


def press(window: MainWindow, text: str) -> None:
    """Push the one visible button with this text."""
    (button,) = [b for b in window.findChildren(QPushButton) if b.text() == text and b.isVisible()]
    QTest.mouseClick(button, LEFT)


def shown_view(window: MainWindow, key: str) -> None:
    """Show a view of the Shape stage by its ``key``."""
    QTest.keySequence(window, key)
    wait_until_idle(window)
