"""Pictures for paper: letters, lines, shades, words, grid and ground are those said, and only while they are drawn."""

import numpy as np
import pytest
from PyQt6.QtGui import QColor, QImage
from PyQt6.QtWidgets import QApplication, QWidget

from culvix.charts.export.picture_export import lanes_view, shape_svg
from culvix.charts.export.picture_files import Maker, PictureSize, picture_bytes, picture_image
from culvix.charts.palette import LIGHT, SHADES
from culvix.charts.paper import PICTURE_SHADES, PictureWords, axis_words, letters, on_paper, points, title_words
from culvix.errors import StatisticsError
from culvix.study import Study
from culvix.study.document.choices.picture_style import PICTURE_PALETTES, PictureStyle
from culvix.study.document.choices.settings import replaced
from culvix.study.pictures.column_pictures import ShapePicture, shape_picture
from tests.charts.test_palette import contrast

SIZE = PictureSize(120, 90, "mm", 100)
NOTHING = np.zeros(0, dtype=np.int64)


@pytest.fixture(scope="module")
def picture(demo_study: Study) -> ShapePicture:
    return shape_picture(demo_study.workspace.analysis("length_mm"), demo_study.working, NOTHING)


@pytest.fixture(scope="module")
def demo_study(demo_table: object) -> Study:
    return Study.of_table(demo_table)


@pytest.fixture
def make(picture: ShapePicture, qapp: QApplication) -> Maker:
    def made(width: int, height: int) -> QWidget:
        return lanes_view(picture, width, height, title="usual heading")

    return made


def shades(image: QImage) -> set[str]:
    places = ((x, y) for x in range(0, image.width(), 2) for y in range(0, image.height(), 2))
    return {image.pixelColor(*place).name() for place in places}


def test_what_is_said_holds_while_something_is_drawn_and_no_longer(qapp: QApplication) -> None:
    usual = points(9.0)
    with on_paper(PictureStyle(points=18.0, palette="greys"), PictureWords("Title", "axis")):
        assert points(9.0) == 18.0 and letters(9.0).pointSizeF() == 18.0
        assert SHADES.palette is PICTURE_SHADES["greys"]
        assert title_words("usual") == "Title" and axis_words("usual") == "axis"
    assert points(9.0) == usual and title_words("usual") == "usual"


def test_words_of_its_own_stand_in_a_picture(make: Maker) -> None:
    svg = picture_bytes(make, SIZE, "SVG", words=PictureWords("Fish of spring", "length at release")).decode()
    assert "Fish of spring" in svg and "length at release" in svg and "usual heading" not in svg
    plain = picture_bytes(make, SIZE, "SVG").decode()
    assert "usual heading" in plain
    assert "usual heading" not in picture_bytes(make, SIZE, "SVG", words=PictureWords(title="")).decode()


@pytest.mark.parametrize("palette", PICTURE_PALETTES)
def test_shades_are_those_chosen_and_stand_out_from_white(make: Maker, palette: str) -> None:
    chosen = PICTURE_SHADES[palette]
    svg = picture_bytes(make, SIZE, "SVG", PictureStyle(palette=palette)).decode().lower()
    assert chosen.flagged.lower() in svg
    for name in ("ink", "muted", "data", "flagged", "caution", "resolved", "probe", "reference"):
        assert contrast(getattr(chosen, name), "#FFFFFF") >= 3, name


def test_greys_are_grey(make: Maker) -> None:
    image = picture_image(make, SIZE, PictureStyle(palette="greys"))
    assert all(QColor(name).hslSaturationF() < 0.05 for name in shades(image))


def test_a_grid_is_drawn_under_everything_in_each_lane(make: Maker) -> None:
    rule = LIGHT.rule.lower()
    with_grid, without = (
        sum(each == rule for each in _column(picture_image(make, SIZE, PictureStyle(grid=grid))))
        for grid in (True, False)
    )
    assert with_grid > without + 20


def _column(image: QImage) -> list[str]:
    return [image.pixelColor(x, y).name() for x in range(80, image.width(), 1) for y in range(30, image.height(), 7)]


def test_a_transparent_picture_has_no_ground(make: Maker) -> None:
    assert picture_image(make, SIZE, PictureStyle(transparent=True)).pixelColor(1, 1).alpha() == 0
    assert picture_image(make, SIZE).pixelColor(1, 1) == QColor("white")
    assert b'fill="#ffffff"/>' in picture_bytes(make, SIZE, "SVG")
    assert b'fill="#ffffff"/>' not in picture_bytes(make, SIZE, "SVG", PictureStyle(transparent=True))


def test_lines_are_as_wide_as_said(make: Maker) -> None:
    dark = [
        sum(QColor(name).lightnessF() < 0.6 for name in _column(picture_image(make, SIZE, PictureStyle(lines=lines))))
        for lines in (1.0, 4.0)
    ]
    assert dark[1] > 1.5 * dark[0]


def test_pictures_of_the_report_bring_the_style_of_the_study(demo_study: Study, qapp: QApplication) -> None:
    settings = replaced(demo_study.settings, picture_style=PictureStyle(palette="greys"))
    shown = shape_picture(demo_study.workspace.analysis("length_mm"), demo_study.working, NOTHING, settings)
    svg = shape_svg(shown).lower()
    assert PICTURE_SHADES["greys"].data.lower() in svg and LIGHT.data.lower() not in svg


@pytest.mark.parametrize("wrong", [{"points": 1.0}, {"lines": 90.0}, {"palette": "gaudy"}, {"points": float("nan")}])
def test_a_style_that_cannot_be_is_refused(wrong: dict[str, object]) -> None:
    with pytest.raises(StatisticsError):
        PictureStyle(**wrong)
