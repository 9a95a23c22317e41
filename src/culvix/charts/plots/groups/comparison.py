"""Several columns one above the other on one axis: their common one, or each in its own standard deviations."""

from collections.abc import Sequence
from html import escape
from math import ceil, floor, inf

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QPainter, QPainterPath, QPen, QPicture
from pyqtgraph.GraphicsScene.mouseEvents import MouseClickEvent

from culvix.charts.items.deferred_paint import DeferredPaintView
from culvix.charts.items.export_items import LevelItem, PagePainter, on_page
from culvix.charts.items.row_markers import MarkItem
from culvix.charts.lanes.lane import axis_text
from culvix.charts.lanes.lane_view import TurnedView
from culvix.charts.palette import SHADES, brush, colour, pen
from culvix.charts.paper import points, title_words
from culvix.charts.plots.groups.comparison_rows import ComparisonRow
from culvix.charts.plots.plot_frame import Plot
from culvix.stats.core.arrays import Floats
from culvix.stats.display import count
from culvix.stats.shape.axis_scale import AxisScale
from culvix.study.pictures.column_pictures import Marks

__all__ = ["MOST_OVER", "Comparison"]

_TALL = 0.62
_LINE = 0.16
_LONGEST_NAME = 30
_LYING = ("left", "right", "bottom")
"""Where lying rows have their names, their words, and the axis."""
_AROUND, _ROW = 10, 15
"""Heights, in pixels: around the words of an axis, and of a row of them."""
_AXES = 90
"""About how wide the axis beside standing rows is, in pixels."""
_MOST_ROWS = 3
MOST_OVER = 8
_OVER = [
    (shade, kind)
    for kind in (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine)
    for shade in ("data", "probe")
]
"""Lines of rows drawn over each other, told apart without colour as far as neighbours go by their shade alone; the
first is heavier than all others, and filled."""
_IN_SIGHT = 0.004
"""Curves drawn over each other are in view as far as they are higher than this share of their height."""


class _ComparisonRows(pg.GraphicsObject):
    """All rows, drawn once into a picture; the first or the last one stands at height 0."""

    def __init__(self) -> None:
        super().__init__()
        self._picture = QPicture()
        self._drawn: list[tuple[ComparisonRow, float]] = []
        self._over = False
        self._bounds = QRectF()

    def put(self, rows: Sequence[ComparisonRow], feet: Sequence[float], *, over: bool = False) -> None:
        """Draw ``rows`` from ``feet`` up, or ``over`` each other on one foot with their boxes below it."""
        self.prepareGeometryChange()
        self._drawn, self._over = list(zip(rows, feet, strict=True)), over
        self._picture = QPicture()
        painter = QPainter(self._picture)
        self._draw(painter)
        painter.end()
        lows = [min(row.edges[0], row.far.min(initial=inf), *(row.box or ())[:1]) for row in rows]
        highs = [max(row.edges[-1], row.far.max(initial=-inf), *(row.box or ())[4:]) for row in rows]
        low, high = min(lows, default=0.0), max(highs, default=1.0)
        foot = over_line(len(rows)) if over else -0.3
        tall = 1.1 if over else max(len(rows), 1) - 0.2
        self._bounds = QRectF(low, foot, max(high - low, 1e-300), tall - foot)
        self.update()

    def _draw(self, painter: QPainter | PagePainter) -> None:
        for position, (row, foot) in enumerate(self._drawn):
            if self._over:
                _draw_over(painter, row, position)
            else:
                _draw(painter, row, foot)

    def paint(self, painter: QPainter, *_: object) -> None:
        if not self._exportOpts:
            painter.drawPicture(0, 0, self._picture)
            return
        with on_page(painter) as position:
            self._draw(PagePainter(painter, position))

    def boundingRect(self) -> QRectF:
        return self._bounds


