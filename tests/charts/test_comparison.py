"""Strips and curves: what is drawn of groups and columns, measured on the picture itself."""

from pathlib import Path

import numpy as np
import pytest
from PyQt6.QtGui import QImage
from pytestqt.qtbot import QtBot

from culvix.charts.palette import LIGHT, colour
from culvix.charts.plots.groups.comparison import Comparison
from culvix.charts.plots.groups.comparison_rows import comparison_rows, split_rows
from culvix.study import Study
from culvix.study.analysis.grouping import grouping
from culvix.study.pictures.column_pictures import shape_picture
from culvix.study.pictures.groups.groups import FEW, Split, split
from culvix.tables import read_table

NOTHING = np.zeros(0, dtype=np.int64)


def study_of(folder: Path, columns: dict[str, list[object]]) -> Study:
    lines = [",".join(columns), *(",".join(map(str, row)) for row in zip(*columns.values(), strict=True))]
    (folder / "table.csv").write_text("\n".join(lines))
    return Study.of_table(read_table(folder / "table.csv"))


@pytest.fixture
def uneven(tmp_path: Path) -> Study:
    """Two groups of many values, and one of a single one."""
    values = np.random.default_rng(4).gamma(2.0, 3.0, 201).round(2).tolist()
    return study_of(tmp_path, {"mass": values, "tank": ["T1"] * 100 + ["T2"] * 100 + ["T3"]})


def split_of(study: Study, form: str = "bars") -> Split:
    found = split(study.workspace.analysis("mass"), grouping(study.table["tank"]), form)
    assert found is not None
    return found


def share_of_shade(chart: Comparison, shade: str) -> float:
    """Which part of the picture is painted in ``shade``."""
    image = chart.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    data = np.frombuffer(image.constBits().asstring(image.sizeInBytes()), dtype=np.uint8)
    rows = data.reshape(image.height(), image.bytesPerLine())[:, : 3 * image.width()].reshape(-1, 3).astype(int)
    wanted = colour(shade)
    return float((np.abs(rows - [wanted.red(), wanted.green(), wanted.blue()]).sum(axis=1) < 12).mean())


@pytest.mark.parametrize("form", ["bars", "density"])
def test_a_group_of_one_value_does_not_flatten_the_others(uneven: Study, form: str) -> None:
    found = split_of(uneven, form)
    assert [group.name for group in found.measured] == ["T1", "T2"] and found.groups[2].sample.n < FEW
    strips = split_rows(found, {}, {})
    tops = [float((strip.heights if form == "bars" else strip.curve[1]).max()) for strip in strips]
    assert max(tops[:2]) == pytest.approx(1.0) and min(tops[:2]) > 0.4 and tops[2] <= 1.0
    # Where no group has more, all count.
    alone = Split(found.column, found.by, found.form, found.groups[2:], 0)
    assert alone.measured == alone.groups


def test_a_box_of_one_value_is_a_tick_and_no_block(uneven: Study, qtbot: QtBot) -> None:
    chart = Comparison()
    qtbot.addWidget(chart)
    chart.resize(700, 400)
    chart.show()
    chart.put(split_rows(split_of(uneven), {}, {}), "mass")
    ink = share_of_shade(chart, LIGHT.ink)
    assert 0 < ink < 0.02, "two boxes, a tick, and words"


@pytest.mark.parametrize("column", ["length_mm", "feed_ratio", "swim_cm_s", "mass_g"])
def test_a_curve_keeps_its_shape_with_fewer_points(study: Study, column: str) -> None:
    found = study.workspace.analysis(column)
    curve = shape_picture(found, study.working, NOTHING, study.settings).curve
    assert curve is not None and found.density is not None
    whole = found.density
    inside = (whole.x >= curve.x[0]) & (whole.x <= curve.x[-1])
    off = np.abs(np.interp(whole.x[inside], curve.x, curve.y) - whole.y[inside])
    assert off.max() < 5e-4 * whole.y.max(), "less than a pixel of any lane"
    assert curve.peaks == pytest.approx(whole.peaks)
    assert curve.x.size < 0.6 * inside.sum() and set(curve.x) <= set(whole.x)


def test_two_values_have_no_curve(tmp_path: Path) -> None:
    study = study_of(tmp_path, {"dose": [1.5, 7.25] * 20, "three": [1.5, 7.25, 9.0, 9.0] * 10})
    curves = {}
    for name in ("dose", "three"):
        picture = shape_picture(study.workspace.analysis(name), study.working, NOTHING, study.settings)
        assert (picture.curve is None) == (picture.reference is None)
        curves[name] = picture.curve
    assert curves["dose"] is None and curves["three"] is not None


def test_strips_of_columns_over_each_other_are_all_in_sight(study: Study, qtbot: QtBot) -> None:
    names = ("length_mm", "mass_g", "feed_ratio")
    strips = comparison_rows([study.workspace.analysis(name) for name in names], "standardised")
    chart = Comparison()
    qtbot.addWidget(chart)
    chart.resize(700, 400)
    chart.put(strips, "SDs", over=True)
    low, high = chart.plot.view_box.viewRange()[0]
    far = np.concatenate([strip.far for strip in strips])
    assert high - low < 0.7 * np.ptp(far), "far values do not press the curves together"
    for strip in strips:
        assert low < strip.box[0] and strip.box[4] < high
        seen = (strip.curve[0] >= low) & (strip.curve[0] <= high)
        assert np.trapezoid(strip.curve[1][seen], strip.curve[0][seen]) > 0.99 * np.trapezoid(*strip.curve[::-1])
