"""Several columns one above the other on one axis: their common one, or each in its own standard deviations."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QPointF, QRectF, Qt
from PyQt6.QtGui import QPainter, QPicture

from culvix.charts.lane import ValueAxis, axis_words
from culvix.charts.palette import LIGHT, brush, colour, pen
from culvix.stats.arrays import Floats
from culvix.study.analysis import ColumnAnalysis

__all__ = ["Comparison", "ComparisonStrip", "comparison_strips"]

_TALL = 0.62
_LINE = 0.16
_MOST_FAR = 400
_LONGEST_NAME = 30


@dataclass(frozen=True, eq=False)
class ComparisonStrip:
    """One column on the shared axis: bars, box and flagged values in the units of that axis."""

    name: str
    edges: Floats
    heights: Floats
    box: tuple[float, float, float, float, float]
    far: Floats


def comparison_strips(analyses: Sequence[ColumnAnalysis], *, standardised: bool) -> list[ComparisonStrip]:
    """Strips of the columns that have a range; ``standardised`` puts each into SDs from its mean."""
    strips = []
    for analysis in analyses:
        bars, d, x = analysis.histogram, analysis.description, analysis.sample.sorted
        if bars is None or d.q1 is None or d.median is None or d.q3 is None or d.mean is None:
            continue
        centre, unit = (d.mean, d.sd or 0.0) if standardised else (0.0, 1.0)
        if not unit > 0:
            continue
        fence = 1.5 * (d.q3 - d.q1)
        inner = x[np.searchsorted(x, d.q1 - fence, side="left") : np.searchsorted(x, d.q3 + fence, side="right")]
        ends = (float(inner[0]), float(inner[-1])) if inner.size else (d.q1, d.q3)
        box = tuple((value - centre) / unit for value in (ends[0], d.q1, d.median, d.q3, ends[1]))
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
            )
        )
    return strips


class _Strips(pg.GraphicsObject):
    """All strips, drawn once into a picture; the lowest stands at height 0."""

    def __init__(self) -> None:
        super().__init__()
        self._picture = QPicture()
        self._bounds = QRectF()

    def put(self, strips: Sequence[ComparisonStrip]) -> None:
        self.prepareGeometryChange()
        self._picture = QPicture()
        painter = QPainter(self._picture)
        for place, strip in enumerate(reversed(strips)):
            _draw(painter, strip, float(place))
        painter.end()
        lows = [min(strip.edges[0], *strip.far.tolist(), strip.box[0]) for strip in strips]
        highs = [max(strip.edges[-1], *strip.far.tolist(), strip.box[4]) for strip in strips]
        low, high = min(lows, default=0.0), max(highs, default=1.0)
        self._bounds = QRectF(low, -0.3, max(high - low, 1e-300), max(len(strips), 1) + 0.1)
        self.update()

    def paint(self, painter: QPainter, *_: object) -> None:
        painter.drawPicture(0, 0, self._picture)

    def boundingRect(self) -> QRectF:
        return self._bounds


def _draw(painter: QPainter, strip: ComparisonStrip, foot: float) -> None:
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(brush(LIGHT.data, 0.85))
    for left, right, height in zip(strip.edges[:-1], strip.edges[1:], strip.heights, strict=True):
        if height > 0:
            painter.drawRect(QRectF(left, foot, right - left, height * _TALL))
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
    """The chart; names stand at the left, the axis below says what it measures."""

    def __init__(self) -> None:
        super().__init__(axisItems={"bottom": ValueAxis("bottom")}, background=colour(LIGHT.panel))
        self.hideButtons()
        self.setMenuEnabled(False)
        self.setMouseEnabled(x=True, y=False)
        self.strips = _Strips()
        self.far = pg.ScatterPlotItem(symbol="o", size=6, brush=None, pen=pen(LIGHT.flagged, 1.1))
        self.addItem(self.strips)
        self.addItem(self.far)
        left = self.getAxis("left")
        left.setPen(pen(LIGHT.panel))
        left.setTextPen(LIGHT.ink)
        self.zero = pg.InfiniteLine(pos=0.0, angle=90, pen=pen(LIGHT.reference, 1.0, dashed=True))
        self.addItem(self.zero, ignoreBounds=True)

    def put(self, strips: Sequence[ComparisonStrip], words: str, *, standardised: bool) -> None:
        """Show ``strips`` from above, with ``words`` at the axis."""
        self.strips.put(strips)
        heights = [np.full(strip.far.size, place - _LINE) for place, strip in enumerate(reversed(strips))]
        places = [strip.far for strip in reversed(strips)]
        self.far.setData(np.concatenate([np.zeros(0), *places]), np.concatenate([np.zeros(0), *heights]))
        names = [(place + 0.15, _short(strip.name)) for place, strip in enumerate(reversed(strips))]
        self.getAxis("left").setTicks([names])
        self.setLabel("bottom", axis_words(words))
        self.zero.setVisible(standardised)
        bounds = self.strips.boundingRect()
        self.setRange(bounds, padding=0.03)