def _in_sight(rows: Sequence[ComparisonRow]) -> tuple[float, float]:
    """The part of the axis on which there is something of the curves, or bars, and of the boxes below them."""
    ends: list[float] = []
    for row in rows:
        x, y = row.curve if row.curve is not None else (row.edges, np.append(row.heights, row.heights[-1:]))
        high = x[y > _IN_SIGHT * float(y.max(initial=0.0))]
        ends += [*(row.box or ())[::4], *high[[0, -1]].tolist()] if high.size else (row.box or ())[::4]
    return (min(ends), max(ends)) if ends else (0.0, 1.0)


def over_line(position: int) -> float:
    """Where the box of the row at ``position`` lies where rows are drawn over each other."""
    return -0.14 - 0.13 * position


def _draw_over(painter: QPainter | PagePainter, row: ComparisonRow, position: int) -> None:
    """The density, or the outline of the bars, and a box below in the same line, which tells whose it is."""
    name, kind = _OVER[position % len(_OVER)]
    shade = SHADES.of(name)
    line = QPen(colour(shade), 1.3 if position else 2.6, kind)
    line.setCosmetic(True)
    painter.setBrush(Qt.BrushStyle.NoBrush if position else brush(shade, 0.16))
    painter.setPen(line)
    if row.curve is not None:
        painter.drawPath(pg.arrayToQPath(*row.curve))
    else:
        heights = np.concatenate(([0.0], np.repeat(row.heights, 2), [0.0]))
        painter.drawPath(pg.arrayToQPath(np.repeat(row.edges, 2), heights))
    if row.box is None:
        return
    low, q1, median, q3, high = row.box
    at = over_line(position)
    if high > low:
        painter.drawLine(QPointF(low, at), QPointF(high, at))
    painter.drawRect(QRectF(q1, at - 0.035, q3 - q1, 0.07))
    painter.drawLine(QPointF(median, at - 0.035), QPointF(median, at + 0.035))


def _path(line: tuple[Floats, Floats], foot: float) -> QPainterPath:
    path: QPainterPath = pg.arrayToQPath(line[0], line[1] * _TALL + foot)
    return path


def _draw(painter: QPainter | PagePainter, row: ComparisonRow, foot: float) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(brush(SHADES.data, 0.85))
    if row.heights.size:
        edges = row.edges.tolist()
        for left, right, height in zip(edges[:-1], edges[1:], row.heights.tolist(), strict=True):
            if height > 0:
                painter.drawRect(QRectF(left, foot, right - left, height * _TALL))
    elif row.curve is not None:
        painter.setBrush(brush(SHADES.data, 0.45) if row.filled else QBrush(Qt.BrushStyle.NoBrush))
        painter.setPen(pen(SHADES.data, 1.6))
        painter.drawPath(_path(row.curve, foot))
    if row.normal is not None:
        painter.setPen(pen(SHADES.reference, 1.4, dashed=True))
        painter.drawPath(_path(row.normal, foot))
    if row.ghost is not None:
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(SHADES.probe, 1.5))
        painter.drawPath(_path(row.ghost, foot))
    if row.box is None:
        return
    low, q1, median, q3, high = row.box
    line = foot - _LINE
    # A line without a length would be taken for a dot as wide as its pen in the units of the axis.
    if high > low:
        painter.setPen(pen(SHADES.reference, 1.2))
        painter.drawLine(QPointF(low, line), QPointF(high, line))
    if q3 > q1:
        painter.setPen(pen(SHADES.ink, 4.0))
        painter.drawLine(QPointF(q1, line), QPointF(q3, line))
    painter.setPen(pen(SHADES.panel if q3 > q1 else SHADES.ink, 2.0))
    painter.drawLine(QPointF(median, line - 0.07), QPointF(median, line + 0.07))


def _short(name: str) -> str:
    """A name as it stands beside its row, where no markup is read."""
    return name if len(name) <= _LONGEST_NAME else f"{name[: _LONGEST_NAME - 9]}…{name[-8:]}"


