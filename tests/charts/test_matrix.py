"""All pairs of columns in one square: what it shows, where its cells lie, and what hand and keys do to it."""

import re
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from PyQt6.QtCore import QPoint, QPointF, QRectF, Qt, QTimer
from PyQt6.QtGui import QImage, QPainter, QWheelEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication
from pytestqt.qtbot import QtBot

from culvix.charts.export.picture_export import matrix_svg
from culvix.charts.palette import LIGHT
from culvix.charts.plots.matrix.cells import cells_image
from culvix.charts.plots.matrix.chart import MatrixChart
from culvix.charts.plots.matrix.room import MatrixRoom
from culvix.stats.shape.axis_scale import MEASURED_AXIS
from culvix.study.pictures.groups.small_pictures import Small, SmallPictures, small
from culvix.study.pictures.matrix_pictures import DIFFERENCE, PICTURES, MatrixPicture, matrix_picture
from culvix.study.relations.ranking import Relations, rank_pairs

LEFT = Qt.MouseButton.LeftButton
AREA = QRectF(100, 50, 400, 300)


def related(k: int = 6, seed: int = 1) -> Relations:
    """Columns of which each second one goes with the first, every other against it."""
    draw = np.random.default_rng(seed)
    base = draw.normal(size=200)
    weights = [0.0 if j % 2 else 2.0 if j % 4 == 0 else -2.0 for j in range(k)]
    columns = [weight * base + draw.normal(size=200) for weight in weights]
    return rank_pairs([f"column_{j}" for j in range(k)], columns)


def pictured(relations: Relations, **options: object) -> MatrixPicture:
    chosen = {"order": "table", "upper": "pearson", "lower": "spearman"} | options
    return matrix_picture(relations, **chosen)


@pytest.fixture
def chart(qtbot: QtBot) -> MatrixChart:
    made = MatrixChart()
    qtbot.addWidget(made)
    made.resize(520, 420)
    made.show()
    made.show_picture(pictured(related()))
    return made


@pytest.mark.parametrize("order", ["similarity", "table", "name"])
def test_every_cell_has_the_coefficient_of_its_two_columns(order: str) -> None:
    relations = related()
    picture = pictured(relations, order=order)
    for row, name in enumerate(picture.names):
        for column, other in enumerate(picture.names):
            i, j = relations.columns.index(name), relations.columns.index(other)
            key = "pearson" if column > row else "spearman"
            side = picture.upper if column > row else picture.lower
            if row != column:
                assert side[row, column] == relations.matrices[key].r[i, j]
    assert order != "name" or list(picture.names) == sorted(picture.names)


def test_columns_that_go_together_stand_together_whatever_their_sign() -> None:
    picture = pictured(related(), order="similarity")
    ((first, last),) = picture.blocks
    assert {int(name[-1]) for name in picture.names[first:last]} == {0, 2, 4}


def test_one_side_can_show_how_far_the_kinds_lie_apart() -> None:
    relations = related()
    picture = pictured(relations, lower=DIFFERENCE)
    r, rho = (relations.matrices[key].r for key in ("pearson", "spearman"))
    assert picture.lower[3, 0] == abs(rho[3, 0]) - abs(r[3, 0]) and picture.lower_name == "|ρ| − |r|"


def test_pictures_need_those_of_all_columns() -> None:
    relations = related(3)
    smalls = SmallPictures({name: small(np.arange(9.0), MEASURED_AXIS) for name in relations.columns})
    assert pictured(relations, lower=PICTURES, smalls=smalls).lower is None
    assert pictured(relations, lower=PICTURES).lower is not None


@given(st.integers(1, 300), st.floats(0.2, 40), st.floats(100, 500), st.floats(50, 350))
def test_zooming_leaves_what_is_under_the_pointer_and_never_shows_beyond_the_cells(
    count: int, factor: float, x: float, y: float
) -> None:
    room, at = MatrixRoom.fitting(count, AREA), QPointF(x, y)
    cell = room.at(at)
    near = room.zoomed(factor, at)
    if cell is not None and near.at(at) is not None:
        assert abs(near.at(at)[0] - cell[0]) <= 1 or near.high < room.high * 1.01
    assert near.high >= room.high * (1 - 1e-9)
    assert near.corner.x() <= AREA.left() + 1e-6 and near.corner.y() <= AREA.top() + 1e-6
    assert near.zoomed(1e-9, at).shows_all
    seen = near.moved(QPointF(-1e6, -1e6))
    assert seen.rows.stop == seen.columns.stop == count
    assert seen.showing(0, 0).rect(0, 0).left() >= AREA.left() - 1e-6


