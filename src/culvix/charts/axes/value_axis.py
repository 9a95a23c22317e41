"""The axes of charts, with numbers written as everywhere else."""

from collections.abc import Mapping, Sequence
from itertools import pairwise
from math import ceil, floor, inf, log10

import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, QSizeF, Qt
from PyQt6.QtGui import QFont, QFontMetricsF, QPainter, QPen

from culvix.charts.axes.scale_ticks import scale_ticks, tick_text
from culvix.charts.palette import SHADES, pen
from culvix.charts.paper import letters
from culvix.stats.display import number
from culvix.stats.shape.axis_scale import AxisScale

__all__ = ["AXIS_WIDTH", "ValueAxis"]

AXIS_WIDTH = 74
_BETWEEN = 6.0
"""Room between two numbers, in pixels."""
_USUAL = (52.0, 25.0)
"""How far apart numbers usually stand on an axis that lies, and on one that stands, in pixels."""
_BESIDE = 5.0
"""Room between the axis and its numbers, in pixels."""
_TICK = 4.0
"""Length of a tick, which points into the chart, in pixels."""
_LINE_HEIGHT = 0.8
"""A line of numbers, which have nothing below their feet, as a share of the font's height."""

_SMALLEST, _LARGEST = 1e-300, 1e300
_NEAREST = 0.66
"""How near names may stand above each other, as a share of the font's height."""

_LEAST_WORD = 22.0
"""Room that a code with its word has at least, in pixels."""

_Line = tuple[QPen, QPointF, QPointF]
_Words = tuple[QRectF, Qt.AlignmentFlag, str]

_SIDES = {
    "left": Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
    "right": Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter,
    "bottom": Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignTop,
    "top": Qt.AlignmentFlag.AlignHCenter | Qt.AlignmentFlag.AlignBottom,
}


