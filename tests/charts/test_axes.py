"""Axes: each number stands where its value lies, none runs into another, and as many are shown as have room."""

from itertools import pairwise

import pytest
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st
from PyQt6.QtCore import QRectF
from PyQt6.QtGui import QPainter, QPicture
from PyQt6.QtWidgets import QApplication

from culvix.charts.axes.value_axis import ValueAxis
from culvix.stats.display import typed_number
from culvix.stats.shape.axis_scale import LOG_AXIS


def drawn(axis: ValueAxis) -> tuple[list[QRectF], list[str]]:
    """Where the numbers of an axis stand, and what they say."""
    picture = QPicture()
    painter = QPainter(picture)
    specs = axis.generateDrawSpecs(painter)
    painter.end()
    assert specs is not None
    return [area for area, _, _ in specs[2]], [text for _, _, text in specs[2]]


@pytest.mark.parametrize("side", ["left", "right", "bottom", "top"])
@given(
    st.floats(-1e6, 1e6),
    st.floats(-6, 6),
    st.integers(24, 900),
)
@settings(max_examples=30, deadline=None, suppress_health_check=[HealthCheck.function_scoped_fixture])
def test_numbers_stand_where_they_belong(
    qapp: QApplication, side: str, low: float, magnitude: float, length: int
) -> None:
    reach = 10.0**magnitude
    axis, upwards = ValueAxis(side), side in ("left", "right")
    axis.setGeometry(QRectF(0, 0, 74, length) if upwards else QRectF(0, 0, length, 44))
    axis.setRange(low, low + reach)
    areas, texts = drawn(axis)
    for area, text in zip(areas, texts, strict=True):
        middle = area.center().y() if upwards else area.center().x()
        share = 1 - middle / length if upwards else middle / length
        written = typed_number(text)
        assert abs(low + share * reach - written) <= 0.51 * reach / length + 1e-9 * abs(written), (text, share)
    ordered = sorted(areas, key=lambda area: area.top() if upwards else area.left())
    for before, after in pairwise(ordered):
        # What stands above each other may touch, as it has no feet below its line.
        assert (after.top() - before.bottom() if upwards else after.left() - before.right()) > -0.25 * before.height()
    assert len(set(texts)) == len(texts), "each number differs from the next"


def test_a_narrow_axis_keeps_zero(qapp: QApplication) -> None:
    axis = ValueAxis("bottom", upright=True)
    axis.setGeometry(QRectF(0, 0, 130, 44))
    axis.setRange(-39.0, 41.0)
    _, texts = drawn(axis)
    assert "0" in texts and len(texts) >= 2


def test_an_axis_without_a_reach_has_nothing_to_show(qapp: QApplication) -> None:
    axis = ValueAxis("left")
    axis.setGeometry(QRectF(0, 0, 74, 0))
    axis.setRange(0.0, 1.0)
    assert axis.generateDrawSpecs(QPainter()) is None


@pytest.mark.parametrize("side", ["left", "bottom"])
@pytest.mark.parametrize(
    ("low", "high"),
    [(0.0, 1e-310), (-1e308, 1e307), (1e300, 1.0000001e300), (1e15, 1e15 + 4), (-5e-324, 5e-324), (-1.7e308, 1.7e308)],
)
def test_no_range_is_too_much_for_an_axis(qapp: QApplication, side: str, low: float, high: float) -> None:
    axis = ValueAxis(side)
    axis.setGeometry(QRectF(0, 0, 74, 300) if side == "left" else QRectF(0, 0, 300, 44))
    axis.setRange(low, high)
    picture = QPicture()
    painter = QPainter(picture)
    specs = axis.generateDrawSpecs(painter)
    painter.end()
    assert specs is None or len(specs[1]) < 40
    assert not any("nan" in text or "inf" in text for _, _, text in (specs or (0, 0, []))[2])


@pytest.mark.parametrize("reach", [3.0, 20.0, 400.0])
def test_an_axis_of_powers_has_few_numbers_however_far_it_reaches(qapp: QApplication, reach: float) -> None:
    axis = ValueAxis("bottom")
    axis.value_scale = LOG_AXIS
    ((_, positions),) = axis.tickValues(-reach, reach, 500)
    assert 3 <= len(positions) <= 30 and all(-301 <= position <= 301 for position in positions)
    assert len(axis.tickStrings([-reach, *positions, reach], 1.0, 1.0)) == len(positions) + 2
