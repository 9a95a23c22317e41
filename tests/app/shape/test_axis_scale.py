"""The scale of the axis, chosen in the window: what is read, dragged and selected stays in the column's unit."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton

from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.charts.lanes.histogram_lane import HistogramLane
from culvix.charts.lanes.span_lane import SpanLane
from culvix.stats.shape.axis_scale import AXIS_SCALES
from culvix.study import Study
from tests.app.driving import at, click, drag, opened, shown_view, wait_until_idle

NO_KEYS = Qt.KeyboardModifier.NoModifier


@pytest.fixture
def wide(tmp_path: Path) -> Path:
    rng = np.random.default_rng(8)
    path = tmp_path / "waiting.csv"
    minutes, level = np.exp(rng.normal(2, 2.5, 300)), rng.normal(0, 5, 300)
    lines = [f"{m:.3f},{v:.2f},{'ab'[i % 2]}" for i, (m, v) in enumerate(zip(minutes, level, strict=True))]
    path.write_text("minutes,level,ward\n" + "\n".join(lines) + "\n")
    return path


def on_scale(window: MainWindow, path: Path, key: str, column: str = "minutes") -> tuple[Workbench, Study]:
    bench, study = opened(window, path)
    bench.hub.set_focus(column)
    wait_until_idle(window)
    bar = bench.shape.stage.axis
    bar.scale.setCurrentIndex(list(AXIS_SCALES).index(key))
    bar.scale.activated.emit(bar.scale.currentIndex())
    wait_until_idle(window)
    return bench, study


@pytest.mark.parametrize("key", ["log", "ln1p", "sqrt", "signed_log", "normal_quantile"])
def test_a_click_on_a_bar_selects_the_rows_it_counts(window: MainWindow, wide: Path, key: str) -> None:
    bench, study = on_scale(window, wide, key)
    assert study.settings.of("minutes").axis_scale == key
    picture = bench.shape.stage.stack.picture
    assert picture.axis.key == key and picture.histogram.counts.sum() == 300
    tallest = int(picture.histogram.counts.argmax())
    middle = float(picture.histogram.edges[tallest : tallest + 2].mean())
    click(bench, at(bench, HistogramLane, middle, 0.3 * float(picture.histogram.counts[tallest])))
    wait_until_idle(window)
    chosen = study.selection.in_column("minutes")
    assert chosen.size == picture.histogram.counts[tallest]
    values = study.table["minutes"].sample.values[chosen]
    assert study.selection.origin.startswith(f"minutes from {values.min():,.3f}".replace(",", "\u202f"))


def test_the_probe_reads_and_goes_to_values_in_the_columns_unit(window: MainWindow, wide: Path) -> None:
    bench, study = on_scale(window, wide, "log")
    stage = bench.shape.stage
    stage.probe.bar.fields["value"].setText("100")
    stage.probe.bar.fields["value"].returnPressed.emit()
    assert stage.stack.lanes[0].probe.value() == pytest.approx(2.0)
    stage.stack.lanes[0].probe.setValue(1.0)
    assert study.document.view.probes["minutes"] == pytest.approx(10.0)


def test_a_dragged_limit_ends_at_the_value_under_the_pointer(window: MainWindow, wide: Path) -> None:
    bench, study = on_scale(window, wide, "log")
    lane = bench.shape.stage.stack.lane(SpanLane)
    spans = lane.picture.spans
    line = next(i for i, span in enumerate(spans) if span.key == "iqr_fences")
    y = len(spans) - 1 - line
    start, target = at(bench, SpanLane, spans[line].upper, y), at(bench, SpanLane, np.log10(1000.0), y)
    drag(bench, start, target)
    wait_until_idle(window)
    upper = bench.hub.analysis.flags.results["iqr_fences"].upper
    assert study.settings.limits["iqr_fences"] != 1.5 and upper == pytest.approx(1000.0, rel=0.06)
    assert bench.shape.stage.stack.lane(SpanLane).picture.spans[line].upper == pytest.approx(np.log10(upper))


def test_a_scale_without_a_place_for_some_values_is_refused_in_a_sentence(window: MainWindow, wide: Path) -> None:
    bench, study = on_scale(window, wide, "log", "level")
    assert "A log axis takes values above 0" in window.text and "signed log axis takes all" in window.text
    assert (
        study.settings.of("level").axis_scale is None and bench.shape.stage.axis.scale.currentText() == "measured axis"
    )


def test_another_scale_leaves_bins_to_the_rule_and_is_undone_as_one_act(window: MainWindow, wide: Path) -> None:
    bench, study = opened(window, wide)
    bench.hub.set_focus("minutes")
    wait_until_idle(window)
    bench.shape.stage.bin_width.setText("40")
    bench.shape.stage.bin_width.editingFinished.emit()
    wait_until_idle(window)
    bar = bench.shape.stage.axis
    bar.scale.activated.emit(list(AXIS_SCALES).index("log"))
    wait_until_idle(window)
    assert study.settings.of("minutes").bin_width is None
    QTest.keySequence(window, "Ctrl+Z")
    wait_until_idle(window)
    assert study.settings.of("minutes").bin_width == 40 and bar.scale.currentText() == "measured axis"


def test_the_finding_about_a_squeezed_picture_brings_the_scale(window: MainWindow, wide: Path) -> None:
    bench, study = opened(window, wide)
    bench.hub.set_focus("minutes")
    wait_until_idle(window)
    cards = bench.shape.margin.cards
    (button,) = [b for card in cards for b in card.findChildren(QPushButton) if b.text() == "Log axis"]
    button.click()
    wait_until_idle(window)
    assert study.settings.of("minutes").axis_scale == "log"
    squeezed = [f for f in bench.hub.analysis.findings(study.working) if f.kind == "squeezed"]
    assert [f.resolved for f in squeezed] == [True] and "the axis is log" in squeezed[0].sentence


def test_the_bulk_fills_the_view_and_what_lies_beyond_is_counted(window: MainWindow, wide: Path) -> None:
    bench, study = opened(window, wide)
    bench.hub.set_focus("minutes")
    wait_until_idle(window)
    stage = bench.shape.stage
    stage.axis.bulk.click()
    wait_until_idle(window)
    _, high = stage.stack.lanes[0].view_box.viewRange()[0]
    values = study.table["minutes"].sample.values
    beyond = int((values > high).sum())
    assert 0 < beyond <= 30 and stage.axis.bulk.text() == "Fit all"
    items = stage.stack.edge_counts.items
    assert items[1].isVisible() and items[1].text().startswith(f"{beyond} ") and not items[0].isVisible()
    stage.axis.bulk.click()
    assert not items[1].isVisible() and stage.axis.bulk.text() == "Fit bulk"


def test_groups_several_columns_and_outliers_have_the_same_axis(window: MainWindow, wide: Path) -> None:
    bench, _ = on_scale(window, wide, "log")
    shown_view(window, "Alt+3")
    wait_until_idle(window)
    chart = bench.shape.stage.views.groups.chart
    assert chart.shown[4].key == "log" and chart.plot.axis("bottom").labelText.endswith("log axis")
    box = chart.shown[0][0].box
    group = bench.shape.stage.views.groups.split.groups[0]
    assert box[2] == pytest.approx(np.log10(group.description.median))
    shown_view(window, "Alt+4")
    several = bench.shape.stage.views.several
    several.axis.setCurrentIndex(1)
    wait_until_idle(window)
    assert "a log axis has no place for some values" in several.about.text(), "the other column has negative values"
    window.acting.show_stage(STAGES.index("Outliers"))
    wait_until_idle(window)
    assert bench.outliers.stage.stack.picture.axis.key == "log"
