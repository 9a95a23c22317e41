"""One lane: a plot that shares its value axis with the lanes above and below it.

Dragging in a lane selects the values between two places, a click picks what lies under it, the wheel zooms the shared
axis, and dragging with the right or middle button moves it. The plotting library's own buttons and menus are off.
"""

from collections.abc import Callable, Sequence
from functools import cache
from html import escape
from math import ceil, floor, log10

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QFontMetricsF
from PyQt6.QtWidgets import QApplication, QGraphicsSceneWheelEvent, QGraphicsSimpleTextItem
from pyqtgraph.GraphicsScene.mouseEvents import MouseClickEvent, MouseDragEvent

from culvix.charts.marks import MarkItem
from culvix.charts.palette import LIGHT, brush, pen
from culvix.stats.arrays import Ints
from culvix.stats.display import number
from culvix.study.pictures import ShapePicture

__all__ = ["ANSWER_HEIGHT", "AXIS_WIDTH", "Lane", "ValueAxis", "axis_words", "cut_line", "round_top"]

AXIS_WIDTH = 74
_PICK_PIXELS = 9.0
ANSWER_HEIGHT = 15


class ValueAxis(pg.AxisItem):
    """An axis whose numbers are written as everywhere else: true minus sign, thin-space thousands."""

    def __init__(self, orientation: str) -> None:
        super().__init__(orientation, pen=pen(LIGHT.rule), textPen=LIGHT.muted, tickPen=pen(LIGHT.rule))
        self.enableAutoSIPrefix(False)
        self.setStyle(tickLength=-4, tickTextOffset=5, maxTickLevel=0, hideOverlappingLabels=orientation == "bottom")
        font = QFont()
        font.setPointSizeF(8.5)
        self.setTickFont(font)
        self.log_base: float | None = None
        """Where values are logarithms: of which base. The axis then has the numbers themselves, as far apart."""

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        if self.log_base is None:
            return super().tickValues(low, high, size)  # type: ignore[no-any-return]
        ends = [end * log10(self.log_base) for end in (low, high)]
        steps = (1, 2, 5) if ends[1] - ends[0] < 2.5 else (1, 3) if ends[1] - ends[0] < 4 else (1,)
        powers = range(floor(ends[0]) - 1, ceil(ends[1]) + 1)
        places = [(power + log10(step)) / log10(self.log_base) for power in powers for step in steps]
        return [(1.0, [place for place in places if low <= place <= high])]

    def tickStrings(self, values: Sequence[float], scale: float, spacing: float) -> list[str]:
        if self.log_base is not None:
            numbers = [10.0 ** (value * log10(self.log_base)) for value in values]
            return [number(x, max(0, -floor(log10(x) + 1e-9))) if 1e-6 < x < 1e7 else f"{x:.0e}" for x in numbers]
        decimals = max(0, ceil(-log10(spacing * scale) - 1e-9)) if spacing * scale > 0 else 0
        if decimals <= 8 and spacing * scale % 10.0**-decimals > 1e-6 * spacing * scale:
            decimals += 1
        return [number(value * scale, min(decimals, 12)) if value else "0" for value in values]


