"""Both palettes: what is read and what is seen stands out from what it stands on (WCAG 2.2, level AA)."""

from dataclasses import fields
from itertools import combinations

import numpy as np
import pytest
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QApplication

from culvix.charts.export.picture_files import PictureSize, picture_image
from culvix.charts.palette import DARK, DARK_CONTRAST, LIGHT, LIGHT_CONTRAST, SHADES, Palette, drawn_in
from culvix.charts.plots.bar_chart import BarChart
from culvix.study.pictures.bars import Bar, BarsPicture

GROUNDS = ("ground", "panel", "raised")
WORDS = [
    *((word, ground) for word in ("ink", "muted") for ground in GROUNDS),
    *(("ink", ground) for ground in ("rule", "against", "favours", "alarm")),
    *((word, ground) for word in ("probe", "flagged", "caution", "resolved") for ground in ("ground", "panel")),
]
"""Shades of words, and what they are read on."""
SEEN = ("data", "flagged", "caution", "resolved", "probe", "reference")
MARKS = [(mark, ground) for mark in SEEN for ground in ("ground", "panel")]
"""Shades of marks and lines, and what they are seen on."""


def contrast(one: str, other: str) -> float:
    """The ratio of the relative luminances of two colours, from 1 to 21."""

    def luminance(name: str) -> float:
        shade = QColor(name)
        parts = np.array([shade.redF(), shade.greenF(), shade.blueF()])
        linear = np.where(parts <= 0.04045, parts / 12.92, ((parts + 0.055) / 1.055) ** 2.4)
        return float(linear @ (0.2126, 0.7152, 0.0722))

    light, dark = sorted((luminance(one), luminance(other)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


def test_the_ratio_is_that_of_the_standard() -> None:
    assert contrast("#FFFFFF", "#000000") == pytest.approx(21) and contrast("#777777", "#FFFFFF") == pytest.approx(
        4.48, abs=0.01
    )


PALETTES = {"light": LIGHT, "dark": DARK, "light_contrast": LIGHT_CONTRAST, "dark_contrast": DARK_CONTRAST}


@pytest.mark.parametrize("palette", PALETTES.values(), ids=PALETTES)
def test_words_and_marks_stand_out(palette: Palette) -> None:
    words = {pair: contrast(*(getattr(palette, name) for name in pair)) for pair in WORDS}
    marks = {pair: contrast(*(getattr(palette, name) for name in pair)) for pair in MARKS}
    assert {pair: round(ratio, 2) for pair, ratio in words.items() if ratio < 4.5} == {}
    assert {pair: round(ratio, 2) for pair, ratio in marks.items() if ratio < 3.0} == {}


@pytest.mark.parametrize("palette", [LIGHT_CONTRAST, DARK_CONTRAST], ids=["light", "dark"])
def test_where_more_contrast_is_asked_for_words_have_seven_to_one_and_edges_are_seen(palette: Palette) -> None:
    for word, ground in WORDS[:6]:
        assert contrast(getattr(palette, word), getattr(palette, ground)) >= 7, (word, ground)
    assert contrast(palette.rule, palette.panel) >= 3


def test_both_palettes_have_every_shade_and_a_dark_one_is_dark() -> None:
    for palette in (LIGHT, DARK):
        shades = [getattr(palette, field.name) for field in fields(Palette) if field.name != "groups"]
        assert all(QColor(shade).isValid() for shade in (*shades, *palette.groups))
    assert QColor(DARK.panel).lightnessF() < 0.2 < 0.8 < QColor(LIGHT.panel).lightnessF()


def test_what_is_drawn_follows_the_palette_in_use_and_pictures_that_are_saved_are_light(qapp: QApplication) -> None:
    bars = BarsPicture("kind", 3, (Bar("a", 2), Bar("b", 1)), np.array([0, 0, 1]), "")

    def make(width: int, height: int) -> BarChart:
        chart = BarChart("kind")
        chart.show_picture(bars, np.zeros(0, dtype=np.int64))
        chart.resize(width, height)
        return chart

    with drawn_in(DARK):
        assert SHADES.ink == DARK.ink
        saved = picture_image(make, PictureSize(400, 200, "pixels", 96))
        assert SHADES.palette is DARK
    assert SHADES.ink == LIGHT.ink
    shades = {saved.pixelColor(x, y).name() for x in range(0, 400, 3) for y in range(0, 200, 3)}
    assert "#ffffff" in shades and QColor(DARK.panel).name() not in shades


_SEEN_BY = {
    "all": np.eye(3),
    "protanopia": [[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]],
    "deuteranopia": [[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]],
    "tritanopia": [[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]],
}
"""Machado, G. M., Oliveira, M. M. & Fernandes, L. A. F. 2009: A physiologically-based model for simulation of color
vision deficiency. IEEE Transactions on Visualization and Computer Graphics 15, 1291-1298."""


def lab(shade: str, seen: object) -> np.ndarray:
    """A colour, as it is ``seen``, in CIE L*a*b*."""
    screen = np.array(QColor(shade).getRgbF()[:3])
    linear = np.where(screen <= 0.04045, screen / 12.92, ((screen + 0.055) / 1.055) ** 2.4)
    to_xyz = np.array(
        [[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.072175], [0.0193339, 0.119192, 0.9503]]
    )
    xyz = to_xyz @ np.clip(np.asarray(seen) @ linear, 0, 1) / (0.95047, 1, 1.08883)
    f = np.where(xyz > 0.008856, np.cbrt(xyz), 7.787 * xyz + 16 / 116)
    return np.array([116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])])


@pytest.mark.parametrize("seen", _SEEN_BY)
@pytest.mark.parametrize("palette", [LIGHT, DARK], ids=["light", "dark"])
def test_groups_are_told_apart_by_all_who_see_colours_in_any_way(palette: Palette, seen: str) -> None:
    places = [lab(shade, _SEEN_BY[seen]) for shade in palette.groups]
    nearest = min(float(np.linalg.norm(a - b)) for a, b in combinations(places, 2))
    assert nearest > 20
    assert all(contrast(shade, palette.panel) >= 3 for shade in palette.groups)
