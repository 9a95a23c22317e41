"""Groups below each other on one axis: the values of each, its quartiles, and its mean with the interval."""

from collections.abc import Callable
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen, QPolygonF
from PyQt6.QtWidgets import QWidget

from culvix.charts.axes.painted_axis import AxisRoom, draw_axis
from culvix.charts.palette import SHADES, colour
from culvix.charts.plots.row_chart import RowChart
from culvix.stats.core.arrays import Floats
from culvix.stats.display import count
from culvix.study.pictures.groups.group_rows import GroupRow, GroupsPicture

__all__ = ["GroupChart"]

_LEAST, _MOST = 34.0, 72.0
"""How high the row of a group is, in pixels."""
_AROUND, _GAP, _FEET, _HEAD = 8.0, 8.0, 42.0, 22.0
_MOST_NAME = 0.24
"""Names have at most this share of the width."""
_LAYERS = 7
"""Values that stand close are told apart by their heights."""


class GroupChart(RowChart):
    """Draws a `GroupsPicture`."""

    def __init__(self, title: str = "") -> None:
        """``title`` stands above, in a picture that is saved."""
        super().__init__("Groups on one axis")
        self.title = title
        self.picture: GroupsPicture | None = None

    def show_picture(self, picture: GroupsPicture) -> None:
        """Draw ``picture``."""
        self.picture = picture
        self.setMinimumHeight(self.needed_height)
        self.setAccessibleDescription(picture.sentence)
        self.updateGeometry()
        self.update()

    @property
    def needed_height(self) -> int:
        """How high all groups are at least, in pixels."""
        rows = len(self.picture.rows) if self.picture else 0
        return round(_AROUND + self._top + _LEAST * rows + _FEET)

    def sizeHint(self) -> QSize:
        return QSize(420, self.needed_height)

    @property
    def _top(self) -> float:
        return _HEAD if self.title else 0.0

    @property
    def row_count(self) -> int:
        return len(self.picture.rows) if self.picture else 0

    @property
    def first_row(self) -> float:
        return _AROUND + self._top

    @property
    def row_height(self) -> float:
        assert self.picture is not None
        room = self.height() - _AROUND - self._top - _FEET
        return min(max(room / max(len(self.picture.rows), 1), _LEAST), _MOST)

    def _axis(self, metrics: QFontMetricsF) -> AxisRoom:
        picture = self.picture
        assert picture is not None
        widest = max((metrics.horizontalAdvance(row.name) for row in picture.rows), default=0.0)
        left = _AROUND + min(widest, _MOST_NAME * self.width()) + _GAP
        return AxisRoom.around(picture.scale, picture.extent, left, self.width() - _AROUND)

    def draw(self, painter: QPainter) -> None:
        """Draw everything with ``painter``."""
        picture = self.picture
        if picture is None or not picture.rows:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        metrics = QFontMetricsF(self.font())
        axis, high = self._axis(metrics), self.row_height
        top = _AROUND + self._top
        if self.title:
            painter.setPen(colour(SHADES.ink))
            painter.drawText(QPointF(_AROUND, _AROUND + metrics.ascent()), self.title)
        foot = top + high * len(picture.rows)
        tallest = max((share for row in picture.rows for _, share in row.bars), default=1.0)
        painter.setPen(QPen(colour(SHADES.rule), 1))
        for tick in picture.ticks or axis.ticks(metrics):
            painter.drawLine(QPointF(axis.x(tick), top), QPointF(axis.x(tick), foot))
        for index, row in enumerate(picture.rows):
            area = QRectF(axis.left, top + index * high, axis.right - axis.left, high)
            self._name(painter, metrics, row, area)
            # An interval may reach beyond the part of the axis that is shown.
            painter.save()
            painter.setClipRect(area.adjusted(-6, 0, 6, 0))
            _draw_values(painter, row.values, area, axis)
            _draw_bars(painter, row.bars, area, axis, tallest)
            _draw_beyond(painter, metrics, row.beyond, area)
            _draw_quartiles(painter, row, area, axis.x)
            _draw_mean(painter, row, area, axis.x)
            painter.restore()
        draw_axis(painter, metrics, axis, foot + 2, picture.title, picture.ticks)

    def _name(self, painter: QPainter, metrics: QFontMetricsF, row: GroupRow, area: QRectF) -> None:
        room = area.left() - _AROUND - _GAP
        shown = metrics.elidedText(row.name, Qt.TextElideMode.ElideMiddle, room)
        painter.setPen(colour(SHADES.ink))
        at = area.center().y() + (metrics.ascent() - metrics.descent()) / 2
        painter.drawText(QPointF(area.left() - _GAP - metrics.horizontalAdvance(shown), at), shown)

    def tip(self, index: int) -> str:
        assert self.picture is not None
        row = self.picture.rows[index]
        return f"{row.name}\n{row.words}\nA click selects its rows"

    def again(self, heading: str, width: int, height: int) -> QWidget:
        """The same picture anew at another size, with a ``heading``."""
        made = GroupChart(heading)
        made.resize(width, height)
        if self.picture is not None:
            made.show_picture(replace(self.picture))
        return made


