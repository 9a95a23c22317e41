"""Small parts the panes are built from."""

import re
from collections.abc import Callable
from html import escape

from PyQt6.QtCore import QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QResizeEvent
from PyQt6.QtWidgets import (
    QApplication,
    QBoxLayout,
    QFrame,
    QHBoxLayout,
    QLabel,
    QLayout,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from culvix.app.session.configured import configured
from culvix.visible_text import visible

__all__ = [
    "ElidedLabel",
    "asking",
    "beside",
    "by_font",
    "clear_layout",
    "label",
    "panel",
    "plain_tip",
    "row_of",
    "scrolled",
    "shortened",
]


_BREAK = "\N{ZERO WIDTH SPACE}"
_LONG = re.compile(r"\S{19,}")
"""Words that may be too long for a line."""

_USUAL_LETTER = 6.078
"""The mean width of a letter in the font for which widths are stated, in pixels."""


def by_font(pixels: int) -> int:
    """A width or height stated for the usual font, as large as the font in use asks for."""
    return round(pixels * QFontMetricsF(QApplication.font()).averageCharWidth() / _USUAL_LETTER)


class _Wrapped(QLabel):
    """Words in as many lines as they need; names without blanks may be longer than a line, and break, too."""

    _whole = ""

    def setText(self, text: str | None) -> None:
        self._whole = text or ""
        rich = self.textFormat() == Qt.TextFormat.RichText
        super().setText(self._whole if rich else _LONG.sub(_with_breaks, self._whole))

    def text(self) -> str:
        return self._whole


def _with_breaks(word: re.Match[str]) -> str:
    """A long word that may be broken after its marks, or else after every dozen letters."""
    marked = re.sub(r"(?<=[_./\\-])(?=\w)", _BREAK, word[0])
    return marked if _BREAK in marked else re.sub(r"(\w{12})(?=\w)", rf"\1{_BREAK}", marked)


def label(text: str = "", role: str | None = None, *, wrap: bool = False) -> QLabel:
    """Plain text (never markup), in the style of ``role``: head, title, quiet, small or probe."""
    made = _Wrapped() if wrap else QLabel()
    made.setTextFormat(Qt.TextFormat.PlainText)
    made.setWordWrap(wrap)
    made.setText(visible(text))
    if role:
        made.setObjectName(role)
    return made


def plain_tip(text: str) -> str:
    """``text`` as a tool tip shows it letter by letter: names may look like markup, which Qt would obey."""
    text = visible(text)
    if "<" not in text and "&" not in text:
        return text
    return f"<qt>{escape(text).replace(chr(10), '<br>')}</qt>"


class ElidedLabel(QLabel):
    """A title that ends in an ellipsis where it is wider than its place; its tip tells all of it."""

    def __init__(self, role: str) -> None:
        super().__init__()
        self.setTextFormat(Qt.TextFormat.PlainText)
        self.setObjectName(role)
        self.setMinimumWidth(40)
        self._whole = ""

    @property
    def whole(self) -> str:
        """What is said, however much of it has room."""
        return self._whole

    def say(self, text: str) -> None:
        """Show ``text``."""
        text = visible(text)
        if text == self._whole:
            return
        self._whole = text
        self.setToolTip(plain_tip(text))
        self._fit()
        self.updateGeometry()

    def sizeHint(self) -> QSize:
        # How wide the words are is known once the label has the style of its role.
        self.ensurePolished()
        return QSize(self.fontMetrics().horizontalAdvance(self._whole) + 8, super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        return QSize(40, super().minimumSizeHint().height())

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        shown = self.fontMetrics().elidedText(self._whole, Qt.TextElideMode.ElideMiddle, max(self.width() - 2, 20))
        if shown != self.text():
            self.setText(shown)


def panel(*, horizontal: bool = False, margins: tuple[int, int, int, int] = (8, 6, 8, 6)) -> tuple[QFrame, QLayout]:
    """A framed pane and its layout."""
    frame = QFrame()
    frame.setObjectName("panel")
    layout: QLayout = QHBoxLayout(frame) if horizontal else QVBoxLayout(frame)
    layout.setContentsMargins(*margins)
    layout.setSpacing(6)
    return frame, layout


def asking(text: str, key: str, ask: Callable[[str], None], role: str = "quiet") -> QLabel:
    """A label that a click asks the guide about ``key``; a heading says so with a small mark."""
    made = label(f"{text}\N{THIN SPACE}?" if role == "head" else text, role)
    made.setCursor(Qt.CursorShape.PointingHandCursor)
    made.setToolTip("What is this? (opens the guide)")
    made.setProperty("asks", key)
    made.mousePressEvent = lambda _: ask(key)  # type: ignore[assignment,method-assign]
    return made


def row_of(*widgets: QWidget | int, spacing: int = 6) -> QHBoxLayout:
    """Widgets side by side; a number is a stretch."""
    layout = QHBoxLayout()
    layout.setContentsMargins(0, 0, 0, 0)
    layout.setSpacing(spacing)
    for widget in widgets:
        if isinstance(widget, int):
            layout.addStretch(widget)
        else:
            layout.addWidget(widget)
    return layout


def beside(across: bool) -> QBoxLayout.Direction:
    """The direction of widgets from left to right, or from above down."""
    return QBoxLayout.Direction.LeftToRight if across else QBoxLayout.Direction.TopToBottom


def shortened(text: str, most: int) -> str:
    """``text``, or its beginning and an ellipsis where it has more than ``most`` characters."""
    return text if len(text) <= most else f"{text[: most - 1]}…"


def clear_layout(layout: QLayout) -> None:
    """Take everything out of ``layout`` and let it go."""
    while layout.count() and (item := layout.takeAt(0)) is not None:
        inner, widget = item.layout(), item.widget()
        if widget is not None:
            widget.hide()
            widget.deleteLater()
        elif inner is not None:
            clear_layout(inner)


def scrolled(inner: QWidget) -> QScrollArea:
    """``inner`` in an area that scrolls only up and down; what is wider than the area is squeezed, not cut off."""
    inner.setMinimumWidth(1)
    area = configured(QScrollArea(), widgetResizable=True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFrameShape(QFrame.Shape.NoFrame)
    # It scrolls to whatever inside it is given the keyboard.
    area.setFocusPolicy(Qt.FocusPolicy.NoFocus)
    area.setWidget(inner)
    return area