def ink(picture: MatrixPicture, room: MatrixRoom, row: int, column: int) -> np.ndarray:
    """How much of each pixel of a cell is inked, 0 to 1."""
    image, rect = cells_image(picture, room), room.rect(row, column).translated(-room.area.topLeft()).toRect()
    rows, columns = range(rect.top(), rect.bottom()), range(rect.left(), rect.right())
    return np.array([[image.pixelColor(x, y).alphaF() for x in columns] for y in rows])


@pytest.fixture
def three() -> MatrixPicture:
    values = np.array([[1, 0.9, -0.9], [0.9, 1, 0.1], [-0.9, 0.1, np.nan]])
    return replace(pictured(related(3)), upper=values, lower=values)


def test_small_cells_are_darker_for_larger_coefficients_and_hollow_for_negative_ones(
    qapp: QApplication, three: MatrixPicture
) -> None:
    room = MatrixRoom.fitting(3, QRectF(10, 10, 24, 24))
    positive, negative, weak = (ink(three, room, *cell) for cell in ((0, 1), (0, 2), (1, 2)))
    assert positive.min() == pytest.approx(0.9, abs=0.01) and weak.max() == pytest.approx(0.1, abs=0.01)
    assert negative[3:5, 3:5].max() == 0 and negative[0].min() == pytest.approx(0.9, abs=0.01)
    assert ink(three, room, 1, 1).max() == 0


def test_marks_rise_full_or_hang_hollow_as_far_as_the_coefficient_is_large(
    qapp: QApplication, three: MatrixPicture
) -> None:
    room = MatrixRoom.fitting(3, QRectF(10, 10, 120, 120))
    positive, negative, weak = (ink(three, room, *cell) for cell in ((0, 1), (0, 2), (1, 2)))
    half = positive.shape[0] // 2
    assert positive[:half].sum() > 5 * positive[half:].sum() and negative[half:].sum() > 5 * negative[:half].sum()
    assert np.count_nonzero(negative) < 0.6 * np.count_nonzero(positive), "of a hollow bar only the outline is drawn"
    rows = [np.count_nonzero(cell.any(axis=1)) for cell in (positive, weak)]
    assert rows[0] == pytest.approx(0.9 * 18.5, abs=1.5) and rows[1] <= 3


def test_scatters_stand_where_the_rows_do(qapp: QApplication) -> None:
    along = small(np.arange(50.0), MEASURED_AXIS)
    falling = small(-np.arange(50.0), MEASURED_AXIS)
    picture = pictured(related(2), lower=PICTURES, smalls=SmallPictures({"column_0": along, "column_1": falling}))
    cell = ink(picture, MatrixRoom.fitting(2, QRectF(0, 0, 120, 120)), 1, 0) > 0
    half = cell.shape[0] // 2
    assert cell[:half, :half].any() and cell[half:, half:].any()
    assert not cell[: half - 4, half + 4 :].any() and not cell[half + 4 :, : half - 4].any()


def test_what_has_no_sign_reaches_to_both_sides_of_the_line(qapp: QApplication, three: MatrixPicture) -> None:
    room = MatrixRoom.fitting(3, QRectF(10, 10, 120, 120))
    cell = ink(replace(three, categories=frozenset({1})), room, 0, 1)
    half = cell.shape[0] // 2
    assert cell[:half].sum() == pytest.approx(cell[half:].sum(), rel=0.15) and cell[: half - 4].any()


def test_a_pair_with_a_category_is_drawn_by_group(chart: MatrixChart, qtbot: QtBot) -> None:
    boxes = np.array([[0, 0.1, 0.2, 0.3, 0.4], [0.6, 0.7, 0.8, 0.9, 1.0]])
    named = {name: small(np.arange(9.0), MEASURED_AXIS) for name in related(2).columns}
    for pair, upright in ((("column_0", "column_1"), True), (("column_1", "column_0"), False)):
        # The first of the two makes the groups, and stands along the axis or beside it.
        picture = pictured(related(2), lower=PICTURES, smalls=SmallPictures(named, {pair: boxes}))
        chart.show_picture(replace(picture, categories=frozenset({picture.names.index(pair[0])})))
        image = QImage(chart.size(), QImage.Format.Format_RGB32)
        image.fill(0xFFFFFF)
        chart.render(image)
        rect = chart.room.rect(1, 0).adjusted(4, 4, -4, -4).toRect()
        dark = np.array(
            [
                [image.pixelColor(x, y).lightness() < 200 for x in range(rect.left(), rect.right())]
                for y in range(rect.top(), rect.bottom())
            ]
        )
        down, across = dark.shape[0] // 2, dark.shape[1] // 2
        quarters = [dark[:down, :across], dark[:down, across:], dark[down:, :across], dark[down:, across:]]
        filled = [bool(quarter.sum() > 0.05 * quarter.size) for quarter in quarters]
        assert filled == ([False, True, True, False] if upright else [True, False, False, True])


