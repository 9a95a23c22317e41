"""Limits by hand and by typing: what is said at the hand, for which column they hold, and each end apart."""

from collections.abc import Iterator
from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest

from culvix.app.shell.stages import STAGES
from culvix.app.shell.window import MainWindow
from culvix.app.shell.workbench import Workbench
from culvix.charts.lanes.span_lane import SpanLane
from culvix.study import Study
from tests.app.driving import LEFT, opened, pull, wait_until_idle

LENGTH, CTRL = "length_mm", Qt.KeyboardModifier.ControlModifier
NONE = Qt.KeyboardModifier.NoModifier


@pytest.fixture
def stage(window: MainWindow, demo_path: Path) -> Iterator[tuple[Workbench, Study, SpanLane]]:
    bench, study = opened(window, demo_path)
    window.acting.show_stage(STAGES.index("Outliers"))
    wait_until_idle(window)
    lane = bench.outliers.stage.stack.lane(SpanLane)
    assert isinstance(lane, SpanLane)
    yield bench, study, lane


def held(bench: Workbench, lane: SpanLane, line: int, start: float, end: float, keys: Qt.KeyboardModifier) -> QPoint:
    """Take hold of an end and pull it, without letting go; the place of the pointer is returned."""
    view = bench.outliers.stage.canvas.viewport()
    first, last = (bench.outliers.stage.canvas.mapFromScene(lane.scene_position(x, line)) for x in (start, end))
    pull(view, first, last, keys=keys)
    return last


def let_go(bench: Workbench, at: QPoint, keys: Qt.KeyboardModifier = NONE) -> None:
    QTest.mouseRelease(bench.outliers.stage.canvas.viewport(), LEFT, keys, at)


def test_the_number_and_both_counts_stand_at_the_hand(
    window: MainWindow, stage: tuple[Workbench, Study, SpanLane]
) -> None:
    bench, study, lane = stage
    upper = bench.hub.preview.flags.results["z_score"].upper
    at = held(bench, lane, 2, upper, 260.0, NONE)
    message = lane.message
    limit = float(message.split(" at ")[1].split(" ")[0])
    x, (mean, sd) = study.table[LENGTH].values, study.table[LENGTH].sample.fit
    with np.errstate(invalid="ignore"):
        below, above = int((x < mean - limit * sd).sum()), int((x > mean + limit * sd).sum())
    assert lane.hand.isVisible() and "for all columns" in message
    assert float(lane.hand.toPlainText()) == pytest.approx(260.0, abs=2)
    told = [int(part.split(" ")[0]) for part in message.split(": ")[1].split(", ")]
    # The limit is said with three digits, the counts are those of the limit itself.
    assert told == pytest.approx([below, above], abs=6)
    assert study.settings.limits["z_score"] == 3.0, "nothing is set before the end is let go"
    let_go(bench, at)
    wait_until_idle(window)
    assert not lane.hand.isVisible() and study.settings.limits["z_score"] == pytest.approx(limit, abs=0.01)


def test_an_end_pulled_alone_is_a_limit_of_this_column(
    window: MainWindow, stage: tuple[Workbench, Study, SpanLane]
) -> None:
    bench, study, lane = stage
    before = bench.hub.preview.flags.results["z_score"]
    at = held(bench, lane, 2, before.upper, 260.0, CTRL)
    assert f"for {LENGTH} only" in lane.message
    let_go(bench, at, CTRL)
    wait_until_idle(window)
    found = bench.hub.preview.flags.results["z_score"]
    assert found.lower == before.lower and found.upper == pytest.approx(260, abs=2)
    low, high = study.settings.limits_of(LENGTH, "z_score")
    assert low == 3.0 > high and study.settings.limits["z_score"] == 3.0
    assert study.settings.limits_of("mass_g", "z_score") == (3.0, 3.0)
    methods = bench.outliers.stage.methods
    assert (methods.limit_fields["z_score"].value(), methods.upper_fields["z_score"].value()) == pytest.approx(
        (3.0, high), abs=0.01
    )
    methods.common.click()
    assert study.settings.limits_of(LENGTH, "z_score") == (3.0, 3.0)


def test_counts_stand_at_both_ends_of_a_short_span(window: MainWindow, tmp_path: Path) -> None:
    path = tmp_path / "far.csv"
    values = [*np.random.default_rng(1).normal(10, 1, 60).round(2).tolist(), 100000.0]
    path.write_text("flow\n" + "\n".join(map(str, values)) + "\n")
    bench, _ = opened(window, path)
    window.acting.show_stage(STAGES.index("Outliers"))
    wait_until_idle(window)
    lane = bench.outliers.stage.stack.lane(SpanLane)
    spans = {span.key: span for span in lane.picture.spans}
    assert spans["iqr_fences"].upper - spans["iqr_fences"].lower < 20
    (message,) = [item.toPlainText() for item, span, _ in lane.counts if span.key == "iqr_fences" and item.isVisible()]
    assert message.endswith(" below, 1 above"), "both in one place, and nothing lies over them"
    assert all(item.isVisible() or not item.toPlainText() for item, _, _ in lane.counts)


def test_a_limit_holds_for_this_column_where_that_is_wished(
    window: MainWindow, stage: tuple[Workbench, Study, SpanLane]
) -> None:
    bench, study, _ = stage
    methods = bench.outliers.stage.methods
    methods.limit_fields["z_score"].setValue(2.5)
    assert study.settings.limits["z_score"] == 2.5
    methods.own.click()
    methods.limit_fields["z_score"].setValue(2.0)
    assert study.settings.limits["z_score"] == 2.5 and study.settings.limits_of(LENGTH, "z_score") == (2.0, 2.0)
    bench.hub.set_focus("mass_g")
    wait_until_idle(window)
    assert methods.limit_fields["z_score"].value() == 2.5


def test_a_range_is_declared_where_limits_are_set(window: MainWindow, stage: tuple[Workbench, Study, SpanLane]) -> None:
    bench, study, lane = stage
    methods = bench.outliers.stage.methods
    low, high = (methods.limit_fields and methods.range_fields)[0], methods.range_fields[1]
    low.setFocus()
    QTest.keyClicks(low, "100")
    low.editingFinished.emit()
    wait_until_idle(window)
    assert study.workspace.bounds(LENGTH) == (100.0, None)
    assert [span.key for span in lane.picture.spans][-1] == "valid_range"
    assert bench.hub.analysis.findings(study.working)[0].kind == "out_of_range"
    QTest.keyClicks(high, "many")
    high.editingFinished.emit()
    assert "is not a number" in window.text and study.workspace.bounds(LENGTH) == (100.0, None)
    high.clear()
    QTest.keyClicks(high, "50")
    high.editingFinished.emit()
    assert "begins below its end" in window.text and study.workspace.bounds(LENGTH) == (100.0, None)
