"""Where the cells of a matrix lie on the screen: how large they are, which are in view, and what lies under a point."""

from dataclasses import dataclass, replace

from PyQt6.QtCore import QPointF, QRectF, QSizeF

__all__ = ["MatrixRoom"]

_LARGEST = 90.0
"""How high a cell is at most, in pixels."""
_WIDEST = 1.7
"""How many times as wide as high a cell is at most: numbers are wider than they are high."""


@dataclass(frozen=True)
class MatrixRoom:
    """``count`` × ``count`` cells in an ``area``, each ``wide`` × ``high`` pixels, the first one at ``corner``."""

    count: int
    area: QRectF
    wide: float
    high: float
    corner: QPointF

    @classmethod
    def fitting(cls, count: int, area: QRectF) -> "MatrixRoom":
        """All cells as large as they can be in view at once."""
        high = max(min(area.height() / max(count, 1), area.width() / max(count, 1), _LARGEST), 0.1)
        wide = max(min(area.width() / max(count, 1), _WIDEST * high), 0.1)
        return cls(count, area, wide, high, area.topLeft())

    @property
    def size(self) -> QSizeF:
        """How large all cells are together."""
        return QSizeF(self.wide * self.count, self.high * self.count)

    @property
    def seen(self) -> QRectF:
        """The part of the area where there are cells."""
        return self.area.intersected(QRectF(self.corner, self.size))

    def zoomed(self, factor: float, at: QPointF) -> "MatrixRoom":
        """Cells ``factor`` times as large, with what is under ``at`` left where it is."""
        least = MatrixRoom.fitting(self.count, self.area)
        factor = min(max(factor, least.high / self.high), max(_LARGEST, least.high) / self.high)
        moved = (at - self.corner) * factor
        return replace(self, wide=self.wide * factor, high=self.high * factor, corner=at - moved).within()

    def moved(self, by: QPointF) -> "MatrixRoom":
        """The cells moved ``by`` so many pixels, as far as there are more."""
        return replace(self, corner=self.corner + by).within()

    def within(self) -> "MatrixRoom":
        """No further from the edges of the area than there is to see."""
        area, size = self.area, self.size
        x = min(max(self.corner.x(), area.right() - size.width()), area.left())
        y = min(max(self.corner.y(), area.bottom() - size.height()), area.top())
        x = area.left() if size.width() <= area.width() else x
        y = area.top() if size.height() <= area.height() else y
        return replace(self, corner=QPointF(x, y))

    @property
    def shows_all(self) -> bool:
        """Whether all cells are in view."""
        return self.high <= MatrixRoom.fitting(self.count, self.area).high * (1 + 1e-9)

    def rect(self, row: int, column: int) -> QRectF:
        """Where a cell lies."""
        corner = QPointF(self.corner.x() + column * self.wide, self.corner.y() + row * self.high)
        return QRectF(corner, QSizeF(self.wide, self.high))

    def at(self, point: QPointF) -> tuple[int, int] | None:
        """The cell, row and column, under a point."""
        if not self.area.contains(point):
            return None
        row, column = int((point.y() - self.corner.y()) // self.high), int((point.x() - self.corner.x()) // self.wide)
        return (row, column) if 0 <= row < self.count and 0 <= column < self.count else None

    @property
    def rows(self) -> range:
        """The rows in view, in part at least."""
        return self._seen(self.area.top() - self.corner.y(), self.area.height(), self.high)

    @property
    def columns(self) -> range:
        """The columns in view, in part at least."""
        return self._seen(self.area.left() - self.corner.x(), self.area.width(), self.wide)

    def _seen(self, start: float, length: float, cell: float) -> range:
        first = max(int(start // cell), 0)
        return range(first, min(int((start + length) // cell) + 1, self.count))

    def showing(self, row: int, column: int) -> "MatrixRoom":
        """Moved as little as it takes to have a cell in view."""
        rect, area = self.rect(row, column), self.area
        across = min(area.right() - rect.right(), 0.0) + max(area.left() - rect.left(), 0.0)
        down = min(area.bottom() - rect.bottom(), 0.0) + max(area.top() - rect.top(), 0.0)
        return self.moved(QPointF(across, down))
