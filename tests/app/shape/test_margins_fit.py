"""Nothing in the margins is cut off, whatever numbers and names a table has."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint
from PyQt6.QtWidgets import QLabel, QScrollArea, QWidget

from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from tests.app.driving import opened, wait_until_idle

ROWS = 83
LONG = "waiting_time_until_first_answer_minutes_x"


def _six_orders(draw: np.random.Generator) -> list[str]:
    return [f"{value:.4f}" for value in np.exp(draw.normal(0, 3.5, ROWS))]


def _seven_digits(draw: np.random.Generator) -> list[str]:
    return [f"{value:.2f}" for value in draw.normal(-4_000_000, 900_000, ROWS)]


def _offset(draw: np.random.Generator) -> list[str]:
    return [f"{value:.3f}" for value in 1e6 + draw.normal(0, 0.5, ROWS)]


def _codes(draw: np.random.Generator) -> list[str]:
    return [str(code) for code in draw.integers(1, 7, ROWS)]


def cut_off(inside: QWidget) -> list[str]:
    """The texts of labels that are wider than their box, or reach beyond the scrolled area they stand in."""
    found = []
    for shown in inside.findChildren(QLabel):
        if not shown.isVisible() or shown.wordWrap() or not shown.text() or "<" in shown.text():
            continue
        needed = shown.fontMetrics().horizontalAdvance(shown.text())
        area = shown.parentWidget()
        while area is not None and not isinstance(area, QScrollArea):
            area = area.parentWidget()
        room = inside if area is None else area.viewport()
        beyond = shown.mapTo(room, QPoint(needed, 0)).x() - room.width()
        if needed > shown.width() + 1 or (beyond > 1 and shown.alignment().name != "AlignRight"):
            found.append(f"{shown.text()!r} needs {needed} of {shown.width()}, {beyond} beyond")
    return found


@pytest.mark.parametrize("values", [_six_orders, _seven_digits, _offset, _codes])
@pytest.mark.parametrize("stage", ["Shape", "Outliers"])
def test_numbers_and_names_have_room(window: MainWindow, tmp_path: Path, values: object, stage: str) -> None:
    draw = np.random.default_rng(7)
    columns = {"id": [f"a{row}" for row in range(ROWS)], LONG: values(draw), "other": _seven_digits(draw)}
    path = tmp_path / "table.csv"
    lines = [",".join(columns), *(",".join(row) for row in zip(*columns.values(), strict=True))]
    path.write_text("\n".join(lines) + "\n")
    bench, _ = opened(window, path)
    window.acting.show_stage(STAGES.index(stage))
    bench.hub.set_focus(LONG)
    wait_until_idle(window)
    assert cut_off(bench.margins) == []