class Comparison(DeferredPaintView):
    """The chart: names stand at the feet of the rows, words at their tops, and the axis says what it measures.

    Strips lie under each other, or, upright, stand side by side.
    """

    clicked = pyqtSignal(int, float)
    """The place of a row (from 0, from above or from the left) and the value that were clicked."""

    def __init__(self) -> None:
        super().__init__()
        self.enableMouse(False)
        self.rows = _ComparisonRows()
        self.names: list[str] = []
        self._lines: list[tuple[float, str]] = []
        self.shown: tuple[Sequence[ComparisonRow], str, float | None, bool, AxisScale | None]
        self.shown = (), "", None, False, None
        """What it was put together from: rows, words at the axis, where zero is marked, whether over, and the scale."""
        self.labels: list[tuple[float, str]] = []
        self.notes: list[tuple[float, str]] = []
        """What stands at the foot and at the head of each row, with its position."""
        self.far = MarkItem(symbol="o", size=6.0, pen=pen(SHADES.flagged, 1.1))
        self.points = MarkItem(symbol="o", size=4.5, brush=brush(SHADES.data, 0.6))
        self.zero = LevelItem(pos=0.0, angle=90, pen=pen(SHADES.reference, 1.0, dashed=True))
        self.upright = False
        self._build()
        self.scene().sigMouseClicked.connect(self._clicked)

    def _build(self) -> None:
        """The plot with its axes, for rows that lie or stand."""
        self._at_foot, self._at_top, self._along = ("bottom", "top", "left") if self.upright else _LYING
        self._beyond: list[tuple[float, ComparisonRow]] = []
        sides = (self._at_foot, self._at_top, self._along)
        self.plot = Plot(TurnedView(upright=self.upright), sides, upright=self.upright)
        self.plot.view_box.setMouseEnabled(x=True, y=False)
        self.plot.view_box.sigXRangeChanged.connect(lambda _, seen: self._count_beyond(*seen))
        self.plot.add(self.rows)
        self.plot.add(self.far)
        self.plot.add(self.points)
        self.plot.add(self.zero)
        for side in (self._at_foot, self._at_top):
            axis = self.plot.axis(side)
            axis.setStyle(hideOverlappingLabels=False)
            axis.setPen(pen(SHADES.panel))
            axis.setTextPen(SHADES.ink)
        self.setCentralItem(self.plot)

    def _set_direction(self, upright: bool) -> None:
        if upright == self.upright:
            return
        for item in (self.rows, self.far, self.points, self.zero):
            self.plot.remove(item)
        self.upright = upright
        self._build()

    def put(
        self,
        rows: Sequence[ComparisonRow],
        text: str,
        *,
        zero: float | None = None,
        most: int = 0,
        over: bool = False,
        upright: bool = False,
        scale: AxisScale | None = None,
    ) -> None:
        """Show ``rows`` with ``text`` at the axis and a line at ``zero``; of many at most ``most``.

        Where they are places on a ``scale``, the axis has the values that stand there.
        They lie from above down, or stand ``upright`` from left to right. Drawn ``over`` each other, at most
        `MOST_OVER` of them are shown, the first one above all others; values far from all curves are beyond what is in
        view, which is then said.
        """
        self._set_direction(upright)
        rows = rows[:MOST_OVER] if over else rows
        self.shown = rows, text, zero, over, scale
        self.names = [row.name for row in rows]
        feet = [over_line(position) if over else self._foot(position) for position in range(len(rows))]
        self.rows.put(rows, feet, over=over)
        far = [np.full(row.far.size, foot - (0 if over else _LINE)) for row, foot in zip(rows, feet, strict=True)]
        positions = [row.far for row in rows]
        self.far.put(Marks.plain(np.concatenate([np.zeros(0), *positions])), np.concatenate([np.zeros(0), *far]))
        dots = [(row.points[0], row.points[1] * _TALL + foot) for row, foot in zip(rows, feet, strict=True)]
        x, y = (np.concatenate([np.zeros(0), *(dot[axis] for dot in dots)]) for axis in (0, 1))
        self.points.put(Marks.plain(x), y)
        lines = [(foot + (0 if over else 0.15), row) for row, foot in zip(rows, feet, strict=True)]
        self._lines = [(at, _short(row.name)) for at, row in lines]
        notes = [(at, row.text.replace("  ", "\n") if upright else row.text) for at, row in lines if row.text]
        self._write_notes(notes)
        self._beyond = lines if over else []
        self.plot.axis(self._at_top).setVisible(bool(notes) or over)
        if upright:
            self.plot.axis(self._at_top).setHeight(
                _AROUND + _ROW * max([w.count("\n") for _, w in notes], default=0) + _ROW
            )
        self.plot.axis(self._along).value_scale = None if scale is None or scale.is_measured else scale
        self.plot.axis(self._along).setLabel(axis_text(text))
        self.zero.setVisible(zero is not None)
        self.zero.setValue(zero or 0.0)
        self._write_names(2 * len(rows) if over else len(rows))
        self.plot.view_box.setRange(self.rows.boundingRect(), padding=0.03)
        if over and rows:
            self.plot.view_box.setXRange(*_in_sight(rows), padding=0.06)
            self._count_beyond(*self.plot.view_box.viewRange()[0])
        if most:
            self.scroll_to(0, most)

    def _count_beyond(self, low: float, high: float) -> None:
        """Say at the end of each row how many of its far values are not between ``low`` and ``high``."""
        notes = []
        for at, row in self._beyond:
            beyond = int(np.count_nonzero((row.far < low) | (row.far > high)))
            if beyond:
                notes.append((at, f"{count(beyond)} beyond"))
        if self._beyond:
            self._write_notes(notes)

    def _write_notes(self, notes: list[tuple[float, str]]) -> None:
        self.notes = notes
        self.plot.axis(self._at_top).setTicks([notes])

    def _write_names(self, positions: int) -> None:
        """Name the rows, with room for ``positions`` of them; side by side in as many rows as the names need."""
        axis, rows = self.plot.axis(self._at_foot), 1
        if self.upright:
            widest = max((axis.text_width(name) for _, name in self._lines), default=0.0) + _AROUND
            rows = min(max(ceil(widest * positions / max(self.width() - _AXES, 1.0)), 1), _MOST_ROWS)
            # As wide as its words an axis makes itself, but not as high as their lines.
            axis.setHeight(_AROUND + _ROW * rows)
        self.labels = [(at, "\n" * (position % rows) + name) for position, (at, name) in enumerate(self._lines)]
        axis.setTicks([self.labels])

    def _foot(self, position: int) -> float:
        """The height at which a row begins."""
        return float(position if self.upright else len(self.names) - 1 - position)

    def again(self, heading: str, width: int, height: int) -> "Comparison":
        """The same chart, all rows of it, under a ``heading``, as a new one of another size that is not shown."""
        made = Comparison()
        made.resize(width, height)
        rows, text, zero, over, scale = self.shown
        made.put(rows, text, zero=zero, over=over, upright=self.upright, scale=scale)
        made.plot.set_title(escape(title_words(heading)), size=f"{points(10):g}pt", color=SHADES.ink)
        for _ in range(2):
            # How wide its axes have to be is found out by painting them.
            made.plot.setGeometry(QRectF(0, 0, width, height))
            made.plot.grid.activate()
            made.grab()
        return made

    def scroll_to(self, first: int, shown: int) -> None:
        """Show ``shown`` rows from the one at ``first`` (from 0) on."""
        # One row alone does not fill the whole height.
        room = min(shown, max(len(self.names), 2))
        low = float(first if self.upright else max(len(self.names), 1) - first - room)
        self.plot.view_box.setYRange(low - 0.3, low + room - 0.2, padding=0.0)
        self._write_names(room)

    def _clicked(self, event: MouseClickEvent) -> None:
        box = self.plot.view_box
        if not box.sceneBoundingRect().contains(event.scenePos()):
            return
        at = box.mapSceneToView(event.scenePos())
        line = floor(at.y() + 0.3)
        position = line if self.upright else len(self.names) - 1 - line
        if 0 <= position < len(self.names):
            self.clicked.emit(position, at.x())
