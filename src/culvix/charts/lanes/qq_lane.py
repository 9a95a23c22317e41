"""The Q-Q lane: values along the shared axis, normal quantiles upward, with the pointwise band."""

import numpy as np

from culvix.charts.items.band import Band
from culvix.charts.items.export_items import CurveItem
from culvix.charts.items.row_markers import halo, rings
from culvix.charts.lanes.lane import Lane, cut_line
from culvix.charts.palette import SHADES, brush, pen
from culvix.stats.core.arrays import Floats
from culvix.stats.display import correlation, signed
from culvix.study.pictures.column_pictures import Marks, ShapePicture

__all__ = ["QQLane"]


class QQLane(Lane):
    """Points on the line are normal; the band is where each single point may stray at the study's level."""

    name = "Q-Q"
    stretch = 38

    def __init__(self, upright: bool = False) -> None:
        super().__init__(upright)
        self.low = CurveItem(pen=pen(SHADES.reference, 0.6, alpha=0.6))
        self.high = CurveItem(pen=pen(SHADES.reference, 0.6, alpha=0.6))
        self.band = Band()
        self.line = CurveItem(pen=pen(SHADES.reference, 1.4, dashed=True))
        for item in (self.band, self.low, self.high, self.line):
            self.add(item)
        self.selected = self.marks(symbol="o")
        self.points = self.marks(symbol="o", size=4.5, brush=brush(SHADES.data), pen=None)
        self.flagged = self.marks()
        self.axis_label("normal quantile")

    def show_picture(self, picture: ShapePicture) -> None:
        super().show_picture(picture)
        points = picture.qq
        everything = (self.band, self.low, self.high, self.line, self.points, self.flagged, self.selected)
        for item in everything:
            item.setVisible(points is not None)
        if points is None:
            self.tell_if_empty("no Q-Q line: it needs a measurement with three values that are not all equal")
            return
        self.tell_if_empty()
        rows = picture.qq_rows
        self.low.setData(points.low, points.z)
        self.high.setData(points.high, points.z)
        self._fill_band(points.low, points.high, points.z)
        top = float(points.z[-1])
        self.line.setData([points.centre - points.slope * top, points.centre + points.slope * top], [-top, top])
        marked, chosen = np.isin(rows, picture.flagged.rows), np.isin(rows, picture.selected.rows)
        weights = picture.weights_of(rows)
        self.points.put(Marks(rows[~marked], points.value[~marked], weights[~marked]), points.z[~marked])
        rings(self.flagged, Marks(rows[marked], points.value[marked], weights[marked]), points.z[marked])
        style = halo(picture.selected.rows.size)
        self.selected.put(Marks(rows[chosen], points.value[chosen], weights[chosen]), points.z[chosen], **style)
        self.view_box.setYRange(-top * 1.12, top * 1.12, padding=0)

    def _fill_band(self, low: Floats, high: Floats, z: Floats) -> None:
        self.band.set_edges(np.concatenate((low, high[::-1])), np.concatenate((z, z[::-1])))

    def clip(self) -> None:
        points = self.picture.qq if self.picture else None
        if points is None:
            return
        (low, high), (bottom, top) = self.view_box.viewRange()
        edges = np.clip(points.low, low, high), np.clip(points.high, low, high)
        self.low.setData(edges[0], points.z)
        self.high.setData(edges[1], points.z)
        self._fill_band(*edges, points.z)
        self.line.setData(*cut_line(points.slope, points.centre, (bottom, top), (low, high))[::-1])

    def reading(self, value: float) -> str:
        points = self.picture.qq if self.picture else None
        if points is None:
            return ""
        # Both say where a normal would have the value, to what a picture can tell.
        here = round(float(np.interp(value, points.value, points.z)), 2)
        line = round((value - points.centre) / points.slope, 2)
        return (
            f"normal quantile {signed(here)}, on the line {signed(line)}; correlation {correlation(points.correlation)}"
        )