def test_a_click_chooses_a_pair_and_a_second_one_opens_it(chart: MatrixChart, qtbot: QtBot) -> None:
    chosen, opened = [], []
    chart.chosen.connect(lambda *cell: chosen.append(cell))
    chart.opened.connect(lambda *cell: opened.append(cell))
    at = chart.room.rect(1, 4).center().toPoint()
    QTest.mouseClick(chart, LEFT, pos=at)
    QTest.mouseClick(chart, LEFT, pos=chart.room.rect(2, 2).center().toPoint())
    QTest.mouseDClick(chart, LEFT, pos=at)
    assert chosen[0] == (1, 4) and all(row != column for row, column in chosen) and opened == [(1, 4)]


def test_keys_walk_over_the_diagonal_zoom_and_open(chart: MatrixChart) -> None:
    chosen, opened = [], []
    chart.chosen.connect(lambda *cell: chosen.append(cell))
    chart.opened.connect(lambda *cell: opened.append(cell))
    chart.choose((1, 0))
    for key in (Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_Down, Qt.Key.Key_Space):
        QTest.keyClick(chart, key)
    assert chosen == [(1, 2), (3, 2), (4, 2)] and opened == [(4, 2)]
    QTest.keyClick(chart, Qt.Key.Key_Up)
    QTest.keyClick(chart, Qt.Key.Key_Plus)
    assert not chart.room.shows_all
    QTest.keyClick(chart, Qt.Key.Key_0)
    assert chart.room.shows_all


def test_the_wheel_zooms_and_a_drag_moves_without_choosing(chart: MatrixChart) -> None:
    chosen: list[object] = []
    chart.chosen.connect(lambda *cell: chosen.append(cell))
    chart.show_picture(pictured(related(40)))
    at = chart.room.area.center()
    for _ in range(8):
        event = QWheelEvent(
            at,
            QPointF(chart.mapToGlobal(at.toPoint())),
            QPoint(),
            QPoint(0, 120),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(chart, event)
    near = chart.room
    assert near.high > 2 * MatrixRoom.fitting(40, near.area).high
    QTest.mousePress(chart, LEFT, pos=at.toPoint())
    for step in (10, 20, 30):
        QTest.mouseMove(chart, at.toPoint() + QPoint(step, step))
    QTest.mouseRelease(chart, LEFT, pos=at.toPoint() + QPoint(30, 30))
    assert chart.room.corner.x() > near.corner.x() and not chosen


@pytest.mark.parametrize("k", [1, 2, 13, 60, 300])
def test_any_number_of_columns_is_drawn(chart: MatrixChart, k: int) -> None:
    draw = np.random.default_rng(k)
    relations = rank_pairs([f"a_rather_long_name_{j}" for j in range(k)], list(draw.normal(size=(k, 40))))
    smalls = SmallPictures({name: Small(draw.random(30), draw.random(24)) for name in relations.columns})
    chart.show_picture(pictured(relations, order="similarity", lower=PICTURES, smalls=smalls))
    chart.choose((0, 1) if k > 1 else None)
    image = QImage(chart.size(), QImage.Format.Format_RGB32)
    chart.render(image)
    inside = chart.room.rect(0, k - 1).center().toPoint()
    assert chart.rect().contains(inside) and chart.room.shows_all


def test_many_numbers_are_left_out_only_while_they_move(chart: MatrixChart, qtbot: QtBot) -> None:
    draw = np.random.default_rng(2)
    relations = rank_pairs([f"c{j}" for j in range(120)], list(draw.normal(size=(120, 40))))
    chart.resize(900, 700)
    chart.show_picture(pictured(relations))

    def dark() -> int:
        image = QImage(chart.size(), QImage.Format.Format_RGB32)
        image.fill(Qt.GlobalColor.white)
        painter = QPainter(image)
        chart.draw(painter)
        painter.end()
        return sum(image.pixelColor(x, y).lightness() < 90 for x in range(200, 880, 2) for y in range(200, 680, 2))

    while chart.room.wide < 56:
        chart.zoom(1.3)
    (moving,) = chart.findChildren(QTimer)
    assert moving.isActive()
    before = dark()
    moving.stop()
    assert dark() > before + 200, "numbers are there again once it stands still"


_MARKS = (("fill", LIGHT.data), ("stroke", LIGHT.caution))


def test_on_paper_names_are_words_and_marks_are_shapes(qapp: QApplication, three: MatrixPicture) -> None:
    drawn = matrix_svg(three, 480, 400).replace("\n", "")
    assert all(drawn.count(f">{name}<") == 2 for name in three.names) and "<image" not in drawn
    full, hollow = (re.findall(f'{kind}="{shade.lower()}"', drawn) for kind, shade in _MARKS)
    assert full and hollow, "a full mark for positive coefficients, a hollow one for negative ones"
