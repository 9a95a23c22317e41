"""What pictures that are saved have of their own: letters, words, grid. What is drawn asks for it while it is drawn."""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import cache

from PyQt6.QtGui import QFont
from PyQt6.QtWidgets import QApplication

from culvix.charts.palette import LIGHT, Palette, drawn_in, lines_times
from culvix.study.document.choices.picture_style import PictureStyle

__all__ = [
    "PICTURE_SHADES",
    "PictureWords",
    "axis_words",
    "letters",
    "letters_times",
    "on_paper",
    "points",
    "title_words",
]

_USUAL_POINTS = 9.0
_ON_SCREEN = (0.9, 1.3)
"""How much smaller and larger than usual the letters of pictures are on a desktop of small and large letters."""

PICTURE_SHADES: dict[str, Palette] = {
    "usual": LIGHT,
    # Blue, vermilion and purple as Okabe and Ito (2008) chose them, told apart by all; darker where white asks it.
    "safe": replace(
        LIGHT,
        panel="#FFFFFF",
        data="#0072B2",
        flagged="#C24E00",
        caution="#8A6100",
        resolved="#007A58",
        probe="#A8497F",
    ),
    "greys": replace(
        LIGHT,
        panel="#FFFFFF",
        ink="#000000",
        muted="#3C3C3C",
        rule="#B0B0B0",
        data="#5A5A5A",
        flagged="#000000",
        caution="#3C3C3C",
        resolved="#6E6E6E",
        probe="#2A2A2A",
        reference="#8C8C8C",
        groups=("#000000", "#7A7A7A", "#3C3C3C", "#8C8C8C", "#2A2A2A", "#5A5A5A"),
    ),
}


@dataclass(frozen=True)
class PictureWords:
    """Words in place of a picture's own: its heading and the name of its value axis; None leaves the usual ones."""

    title: str | None = None
    axis: str | None = None


@dataclass
class _Drawn:
    """What holds for what is drawn now."""

    family: str = ""
    times: float = 1.0
    words: PictureWords = PictureWords()


_now = _Drawn()


def points(usual: float) -> float:
    """The size of letters that usually have so many points."""
    return usual * _now.times


def letters(usual: float) -> QFont:
    """The letters of pictures, usually of so many points."""
    return _letters(_now.family, usual * _now.times)


@cache
def _letters(family: str, size: float) -> QFont:
    font = QFont(QApplication.font())
    if family:
        font.setFamily(family)
    font.setPointSizeF(size)
    return font


def letters_times(times: float) -> None:
    """Let the letters of pictures on the screen grow with those of the desktop, as far as there is room."""
    _now.times = min(max(times, _ON_SCREEN[0]), _ON_SCREEN[1])


def title_words(usual: str) -> str:
    """The heading of what is drawn now."""
    return usual if _now.words.title is None else _now.words.title


def axis_words(usual: str) -> str:
    """The name of the value axis of what is drawn now."""
    return usual if _now.words.axis is None else _now.words.axis


@contextmanager
def on_paper(style: PictureStyle, words: PictureWords | None = None, *, scale: float = 1.0) -> Iterator[None]:
    """Have what is drawn meanwhile in ``style`` and with these ``words``, ``scale`` times as many pixels large."""
    global _now
    before = _now
    _now = _Drawn(style.font, style.points / _USUAL_POINTS, words or PictureWords())
    try:
        with drawn_in(PICTURE_SHADES[style.palette]), lines_times(scale * style.lines):
            yield
    finally:
        _now = before
