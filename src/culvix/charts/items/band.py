"""An area between two edges, drawn as one polygon."""

import pyqtgraph as pg

from culvix.charts.items.export_items import on_page
from culvix.charts.palette import SHADES, brush
from culvix.stats.core.arrays import Floats

__all__ = ["Band"]


class Band(pg.GraphicsObject):
    """The grey band of a Q-Q picture."""

    def __init__(self) -> None:
        super().__init__()
        self._path = pg.QtGui.QPainterPath()

    def set_edges(self, x: Floats, y: Floats) -> None:
        """Fill the polygon through ``x`` and ``y`` (both shape ``(m,)``)."""
        self.prepareGeometryChange()
        self._path = pg.arrayToQPath(x, y)
        self._path.closeSubpath()
        self.update()

    def boundingRect(self) -> pg.QtCore.QRectF:
        return self._path.boundingRect()

    def paint(self, painter: pg.QtGui.QPainter, *_: object) -> None:
        with on_page(painter) as position:
            painter.fillPath(position.map(self._path), brush(SHADES.reference, 0.18))
