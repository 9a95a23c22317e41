"""All pairs of columns in one square: zoomed with the wheel, moved by dragging, a pair chosen with a click."""

from collections.abc import Set
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, QTimer, pyqtSignal
from PyQt6.QtGui import (
    QFocusEvent,
    QFont,
    QFontMetricsF,
    QHelpEvent,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QPolygonF,
    QResizeEvent,
    QWheelEvent,
)
from PyQt6.QtWidgets import QToolTip, QWidget

from culvix.charts.palette import SHADES, colour
from culvix.charts.plots.matrix.cells import BESIDE, LEAST_MARK, cells_image, draw_marks, draw_number
from culvix.charts.plots.matrix.names import NameDrag, draw_names, names_room
from culvix.charts.plots.matrix.room import MatrixRoom
from culvix.charts.plots.matrix.smalls import draw_bars, draw_small
from culvix.study.pictures.matrix_pictures import MatrixPicture

__all__ = ["MatrixChart"]

_LEAST_PICTURE = 24.0
_NOTCH = 1.2
"""How many times as large cells are after one notch of the wheel."""
_CLICK = 4.0
_MOST_N = 200
"""With more cells than this in view, n is left to the tip."""
_MOST_MOVING, _REST_MS = 120, 120
"""More numbers than this are left out until what is in view has stood still for so long."""
_SMALLER = 0.77
"""How large the numbers in the cells are beside the names."""
_STEPS = {
    Qt.Key.Key_Left: (0, -1),
    Qt.Key.Key_Right: (0, 1),
    Qt.Key.Key_Up: (-1, 0),
    Qt.Key.Key_Down: (1, 0),
}


