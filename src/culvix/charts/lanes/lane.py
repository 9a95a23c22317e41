"""One lane: a plot that shares its value axis with the lanes above and below it.

Dragging in a lane selects the values between two places, a click picks what lies under it, the wheel zooms the shared
axis, and dragging with the right or middle button moves it. The plotting library's own buttons and menus are off.
"""

from collections.abc import Callable
from html import escape
from math import ceil, floor, log10

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QFontMetricsF
from PyQt6.QtWidgets import QGraphicsSimpleTextItem

from culvix.charts.axes.value_axis import AXIS_WIDTH, ValueAxis
from culvix.charts.items.row_markers import MarkItem
from culvix.charts.lanes.lane_view import LaneView
from culvix.charts.palette import SHADES, brush, pen
from culvix.charts.paper import letters, points
from culvix.charts.plots.plot_frame import WORDS, Plot
from culvix.stats.core.arrays import Ints
from culvix.study.pictures.column_pictures import ShapePicture

__all__ = ["FOOT", "GAP", "Lane", "axis_text", "cut_line", "round_top", "wrapped"]

GAP = 6
"""Between two lanes, in pixels."""
FOOT = 44
"""Height of an axis below, with its numbers and its title."""
ANSWER_HEIGHT = 15
_PICK_PIXELS = 9.0


def _answer_font() -> QFont:
    return letters(8.0)


def axis_text(title: str, most: int = 60) -> str:
    """A column's title as an axis can show it: in ``most`` letters, and never read as markup."""
    end = 3 * most // 10
    return escape(title if len(title) <= most else f"{title[: most - end - 2]}…{title[-end:]}")


def wrapped(message: str, most: int, fits: Callable[[str], bool]) -> list[str]:
    """``message`` in at most ``most`` lines that fit; what is left over is cut off with an ellipsis."""
    lines = [""]
    # At plain spaces only: those within a number keep it together.
    for word in filter(None, message.split(" ")):
        longer = f"{lines[-1]} {word}" if lines[-1] else word
        if fits(longer) or not lines[-1]:
            lines[-1] = longer
        else:
            lines.append(word)
    if len(lines) <= most and all(map(fits, lines)):
        return lines
    shown = []
    for position, line in enumerate(lines[:most]):
        message = f"{line}…" if position == most - 1 < len(lines) - 1 else line
        while not fits(message) and len(message) > 1:
            message = f"{message.removesuffix('…')[:-1]}…"
        shown.append(message)
    return shown


def cut_line(
    slope: float, intercept: float, across: tuple[float, float], up: tuple[float, float]
) -> tuple[list[float], list[float]]:
    """Ends (x, y) of the line y = intercept + slope · x within both ranges; empty where it misses them."""
    left, right = across
    if slope:
        ends = sorted((edge - intercept) / slope for edge in up)
        left, right = max(left, ends[0]), min(right, ends[1])
    if left >= right:
        return [], []
    return [left, right], [intercept + slope * left, intercept + slope * right]


