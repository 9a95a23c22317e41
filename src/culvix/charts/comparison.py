"""Several columns one above the other on one axis: their common one, or each in its own standard deviations."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from html import escape
from math import floor

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, Qt, pyqtSignal
from PyQt6.QtGui import QPainter, QPen, QPicture
from pyqtgraph.GraphicsScene.mouseEvents import MouseClickEvent

from culvix.charts.lane import ValueAxis, axis_words
from culvix.charts.palette import LIGHT, brush, colour, pen
from culvix.stats.arrays import Floats
from culvix.study.analysis import ColumnAnalysis
from culvix.study.groups import Split
from culvix.tables.table import Role

__all__ = ["AXES", "Comparison", "ComparisonStrip", "comparison_strips", "split_strips"]

_TALL = 0.62
_LINE = 0.16
_MOST_FAR = 400
_CURVE_POINTS = 1000
_LONGEST_NAME = 30
MOST_OVER = 8
_OVER = [
    (shade, kind)
    for kind in (Qt.PenStyle.SolidLine, Qt.PenStyle.DashLine, Qt.PenStyle.DotLine, Qt.PenStyle.DashDotLine)
    for shade in (LIGHT.data, LIGHT.probe)
]
"""Lines of strips drawn over each other, told apart without colour as far as neighbours go by their shade alone."""


@dataclass(frozen=True, eq=False)
class ComparisonStrip:
    """One column or group on the shared axis: bars, box and flagged values in the units of that axis.

    ``heights`` lie between 0 and 1, as do those of the ``ghost``, an outline over the bars. There is no ``box`` where
    there are no values. ``words`` stand at the right.
    """

    name: str
    edges: Floats
    heights: Floats
    box: tuple[float, float, float, float, float] | None
    far: Floats
    words: str = ""
    ghost: Floats | None = None
    ghost_edges: Floats | None = None
    curve: tuple[Floats, Floats] | None = None
    """The density, its highest place at 1, where there is one to run through the bars."""


AXES: dict[str, str] = {
    "standardised": "in SDs from each mean",
    "common": "on a common axis",
    "own": "each from its lowest to its highest",
}
"""How several columns are put on one axis."""


def comparison_strips(analyses: Sequence[ColumnAnalysis], axis: str) -> list[ComparisonStrip]:
    """Strips of the columns that have a range, on one of `AXES`."""
    strips = []
    for analysis in analyses:
        bars, d, x = analysis.histogram, analysis.description, analysis.sample.sorted
        if bars is None or d.q1 is None or d.median is None or d.q3 is None or d.mean is None:
            continue
        centre, unit = _axis_of(analysis, axis)
        if not unit > 0:
            continue
        box = tuple((value - centre) / unit for value in box_of(x, d.q1, d.median, d.q3))
        style = analysis.style
        words = f"{style.value(float(x[0]))} to {style.value(float(x[-1]))}" if axis == "own" else ""
        flagged = np.unique(analysis.sample.values[analysis.flags.rows])
        far = flagged[np.isfinite(flagged)][:: max(flagged.size // _MOST_FAR, 1)]
        # Bars of unequal width show as many values by their area.
        density = bars.counts / np.diff(bars.edges)
        strips.append(
            ComparisonStrip(
                analysis.column.name,
                (bars.edges - centre) / unit,
                density / density.max(),
                box,  # type: ignore[arg-type]
                (far - centre) / unit,
                words,
                curve=_curve(analysis, centre, unit),
            )
        )
    return strips


def _curve(analysis: ColumnAnalysis, centre: float, unit: float) -> tuple[Floats, Floats] | None:
    """The density of a column of measurements on the shared axis, with no more points than can be seen."""
    found = analysis.density
    if found is None or analysis.column.role in (Role.ORDERED, Role.YES_NO) or not found.y.size:
        return None
    step = max(found.x.size // _CURVE_POINTS, 1)
    return (found.x[::step] - centre) / unit, found.y[::step] / float(found.y.max())


def _axis_of(analysis: ColumnAnalysis, axis: str) -> tuple[float, float]:
    """Where the column's own numbers have 0 and 1 on the shared axis: what is taken off them, and what divides."""
    d, x = analysis.description, analysis.sample.sorted
    if axis == "standardised":
        return d.mean or 0.0, d.sd or 0.0
    return (float(x[0]), float(x[-1] - x[0])) if axis == "own" else (0.0, 1.0)


def box_of(x: Floats, q1: float, median: float, q3: float) -> tuple[float, float, float, float, float]:
    """Ends of the whiskers, quartiles and median; whiskers reach the farthest of the ascending ``x`` within 1.5 IQR."""
    fence = 1.5 * (q3 - q1)
    inner = x[np.searchsorted(x, q1 - fence, side="left") : np.searchsorted(x, q3 + fence, side="right")]
    ends = (float(inner[0]), float(inner[-1])) if inner.size else (q1, q3)
    return ends[0], q1, median, q3, ends[1]


