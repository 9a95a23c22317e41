"""The box lane: quartiles, median, mean and whiskers, with every doubtful row as a mark of its own."""

import numpy as np
import pyqtgraph as pg

from culvix.charts.items.export_items import BarItem, CurveItem, on_page
from culvix.charts.items.row_markers import halo, rings, stagger
from culvix.charts.lanes.lane import Lane
from culvix.charts.palette import SHADES, brush, pen
from culvix.study.pictures.column_pictures import BoxNumbers, ShapePicture
from culvix.study.pictures.whole_outline import WholeOutline

__all__ = ["BoxLane"]

_HALF = 0.3
_WHOLE = -1.1
"""Where the box of the whole stands."""


class BoxLane(Lane):
    """Flagged rows are open rings, excluded ones crosses, corrected ones a dot with a line from the old place."""

    name = "box"
    stretch = 20

    def __init__(self, upright: bool = False) -> None:
        super().__init__(upright)
        self.whiskers = CurveItem(pen=pen(SHADES.ink, 1.4), connect="pairs")
        self.box = BarItem(x0=[], x1=[], height=[])
        self.notch = _Notch()
        self.median = CurveItem(pen=pen(SHADES.ink, 2.6))
        self.whole = CurveItem(pen=pen(SHADES.resolved, 1.4), connect="pairs")
        self.whole_box = CurveItem(pen=pen(SHADES.resolved, 6.0))
        self.whole_median = CurveItem(pen=pen(SHADES.panel, 2.0))
        self._whole_items = (self.whole, self.whole_box, self.whole_median)
        self.moves = CurveItem(pen=pen(SHADES.resolved, 0.8, alpha=0.5), connect="pairs")
        for item in (self.whiskers, self.box, self.notch, self.median, self.moves, *self._whole_items):
            self.add(item)
        self.mean = pg.ScatterPlotItem(symbol="d", size=9, brush=brush(SHADES.panel), pen=pen(SHADES.ink, 1.2))
        self.add(self.mean)
        self.points = self.marks(symbol="o", size=4, brush=brush(SHADES.data, 0.22), pen=None)
        self.points.setZValue(-1)
        self.selected = self.marks(symbol="o")
        self.flagged = self.marks()
        self.excluded = self.marks(symbol="x", size=7, brush=brush(SHADES.muted), pen=pen(SHADES.muted, 0.8))
        self.corrected = self.marks(symbol="o", size=7, brush=brush(SHADES.resolved), pen=pen(SHADES.resolved))

    def show_picture(self, picture: ShapePicture) -> None:
        super().show_picture(picture)
        self._draw_box(picture)
        self._draw_whole(picture.whole)
        self.points.setVisible(picture.box_points)
        if picture.box_points:
            self.points.put(picture.points, _height(picture.points.rows))
        rings(self.flagged, picture.flagged, _height(picture.flagged.rows))
        self.excluded.put(picture.excluded, _height(picture.excluded.rows))
        self.corrected.put(picture.corrected, _height(picture.corrected.rows))
        self.selected.put(picture.selected, _height(picture.selected.rows), **halo(picture.selected.rows.size))
        heights = np.repeat(_height(picture.corrected.rows), 2)
        self.moves.setData(np.column_stack((picture.corrected_from, picture.corrected.values)).ravel(), heights)

    def clip(self) -> None:
        if self.picture is not None and self.picture.corrected.rows.size:
            low, high = self.view_box.viewRange()[1 if self.upright else 0]
            ends = np.column_stack((self.picture.corrected_from, self.picture.corrected.values)).ravel()
            heights = np.repeat(_height(self.picture.corrected.rows), 2)
            self.moves.setData(np.clip(ends, min(low, high), max(low, high)), heights)

    def _draw_box(self, picture: ShapePicture) -> None:
        box = picture.box
        for item in (self.whiskers, self.box, self.median, self.mean):
            item.setVisible(box is not None)
        self.note("" if box else "no values in use")
        if box is None:
            return
        self.whiskers.setData([box.low, box.q1, box.q3, box.high], [0, 0, 0, 0])
        edges = {"x0": [box.q1], "x1": [box.q3], "y0": [-_HALF * 1.6], "height": [_HALF * 3.2]}
        notched = box.notch is not None
        self.box.setOpts(**edges, brush=brush(SHADES.data, 0.0 if notched else 0.20), pen=pen(SHADES.data, 1.2))
        self.box.setVisible(not notched)
        self.notch.show_box(box)
        self.median.setData([box.median, box.median], [-_HALF * 1.6, _HALF * 1.6])
        self.mean.setData([box.mean], [0.0])

    def _draw_whole(self, whole: WholeOutline | None) -> None:
        """The box of the whole as a line below, thick between its quartiles, with a gap at its median."""
        box = None if whole is None else whole.box
        self.view_box.setYRange(-1 if box is None else -1.45, 1, padding=0)
        self.height_axis.setTicks([[(0.0, "box"), *([] if box is None else [(_WHOLE, "whole")])]])
        for item in self._whole_items:
            item.setVisible(box is not None)
        if box is None:
            return
        self.whole.setData([box.low, box.q1, box.q3, box.high], [_WHOLE] * 4)
        self.whole_box.setData([box.q1, box.q3], [_WHOLE] * 2)
        self.whole_median.setData([box.median, box.median], [_WHOLE - 0.2, _WHOLE + 0.2])

    def reading(self, value: float) -> str:
        box = self.picture.box if self.picture else None
        if box is None:
            return ""
        whiskers = f"whiskers: {box.whiskers}"
        if value < box.low or value > box.high:
            return f"beyond the whiskers; {whiskers}"
        if value < box.q1 or value > box.q3:
            return f"between box and whisker end; {whiskers}"
        return f"in the box, the middle half; {whiskers}"

    def text_at(self, x: float, y: float) -> str:
        """The five numbers and the mean, where the pointer is over box or whiskers."""
        box = self.picture.box if self.picture else None
        if self.picture is None or box is None or not box.low <= x <= box.high or abs(y) > _HALF * 1.6:
            return ""
        style = self.picture.style
        parts = [("from", style.value(box.low)), ("Q1", style.statistic(box.q1))]
        parts += [("median", style.statistic(box.median)), ("Q3", style.statistic(box.q3))]
        parts += [("to", style.value(box.high)), (style.mean_name, style.statistic(box.mean))]
        text = " · ".join(f"{name} {value}" for name, value in parts)
        if box.notch is not None:
            text += f" · median's interval {style.value(box.notch[0])} – {style.value(box.notch[1])}"
        return text