class Lane(Plot):
    """Base of all lanes. Subclasses draw a `ShapePicture` in `show_picture` and answer the probe in `reading`."""

    name = ""
    stretch = 1
    view_type: type[LaneView] = LaneView
    axis_moves = False
    """Whether the axis moves right after a picture is shown, so that what is placed by it need not be placed before."""

    picked = pyqtSignal(object, object)
    """Rows under a click (an array, empty for none) and the keyboard modifiers."""
    interval = pyqtSignal(float, float, bool, object)
    """Ends of a dragged interval, whether it is finished, and the modifiers."""

    def __init__(self, upright: bool = False) -> None:
        """``upright`` where values run up the screen, and heights to the right."""
        self.upright = upright
        self.answer_lines = 1
        self.message = ""
        """The words over the lane, whole."""
        super().__init__(self.view_type(upright=upright), ("bottom", "left"), upright=upright)
        # The stack says how high, or how wide, it is.
        if upright:
            self.setPreferredWidth(1.0)
        else:
            self.setPreferredHeight(1.0)
        self.bear_axis(False)
        if upright:
            self.height_axis.setHeight(FOOT)
        else:
            self.height_axis.setWidth(AXIS_WIDTH)
        self.picture: ShapePicture | None = None
        probe, grabbed = (pen(SHADES.probe, width) for width in (2.0, 2.5))
        self.probe = pg.InfiniteLine(angle=90, movable=True, pen=probe, hoverPen=grabbed)
        self.probe.setZValue(50)
        self.probe.hide()
        # A line of its own above the lane keeps the probe's words from covering marks. They are no part of the layout,
        # which would be made anew with every word.
        self.grid.setRowFixedHeight(WORDS, self.answer_height)
        self.answer_item = QGraphicsSimpleTextItem(self)
        self.answer_item.setFont(_answer_font())
        self.answer_item.setBrush(brush(SHADES.probe))
        self.pinned = pg.InfiniteLine(angle=90, movable=True, pen=pen(SHADES.probe, 1.4, dashed=True))
        self.pinned.setZValue(49)
        self.pinned.hide()
        self.sweep = pg.LinearRegionItem(movable=False, brush=brush(SHADES.probe, 0.12), pen=pen(SHADES.probe, 0.6))
        self.sweep.setZValue(40)
        self.sweep.hide()
        self.add(self.probe)
        self.add(self.pinned)
        self.add(self.sweep)
        self.view_box.clicked.connect(self._clicked)
        self.view_box.spanned.connect(self.interval)
        self.scene_marks: list[MarkItem] = []

    @property
    def value_axis(self) -> ValueAxis:
        """The axis that the lanes of a stack share."""
        return self.axis("left" if self.upright else "bottom")

    @property
    def height_axis(self) -> ValueAxis:
        """The lane's own axis."""
        return self.axis("bottom" if self.upright else "left")

    @property
    def pixels(self) -> tuple[float, float]:
        """How long the axis of values is on the screen, and the lane's own."""
        across, down = float(self.view_box.width()), float(self.view_box.height())
        return (down, across) if self.upright else (across, down)

    @property
    def answer_height(self) -> int:
        """Height of the lines for words over the lane."""
        return self.answer_lines * ANSWER_HEIGHT

    def allow_lines(self, most: int) -> None:
        """Leave room for ``most`` lines of words over the lane."""
        if most != self.answer_lines:
            self.answer_lines = most
            self.grid.setRowFixedHeight(WORDS, self.answer_height)
            self.answer(self.message)

    def pointing(self, *, up: bool) -> str:
        """The symbol of a mark that points to where heights grow, or the other way."""
        return {(False, True): "t1", (False, False): "t", (True, True): "t2", (True, False): "t3"}[self.upright, up]

    def bear_axis(self, bears: bool) -> None:
        """Show the numbers of the axis of values, or leave only a gap to the next lane."""
        axis = self.value_axis
        axis.setStyle(showValues=bears)
        axis.showLabel(False)
        if self.upright:
            axis.setWidth(AXIS_WIDTH if bears else GAP)
        else:
            axis.setHeight(FOOT if bears else GAP)

    def resizeEvent(self, event: object) -> None:
        super().resizeEvent(event)
        self._fit_label()
        if self.message:
            self.answer(self.message)

    def _fit_label(self) -> None:
        """Show the name of the upward axis where there is room: in too low a lane it would run into the next one's."""
        axis = self.height_axis
        if axis.label is not None and axis.labelText:
            room = self.geometry().width() if self.upright else self.geometry().height()
            axis.showLabel(axis.label.boundingRect().width() < room)

    def marks(self, **style: object) -> MarkItem:
        """A new item of marks that can be picked."""
        item = MarkItem(**style)
        self.add(item)
        self.scene_marks.append(item)
        return item

    def show_picture(self, picture: ShapePicture) -> None:
        """Draw ``picture``."""
        self.picture = picture

    def reading(self, value: float) -> str:
        """What the probe reads in this lane at ``value``."""
        return ""

    def text_at(self, x: float, y: float) -> str:
        """What the lane has under the pointer, besides marks of rows."""
        return ""

    def interval_at(self, x: float, y: float) -> tuple[float, float] | None:
        """The interval of values that a click on an area (not a mark) means."""
        return None

    def answer(self, message: str) -> None:
        """Say ``message`` in the line over the lane, or the lines over an upright one, as far as there is room."""
        self.message = message
        metrics = QFontMetricsF(_answer_font())
        left = self.axis("left").width()
        room = max(self.geometry().width() - left, 40.0)
        if self.upright:
            shown = "\n".join(wrapped(message, self.answer_lines, lambda line: metrics.horizontalAdvance(line) <= room))
            self.answer_item.setPos(left, 1)
        else:
            shown = metrics.elidedText(message, Qt.TextElideMode.ElideRight, room)
            self.answer_item.setPos(self.geometry().width() - metrics.horizontalAdvance(shown) - 2, 1)
        self.answer_item.setText(shown)

    def clip(self) -> None:
        """Cut what is drawn at the edges of the lane, for pictures that cannot do so themselves."""

    def place_words(self) -> None:
        """Put words where they belong in what is seen now, for pictures that have such."""

    def set_probe(self, value: float | None) -> None:
        """Move the probe line to ``value`` and answer it, or hide both."""
        self.probe.setVisible(value is not None)
        if value is None:
            self.answer("")
        else:
            self.probe.blockSignals(True)
            self.probe.setValue(value)
            self.probe.blockSignals(False)
            self.answer(self.reading(value))

    def set_pinned(self, value: float | None) -> None:
        """Move the pinned probe to ``value``, or hide it."""
        self.pinned.setVisible(value is not None)
        if value is not None:
            self.pinned.blockSignals(True)
            self.pinned.setValue(value)
            self.pinned.blockSignals(False)

    def mark_under(self, x: float, y: float) -> Ints:
        """Rows of the mark nearest to a place within reach of the pointer; ties all count."""
        x_pixel, y_pixel = self.view_box.viewPixelSize()
        best, found = _PICK_PIXELS, np.zeros(0, dtype=np.int64)
        for item in self.scene_marks:
            if not item.rows.size or not item.isVisible():
                continue
            distance = np.hypot((item.x - x) / x_pixel, (item.y - y) / y_pixel)
            nearest = float(distance.min())
            if nearest < best:
                best = nearest
                found = np.unique(item.rows[distance <= nearest + 0.01])
        return found

    def _clicked(self, x: float, y: float, modifiers: Qt.KeyboardModifier) -> None:
        rows = self.mark_under(x, y)
        area = None if rows.size else self.interval_at(x, y)
        if area is not None:
            self.interval.emit(area[0], area[1], True, modifiers)
        else:
            self.picked.emit(rows, modifiers)

    def scene_position(self, x: float, y: float) -> QPointF:
        """Where a place of the lane lies in its scene."""
        return QPointF(self.view_box.mapViewToScene(QPointF(x, y)))

    def axis_label(self, text: str) -> None:
        """Name the lane's upward axis."""
        axis = self.height_axis
        if axis.labelText != text:
            axis.setLabel(text, color=SHADES.muted, **{"font-size": f"{points(8.5):g}pt"})
            self._fit_label()
        # An axis puts its name in the middle only when its own size changes.
        axis.resizeEvent()

    def tell_if_empty(self, reason: str = "") -> None:
        """Say why there is nothing to see, for a ``reason``: then no numbers of an earlier picture stay beside it."""
        self.note(reason)
        self.height_axis.setTicks([[]] if reason else None)
        if reason:
            self.view_box.setYRange(0, 1, padding=0)

    def note(self, text: str) -> None:
        """Say in the lane why there is nothing to see."""
        if not hasattr(self, "_note"):
            if not text:
                return
            self._note = pg.LabelItem(size="9pt", color=SHADES.muted, justify="center")
            self._note.setParentItem(self.view_box)
            self._note.anchor(itemPos=(0.5, 0.5), parentPos=(0.5, 0.5))
        if self.upright:
            # A narrow lane has room for many short lines.
            room, metrics = max(self.pixels[1] - 8, 40.0), QFontMetricsF(_answer_font())
            lines = wrapped(text, 12, lambda line: 1.15 * metrics.horizontalAdvance(line) <= room)
            text = "<br>".join(lines)
        self._note.setText(text)


def round_top(highest: float) -> float:
    """A round number a little above ``highest`` for the top of a count axis."""
    if highest <= 0:
        return 1.0
    step = 10.0 ** floor(log10(highest)) / 4
    return ceil(highest * 1.04 / step) * step
