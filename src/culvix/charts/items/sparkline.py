"""The sparkline of a column: a tiny histogram over its quartiles and far values, for the rail and the report."""

import json
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from PyQt6.QtCore import QLineF, QPointF, QRectF, QSize, QSizeF, Qt
from PyQt6.QtGui import QPainter, QPixmap

from culvix.charts.palette import SHADES, Palette, colour, pen
from culvix.stats.core.arrays import Floats
from culvix.stats.shape.histogram import Histogram
from culvix.study.analysis.column_analysis import ColumnAnalysis

__all__ = ["Sparkline", "draw_sparkline", "sparkline_from_json", "sparkline_json", "sparkline_of"]

_BARS = 40
_IMAGES_CACHED = 256
_MOST_MARKS, _ENDS = 500, 5
_AROUND = 2
"""Room around an image for the rings at its ends, in pixels."""


@dataclass(frozen=True, eq=False)
class Sparkline:
    """Heights of the bars (0 to 1) over the column's range, and where its box and flagged values stand (0 to 1)."""

    heights: Floats
    box: tuple[float, float, float, float, float] | None
    far: Floats


def sparkline_of(analysis: ColumnAnalysis) -> Sparkline | None:
    """The sparkline of a column, on the scale of its axis; None where it has no range."""
    x, d, bars, on = analysis.sample.sorted, analysis.description, analysis.axis.histogram, analysis.axis.scale
    if bars is None or not x.size or d.q1 is None or d.q3 is None or d.median is None:
        return None
    low, high = float(bars.edges[0]), float(bars.edges[-1])
    reach = high - low
    if not reach > 0:
        return None
    counts = _rebinned(bars)
    fence = 1.5 * (d.q3 - d.q1)
    first = int(np.searchsorted(x, d.q1 - fence, side="left"))
    last = int(np.searchsorted(x, d.q3 + fence, side="right")) - 1
    ends = (float(x[first]), float(x[last])) if first <= last else (d.q1, d.q3)
    box = tuple((on.position(float(v)) - low) / reach for v in (ends[0], d.q1, d.median, d.q3, ends[1]))
    flagged = on.positions(analysis.sample.values[analysis.flags.rows])
    far = np.unique(np.round((flagged[np.isfinite(flagged)] - low) / reach, 2))
    return Sparkline(counts / max(float(counts.max()), 1.0), box, far)  # type: ignore[arg-type]


def sparkline_json(column: str, sparkline: Sparkline) -> str:
    """The picture of ``column`` as JSON, to be drawn again without the column."""
    heights, far = (np.round(values, 3).tolist() for values in (sparkline.heights, sparkline.far))
    box = sparkline.box and [round(end, 4) for end in sparkline.box]
    return json.dumps({"column": column, "heights": heights, "box": box, "far": far})


def sparkline_from_json(text: str) -> tuple[str, Sparkline] | None:
    """A column and its picture, as `sparkline_json` wrote it; None for what is none."""
    try:
        plain = json.loads(text)
        heights, far = (np.array([float(value) for value in plain[name]][:_MOST_MARKS]) for name in ("heights", "far"))
        box = plain["box"] and tuple(float(end) for end in plain["box"])
        whole = np.concatenate((heights, far, box or ()))
        if not heights.size or (box and len(box) != _ENDS) or not ((whole > -1) & (whole < 2)).all():
            return None
        return str(plain["column"]), Sparkline(heights, box or None, far)
    except (ValueError, TypeError, KeyError, IndexError, RecursionError):
        return None


def _rebinned(bars: Histogram) -> Floats:
    """Counts of neighbouring bins added up until at most forty are left."""
    group = -(-bars.counts.size // _BARS)
    padded = np.pad(bars.counts, (0, -bars.counts.size % group))
    return np.asarray(padded.reshape(-1, group).sum(axis=1), dtype=np.float64)


def draw_sparkline(painter: QPainter, area: QRectF, sparkline: Sparkline) -> None:
    """Draw ``sparkline`` into ``area`` of a widget: bars above, box line and far values below."""
    device = painter.device()
    ratio = device.devicePixelRatioF() if device is not None else 1.0
    corner = area.topLeft() - QPointF(_AROUND, _AROUND)
    painter.drawPixmap(corner, _image(sparkline, area.size().toSize(), ratio, SHADES.palette))


@lru_cache(_IMAGES_CACHED)
def _image(sparkline: Sparkline, size: QSize, ratio: float, palette: Palette) -> QPixmap:
    """A sparkline as it is painted time and again."""
    image = QPixmap((size + 2 * QSize(_AROUND, _AROUND)) * ratio)
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    _draw(painter, QRectF(QPointF(_AROUND, _AROUND), QSizeF(size)), sparkline, palette)
    painter.end()
    return image


def _draw(painter: QPainter, area: QRectF, sparkline: Sparkline, palette: Palette) -> None:
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    base = area.bottom() - 8
    tall = base - area.top()
    width = area.width() / sparkline.heights.size
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(colour(palette.data, 0.85))
    for position, height in enumerate(sparkline.heights.tolist()):
        if height > 0:
            size = max(height * tall, 1.0)
            painter.drawRect(QRectF(area.left() + position * width, base - size, max(width - 0.6, 0.8), size))
    line = base + 5
    if sparkline.box:
        low, q1, median, q3, high = (area.left() + area.width() * v for v in sparkline.box)
        painter.setPen(pen(palette.reference, 1.2))
        painter.drawLine(QLineF(low, line, high, line))
        painter.setPen(pen(palette.ink, 3.0))
        painter.drawLine(QLineF(q1, line, max(q3, q1 + 1), line))
        painter.setPen(pen(palette.panel, 1.6))
        painter.drawLine(QLineF(median, line - 2, median, line + 2))
    painter.setPen(pen(palette.flagged, 1.1))
    painter.setBrush(Qt.BrushStyle.NoBrush)
    for position in sparkline.far.tolist():
        painter.drawEllipse(QRectF(area.left() + area.width() * position - 1.6, line - 1.6, 3.2, 3.2))
