"""Marks of rows: dots, rings and crosses of one size on the screen, which tell which row stands where.

A mark is drawn once into a small image and stamped at every place, all places at a time; only a picture that goes into
a file has each of them drawn as a shape.
"""

from functools import cache
from typing import Any

import numpy as np
import pyqtgraph as pg
from PyQt6 import sip
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QBrush, QPainter, QPen, QPixmap
from pyqtgraph.graphicsItems.ScatterPlotItem import drawSymbol

from culvix.charts.palette import SHADES, brush, pen
from culvix.stats.core.arrays import Bools, Floats, Ints
from culvix.study.pictures.column_pictures import Marks

__all__ = ["MarkItem", "dwindled", "halo", "rings", "stagger"]

_FEW_SELECTED = 60
_FEW_FLAGGED, _FARTHEST = 120, 8
"""Up to so many flagged marks are of full size, and of more so many at either end."""
_NO_PEN = QPen(Qt.PenStyle.NoPen)
_NO_BRUSH = QBrush(Qt.BrushStyle.NoBrush)
_FRAGMENT = 10
"""Numbers in a fragment: its middle, its source rectangle, its scales, its rotation and its opacity."""

_FAR = 1e6
"""Farther than this outside a picture, in pixels, nothing is drawn."""

Style = tuple[str, float, QPen, QBrush]
"""Symbol, size in pixels, pen and brush."""


@cache
def _image(key: tuple[object, ...], symbol: str, size: float, ratio: float) -> QPixmap:
    """The mark of a style as an image; ``key`` stands for its pen and brush."""
    outline, fill = _STYLES[key]
    room = int(np.ceil(size + outline.widthF() + 3))
    image = QPixmap(round(room * ratio), round(room * ratio))
    image.setDevicePixelRatio(ratio)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(room / 2, room / 2)
    drawSymbol(painter, symbol, size, outline, fill)
    painter.end()
    return image


_STYLES: dict[tuple[object, ...], tuple[QPen, QBrush]] = {}


def _image_of(style: Style, ratio: float) -> QPixmap:
    symbol, size, outline, fill = style
    key = (outline.color().rgba(), outline.widthF(), outline.style(), fill.color().rgba(), fill.style())
    _STYLES.setdefault(key, (outline, fill))
    return _image(key, symbol, size, ratio)


class MarkItem(pg.GraphicsObject):
    """Marks at ``x`` and ``y`` (shape ``(k,)``) of ``rows``; ``kinds`` say which of ``styles`` each has."""

    def __init__(self, **style: object) -> None:
        super().__init__()
        self.x: Floats = np.zeros(0)
        self.y: Floats = np.zeros(0)
        self.rows: Ints = np.zeros(0, dtype=np.int64)
        self.kinds: Ints = np.zeros(0, dtype=np.int64)
        self._usual = style
        self.styles: list[Style] = [self._style({})]

    def _style(self, changes: dict[str, object]) -> Style:
        style = {"symbol": "o", "size": 7.0, "pen": None, "brush": None, **self._usual, **changes}
        outline, fill = style["pen"], style["brush"]
        return (
            str(style["symbol"]),
            float(style["size"]),  # type: ignore[arg-type]
            outline if isinstance(outline, QPen) else _NO_PEN,
            fill if isinstance(fill, QBrush) else _NO_BRUSH,
        )

    def put(self, marks: Marks, y: Floats | float, **style: object) -> None:
        """Draw ``marks`` at height ``y`` (one for each, or one for all), all in one style."""
        self.put_kinds(marks, y, np.zeros(marks.rows.size, dtype=np.int64), [self._style(style)])

    def put_kinds(self, marks: Marks, y: Floats | float, kinds: Ints, styles: list[Style]) -> None:
        """Draw ``marks`` at height ``y``, each in the style that ``kinds`` says."""
        self.prepareGeometryChange()
        self.x, self.rows = marks.values, marks.rows
        self.y = np.broadcast_to(np.asarray(y, dtype=np.float64), marks.values.shape)
        self.kinds, self.styles = kinds, styles
        self.update()

    def viewTransformChanged(self) -> None:
        super().viewTransformChanged()
        self.prepareGeometryChange()

    def boundingRect(self) -> QRectF:
        view = self.viewRect()
        return QRectF() if view is None or not self.x.size else QRectF(view)

    def paint(self, painter: QPainter, *_: object) -> None:
        if not self.x.size:
            return
        at = pg.functions.transformCoordinates(painter.transform(), np.vstack((self.x, self.y)))
        seen = (np.abs(at) < _FAR).all(axis=0)
        painter.resetTransform()
        exported = getattr(self, "_exportOpts", False)
        for kind, style in enumerate(self.styles):
            mine = seen & (self.kinds == kind)
            if exported:
                _draw(painter, at, mine, style)
            elif mine.any():
                _stamp(painter, at, mine, style)


