"""Rows below each other that a widget paints itself, one clicked or told of under the pointer."""

from abc import abstractmethod

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QHelpEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QToolTip, QWidget

__all__ = ["RowChart"]


class RowChart(QWidget):
    """``row_count`` rows of a ``row_height`` from ``first_row`` down, all in pixels.

    chosen (place of a row): it was clicked.
    """

    chosen = pyqtSignal(int)

    def __init__(self, name: str) -> None:
        """``name`` says what is shown, to those who cannot see it."""
        super().__init__()
        self.setAccessibleName(name)
        self.setMouseTracking(True)

    @property
    @abstractmethod
    def row_count(self) -> int: ...

    @property
    @abstractmethod
    def first_row(self) -> float: ...

    @property
    @abstractmethod
    def row_height(self) -> float: ...

    @abstractmethod
    def draw(self, painter: QPainter) -> None:
        """Draw everything with ``painter``."""

    @abstractmethod
    def tip(self, index: int) -> str:
        """What is said of a row."""

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        self.draw(painter)
        painter.end()

    def row_at(self, y: float) -> int | None:
        """The place of the row at a height of the widget."""
        if not self.row_count:
            return None
        row = int((y - self.first_row) // self.row_height)
        return row if 0 <= row < self.row_count else None

    def mouseReleaseEvent(self, event: QMouseEvent | None) -> None:
        assert event is not None
        row = self.row_at(event.position().y())
        if row is not None and event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit(row)

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent):
            row = self.row_at(event.pos().y())
            if row is not None:
                QToolTip.showText(event.globalPos(), self.tip(row), self)
                return True
        return super().event(event)