class _LaneView(pg.ViewBox):
    """The area of a lane, turning mouse gestures into selections on the value axis."""

    clicked = pyqtSignal(float, float, object)
    spanned = pyqtSignal(float, float, bool, object)
    fit_wanted = pyqtSignal()
    probed = pyqtSignal(float)
    grabbed = pyqtSignal(int, float, bool, object)
    """A handle dragged to a value: its number, the value, whether it is let go, and the modifiers."""
    over_handle = pyqtSignal(int)
    """The handle under the pointer, −1 for none."""
    hovered = pyqtSignal(object)
    """Where the pointer is, (x, y), or None when it leaves."""
    stepped = pyqtSignal(int)
    """One notch of the wheel with Ctrl held."""

    def __init__(self) -> None:
        super().__init__(enableMenu=False, defaultPadding=0.0)
        self.setMouseEnabled(x=True, y=False)
        self.setBorder(None)
        self.handle_at: Callable[[float, float], int | None] = lambda x, y: None
        """The handle that can be dragged at a place of the lane."""
        self._held: int | None = None

    def hoverEvent(self, event: object) -> None:
        """Show by the pointer where something can be dragged."""
        leaving = event.isExit()  # type: ignore[attr-defined]
        at = None if leaving else self.mapSceneToView(event.scenePos())  # type: ignore[attr-defined]
        handle = None if at is None else self.handle_at(at.x(), at.y())
        if handle is None:
            self.unsetCursor()
        else:
            self.setCursor(Qt.CursorShape.SplitHCursor)
        self.over_handle.emit(-1 if handle is None else handle)
        self.hovered.emit(None if at is None else (at.x(), at.y()))

    def wheelEvent(self, event: QGraphicsSceneWheelEvent, axis: int | None = None) -> None:
        if event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            event.accept()
            self.stepped.emit(1 if event.delta() > 0 else -1)
        else:
            super().wheelEvent(event, axis)

    def mouseClickEvent(self, event: MouseClickEvent) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            return
        event.accept()
        at = self.mapSceneToView(event.scenePos())
        if event.double():
            self.fit_wanted.emit()
        elif event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.probed.emit(at.x())
        else:
            self.clicked.emit(at.x(), at.y(), event.modifiers())

    def mouseDragEvent(self, event: MouseDragEvent, axis: int | None = None) -> None:
        if event.button() != Qt.MouseButton.LeftButton:
            super().mouseDragEvent(event, axis=0)
            return
        event.accept()
        start = self.mapSceneToView(event.buttonDownScenePos())
        here = self.mapSceneToView(event.scenePos())
        if event.isStart():
            self._held = self.handle_at(start.x(), start.y())
        if self._held is not None:
            self.grabbed.emit(self._held, here.x(), bool(event.isFinish()), event.modifiers())
            return
        self.spanned.emit(min(start.x(), here.x()), max(start.x(), here.x()), bool(event.isFinish()), event.modifiers())


@cache
def _answer_font() -> QFont:
    font = QFont(QApplication.font())
    font.setPointSizeF(8.0)
    return font


def axis_words(title: str) -> str:
    """A column's title as an axis can show it: shortened, and never read as markup."""
    return escape(title if len(title) <= 60 else f"{title[:40]}…{title[-18:]}")


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