def _draw(painter: QPainter, at: Floats, which: Bools, style: Style) -> None:
    """Each mark as a shape."""
    for x, y in at[:, which].T.tolist():
        painter.resetTransform()
        painter.translate(x, y)
        drawSymbol(painter, *style)


def _stamp(painter: QPainter, at: Floats, which: Bools, style: Style) -> None:
    """All marks of a style as images, in one call."""
    device = painter.device()
    ratio = device.devicePixelRatioF() if device is not None else 1.0
    image = _image_of(style, ratio)
    many = int(np.count_nonzero(which))
    # The stubs know neither of both calls.
    fragments: Any = sip.array(QPainter.PixmapFragment, many)  # type: ignore[call-arg]
    memory: Any = sip.voidptr(fragments, many * _FRAGMENT * 8)
    numbers = np.frombuffer(memory, dtype=np.float64).reshape(many, _FRAGMENT)
    numbers[:, :2] = at[:, which].T
    numbers[:, 2:] = (0, 0, image.width(), image.height(), 1 / ratio, 1 / ratio, 0, 1)
    painter.drawPixmapFragments(fragments, image)


def stagger(rows: Ints) -> Floats:
    """A fixed place between −1 and 1 for each row, spread evenly, so that equal values do not hide each other."""
    return np.asarray(2 * ((rows * 0.6180339887498949) % 1.0) - 1)


def rings(item: MarkItem, marks: Marks, y: Floats | float) -> None:
    """Open rings, heavier with each method that agrees.

    Of many they are smaller and fainter, so that the picture stays about the data; the farthest on either side are as
    large as ever.
    """
    weights, kinds = np.unique(marks.weights, return_inverse=True)
    styles = [_ring(weight, 1.0, 1.0) for weight in weights.tolist()]
    size, strength = dwindled(marks.rows.size)
    if size < 1:
        styles += [_ring(weight, size, strength) for weight in weights.tolist()]
        order = np.argsort(marks.values, kind="stable")
        kinds[order[_FARTHEST:-_FARTHEST]] += weights.size
    item.put_kinds(marks, y, kinds.astype(np.int64), styles)


def _ring(weight: int, size: float, strength: float) -> Style:
    """A ring for what ``weight`` methods flag, as a share of its usual size and opacity."""
    return "o", 8.0 * size, pen(SHADES.flagged, size * (0.8 + 0.5 * weight), alpha=strength), _NO_BRUSH


def dwindled(many: int) -> tuple[float, float]:
    """By which factors ``many`` marks are smaller and fainter than a few."""
    if many <= _FEW_FLAGGED:
        return 1.0, 1.0
    share = (_FEW_FLAGGED / many) ** 0.5
    return max(share, 0.45), max(share, 0.4)


def halo(many: int) -> dict[str, object]:
    """Style of the marks of ``many`` selected rows: a ring of light around a few, a plain dot for each of many."""
    if many <= _FEW_SELECTED:
        return {"size": 14, "brush": brush(SHADES.probe, 0.30), "pen": pen(SHADES.probe, 1.2)}
    return {"size": 6, "brush": brush(SHADES.probe, 0.65), "pen": None}