def _rung(position: int) -> float:
    """One, two and five times each power of ten, in order; one stands at 0."""
    return (1, 2, 5)[position % 3] * 10.0 ** (position // 3)


def _font() -> QFont:
    """The letters of numbers at an axis."""
    return letters(8.5)


def _room_standing(one: str, other: str) -> float:
    """How far the middles of two numbers above each other must be from each other, in pixels."""
    return max(_USUAL[1], _LINE_HEIGHT * float(QFontMetricsF(_font()).height()))


def _room_lying(one: str, other: str) -> float:
    """How far the middles of two numbers beside each other must be from each other, in pixels."""
    metrics = QFontMetricsF(_font())
    return max(_USUAL[0], (metrics.horizontalAdvance(one) + metrics.horizontalAdvance(other)) / 2 + _BETWEEN)


class ValueAxis(pg.AxisItem):
    """An axis whose numbers are written as everywhere else: true minus sign, thin-space thousands."""

    def __init__(self, orientation: str, *, upright: bool = False) -> None:
        """An axis at the ``left``, at the ``right``, at the ``bottom`` or at the ``top``.

        ``upright`` where the view stands upright: the axis at the left then has its x, the one below its y.
        """
        super().__init__(orientation, pen=pen(SHADES.rule), textPen=SHADES.muted, tickPen=pen(SHADES.rule))
        self.enableAutoSIPrefix(False)
        self.setStyle(maxTickLevel=0, hideOverlappingLabels=orientation == "bottom")
        self.setTickFont(_font())
        self._metrics = QFontMetricsF(_font())
        self.value_scale: AxisScale | None = None
        """Where what is drawn are places on a scale: which. The axis then has the numbers that stand there."""

        self.words: Mapping[float, str] = {}
        """What codes stand for; where there are any, they stand at the axis instead of numbers."""

        self._room = 0.0
        """How far codes are from each other, in pixels."""

        self._round_numbers: dict[float, float] = {}
        self.upright = upright

    def linkToView(self, view: pg.ViewBox) -> None:
        super().linkToView(view)
        if self.upright:
            upwards = self.orientation in ("left", "right")
            (view.sigXRangeChanged if upwards else view.sigYRangeChanged).connect(self.linkedViewChanged)

    def linkedViewChanged(self, view: pg.ViewBox, newRange: Sequence[float] | None = None) -> None:
        if self.upright:
            newRange = view.viewRange()[0 if self.orientation in ("left", "right") else 1]
        super().linkedViewChanged(view, newRange)

    @property
    def has_names(self) -> bool:
        """Whether names stand at it, of methods or of groups, instead of numbers."""
        return self._tickLevels is not None

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        coded = [value for value in sorted(self.words) if low <= value <= high]
        if coded and size / len(coded) >= _LEAST_WORD:
            step = min((b - a for a, b in pairwise(coded)), default=high - low)
            self._room = step / (high - low) * size - _BETWEEN
            return [(step, coded)]
        if self.value_scale is not None:
            # The axes of all lanes have the same ones, which are looked for once.
            room = _room_standing if self.orientation in ("left", "right") else _room_lying
            self._round_numbers = scale_ticks(self.value_scale, low, high, size, room)
            return [(1.0, list(self._round_numbers))]
        step = self._round_step(low, high, size)
        first = ceil(low / step)
        return [(step, [position * step for position in range(first, first + int(high / step - first) + 1)])]

    def set_words(self, words: Mapping[float, str]) -> None:
        """Write ``words`` at the codes they stand for."""
        if words != self.words:
            self.words = words
            self.picture = None
            self.update()

    def text_width(self, text: str) -> float:
        """How wide a number is beside or under its tick, in pixels."""
        return float(self._metrics.horizontalAdvance(text))

    def elided(self, text: str, room: float) -> str:
        """``text``, or as much of its beginning and end as has room in so many pixels."""
        return self._metrics.elidedText(text, Qt.TextElideMode.ElideMiddle, room)

    def _round_step(self, low: float, high: float, size: float) -> float:
        """The step from number to number, a round one, on an axis of ``size`` pixels.

        Numbers stand as far apart as is easy to read, or, where only one would be left, as near as they have room.
        """
        pixel = (high - low) / size
        if not _SMALLEST < pixel < _LARGEST:
            # Between two of these there is no round number that a double could tell from its neighbours.
            return high - low
        usual = _USUAL[self.orientation in ("left", "right")] * pixel
        rung = 3 * floor(log10(usual))
        while _rung(rung) < usual or _rung(rung) < self._room_for(_rung(rung), low, high) * pixel:
            rung += 1
        finer = rung
        while floor(high / _rung(finer)) <= ceil(low / _rung(finer)):
            finer -= 1
            if _rung(finer) < self._room_for(_rung(finer), low, high) * pixel:
                return _rung(rung)
        return _rung(finer)

    def _room_for(self, step: float, low: float, high: float) -> float:
        """How far apart numbers at multiples of ``step`` must stand, in pixels."""
        if self.orientation in ("left", "right"):
            return _LINE_HEIGHT * float(self._metrics.height())
        ends = [ceil(low / step) * step, floor(high / step) * step]
        return max(map(self.text_width, self.tickStrings(ends, 1.0, step))) + _BETWEEN

    def measure(self) -> None:
        """Find out how much room its numbers take, which otherwise shows only when they are painted."""
        self.generateDrawSpecs(None)

    def generateDrawSpecs(self, painter: QPainter | None) -> tuple[_Line, list[_Line], list[_Words]] | None:
        """The line along the axis, its ticks, and the numbers or names beside them."""
        bounds, (low, high) = self.mapRectFromParent(self.geometry()), self.range
        upwards = self.orientation in ("left", "right")
        length = bounds.height() if upwards else bounds.width()
        if length <= 0 or not 0 < high - low < inf:
            return None
        if self._tickLevels is None:
            step, values = self.tickValues(low, high, length)[0]
            message = self.tickStrings(values, 1.0, step) if self.style["showValues"] else []
        else:
            values, message = ([tick[part] for tick in self._tickLevels[0]] for part in (0, 1))
        scale = length / (high - low)
        positions = [length - (v - low) * scale if upwards else (v - low) * scale for v in values]
        inside = [-1e-9 * length <= position <= length * (1 + 1e-9) for position in positions]
        edge = {"left": bounds.right, "right": bounds.left, "bottom": bounds.top, "top": bounds.bottom}[
            self.orientation
        ]()
        inwards = 1 if self.orientation in ("left", "top") else -1
        if upwards:
            line = QPointF(edge - inwards, bounds.top() - 1), QPointF(edge - inwards, bounds.bottom() + 1)
            ends = [(QPointF(edge, position), QPointF(edge + inwards * _TICK, position)) for position in positions]
        else:
            line = QPointF(bounds.left() - 1, edge - inwards), QPointF(bounds.right() + 1, edge - inwards)
            ends = [(QPointF(position, edge), QPointF(position, edge + inwards * _TICK)) for position in positions]
        ticks = [(self.tickPen(), *pair) for pair, seen in zip(ends, inside, strict=True) if seen]
        if not self.style["showValues"]:
            return (self.pen(), *line), ticks, []
        labels = [(position, text) for position, text, seen in zip(positions, message, inside, strict=True) if seen]
        if upwards:
            labels = self._without_overlaps(labels)
        return (self.pen(), *line), ticks, self._placed(labels, edge)

    def _without_overlaps(self, labels: Sequence[tuple[float, str]]) -> list[tuple[float, str]]:
        """Of names in too low a chart those that do not run into the one before."""
        written: list[tuple[float, str]] = []
        for position, text in sorted(labels):
            if not written or position - written[-1][0] >= _NEAREST * self._metrics.height():
                written.append((position, text))
        return written

    def _placed(self, labels: Sequence[tuple[float, str]], edge: float) -> list[_Words]:
        """The texts ``labels`` at their places beside the ``edge``, as far as they fit the axis."""
        room, flags = self.boundingRect(), _SIDES[self.orientation] | Qt.TextFlag.TextDontClip
        placed, deep = [], 0.0
        for position, text in labels:
            size = self._size_of(text)
            width, height = size.width(), size.height()
            corner = {
                "left": (edge - _BESIDE - width, position - height / 2),
                "right": (edge + _BESIDE, position - height / 2),
                "bottom": (position - width / 2, edge + _BESIDE),
                "top": (position - width / 2, edge - _BESIDE - height),
            }[self.orientation]
            area = QRectF(QPointF(*corner), size)
            if room & area == area:
                placed.append((area, flags, text))
            deep = max(deep, width if self.orientation in ("left", "right") else height)
        self._updateMaxTextSize(deep)
        return placed

    def _size_of(self, text: str) -> QSizeF:
        lines = text.split("\n")
        widest = max(self._metrics.horizontalAdvance(line) for line in lines)
        return QSizeF(widest + 1, len(lines) * _LINE_HEIGHT * self._metrics.height())

    def tickStrings(self, values: Sequence[float], scale: float, spacing: float) -> list[str]:
        if self.words and all(value in self.words for value in values):
            room = self._room if self.orientation in ("bottom", "top") else AXIS_WIDTH - 2 * _BESIDE
            return [self.elided(f"{value:g} {self.words[value]}", room) for value in values]
        if self.value_scale is not None:
            known = self._round_numbers
            return [tick_text(known[at] if at in known else self.value_scale.value(at)) for at in values]
        decimals = max(0, ceil(-log10(spacing * scale) - 1e-9)) if spacing * scale > 0 else 0
        if decimals <= 8 and spacing * scale % 10.0**-decimals > 1e-6 * spacing * scale:
            decimals += 1
        return [number(value * scale, min(decimals, 12)) if value else "0" for value in values]