class Lane(pg.PlotItem):
    """Base of all lanes. Subclasses draw a `ShapePicture` in `show_picture` and answer the probe in `reading`."""

    name = ""
    stretch = 1

    picked = pyqtSignal(object, object)
    """Rows under a click (an array, empty for none) and the keyboard modifiers."""
    interval = pyqtSignal(float, float, bool, object)
    """Ends of a dragged interval, whether it is finished, and the modifiers."""

    def __init__(self) -> None:
        self.view_box = _LaneView()
        self.said = ""
        """The words over the lane, whole."""
        super().__init__(
            viewBox=self.view_box,
            axisItems={"bottom": ValueAxis("bottom"), "left": ValueAxis("left")},
            enableMenu=False,
        )
        self.hideButtons()
        # The stack says how high it is.
        self.setPreferredHeight(1.0)
        self.setClipToView(False)
        self.getAxis("left").setWidth(AXIS_WIDTH)
        self.getAxis("bottom").setStyle(showValues=False)
        self.getAxis("bottom").setHeight(6)
        self.picture: ShapePicture | None = None
        self.probe = pg.InfiniteLine(angle=90, movable=True, pen=pen(LIGHT.probe, 1.8), hoverPen=pen(LIGHT.probe, 2.5))
        self.probe.setZValue(50)
        self.probe.hide()
        # A line of its own above the lane keeps the probe's words from covering marks. They are no part of the layout,
        # which would be made anew with every word.
        self.layout.setRowFixedHeight(0, ANSWER_HEIGHT)
        self.answer_item = QGraphicsSimpleTextItem(self)
        self.answer_item.setFont(_answer_font())
        self.answer_item.setBrush(brush(LIGHT.probe))
        self.pinned = pg.InfiniteLine(angle=90, movable=True, pen=pen(LIGHT.probe, 1.4, dashed=True))
        self.pinned.setZValue(49)
        self.pinned.hide()
        self.sweep = pg.LinearRegionItem(movable=False, brush=brush(LIGHT.probe, 0.12), pen=pen(LIGHT.probe, 0.6))
        self.sweep.setZValue(40)
        self.sweep.hide()
        self.addItem(self.probe, ignoreBounds=True)
        self.addItem(self.pinned, ignoreBounds=True)
        self.addItem(self.sweep, ignoreBounds=True)
        self.view_box.clicked.connect(self._clicked)
        self.view_box.spanned.connect(self.interval)
        self.scene_marks: list[MarkItem] = []

    def resizeEvent(self, event: object) -> None:
        """Where a lane is too low for the name of its axis, that would run into the next lane's."""
        super().resizeEvent(event)
        axis = self.getAxis("left")
        if axis.label is not None and axis.labelText:
            axis.showLabel(axis.label.boundingRect().width() < self.geometry().height())
        if self.said:
            self.answer(self.said)

    def marks(self, **style: object) -> MarkItem:
        """A new item of marks that can be picked."""
        item = MarkItem(**style)
        self.addItem(item, ignoreBounds=True)
        self.scene_marks.append(item)
        return item

    def show_picture(self, picture: ShapePicture) -> None:
        """Draw ``picture``."""
        self.picture = picture

    def reading(self, value: float) -> str:
        """What the probe reads in this lane at ``value``."""
        return ""

    def words_at(self, x: float, y: float) -> str:
        """What the lane has under the pointer, besides marks of rows."""
        return ""

    def interval_at(self, x: float, y: float) -> tuple[float, float] | None:
        """The interval of values that a click on an area (not a mark) means."""
        return None

    def answer(self, words: str) -> None:
        """Say ``words`` in the line over the lane, as far as there is room."""
        self.said = words
        metrics = QFontMetricsF(_answer_font())
        room = max(self.geometry().width() - AXIS_WIDTH, 40.0)
        shown = metrics.elidedText(words, Qt.TextElideMode.ElideRight, room)
        self.answer_item.setText(shown)
        self.answer_item.setPos(self.geometry().width() - metrics.horizontalAdvance(shown) - 2, 1)

    def clip(self) -> None:
        """Cut what is drawn at the edges of the lane, for pictures that cannot do so themselves."""

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

    def scene_place(self, x: float, y: float) -> QPointF:
        """Where a place of the lane lies in its scene."""
        return QPointF(self.view_box.mapViewToScene(QPointF(x, y)))

    def axis_label(self, text: str) -> None:
        """Name the lane's upward axis."""
        axis = self.getAxis("left")
        if axis.labelText != text:
            axis.setLabel(text, color=LIGHT.muted, **{"font-size": "8.5pt"})
        # An axis puts its name in the middle only when its own size changes.
        axis.resizeEvent()

    def note(self, text: str) -> None:
        """Say in the lane why there is nothing to see."""
        if not hasattr(self, "_note"):
            if not text:
                return
            self._note = pg.LabelItem(size="9pt", color=LIGHT.muted)
            self._note.setParentItem(self.view_box)
            self._note.anchor(itemPos=(0.5, 0.5), parentPos=(0.5, 0.5))
        self._note.setText(text)


def round_top(highest: float) -> float:
    """A round number a little above ``highest`` for the top of a count axis."""
    if highest <= 0:
        return 1.0
    step = 10.0 ** floor(log10(highest)) / 4
    return ceil(highest * 1.04 / step) * step
