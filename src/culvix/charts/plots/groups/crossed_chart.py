"""Two categories against each other: a cell for each pair, with a bar for how far it is from what chance would give."""

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from culvix.charts.palette import SHADES, colour
from culvix.study.pictures.groups.crossed_picture import CrossedPicture

__all__ = ["CrossedChart"]

_LEAST_HIGH, _MOST_HIGH = 36.0, 64.0
_LEAST_WIDE, _MOST_WIDE = 62.0, 150.0
_AROUND, _GAP, _HEAD = 8.0, 8.0, 22.0
_MOST_NAME = 0.24
_NOTABLE = 2.0
"""From this standardised residual on a cell stands out from chance."""
_FULL = 6.0
"""A bar of this residual, or one beyond it, fills its cell."""


class CrossedChart(QWidget):
    """Draws a `CrossedPicture`; a bar that rises is more rows than chance would give, a hollow one that hangs fewer.

    chosen (row, column): a cell was clicked.
    """

    chosen = pyqtSignal(int, int)

    def __init__(self, title: str = "") -> None:
        super().__init__()
        self.title = title
        """What stands above, in a picture that is saved."""
        self.picture: CrossedPicture | None = None
        self._left_at: tuple[int, float] | None = None
        self.setAccessibleName("Two categories against each other")
        self.setMouseTracking(True)

    def show_picture(self, picture: CrossedPicture) -> None:
        """Draw ``picture``."""
        self.picture, self._left_at = picture, None
        self.setAccessibleDescription(picture.sentence)
        self.setMinimumSize(*self._least)
        self.updateGeometry()
        self.update()

    @property
    def _least(self) -> tuple[int, int]:
        picture = self.picture
        if picture is None:
            return 0, 0
        rows, columns = len(picture.row_names), len(picture.column_names)
        wide = self._left + _LEAST_WIDE * columns + 60 + _AROUND
        return round(wide), round(self._top + _LEAST_HIGH * rows + 3 * _HEAD)

    def sizeHint(self) -> QSize:
        return QSize(*self._least)

    @property
    def _left(self) -> float:
        """Where the cells begin: beside the longest name that has room."""
        width = self.width()
        if self._left_at is None or self._left_at[0] != width:
            self._left_at = width, self._beside_names()
        return self._left_at[1]

    def _beside_names(self) -> float:
        assert self.picture is not None
        metrics = QFontMetricsF(self.font())
        names = (self.picture.down, *self.picture.row_names)
        widest = max(map(metrics.horizontalAdvance, names), default=0.0)
        return _AROUND + min(widest, max(_MOST_NAME * self.width(), 90.0)) + _GAP

    @property
    def _top(self) -> float:
        return _AROUND + (_HEAD if self.title else 0) + 2 * _HEAD

    def cell(self, row: int, column: int) -> QRectF:
        """Where a cell lies."""
        assert self.picture is not None
        rows, columns = len(self.picture.row_names), len(self.picture.column_names)
        room_wide, room_high = self.width() - self._left - 60 - _AROUND, self.height() - self._top - 3 * _HEAD
        wide = min(max(room_wide / max(columns, 1), _LEAST_WIDE), _MOST_WIDE)
        high = min(max(room_high / max(rows, 1), _LEAST_HIGH), _MOST_HIGH)
        return QRectF(self._left + column * wide, self._top + row * high, wide, high)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        self.draw(painter)
        painter.end()

    def draw(self, painter: QPainter) -> None:
        """Draw everything with ``painter``."""
        picture = self.picture
        if picture is None or not picture.row_names or not picture.column_names:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        metrics = QFontMetricsF(self.font())
        self._names(painter, metrics, picture)
        for row in range(len(picture.row_names)):
            for column in range(len(picture.column_names)):
                area = self.cell(row, column)
                painter.setPen(QPen(colour(SHADES.rule), 1))
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(area)
                if picture.quartiles is not None:
                    _draw_quartiles(painter, picture.quartiles[row, column], area, metrics)
                else:
                    _draw_residual(painter, float(picture.residuals[row, column]), area)
                self._words(painter, metrics, picture, row, column)

    def _words(self, painter: QPainter, metrics: QFontMetricsF, picture: CrossedPicture, row: int, column: int) -> None:
        area = self.cell(row, column)
        words = picture.words[row][column]
        painter.setPen(colour(SHADES.ink))
        if picture.quartiles is not None:
            room = QRectF(area.left() + 4, area.top() + 2, area.width() - 8, metrics.height())
            shown = metrics.elidedText(words, Qt.TextElideMode.ElideRight, room.width())
            painter.drawText(room, int(Qt.AlignmentFlag.AlignCenter), shown)
            return
        room = area.adjusted(22, 0, -4, 0)
        painter.drawText(room, int(Qt.AlignmentFlag.AlignCenter), words)

    def _names(self, painter: QPainter, metrics: QFontMetricsF, picture: CrossedPicture) -> None:
        """Names at both sides with how many rows each has, and what the two columns are."""
        painter.setPen(colour(SHADES.ink))
        if self.title:
            painter.drawText(QPointF(_AROUND, _AROUND + metrics.ascent()), self.title)
        last = self.cell(len(picture.row_names) - 1, len(picture.column_names) - 1)
        top = self._top - 2 * _HEAD
        across = QRectF(self._left, top, last.right() - self._left, _HEAD)
        painter.drawText(across, int(Qt.AlignmentFlag.AlignCenter), picture.across)
        corner = QRectF(_AROUND, self._top - _HEAD, self._left - _AROUND - _GAP, _HEAD)
        shown = metrics.elidedText(picture.down, Qt.TextElideMode.ElideMiddle, corner.width())
        painter.drawText(corner, int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter), shown)
        for column, name in enumerate(picture.column_names):
            area = self.cell(0, column)
            self._centred(painter, metrics, name, QRectF(area.left(), self._top - _HEAD, area.width(), _HEAD))
            below = QRectF(area.left(), last.bottom() + 2, area.width(), _HEAD)
            self._centred(painter, metrics, picture.column_sums[column], below, quiet=True)
        for row, name in enumerate(picture.row_names):
            area = self.cell(row, 0)
            room = QRectF(_AROUND, area.top(), self._left - _AROUND - _GAP, area.height())
            shown = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, room.width())
            painter.setPen(colour(SHADES.ink))
            painter.drawText(room, int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter), shown)
            painter.setPen(colour(SHADES.muted))
            beside = QRectF(last.right() + 6, area.top(), 56, area.height())
            painter.drawText(beside, int(Qt.AlignmentFlag.AlignVCenter), picture.row_sums[row])

    def _centred(
        self, painter: QPainter, metrics: QFontMetricsF, text: str, room: QRectF, *, quiet: bool = False
    ) -> None:
        painter.setPen(colour(SHADES.muted if quiet else SHADES.ink))
        shown = metrics.elidedText(text, Qt.TextElideMode.ElideMiddle, room.width() - 4)
        painter.drawText(room, int(Qt.AlignmentFlag.AlignCenter), shown)

    # Acting

    def at(self, point: QPointF) -> tuple[int, int] | None:
        """The cell, row and column, under ``point``."""
        if self.picture is None or not self.picture.row_names:
            return None
        first = self.cell(0, 0)
        row, column = int((point.y() - first.top()) // first.height()), int((point.x() - first.left()) // first.width())
        inside = 0 <= row < len(self.picture.row_names) and 0 <= column < len(self.picture.column_names)
        return (row, column) if inside else None

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        found = self.at(event.position())
        if found is not None and event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit(*found)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and self.picture is not None:
            found = self.at(QPointF(event.pos()))
            if found is not None:
                QToolTip.showText(event.globalPos(), self.picture.tips[found[0]][found[1]], self)
                return True
        return super().event(event)

    def again(self, heading: str, width: int, height: int) -> QWidget:
        """The same picture anew at another size, with a ``heading``."""
        made = CrossedChart(heading)
        made.resize(width, height)
        if self.picture is not None:
            made.show_picture(self.picture)
        return made


def _draw_residual(painter: QPainter, residual: float, area: QRectF) -> None:
    """A bar from the middle of the cell: filled and rising for more than expected, hollow and hanging for fewer."""
    middle, half = area.center().y(), area.height() / 2 - 4
    left, wide = area.left() + 6, 12.0
    painter.setPen(QPen(colour(SHADES.rule), 1))
    painter.drawLine(QPointF(left - 2, middle), QPointF(left + wide + 2, middle))
    tall = min(abs(residual) / _FULL, 1.0) * half
    if tall < 0.5:
        return
    shade = SHADES.data if abs(residual) >= _NOTABLE else SHADES.reference
    painter.setPen(QPen(colour(shade), 1.4))
    if residual > 0:
        painter.setBrush(colour(shade))
        painter.drawRect(QRectF(left, middle - tall, wide, tall))
    else:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(QRectF(left, middle, wide, tall))


def _draw_quartiles(painter: QPainter, quartiles: np.ndarray, area: QRectF, metrics: QFontMetricsF) -> None:
    """The middle half of the values of a cell as a bar, cut at the median, all cells on one scale."""
    if not np.isfinite(quartiles).all():
        return
    left, wide = area.left() + 6, area.width() - 12
    low, middle, high = (left + float(share) * wide for share in quartiles)
    top = area.top() + metrics.height() + 5
    tall = max(area.bottom() - top - 5, 4.0)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(SHADES.data, 0.42))
    painter.drawRect(QRectF(low, top, max(high - low, 1.0), tall))
    painter.setPen(QPen(colour(SHADES.ink), 2))
    painter.drawLine(QPointF(middle, top - 1), QPointF(middle, top + tall + 1))
