"""Whether everything in a window can be read: what is cut, what overlaps, what reaches beyond its place."""

import re
from collections.abc import Iterator

from PyQt6.QtCore import QPoint, QRect, Qt
from PyQt6.QtWidgets import (
    QAbstractButton,
    QAbstractScrollArea,
    QComboBox,
    QLabel,
    QLineEdit,
    QPushButton,
    QStyle,
    QStyleOptionComboBox,
    QToolButton,
    QWidget,
)

__all__ = ["unreadable"]

_SLACK = 2
"""Pixels by which a box may fall short of what its style would like."""


def unreadable(window: QWidget) -> list[str]:
    """A sentence for each widget that is cut, covered, or reaches beyond its place."""
    found: list[str] = []
    for widget in _seen(window):
        found += [f"{_name_of(widget)}: {fault}" for fault in (*_cut(widget), *_beyond(widget, window))]
    return found + _overlaps(window)


def _seen(window: QWidget) -> Iterator[QWidget]:
    for widget in window.findChildren(QWidget):
        if widget.isVisibleTo(window) and widget.width() > 0 and widget.height() > 0 and not widget.isWindow():
            yield widget


def _name_of(widget: QWidget) -> str:
    text = widget.text() if isinstance(widget, QLabel | QAbstractButton) else ""
    text = widget.currentText() if isinstance(widget, QComboBox) else text
    return f"{type(widget).__name__} “{text[:60]}” in {type(widget.parentWidget()).__name__}"


def _cut(widget: QWidget) -> Iterator[str]:
    """What of the words of a widget has no room in it; a cut word may be told by a tip."""
    if isinstance(widget, QLabel) and widget.text() and widget.pixmap().isNull():
        room = widget.contentsRect()
        if widget.wordWrap():
            if widget.textFormat() != Qt.TextFormat.RichText:
                words = re.split(r"[\s\N{ZERO WIDTH SPACE}]", QLabel.text(widget))
                longest = max(map(widget.fontMetrics().horizontalAdvance, words))
                if longest > room.width() + _SLACK:
                    yield f"a word {longest} wide, has {room.width()}"
            needed = widget.heightForWidth(widget.width())
            if needed > widget.height() + _SLACK:
                yield f"{needed} high, has {widget.height()}"
            return
        if widget.textFormat() == Qt.TextFormat.RichText or widget.text().startswith("<"):
            needed = widget.sizeHint().width()
        else:
            needed = max(widget.fontMetrics().horizontalAdvance(line) for line in widget.text().split("\n"))
        if needed > room.width() + _SLACK:
            yield f"{needed} wide, has {room.width()}"
        if "…" in widget.text() and not widget.toolTip() and not widget.text().rstrip().endswith("…"):
            yield "shortened without a tip"
    elif isinstance(widget, QPushButton | QToolButton) and widget.text():
        needed = widget.fontMetrics().horizontalAdvance(widget.text().replace("&", ""))
        if needed > widget.width() - _SLACK:
            yield f"{needed} wide, has {widget.width()}"
    elif isinstance(widget, QComboBox) and widget.currentText():
        option = QStyleOptionComboBox()
        widget.initStyleOption(option)
        style = widget.style()
        assert style is not None
        control, part = QStyle.ComplexControl.CC_ComboBox, QStyle.SubControl.SC_ComboBoxEditField
        room = style.subControlRect(control, option, part, widget)
        needed = widget.fontMetrics().horizontalAdvance(widget.currentText())
        if needed > room.width() + _SLACK and widget.currentText() not in widget.toolTip():
            yield f"{needed} wide, has {room.width()}, and no tip tells it"
    elif isinstance(widget, QLineEdit) and widget.placeholderText() and not widget.text():
        needed = widget.fontMetrics().horizontalAdvance(widget.placeholderText())
        if needed > widget.width() and not widget.toolTip():
            yield f"its hint is {needed} wide, has {widget.width()}"


def _beyond(widget: QWidget, window: QWidget) -> Iterator[str]:
    """Whether a widget with words reaches sideways beyond what can be seen of its place, or out of the window."""
    if not isinstance(widget, QLabel | QAbstractButton | QComboBox | QLineEdit):
        return
    place, parent = QRect(QPoint(0, 0), widget.size()), widget.parentWidget()
    frame, scrolls = window, False
    while parent is not None and parent is not window:
        area = parent.parentWidget()
        if isinstance(area, QAbstractScrollArea) and area.viewport() is parent:
            frame, scrolls = parent, True
            break
        parent = parent.parentWidget()
    corner = widget.mapTo(frame, QPoint(0, 0))
    place.moveTopLeft(corner)
    if place.left() < -_SLACK or place.right() > frame.width() + _SLACK:
        yield f"reaches from {place.left()} to {place.right()} of {frame.width()}"
    if not scrolls and place.bottom() > frame.height() + _SLACK:
        yield f"reaches down to {place.bottom()} of {frame.height()}"


def _overlaps(window: QWidget) -> list[str]:
    """Widgets with words beside each other in one parent that cover each other."""
    found = []
    kinds = (QLabel, QAbstractButton, QComboBox, QLineEdit)
    by_parent: dict[QWidget, list[QWidget]] = {}
    for widget in _seen(window):
        parent = widget.parentWidget()
        if isinstance(widget, kinds) and parent is not None and not isinstance(parent, QLineEdit | QComboBox):
            by_parent.setdefault(parent, []).append(widget)
    for widgets in by_parent.values():
        for position, one in enumerate(widgets):
            for other in widgets[position + 1 :]:
                common = one.geometry().intersected(other.geometry())
                if common.width() > _SLACK and common.height() > _SLACK:
                    found.append(f"{_name_of(one)} covers {_name_of(other)} by {common.width()}x{common.height()}")
    return found