def _draw_values(painter: QPainter, values: Floats, area: QRectF, axis: AxisRoom) -> None:
    """Values as short upright strokes in the upper half, close ones at several heights."""
    if not values.size:
        return
    part = 0.42 * area.height()
    layer = np.arange(values.size) * 3 % _LAYERS
    length = part / (_LAYERS + 2) * 2.4
    painter.setPen(QPen(colour(SHADES.data, 0.62), 1.2))
    tops = area.top() + 3 + layer / _LAYERS * (part - length)
    scale = (axis.right - axis.left) / (axis.high - axis.low)
    xs = axis.left + (values - axis.low) * scale
    painter.drawLines(*(QLineF(x, y, x, y + length) for x, y in zip(xs.tolist(), tops.tolist(), strict=True)))


def _draw_bars(
    painter: QPainter, bars: tuple[tuple[float, float], ...], area: QRectF, axis: AxisRoom, tallest: float
) -> None:
    """How frequent each of few values is in its group, in the upper half."""
    part = 0.44 * area.height()
    wide = min(26.0, 0.6 * (axis.x(1.0) - axis.x(0.0))) if bars else 0.0
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(SHADES.data, 0.8))
    for value, share in bars:
        tall = share / tallest * part
        painter.drawRect(QRectF(axis.x(value) - max(wide, 4.0) / 2, area.top() + 2 + part - tall, max(wide, 4.0), tall))


def _draw_beyond(painter: QPainter, metrics: QFontMetricsF, beyond: tuple[int, int], area: QRectF) -> None:
    """How many values lie beyond either edge, with an arrow to where they are."""
    painter.setPen(colour(SHADES.caution))
    at = area.top() + 0.34 * area.height()
    below, above = beyond
    if below:
        painter.drawText(QPointF(area.left() + 2, at), f"← {count(below)}")
    if above:
        words = f"{count(above)} →"
        painter.drawText(QPointF(area.right() - 2 - metrics.horizontalAdvance(words), at), words)


def _draw_quartiles(painter: QPainter, row: GroupRow, area: QRectF, x: Callable[[float], float]) -> None:
    """The middle half as a bar, cut at the median."""
    low, middle, high = (x(value) for value in row.quartiles)
    top, tall = area.top() + 0.53 * area.height(), max(0.16 * area.height(), 5.0)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(SHADES.data, 0.42))
    painter.drawRect(QRectF(low, top, max(high - low, 1.0), tall))
    painter.setPen(QPen(colour(SHADES.ink), 2))
    painter.drawLine(QPointF(middle, top - 2), QPointF(middle, top + tall + 2))


def _draw_mean(painter: QPainter, row: GroupRow, area: QRectF, x: Callable[[float], float]) -> None:
    """The mean as a small triangle standing on its interval."""
    at, y = x(row.mean), area.top() + 0.86 * area.height()
    painter.setPen(QPen(colour(SHADES.probe), 1.8))
    if row.interval is not None:
        low, high = (x(end) for end in row.interval)
        painter.drawLine(QPointF(low, y), QPointF(high, y))
        for end in (low, high):
            painter.drawLine(QPointF(end, y - 3), QPointF(end, y + 3))
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(SHADES.probe))
    painter.drawPolygon(QPolygonF([QPointF(at, y - 6), QPointF(at - 4.5, y + 1), QPointF(at + 4.5, y + 1)]))
