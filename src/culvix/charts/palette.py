"""The colours, each with one meaning. Shape carries the same meaning as colour everywhere.

Pens and brushes are made once and shared: marks are drawn from ready-made images found by the pen they have.
"""

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, replace
from functools import cache

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QBrush, QColor, QPen

__all__ = [
    "DARK",
    "DARK_CONTRAST",
    "LIGHT",
    "LIGHT_CONTRAST",
    "SHADES",
    "Palette",
    "brush",
    "colour",
    "drawn_in",
    "lines_times",
    "pen",
]


@dataclass(frozen=True)
class Palette:
    """Colours as hexadecimal text, by what they mean."""

    ground: str
    panel: str
    raised: str
    rule: str
    ink: str
    muted: str
    data: str
    flagged: str
    caution: str
    resolved: str
    probe: str
    reference: str
    against: str
    favours: str
    alarm: str
    groups: tuple[str, ...]
    """Of groups in one picture: told apart by all who see colours in any way; each has a mark of its own besides."""


LIGHT = Palette(
    ground="#F4F1EA",
    panel="#FBFAF6",
    raised="#EBE5D8",
    rule="#DAD4C6",
    ink="#22303A",
    muted="#5E6871",
    data="#46568C",
    flagged="#C13F27",
    caution="#8F6414",
    resolved="#4D6E40",
    probe="#7A4E7E",
    reference="#848B90",
    against="#F3E7D3",
    favours="#E6ECDF",
    alarm="#F6DFD8",
    groups=("#5643D0", "#C46C31", "#349D88", "#45212F", "#9761B3", "#1D1452"),
)

DARK = Palette(
    ground="#1B2126",
    panel="#232A30",
    raised="#323B43",
    rule="#45505A",
    ink="#E8E3D9",
    muted="#AEB6BC",
    data="#93A4E0",
    flagged="#F58A72",
    caution="#DDAA5C",
    resolved="#95BC83",
    probe="#CE9DD2",
    reference="#949DA3",
    against="#43391F",
    favours="#2C3B28",
    alarm="#4A2A21",
    groups=("#D3EDB6", "#8274DC", "#AC7753", "#EDB6DA", "#33CC33", "#D45487"),
)


LIGHT_CONTRAST = replace(
    LIGHT,
    ground="#FFFFFF",
    panel="#FFFFFF",
    raised="#E2E2E2",
    rule="#8A8A8A",
    ink="#000000",
    muted="#1F2A33",
    data="#24336F",
    flagged="#9A1F08",
    caution="#5C3C00",
    resolved="#26451B",
    probe="#5A2460",
    reference="#4A5157",
)
"""For desktops that ask for more contrast: words of seven to one, edges that are seen."""

DARK_CONTRAST = replace(
    DARK,
    ground="#000000",
    panel="#000000",
    raised="#2B2B2B",
    rule="#6E6E6E",
    ink="#FFFFFF",
    muted="#D8DDE1",
    data="#B4C2FF",
    flagged="#FFA48F",
    caution="#F2C478",
    resolved="#B5DFA2",
    probe="#E8B8EC",
    reference="#B9C1C7",
)


class _Shades:
    """The palette in use, shade by shade: ``SHADES.ink``. What is drawn asks it at the time of drawing."""

    def __init__(self) -> None:
        self.palette = LIGHT

    def __getattr__(self, name: str) -> str:
        shade: str = getattr(self.palette, name)
        return shade

    def of(self, name: str) -> str:
        """A shade by its name."""
        shade: str = getattr(self.palette, name)
        return shade


SHADES = _Shades()


@contextmanager
def drawn_in(palette: Palette) -> Iterator[None]:
    """Have everything that is drawn meanwhile in the shades of ``palette``: pictures for paper are light."""
    before, SHADES.palette = SHADES.palette, palette
    try:
        yield
    finally:
        SHADES.palette = before


@cache
def colour(name: str, alpha: float = 1.0) -> QColor:
    """``name`` (hexadecimal text) with opacity ``alpha`` from 0 to 1."""
    shade = QColor(name)
    shade.setAlphaF(alpha)
    return shade


_line_scale = 1.0


@contextmanager
def lines_times(scale: float) -> Iterator[None]:
    """Make all pens ``scale`` times as wide meanwhile: for pictures that have more pixels than the screen."""
    global _line_scale
    before, _line_scale = _line_scale, scale
    try:
        yield
    finally:
        _line_scale = before


def pen(name: str, width: float = 1.0, *, alpha: float = 1.0, dashed: bool = False) -> QPen:
    """A pen whose width is in pixels whatever the scale of the picture."""
    return _pen(name, width * _line_scale, alpha, dashed)


@cache
def _pen(name: str, width: float, alpha: float, dashed: bool) -> QPen:
    made = QPen(colour(name, alpha), width)
    made.setCosmetic(True)
    if dashed:
        made.setStyle(Qt.PenStyle.DashLine)
    return made


@cache
def brush(name: str, alpha: float = 1.0) -> QBrush:
    return QBrush(colour(name, alpha))
