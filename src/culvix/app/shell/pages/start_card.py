"""A study or a table on the start page: its name, what it is, and pictures of its columns; a button as a whole."""

from collections.abc import Sequence

from PyQt6.QtCore import QRectF, QSize, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from culvix.app.widgets.parts import ElidedLabel, by_font
from culvix.charts.items.sparkline import Sparkline, draw_sparkline, sparkline_from_json

__all__ = ["StartCard"]

_HEIGHT, _PICTURE, _MOST = 54, 50, 3


class _Pictures(QWidget):
    """The sparklines side by side."""

    def __init__(self, sparklines: Sequence[Sparkline]) -> None:
        super().__init__()
        self.sparklines = sparklines
        self.setFixedSize((_PICTURE + 8) * len(sparklines), 34)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        for position, sparkline in enumerate(self.sparklines):
            draw_sparkline(painter, QRectF(position * (_PICTURE + 8) + 4, 4, _PICTURE, 26), sparkline)


class StartCard(QPushButton):
    """``name`` above ``detail``, with ``when`` and ``sparklines`` (JSON) at the right."""

    def __init__(
        self, name: str, detail: str, when: str = "", sparklines: Sequence[str] = (), *, width: int = 460
    ) -> None:
        super().__init__()
        self.setObjectName("card")
        self.setAccessibleName(f"{name}, {detail}, {when}")
        self.setFixedSize(QSize(by_font(width), by_font(_HEIGHT)))
        layout = QHBoxLayout(self)
        layout.setContentsMargins(10, 5, 8, 5)
        text = QVBoxLayout()
        text.setSpacing(1)
        for line, kind in ((name, "head"), (f"{when} · {detail}" if when else detail, "small")):
            shown = ElidedLabel(kind)
            shown.say(line)
            text.addWidget(shown)
        layout.addLayout(text, 1)
        self._layout = layout
        self._pictures: _Pictures | None = None
        self.show_pictures(sparklines)
        for child in self.findChildren(QWidget):
            child.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)

    def show_pictures(self, sparklines: Sequence[str]) -> None:
        """Show pictures of columns, as JSON; what is none is left out."""
        found = [pair[1] for text in sparklines if (pair := sparkline_from_json(text)) is not None][:_MOST]
        if self._pictures is not None:
            self._pictures.deleteLater()
            self._pictures = None
        if found:
            self._pictures = _Pictures(found)
            self._pictures.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
            self._layout.addWidget(self._pictures)
