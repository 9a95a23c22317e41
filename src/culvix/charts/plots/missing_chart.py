"""Which cells are missing together: a line for each column, a stripe for each pattern, and how many rows have it."""

from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QFontMetricsF, QHelpEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PyQt6.QtWidgets import QToolTip, QWidget

from culvix.charts.palette import SHADES, colour
from culvix.stats.display import count, plural
from culvix.study.pictures.missing_picture import MissingPicture

__all__ = ["MissingChart"]

_LINE = 19.0
_AROUND = 6.0
_GAP = 8.0
_MOST_NAME = 0.42
"""The names have at most this share of the width."""
_STRIPE = 46.0
"""How wide a stripe is at most."""
_BARS = 44.0
_FEET = 18.0


class MissingChart(QWidget):
    """A square stands where a column has a gap in that pattern; bars below say how frequent the pattern is."""

    chosen = pyqtSignal(int)
    """A pattern (from 0) was clicked."""

    def __init__(self) -> None:
        super().__init__()
        self.picture: MissingPicture | None = None
        self.setAccessibleName("Cells that are missing together")
        self.setMouseTracking(True)

    def show_picture(self, picture: MissingPicture) -> None:
        """Draw ``picture``."""
        self.picture = picture
        self.setMinimumHeight(self.needed_height)
        self.setAccessibleDescription(picture.sentence)
        self.update()

    @property
    def needed_height(self) -> int:
        """How high the picture is, in pixels."""
        lines = len(self.picture.columns) if self.picture else 0
        return round(2 * _AROUND + _LINE * lines + _BARS + _FEET)

    def sizeHint(self) -> QSize:
        return QSize(260, self.needed_height)

    @property
    def _left(self) -> float:
        """Where the stripes begin."""
        assert self.picture is not None
        metrics = QFontMetricsF(self.font())
        widest = max(map(metrics.horizontalAdvance, self.picture.columns), default=0.0)
        counts = max(metrics.horizontalAdvance(count(gaps)) for gaps in self.picture.gaps)
        return _AROUND + min(widest, _MOST_NAME * self.width()) + _GAP + counts + _GAP

    @property
    def _stripe(self) -> float:
        assert self.picture is not None
        return min((self.width() - self._left - _AROUND) / len(self.picture.patterns), _STRIPE)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        self.draw(painter)
        painter.end()

    def draw(self, painter: QPainter) -> None:
        """Draw everything with ``painter``."""
        if self.picture is None:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        self._lines(painter, self.picture)
        self._bars(painter, self.picture)

    def _lines(self, painter: QPainter, picture: MissingPicture) -> None:
        metrics, left, stripe = QFontMetricsF(self.font()), self._left, self._stripe
        for line, (name, gaps) in enumerate(zip(picture.columns, picture.gaps, strict=True)):
            top = _AROUND + line * _LINE
            base = top + (_LINE + metrics.ascent() - metrics.descent()) / 2
            number = count(gaps)
            counted = left - _GAP - metrics.horizontalAdvance(number)
            shown = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, counted - _GAP - _AROUND)
            painter.setPen(colour(SHADES.ink))
            painter.drawText(QPointF(_AROUND, base), shown)
            painter.setPen(colour(SHADES.muted))
            painter.drawText(QPointF(counted, base), number)
            for place, pattern in enumerate(picture.patterns):
                self._cell(painter, QRectF(left + place * stripe, top, stripe, _LINE), name in pattern.columns)

    def _cell(self, painter: QPainter, room: QRectF, missing: bool) -> None:
        """A filled square for a gap, and a point where the cell is there."""
        middle, side = room.center(), min(_LINE, room.width()) - 5
        if missing:
            square = QRectF(middle.x() - side / 2, middle.y() - side / 2, side, side)
            painter.fillRect(square, colour(SHADES.data, 0.9))
        else:
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(colour(SHADES.reference, 0.8))
            painter.drawEllipse(middle, 1.3, 1.3)

    def _bars(self, painter: QPainter, picture: MissingPicture) -> None:
        metrics, left, stripe = QFontMetricsF(self.font()), self._left, self._stripe
        top = _AROUND + _LINE * len(picture.columns) + 4
        ground, most = top + _BARS - metrics.height(), max(each.rows for each in picture.patterns)
        painter.setPen(QPen(colour(SHADES.rule), 1))
        painter.drawLine(QPointF(left, ground), QPointF(left + stripe * len(picture.patterns), ground))
        painter.setPen(colour(SHADES.muted))
        painter.drawText(QPointF(_AROUND, ground - 2), metrics.elidedText("rows", Qt.TextElideMode.ElideRight, left))
        free = 0.0
        for place, pattern in enumerate(picture.patterns):
            high = max((ground - top) * pattern.rows / most, 1.0)
            middle = left + (place + 0.5) * stripe
            painter.fillRect(
                QRectF(middle - stripe * 0.28, ground - high, stripe * 0.56, high), colour(SHADES.data, 0.6)
            )
            number = count(pattern.rows)
            across = metrics.horizontalAdvance(number)
            # Numbers that would run into each other are left out; the tip has them.
            if middle - across / 2 >= free:
                painter.drawText(QPointF(middle - across / 2, ground + metrics.ascent() + 2), number)
                free = middle + across / 2 + 4

    def _pattern_at(self, x: float) -> int | None:
        if self.picture is None:
            return None
        position = int((x - self._left) // self._stripe)
        return position if 0 <= position < len(self.picture.patterns) else None

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        pattern = self._pattern_at(event.position().x()) if event is not None else None
        if pattern is not None:
            self.chosen.emit(pattern)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and self.picture is not None:
            place = self._pattern_at(event.pos().x())
            if place is not None:
                pattern = self.picture.patterns[place]
                message = f"{', '.join(pattern.columns)}: missing together in {plural(pattern.rows, 'row')}"
                QToolTip.showText(event.globalPos(), message, self)
            return True
        return super().event(event)