class MatrixChart(QWidget):
    """Draws a `MatrixPicture`; cells are named by row and column in the order drawn."""

    chosen = pyqtSignal(int, int)
    """A pair was clicked or walked to: row and column."""
    opened = pyqtSignal(int, int)
    """A pair is to be looked at more closely."""
    moved = pyqtSignal(int, int)
    """A column is to stand elsewhere: its place and the one it is to have, in the order drawn."""

    def __init__(self, *, on_page: bool = False) -> None:
        """``on_page`` where marks are to be shapes, which take longer to draw than all of them as an image."""
        super().__init__()
        self._on_page = on_page
        self.picture: MatrixPicture | None = None
        self.room = MatrixRoom(0, QRectF(), 1.0, 1.0, QPointF())
        self.pair: tuple[int, int] | None = None
        """The pair chosen, row and column."""
        self.marked: Set[tuple[int, int]] = frozenset()
        """Cells with something to note."""
        self._fits = True
        # While all of many numbers move they cannot be read, and take longest to draw.
        self._moving = QTimer(self)
        self._moving.setSingleShot(True)
        self._moving.setInterval(_REST_MS)
        self._moving.timeout.connect(self.update)
        self._hovered: tuple[int, int] | None = None
        self._pressed: tuple[QPointF, QPointF] | None = None
        self._dragged: NameDrag | None = None
        self.setAccessibleName("All pairs of columns")
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(160, 140)

    def sizeHint(self) -> QSize:
        # As little as it can do with: it grows into whatever room there is.
        return QSize(320, 220)

    def show_picture(self, picture: MatrixPicture) -> None:
        """Draw ``picture``; another number of columns is shown whole, the same one as it was zoomed."""
        if self.picture is None or len(picture.names) != len(self.picture.names):
            self._fits = True
        self.picture, self._hovered = picture, None
        self.setAccessibleDescription(picture.sentence)
        self._lay_out()

    def choose(self, pair: tuple[int, int] | None) -> None:
        """Frame the cell of ``pair``, row and column, and have it in view."""
        self.pair = pair
        if pair is not None and not self._fits:
            self.room = self.room.showing(*pair)
        self.update()

    def mark(self, cells: Set[tuple[int, int]]) -> None:
        """Put a mark into the corner of ``cells``, of which there is something to note."""
        self.marked = cells
        self.update()

    @property
    def lines(self) -> list[list[str]]:
        """All coefficients with all their digits, by row, names first; under pictures stand those above them."""
        if self.picture is None:
            return []
        names, upper = self.picture.names, self.picture.upper
        lower = upper if self.picture.lower is None else self.picture.lower
        shown = np.where(np.triu(np.ones(upper.shape, dtype=bool), 1), upper, lower)
        cells = [["" if np.isnan(value) else repr(value) for value in row] for row in shown.tolist()]
        for index, row in enumerate(cells):
            row[index] = ""
        return [["", *names], *([name, *row] for name, row in zip(names, cells, strict=True))]

    def fit(self) -> None:
        """Show all cells at once."""
        self._fits = True
        self._lay_out()

    def zoom(self, factor: float, at: QPointF | None = None) -> None:
        """Make cells ``factor`` times as large; ``at`` stays where it is, by default the pair chosen or the middle."""
        if at is None:
            at = self.room.rect(*self.pair).center() if self.pair else self.room.area.center()
            at = at if self.room.area.contains(at) else self.room.area.center()
        self.room = self.room.zoomed(factor, at)
        self._fits = self.room.shows_all
        self._moving.start()
        self.update()

    def _lay_out(self) -> None:
        if self.picture is None:
            return
        area = names_room(QFontMetricsF(self.font()), self.picture, self.width(), self.height())
        count = len(self.picture.names)
        if self._fits:
            self.room = MatrixRoom.fitting(count, area)
        else:
            self.room = replace(self.room, area=area).within()
        self.update()

    # Drawing

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        self.draw(painter)
        painter.end()

    def draw(self, painter: QPainter) -> None:
        """Draw everything with ``painter``."""
        if self.picture is None or not self.picture.names:
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        marked = {*(self.pair or ()), *(self._hovered or ())}
        draw_names(painter, QFontMetricsF(self.font()), self.picture, self.room, marked)
        painter.save()
        painter.setClipRect(self.room.area)
        self._hover(painter)
        self._cells(painter, self.picture)
        self._outline(painter, self.picture)
        painter.restore()
        if self._dragged is not None:
            self._dragged.draw(painter, self.room)

    def _cells(self, painter: QPainter, picture: MatrixPicture) -> None:
        room, letters, device = self.room, QFont(self.font()), painter.device()
        letters.setPointSizeF(_SMALLER * letters.pointSizeF())
        painter.setFont(letters)
        metrics = QFontMetricsF(letters)
        numbers = room.wide * (1 - BESIDE) >= metrics.horizontalAdvance("+0.000") + 1 and room.high >= metrics.height()
        ratio = device.devicePixelRatioF() if device is not None else 1.0
        if self._on_page:
            draw_marks(painter, picture, room, numbers=numbers)
        else:
            painter.drawImage(room.area.topLeft(), cells_image(picture, room, ratio=ratio, numbers=numbers))
        if room.high < LEAST_MARK:
            return
        many = len(room.rows) * len(room.columns)
        few, written = many <= _MOST_N, numbers and not (many > _MOST_MOVING and self._moving.isActive())
        for row in room.rows:
            for column in room.columns:
                side = picture.upper if column > row else picture.lower
                if row == column:
                    if picture.smalls and room.high >= _LEAST_PICTURE:
                        draw_bars(painter, room.rect(row, column), picture.smalls[row])
                elif written and side is not None:
                    value, n = float(side[row, column]), int(picture.n[row, column]) if few else None
                    draw_number(painter, metrics, room.rect(row, column), value, n, picture.symbol(row, column))
                elif side is None and picture.is_grouped(row, column) and room.high >= _LEAST_PICTURE:
                    draw_small(painter, room.rect(row, column), picture, row, column)
        self._lines(painter)

    def _lines(self, painter: QPainter) -> None:
        """Thin lines between the cells."""
        room, size, corner = self.room, self.room.size, self.room.corner
        painter.setRenderHint(QPainter.RenderHint.Antialiasing, False)
        painter.setPen(QPen(colour(SHADES.rule), 1))
        for line in range(room.count + 1):
            x, y = corner.x() + line * room.wide, corner.y() + line * room.high
            painter.drawLine(QPointF(x, corner.y()), QPointF(x, corner.y() + size.height()))
            painter.drawLine(QPointF(corner.x(), y), QPointF(corner.x() + size.width(), y))
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)

    def _outline(self, painter: QPainter, picture: MatrixPicture) -> None:
        """The diagonal, blocks along it, and the pair chosen."""
        room = self.room
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(colour(SHADES.muted), 1.4))
        for first, last in picture.blocks:
            corner, end = room.rect(first, first).topLeft(), room.rect(last - 1, last - 1).bottomRight()
            painter.drawRect(QRectF(corner, end))
        self._corners(painter)
        # Frames are not filled, whether a pair was chosen or not.
        painter.setBrush(Qt.BrushStyle.NoBrush)
        if self.pair is not None:
            painter.setPen(QPen(colour(SHADES.probe), 2.2))
            painter.drawRect(room.rect(*self.pair).adjusted(1, 1, -1, -1))
        if self.hasFocus():
            painter.setPen(QPen(colour(SHADES.data), 1, Qt.PenStyle.DashLine))
            painter.drawRect(room.seen.adjusted(0, 0, -1, -1))

    def _corners(self, painter: QPainter) -> None:
        """A filled corner in each cell with something to note."""
        side = min(max(self.room.high / 4, 3.0), 9.0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(SHADES.caution))
        for cell in self.marked:
            corner = self.room.rect(*cell).topRight()
            if self.room.area.contains(corner - QPointF(1, -1)):
                painter.drawPolygon(QPolygonF([corner, corner - QPointF(side, 0), corner + QPointF(0, side)]))

    def _hover(self, painter: QPainter) -> None:
        if self._hovered is not None:
            row, column = self._hovered
            area, cell = self.room.area, self.room.rect(row, column)
            light = colour(SHADES.raised, 0.8)
            painter.fillRect(QRectF(area.left(), cell.top(), area.width(), cell.height()), light)
            painter.fillRect(QRectF(cell.left(), area.top(), cell.width(), area.height()), light)

    # Acting

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        if event is not None and event.button() == Qt.MouseButton.LeftButton:
            self._dragged = NameDrag.begun_at(self.room, event.position())
            self._pressed = None if self._dragged else (event.position(), event.position())

    def mouseMoveEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._dragged is not None:
            self._dragged = self._dragged.at(self.room, event.position())
            self.update()
            return
        if self._pressed is not None:
            start, last = self._pressed
            if (event.position() - start).manhattanLength() > _CLICK or last != start:
                self.room = self.room.moved(event.position() - last)
                self._moving.start()
                self._pressed = start, event.position()
                self.update()
            return
        hovered = self.room.at(event.position())
        self.setCursor(self._cursor_at(event.position()))
        if hovered != self._hovered:
            self._hovered = hovered
            self.update()

    def _cursor_at(self, point: QPointF) -> Qt.CursorShape:
        """A hand over names, which can be dragged."""
        over = NameDrag.begun_at(self.room, point)
        return Qt.CursorShape.ArrowCursor if over is None else Qt.CursorShape.OpenHandCursor

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        if self._dragged is not None:
            dragged, self._dragged = self._dragged, None
            self.update()
            if dragged.moves:
                self.moved.emit(dragged.index, dragged.target)
            return
        if self._pressed is None:
            return
        (start, last), self._pressed = self._pressed, None
        cell = self.room.at(event.position())
        if last == start and cell is not None and cell[0] != cell[1]:
            self.pair = cell
            self.update()
            self.chosen.emit(*cell)

    def mouseDoubleClickEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        cell = self.room.at(event.position())
        if cell is not None and cell[0] != cell[1]:
            self.opened.emit(*cell)

    def wheelEvent(self, event: QWheelEvent | None) -> None:
        assert event is not None
        self.zoom(_NOTCH ** (event.angleDelta().y() / 120), event.position())
        event.accept()

    def leaveEvent(self, event: QEvent | None) -> None:
        self._hovered = None
        self.update()
        super().leaveEvent(event)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._lay_out()

    def focusInEvent(self, event: QFocusEvent | None) -> None:
        super().focusInEvent(event)
        self.update()

    def focusOutEvent(self, event: QFocusEvent | None) -> None:
        super().focusOutEvent(event)
        self.update()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        assert event is not None
        key, count = event.key(), self.room.count
        if key in _STEPS and count > 1 and event.modifiers() & Qt.KeyboardModifier.ShiftModifier:
            self._move_chosen(_STEPS[Qt.Key(key)])
        elif key in _STEPS and count > 1:
            row, column = self.pair or (0, 0)
            down, right = _STEPS[Qt.Key(key)]
            row, column = row + down, column + right
            # No column is paired with itself: the step goes over the diagonal.
            if row == column:
                row, column = row + down, column + right
            if 0 <= row < count and 0 <= column < count:
                self.choose((row, column))
                self.chosen.emit(row, column)
        elif key == Qt.Key.Key_Space and self.pair is not None:
            self.opened.emit(*self.pair)
        elif key in (Qt.Key.Key_Plus, Qt.Key.Key_Equal):
            self.zoom(_NOTCH)
        elif key == Qt.Key.Key_Minus:
            self.zoom(1 / _NOTCH)
        elif key == Qt.Key.Key_0:
            self.fit()
        else:
            super().keyPressEvent(event)

    def _move_chosen(self, step: tuple[int, int]) -> None:
        """Move the row of the chosen pair up or down by one, or its column left or right."""
        if self.pair is None:
            return
        index, by = (self.pair[0], step[0]) if step[0] else (self.pair[1], step[1])
        if 0 <= index + by < self.room.count:
            self.moved.emit(index, index + by)

    def text_at(self, row: int, column: int) -> str:
        """What is said of a cell under the pointer."""
        assert self.picture is not None
        return f"{self.picture.names[row]} and {self.picture.names[column]}"

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and self.picture is not None:
            cell = self.room.at(QPointF(event.pos()))
            if cell is not None:
                QToolTip.showText(event.globalPos(), self.text_at(*cell), self)
                return True
        return super().event(event)
