"""Differences of pairs of groups, each with its interval about the line at zero."""

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from culvix.charts.axes.painted_axis import AxisRoom, draw_axis
from culvix.charts.palette import SHADES, colour
from culvix.charts.plots.row_chart import RowChart
from culvix.stats.shape.axis_scale import MEASURED_AXIS
from culvix.study.pictures.groups.group_rows import DifferenceRow, DifferencesPicture

__all__ = ["DifferenceChart"]

_LINE = 34.0
_AROUND, _FEET = 8.0, 44.0


class DifferenceChart(RowChart):
    """Draws a `DifferencesPicture`, a pair in two lines: its names and numbers, and the interval below them."""

    def __init__(self) -> None:
        super().__init__("Differences of groups")
        self.picture: DifferencesPicture | None = None

    def show_picture(self, picture: DifferencesPicture | None) -> None:
        """Draw ``picture``; None for nothing."""
        self.picture = picture
        self.setMinimumHeight(self.needed_height)
        if picture is not None:
            first = "; ".join(f"{row.first} above {row.second}: {row.words}" for row in picture.rows[:5])
            self.setAccessibleDescription(f"{picture.title}. {first}")
        self.updateGeometry()
        self.update()

    @property
    def needed_height(self) -> int:
        """How high all pairs are, in pixels."""
        return round(_AROUND + _LINE * len(self.picture.rows) + _FEET) if self.picture else 0

    def sizeHint(self) -> QSize:
        return QSize(260, self.needed_height)

    @property
    def _axis(self) -> AxisRoom:
        assert self.picture is not None
        ends = [0.0]
        for row in self.picture.rows:
            ends += [row.value, *(row.interval or ())]
        return AxisRoom.around(MEASURED_AXIS, (min(ends), max(ends)), _AROUND, self.width() - _AROUND)

    @property
    def row_count(self) -> int:
        return len(self.picture.rows) if self.picture else 0

    @property
    def first_row(self) -> float:
        return _AROUND

    @property
    def row_height(self) -> float:
        return _LINE

    def draw(self, painter: QPainter) -> None:
        """Draw everything with ``painter``."""
        if self.picture is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        metrics, axis = QFontMetricsF(self.font()), self._axis
        foot = _AROUND + _LINE * len(self.picture.rows)
        for index, row in enumerate(self.picture.rows):
            _draw_row(painter, metrics, row, axis, _AROUND + index * _LINE)
        draw_axis(painter, metrics, axis, foot + 2, self.picture.title)

    def tip(self, index: int) -> str:
        assert self.picture is not None
        row = self.picture.rows[index]
        return f"{row.first} above {row.second}\n{row.words}\n{row.p}".rstrip()


def _draw_row(painter: QPainter, metrics: QFontMetricsF, row: DifferenceRow, axis: AxisRoom, top: float) -> None:
    """The pair in words, and its interval below: filled where it differs, hollow where that does not show."""
    room = axis.right - axis.left
    words = metrics.elidedText(row.words, Qt.TextElideMode.ElideRight, 0.72 * room)
    taken = metrics.horizontalAdvance(words)
    names = metrics.elidedText(f"{row.first} > {row.second}", Qt.TextElideMode.ElideMiddle, room - taken - 8)
    line = QRectF(axis.left, top, room, metrics.height())
    painter.setPen(colour(SHADES.ink))
    painter.drawText(line, int(Qt.AlignmentFlag.AlignLeft), names)
    painter.setPen(colour(SHADES.ink if row.differs else SHADES.muted))
    painter.drawText(line, int(Qt.AlignmentFlag.AlignRight), words)
    y, shade = top + metrics.height() + 7, SHADES.probe if row.differs else SHADES.reference
    painter.setPen(QPen(colour(SHADES.ink), 1.4))
    painter.drawLine(QPointF(axis.x(0.0), y - 6), QPointF(axis.x(0.0), y + 6))
    painter.setPen(QPen(colour(shade), 2))
    if row.interval is not None:
        low, high = (axis.x(end) for end in row.interval)
        painter.drawLine(QPointF(low, y), QPointF(high, y))
    else:
        painter.drawLine(QPointF(axis.x(0.0), y), QPointF(axis.x(row.value), y))
    painter.setBrush(colour(shade) if row.differs else colour(SHADES.panel))
    painter.drawEllipse(QPointF(axis.x(row.value), y), 3.6, 3.6)
