"""The names beside and above a matrix: drawn where there is room, and dragged to where a column is to stand."""

from collections.abc import Collection
from dataclasses import dataclass

from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen

from culvix.charts.palette import SHADES, colour
from culvix.charts.plots.matrix.room import MatrixRoom
from culvix.study.pictures.matrix_pictures import MatrixPicture

__all__ = ["AROUND", "NameDrag", "draw_names", "names_room"]

AROUND = 4.0
"""Room around everything, in pixels."""
_GAP = 6.0
_MOST_NAME, _MOST_ABOVE = 150.0, 96.0
"""How long names may be beside the matrix and above it, in pixels."""
_BLOCKS = 12.0
"""Room for the brackets of blocks, in pixels."""


def names_room(metrics: QFontMetricsF, picture: MatrixPicture, wide: float, high: float) -> QRectF:
    """The area left for the cells of ``picture`` in a widget ``wide`` × ``high`` pixels."""
    longest = max((metrics.horizontalAdvance(name) for name in picture.names), default=0.0)
    beside = min(longest, _MOST_NAME, 0.25 * wide) + _GAP + _BLOCKS
    above = min(longest, _MOST_ABOVE, 0.25 * high) + _GAP
    return QRectF(AROUND + beside, AROUND + above, wide - beside - 2 * AROUND, high - above - 2 * AROUND)


@dataclass(frozen=True)
class NameDrag:
    """A column taken hold of by its name, at ``index`` in the order drawn, ``upright`` where it is the one above.

    It is let go in ``gap``: 0 before the first column, ``k`` behind the last of ``k``.
    """

    index: int
    upright: bool
    gap: int

    @classmethod
    def begun_at(cls, room: MatrixRoom, point: QPointF) -> "NameDrag | None":
        """The name under ``point``; None where there is none."""
        area = room.area
        beside = point.x() < area.left() and area.top() <= point.y() <= area.bottom()
        above = point.y() < area.top() and area.left() <= point.x() <= area.right()
        if not beside and not above:
            return None
        index = int(_along(room, point, upright=above) // 1)
        return cls(index, above, index) if 0 <= index < room.count else None

    def at(self, room: MatrixRoom, point: QPointF) -> "NameDrag":
        """The same column, held over ``point``."""
        gap = min(max(round(_along(room, point, upright=self.upright)), 0), room.count)
        return NameDrag(self.index, self.upright, gap)

    @property
    def moves(self) -> bool:
        """Whether the column comes to stand elsewhere."""
        return self.gap not in (self.index, self.index + 1)

    @property
    def target(self) -> int:
        """The place it has when it is let go."""
        return self.gap - (self.gap > self.index)

    def draw(self, painter: QPainter, room: MatrixRoom) -> None:
        """The column that is held, and the line where it would go in."""
        area, cell = room.area, room.rect(self.index, self.index)
        at = room.rect(self.gap, self.gap).topLeft()
        if self.upright:
            bounds = QRectF(cell.left(), 0, cell.width(), area.bottom())
            line = QPointF(at.x(), 0), QPointF(at.x(), room.seen.bottom())
        else:
            bounds = QRectF(0, cell.top(), area.right(), cell.height())
            line = QPointF(0, at.y()), QPointF(room.seen.right(), at.y())
        painter.fillRect(bounds, colour(SHADES.raised, 0.6))
        if self.moves:
            painter.setPen(QPen(colour(SHADES.probe), 2.4))
            painter.drawLine(*line)


def _along(room: MatrixRoom, point: QPointF, *, upright: bool) -> float:
    """How many cells ``point`` lies behind the first edge."""
    if upright:
        return (point.x() - room.corner.x()) / room.wide
    return (point.y() - room.corner.y()) / room.high


def draw_names(
    painter: QPainter, metrics: QFontMetricsF, picture: MatrixPicture, room: MatrixRoom, marked: Collection[int]
) -> None:
    """Names beside the rows and above the columns: all where there is room, else those ``marked`` and some others."""
    line = metrics.height()
    beside = QRectF(AROUND, room.area.top(), room.area.left() - AROUND - _GAP - _BLOCKS, room.area.height())
    above = QRectF(room.area.left(), AROUND, room.area.width(), room.area.top() - AROUND - _GAP)
    for upright, indices, area, cell in (
        (False, room.rows, beside, room.high),
        (True, room.columns, above, room.wide),
    ):
        all_fit = cell >= line
        painter.save()
        # Names stand in the middle of their cells, and those at the ends reach beyond the cells in view.
        beyond = (line / 2, 0.0) if upright else (0.0, line / 2)
        painter.setClipRect(area.adjusted(-beyond[0], -beyond[1], *beyond))
        taken: list[float] = []
        first = [index for index in indices if index in marked]
        others = [index for index in indices if index not in marked] if all_fit else _spread(indices, line, cell)
        for index in [*first, *others]:
            centre = room.rect(index, index).center()
            middle = centre.x() if upright else centre.y()
            if any(abs(middle - other) < line - 1 for other in taken):
                continue
            taken.append(middle)
            painter.setPen(colour(SHADES.ink if index in marked or all_fit else SHADES.muted))
            _draw_name(painter, metrics, picture.names[index], middle, area, upright=upright)
        painter.restore()
    _draw_brackets(painter, picture, room)


def _draw_name(
    painter: QPainter, metrics: QFontMetricsF, name: str, middle: float, area: QRectF, *, upright: bool
) -> None:
    shown = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, area.height() if upright else area.width())
    base = (metrics.ascent() - metrics.descent()) / 2
    if upright:
        painter.save()
        painter.translate(middle + base, area.bottom())
        painter.rotate(-90)
        painter.drawText(QPointF(0, 0), shown)
        painter.restore()
    else:
        painter.drawText(QPointF(area.right() - metrics.horizontalAdvance(shown), middle + base), shown)


def _draw_brackets(painter: QPainter, picture: MatrixPicture, room: MatrixRoom) -> None:
    """A bracket beside the rows of each block."""
    painter.setPen(QPen(colour(SHADES.muted), 1.4))
    x, area = room.area.left() - _BLOCKS / 2, room.area
    for first, last in picture.blocks:
        top = max(room.rect(first, 0).top() + 1, area.top())
        bottom = min(room.rect(last - 1, 0).bottom() - 1, area.bottom())
        if top < bottom:
            painter.drawLine(QPointF(x, top), QPointF(x, bottom))


def _spread(indices: range, line: float, cell: float) -> list[int]:
    """Some of ``indices``, as far from each other as their names are high."""
    return list(indices[:: max(round(line / cell + 0.5), 1)])
