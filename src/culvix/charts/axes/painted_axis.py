"""An axis below a picture that a widget paints itself."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from math import ceil, floor, isfinite, log10

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from culvix.charts.axes.scale_ticks import scale_ticks, tick_text
from culvix.charts.palette import SHADES, colour
from culvix.stats.display import number
from culvix.stats.shape.axis_scale import AxisScale

__all__ = ["AxisRoom", "draw_axis"]

_BETWEEN = 14.0
"""Room between two numbers, in pixels."""
_TICK = 4.0
_USUAL = 80.0
"""How far apart ticks stand as a rule, in pixels."""


@dataclass(frozen=True)
class AxisRoom:
    """Places from ``low`` to ``high`` on ``scale``, laid out from ``left`` to ``right`` in pixels."""

    scale: AxisScale
    low: float
    high: float
    left: float
    right: float

    @classmethod
    def around(cls, scale: AxisScale, extent: tuple[float, float], left: float, right: float) -> "AxisRoom":
        """Room for all of ``extent``, with a little on both sides."""
        low, high = extent
        more = 0.03 * (high - low) or 0.5 * max(abs(low), 1.0) * 0.02
        return cls(scale, low - more, high + more, left, max(right, left + 1.0))

    def x(self, position: float) -> float:
        """Where ``position`` stands, in pixels."""
        return self.left + (position - self.low) / (self.high - self.low) * (self.right - self.left)

    def ticks(self, metrics: QFontMetricsF) -> dict[float, str]:
        """Places of round numbers with their words, none nearer than they can be read."""

        def room(one: str, other: str) -> float:
            return (metrics.horizontalAdvance(one) + metrics.horizontalAdvance(other)) / 2 + _BETWEEN

        size = self.right - self.left
        if not (isfinite(self.low) and isfinite(self.high)) or not self.high > self.low:
            return {}
        if not self.scale.is_measured:
            found = scale_ticks(self.scale, self.low, self.high, size, room)
            return {position: tick_text(value) for position, value in found.items()}
        return _round_ticks(self.low, self.high, size, room)


def _round_ticks(low: float, high: float, size: float, room: Callable[[str, str], float]) -> dict[float, str]:
    """Multiples of 1, 2 or 5 times a power of ten, at the places where they stand."""
    most = max(size / _USUAL, 1.0)
    power = floor(log10((high - low) / most)) - 1
    for rung in range(12):
        step = (1, 2, 5)[rung % 3] * 10.0 ** (power + rung // 3)
        decimals = max(0, -floor(log10(step) + 1e-9))
        first, last = ceil(low / step), floor(high / step)
        if last - first > 4 * most:
            continue
        words = {each * step: number(each * step, decimals) for each in range(first, last + 1)}
        widest = max(words.values(), key=len, default="")
        if room(widest, widest) <= step / (high - low) * size:
            return words
    return {}


def draw_axis(
    painter: QPainter,
    metrics: QFontMetricsF,
    axis: AxisRoom,
    top: float,
    title: str,
    ticks: Mapping[float, str] | None = None,
) -> None:
    """A line at the height ``top`` with its numbers below, or the words of ``ticks``, and ``title`` below them."""
    painter.setPen(QPen(colour(SHADES.muted), 1))
    painter.drawLine(QPointF(axis.left, top), QPointF(axis.right, top))
    shown = ticks or axis.ticks(metrics)
    room = (axis.right - axis.left) / max(len(shown), 1) - 4
    for position, text in shown.items():
        x, words = axis.x(position), text if not ticks else metrics.elidedText(text, Qt.TextElideMode.ElideRight, room)
        painter.drawLine(QPointF(x, top), QPointF(x, top + _TICK))
        wide = metrics.horizontalAdvance(words)
        painter.drawText(QPointF(x - wide / 2, top + _TICK + metrics.ascent() + 1), words)
    below = QRectF(axis.left, top + _TICK + metrics.height() + 1, axis.right - axis.left, metrics.height())
    painter.setPen(colour(SHADES.ink))
    heading = metrics.elidedText(title, Qt.TextElideMode.ElideMiddle, below.width())
    painter.drawText(below, int(Qt.AlignmentFlag.AlignCenter), heading)