def split_strips(split: Split, ghosts: Mapping[str, Floats], words: Mapping[str, str]) -> list[ComparisonStrip]:
    """A strip a group of ``split``, all in one scale; ``ghosts`` are shares in the same bins, by the group's name."""
    highest = max((float(group.shares.max(initial=0.0)) for group in split.groups), default=0.0)
    scale = highest or 1.0
    strips = []
    for group in split.groups:
        d, ghost = group.description, ghosts.get(group.name)
        box = None
        if d.q1 is not None and d.median is not None and d.q3 is not None:
            box = box_of(group.sample.sorted, d.q1, d.median, d.q3)
        far = group.far[:: max(group.far.size // _MOST_FAR, 1)]
        outline = None if ghost is None else np.minimum(ghost / scale, 1.2)
        name = f"{group.name or '(blank)'}"
        strips.append(
            ComparisonStrip(name, split.edges, group.shares / scale, box, far, words.get(group.name, ""), outline)
        )
    return strips


class _Strips(pg.GraphicsObject):
    """All strips, drawn once into a picture; the lowest stands at height 0."""

    def __init__(self) -> None:
        super().__init__()
        self._picture = QPicture()
        self._bounds = QRectF()

    def put(self, strips: Sequence[ComparisonStrip], *, over: bool = False) -> None:
        """Draw ``strips`` under each other, or ``over`` each other on one foot with their boxes below it."""
        self.prepareGeometryChange()
        self._picture = QPicture()
        painter = QPainter(self._picture)
        for place, strip in enumerate(strips if over else reversed(strips)):
            if over:
                _draw_over(painter, strip, place)
            else:
                _draw(painter, strip, float(place))
        painter.end()
        lows = [min(strip.edges[0], *strip.far.tolist(), *(strip.box or ())[:1]) for strip in strips]
        highs = [max(strip.edges[-1], *strip.far.tolist(), *(strip.box or ())[4:]) for strip in strips]
        low, high = min(lows, default=0.0), max(highs, default=1.0)
        foot = over_line(len(strips)) if over else -0.3
        tall = 1.1 if over else max(len(strips), 1) - 0.2
        self._bounds = QRectF(low, foot, max(high - low, 1e-300), tall - foot)
        self.update()

    def paint(self, painter: QPainter, *_: object) -> None:
        painter.drawPicture(0, 0, self._picture)

    def boundingRect(self) -> QRectF:
        return self._bounds


def over_line(place: int) -> float:
    """Where the box of the strip at ``place`` lies where strips are drawn over each other."""
    return -0.14 - 0.13 * place


def _draw_over(painter: QPainter, strip: ComparisonStrip, place: int) -> None:
    """The density, or the outline of the bars, and a box below in the same line, which tells whose it is."""
    shade, kind = _OVER[place % len(_OVER)]
    line = QPen(colour(shade), 1.8, kind)
    line.setCosmetic(True)
    painter.setBrush(Qt.BrushStyle.NoBrush)
    painter.setPen(line)
    if strip.curve is not None:
        painter.drawPath(pg.arrayToQPath(*strip.curve))
    else:
        heights = np.concatenate(([0.0], np.repeat(strip.heights, 2), [0.0]))
        painter.drawPath(pg.arrayToQPath(np.repeat(strip.edges, 2), heights))
    if strip.box is None:
        return
    low, q1, median, q3, high = strip.box
    at = over_line(place)
    painter.drawLine(QPointF(low, at), QPointF(high, at))
    painter.drawRect(QRectF(q1, at - 0.035, q3 - q1, 0.07))
    painter.drawLine(QPointF(median, at - 0.035), QPointF(median, at + 0.035))


def _draw(painter: QPainter, strip: ComparisonStrip, foot: float) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(brush(LIGHT.data, 0.85))
    for left, right, height in zip(strip.edges[:-1], strip.edges[1:], strip.heights, strict=True):
        if height > 0:
            painter.drawRect(QRectF(left, foot, right - left, height * _TALL))
    if strip.ghost is not None:
        edges = strip.edges if strip.ghost_edges is None else strip.ghost_edges
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(pen(LIGHT.probe, 1.5))
        # Up and down at every edge, from the foot to the foot.
        heights = np.concatenate(([0.0], np.repeat(strip.ghost, 2), [0.0])) * _TALL + foot
        path = pg.arrayToQPath(np.repeat(edges, 2), heights)
        painter.drawPath(path)
    if strip.box is None:
        return
    low, q1, median, q3, high = strip.box
    line = foot - _LINE
    painter.setPen(pen(LIGHT.reference, 1.2))
    painter.drawLine(QPointF(low, line), QPointF(high, line))
    painter.setPen(pen(LIGHT.ink, 4.0))
    painter.drawLine(QPointF(q1, line), QPointF(q3, line))
    painter.setPen(pen(LIGHT.panel, 2.0))
    painter.drawLine(QPointF(median, line - 0.07), QPointF(median, line + 0.07))


def _short(name: str) -> str:
    """A name as it stands beside its strip, where no markup is read."""
    return name if len(name) <= _LONGEST_NAME else f"{name[: _LONGEST_NAME - 9]}…{name[-8:]}"


class Comparison(pg.PlotWidget):
    """The chart; names stand at the left, words at the right, and the axis below says what it measures."""

    clicked = pyqtSignal(int, float)
    """The place of a strip (from 0, from above) and the value that were clicked."""

    def __init__(self) -> None:
        super().__init__(
            axisItems={"bottom": ValueAxis("bottom"), "right": pg.AxisItem("right")},
            background=colour(LIGHT.panel),
            enableMenu=False,
        )
        self.hideButtons()
        self.setMouseEnabled(x=True, y=False)
        self.strips = _Strips()
        self.names: list[str] = []
        self._shown: tuple[Sequence[ComparisonStrip], str, float | None, bool] = ((), "", None, False)
        self.far = pg.ScatterPlotItem(symbol="o", size=6, brush=None, pen=pen(LIGHT.flagged, 1.1))
        self.addItem(self.strips)
        self.addItem(self.far)
        for side in ("left", "right"):
            axis = self.getAxis(side)
            axis.setPen(pen(LIGHT.panel))
            axis.setTextPen(LIGHT.ink)
        self.zero = pg.InfiniteLine(pos=0.0, angle=90, pen=pen(LIGHT.reference, 1.0, dashed=True))
        self.addItem(self.zero, ignoreBounds=True)
        self.scene().sigMouseClicked.connect(self._clicked)

    def put(
        self,
        strips: Sequence[ComparisonStrip],
        words: str,
        *,
        zero: float | None = None,
        most: int = 0,
        over: bool = False,
    ) -> None:
        """Show ``strips`` from above, with ``words`` at the axis and a line at ``zero``; of many at most ``most``.

        Drawn ``over`` each other, at most `MOST_OVER` of them are shown.
        """
        strips = strips[:MOST_OVER] if over else strips
        self._shown = strips, words, zero, over
        self.strips.put(strips, over=over)
        self.names = [strip.name for strip in strips]
        feet = [over_line(place) if over else len(strips) - 1.0 - place for place in range(len(strips))]
        far = [np.full(strip.far.size, foot - (0 if over else _LINE)) for strip, foot in zip(strips, feet, strict=True)]
        places = [strip.far for strip in strips]
        self.far.setData(np.concatenate([np.zeros(0), *places]), np.concatenate([np.zeros(0), *far]))
        lines = [(foot + (0 if over else 0.15), strip) for strip, foot in zip(strips, feet, strict=True)]
        self.getAxis("left").setTicks([[(at, _short(strip.name)) for at, strip in lines]])
        told = [(at, strip.words) for at, strip in lines if strip.words]
        self.getAxis("right").setTicks([told])
        self.showAxis("right", bool(told))
        self.setLabel("bottom", axis_words(words))
        self.zero.setVisible(zero is not None)
        self.zero.setValue(zero or 0.0)
        bounds = self.strips.boundingRect()
        self.setRange(bounds, padding=0.03)
        if most:
            self.scroll_to(0, most)

    def again(self, heading: str, width: int, height: int) -> "Comparison":
        """The same chart, all strips of it, under a ``heading``, as a new one of another size that is not shown."""
        made = Comparison()
        made.resize(width, height)
        strips, words, zero, over = self._shown
        made.setTitle(escape(heading), size="10pt", color=LIGHT.ink)
        made.put(strips, words, zero=zero, over=over)
        plot = made.getPlotItem()
        for _ in range(2):
            # How wide its axes have to be is found out by painting them.
            plot.setGeometry(QRectF(0, 0, width, height))
            plot.layout.activate()
            made.grab()
        return made

    def scroll_to(self, first: int, shown: int) -> None:
        """Show ``shown`` strips from the one at ``first`` (from 0, from above) down."""
        top = max(len(self.names), 1) - first
        # One strip alone does not fill the whole height.
        self.setYRange(top - min(shown, max(len(self.names), 2)) - 0.3, top - 0.2, padding=0.0)

    def _clicked(self, event: MouseClickEvent) -> None:
        box = self.getViewBox()
        if not box.sceneBoundingRect().contains(event.scenePos()):
            return
        at = box.mapSceneToView(event.scenePos())
        place = len(self.names) - 1 - floor(at.y() + 0.3)
        if 0 <= place < len(self.names):
            self.clicked.emit(place, at.x())
