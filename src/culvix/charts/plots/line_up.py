"""The line-up as twenty small pictures to pick one from."""

import numpy as np
from PyQt6.QtCore import QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPolygonF
from PyQt6.QtWidgets import QWidget

from culvix.charts.palette import SHADES, brush, colour, pen
from culvix.stats.shape.line_up import PANELS, LineUp

__all__ = ["LineUpChart"]

_ACROSS = 5
_GAP = 8.0
_HEAD = 15.0


class LineUpChart(QWidget):
    """A click, or Enter on the picture under the arrow keys, picks; then the real one is shown."""

    picked = pyqtSignal(int)

    def __init__(self) -> None:
        super().__init__()
        self.lineup: LineUp | None = None
        self.pick: int | None = None
        self.pointed = 0
        """The picture the pointer or the arrow keys are at; −1 for none."""
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)
        self.setAccessibleName("Line-up: twenty pictures, one of them real")

    def sizeHint(self) -> QSize:
        return QSize(760, 480)

    def show_lineup(self, lineup: LineUp | None, pick: int | None = None) -> None:
        """Show ``lineup``; with a ``pick`` the real picture is told."""
        self.lineup, self.pick = lineup, pick
        self.update()

    def panel(self, position: int) -> QRectF:
        """Where a picture stands, with its number above it."""
        rows = -(-PANELS // _ACROSS)
        width = (self.width() - _GAP) / _ACROSS - _GAP
        height = (self.height() - _GAP) / rows - _GAP
        row, column = divmod(position, _ACROSS)
        return QRectF(_GAP + column * (width + _GAP), _GAP + row * (height + _GAP), width, height)

    def position_at(self, point: QPointF) -> int | None:
        """The picture under a point."""
        return next((position for position in range(PANELS) if self.panel(position).contains(point)), None)

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        position = self.position_at(event.position()) if event is not None else None
        if position is not None and position != self.pointed:
            self.pointed = position
            self.update()

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        position = self.position_at(event.position()) if event is not None else None
        if position is not None:
            self._choose(position)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is None:
            return
        steps = {
            Qt.Key.Key_Left: -1,
            Qt.Key.Key_Right: 1,
            Qt.Key.Key_Up: -_ACROSS,
            Qt.Key.Key_Down: _ACROSS,
        }
        if event.key() in steps:
            self.pointed = (self.pointed + steps[Qt.Key(event.key())]) % PANELS
            self.update()
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self._choose(self.pointed)
        else:
            super().keyPressEvent(event)

    def _choose(self, position: int) -> None:
        if self.lineup is not None and self.pick is None:
            self.picked.emit(position)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        if self.lineup is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for position in range(PANELS):
            self._draw(painter, position, self.panel(position))

    def _draw(self, painter: QPainter, position: int, area: QRectF) -> None:
        lineup = self.lineup
        assert lineup is not None
        real, picked = self.pick is not None and position == lineup.position, position == self.pick
        frame = pen(SHADES.resolved, 2.5) if real else pen(SHADES.probe, 2.5) if picked else pen(SHADES.rule, 1.0)
        if self.pick is None and position == self.pointed:
            frame = pen(SHADES.probe, 1.6)
        painter.setPen(frame)
        painter.setBrush(brush(SHADES.panel))
        painter.drawRect(area)
        text = str(position + 1)
        if real:
            text += "  real, picked" if picked else "  real"
        elif picked:
            text += "  picked"
        font = QFont(painter.font())
        font.setBold(real or picked)
        painter.setFont(font)
        painter.setPen(colour(SHADES.ink if real or picked else SHADES.muted))
        painter.drawText(area.adjusted(6, 2, -4, 0), Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignTop, text)
        inner = area.adjusted(6, 4 + _HEAD, -6, -6)
        (self._bars if lineup.form == "histogram" else self._points)(painter, lineup, position, inner)

    def _bars(self, painter: QPainter, lineup: LineUp, position: int, area: QRectF) -> None:
        assert lineup.edges is not None
        edges, heights = lineup.edges, lineup.heights[position] / max(float(lineup.heights.max()), 1.0)
        x = area.left() + area.width() * (edges - edges[0]) / (edges[-1] - edges[0])
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(brush(SHADES.data, 0.8))
        for left, right, height in zip(x[:-1].tolist(), x[1:].tolist(), heights.tolist(), strict=True):
            if height > 0:
                tall = max(height * area.height(), 1.0)
                painter.drawRect(QRectF(left, area.bottom() - tall, max(right - left - 0.5, 0.8), tall))
        painter.setPen(pen(SHADES.rule, 1.0))
        painter.drawLine(area.bottomLeft(), area.bottomRight())

    def _points(self, painter: QPainter, lineup: LineUp, position: int, area: QRectF) -> None:
        assert lineup.z is not None
        low, high = lineup.across
        top = float(lineup.z[-1]) or 1.0
        x = area.left() + area.width() * (lineup.heights[position] - low) / ((high - low) or 1.0)
        y = area.center().y() - area.height() / 2 * lineup.z / top
        line = np.polyfit(lineup.z, lineup.heights[position], 1)
        ends = [area.left() + area.width() * (line[1] + line[0] * z - low) / ((high - low) or 1.0) for z in (-top, top)]
        painter.setPen(pen(SHADES.reference, 1.0, dashed=True))
        painter.drawLine(QPointF(ends[0], area.bottom()), QPointF(ends[1], area.top()))
        painter.setPen(pen(SHADES.data, 2.6))
        painter.drawPoints(QPolygonF([QPointF(*at) for at in zip(x.tolist(), y.tolist(), strict=True)]))