class _Notch(pg.GraphicsObject):
    """A box drawn in at the median over the median's interval; nothing where there is none."""

    def __init__(self) -> None:
        super().__init__()
        self._path = pg.QtGui.QPainterPath()

    def show_box(self, box: BoxNumbers) -> None:
        self.prepareGeometryChange()
        self._path = pg.QtGui.QPainterPath()
        if box.notch is not None:
            # An interval that reaches beyond the box stands out of it; that is what small n looks like.
            x = np.array([box.q1, box.notch[0], box.median, box.notch[1], box.q3])
            y = _HALF * np.array([1.6, 1.6, 0.75, 1.6, 1.6])
            self._path = pg.arrayToQPath(np.concatenate((x, x[::-1])), np.concatenate((y, -y[::-1])))
            self._path.closeSubpath()
        self.update()

    def boundingRect(self) -> pg.QtCore.QRectF:
        return self._path.boundingRect()

    def paint(self, painter: pg.QtGui.QPainter, *_: object) -> None:
        with on_page(painter) as position:
            painter.setBrush(brush(SHADES.data, 0.20))
            painter.setPen(pen(SHADES.data, 1.2))
            painter.drawPath(position.map(self._path))


def _height(rows: np.ndarray) -> np.ndarray:
    return 0.62 * stagger(rows)
