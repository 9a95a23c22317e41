"""Columns without numbers in the Shape stage: their bars, what is selected there, and the tiny ones in the rail."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, QPointF, Qt
from PyQt6.QtGui import QImage, QPainter
from PyQt6.QtTest import QTest

from culvix.app.shape.bars_view import BarsView
from culvix.app.shell.window import MainWindow
from culvix.charts.plots.bar_chart import BarChart
from tests.app.driving import LEFT, opened, wait_until_idle


def bars_of(window: MainWindow, path: Path, column: str) -> BarsView:
    bench, _ = opened(window, path)
    bench.hub.set_focus(column)
    wait_until_idle(window)
    view = bench.shape.stage.views.bars
    assert view is not None and view.isVisible()
    return view


def click_bar(chart: BarChart, bar: int, keys: Qt.KeyboardModifier = Qt.KeyboardModifier.NoModifier) -> None:
    chart.grab()
    places = [QPoint(80, y) for y in range(0, chart.height(), 3)]
    place = next(place for place in places if chart.bar_at(place.toPointF()) == bar)
    QTest.mouseClick(chart, LEFT, keys, place)


def test_a_category_is_shown_as_bars_that_select_their_rows(window: MainWindow, demo_path: Path) -> None:
    view = bars_of(window, demo_path, "tank")
    study = view.hub.study
    values = np.array([study.table["tank"].cell(row).strip() for row in range(study.table.rows)])
    first, second = view.picture.bars[:2]
    click_bar(view.chart, 0)
    wait_until_idle(window)
    assert study.selection.in_column("tank").tolist() == np.flatnonzero(values == first.name).tolist()
    assert study.selection.origin == f"tank {first.name}" and view.chart.selected[0] == first.rows
    click_bar(view.chart, 1, Qt.KeyboardModifier.ControlModifier)
    wait_until_idle(window)
    assert study.selection.in_column("tank").size == first.rows + second.rows
    assert "entropy" in view.about.text() and view.chart.accessibleDescription().startswith("tank: ")


def test_bars_can_be_split_and_sorted(window: MainWindow, demo_path: Path) -> None:
    view = bars_of(window, demo_path, "tank")
    view.by.setCurrentText("strain")
    view.by.activated.emit(view.by.currentIndex())
    wait_until_idle(window)
    assert set(view.picture.parts) >= set(view.hub.study.table["strain"].text.unique().drop_nulls().to_list()) - {""}
    assert all(sum(bar.parts) == bar.rows for bar in view.picture.bars)
    view.order.setCurrentText("by name")
    view.order.activated.emit(view.order.currentIndex())
    wait_until_idle(window)
    names = [bar.name for bar in view.picture.bars if bar.kind == "value"]
    assert names == sorted(names, key=str.casefold)


def test_a_column_with_numbers_has_its_lanes_again(window: MainWindow, demo_path: Path) -> None:
    view = bars_of(window, demo_path, "tank")
    view.hub.set_focus("length_mm")
    wait_until_idle(window)
    bench = window.bench
    assert not view.isVisible() and bench.shape.stage.canvas.isVisible()
    assert bench.shape.stage.views.maker() is not None


def test_bars_are_saved_whole_under_their_title(window: MainWindow, demo_path: Path) -> None:
    bars_of(window, demo_path, "tank")
    maker, name = window.bench.shape.stage.views.maker()
    made = maker(500, 100)
    assert name.endswith("tank") and made.height() >= made.needed_height and "tank, n" in made.title


def test_the_rail_has_tiny_bars_of_categories(window: MainWindow, demo_path: Path) -> None:
    view = bars_of(window, demo_path, "tank")
    sparkline = view.hub.sparkline("tank")
    assert sparkline is not None and sparkline.box is None and sparkline.heights.max() == 1.0


def test_numbers_at_standing_bars_stand_at_their_own_height(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "days.csv"
    days = ["2026-01-05"] * 3 + ["2026-01-06", "2026-01-07", "2026-01-09", "2026-01-10"]
    path.write_text("day,x\n" + "\n".join(f"{day},{k}.5" for k, day in enumerate(days)) + "\n")
    view = bars_of(window, path, "day")
    made: list[tuple[float, str]] = []

    class Heard(QPainter):
        def drawText(self, at: object, text: object, *more: object) -> None:
            if isinstance(at, QPointF) and at.x() < 56:
                made.append((at.y(), str(text)))

    image = QImage(view.chart.size(), QImage.Format.Format_RGB32)
    painter = Heard(image)
    view.chart.draw(painter)
    painter.end()
    heights = {text: y for y, text in made}
    assert set(heights) == {"0", "1", "3"}
    assert (heights["0"] - heights["1"]) / (heights["0"] - heights["3"]) == pytest.approx(1 / 3, abs=0.01)
