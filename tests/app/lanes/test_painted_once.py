"""What takes long to paint is painted once: after a change of size, and when what is around it is laid out."""

import numpy as np
import pytest
from PyQt6.QtGui import QPaintEvent
from PyQt6.QtWidgets import QApplication, QLabel, QVBoxLayout, QWidget
from pytestqt.qtbot import QtBot

from culvix.app.lanes.lane_canvas import LaneCanvas
from culvix.app.session.scheduler import PaintingAfterwards, task_queue
from culvix.app.shell.start import wait_until
from culvix.study import Study
from culvix.study.pictures.column_pictures import shape_picture

NO_ROWS = np.zeros(0, dtype=np.int64)


@pytest.fixture
def paintings(monkeypatch: pytest.MonkeyPatch) -> list[QPaintEvent]:
    """Every painting of lanes."""
    found: list[QPaintEvent] = []
    paint = LaneCanvas.paintEvent

    def painted(canvas: LaneCanvas, event: QPaintEvent) -> None:
        found.append(event)
        paint(canvas, event)

    monkeypatch.setattr(LaneCanvas, "paintEvent", painted)
    return found


@pytest.mark.parametrize("size", [(700, 300), (700, 620), (900, 500), (420, 380)])
def test_lanes_of_another_size_are_painted_once(
    size: tuple[int, int], qtbot: QtBot, themed: QApplication, study: Study, paintings: list[QPaintEvent]
) -> None:
    canvas = LaneCanvas()
    qtbot.addWidget(canvas)
    canvas.resize(700, 500)
    canvas.show()
    qtbot.waitExposed(canvas)
    canvas.stack.show_picture(shape_picture(study.workspace.analysis("length_mm"), study.working, NO_ROWS), refit=True)
    wait_until(lambda: True, 2, still=8)
    paintings.clear()
    canvas.resize(*size)
    wait_until(lambda: bool(paintings), 5, still=8)
    assert len(paintings) == (1 if size != (700, 500) else 0)


def test_a_widget_is_laid_out_before_it_is_painted(qtbot: QtBot, themed: QApplication) -> None:
    done: list[str] = []

    class Page(QLabel):
        def paintEvent(self, event: QPaintEvent | None) -> None:
            done.append("painted")
            super().paintEvent(event)

    around, page = QWidget(), Page("words")
    QVBoxLayout(around).addWidget(page)
    qtbot.addWidget(around)
    around.show()
    qtbot.waitExposed(around)
    qtbot.waitUntil(lambda: "painted" in done)
    wait_until(lambda: task_queue().at_rest, 5)
    done.clear()
    painting = PaintingAfterwards(around)
    painting.hold()
    page.setText("other words")
    task_queue().soon(lambda: done.append("next in line"))
    qtbot.waitUntil(lambda: "painted" in done and "next in line" in done)
    assert page.text() == "other words" and done[0] == "painted", "it is painted before anything else is done"
