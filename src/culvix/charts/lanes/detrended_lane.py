"""The detrended Q-Q lane: how far each value lies from the Q-Q line, at its place on the shared axis."""

import numpy as np
from PyQt6.QtWidgets import QGraphicsItem

from culvix.charts.items.band import Band
from culvix.charts.items.export_items import LevelItem
from culvix.charts.items.row_markers import halo, rings
from culvix.charts.lanes.lane import Lane
from culvix.charts.palette import SHADES, brush, pen
from culvix.stats.display import signed
from culvix.study.pictures.column_pictures import Marks, ShapePicture

__all__ = ["DetrendedLane"]


class DetrendedLane(Lane):
    """Distances are in SDs of the line, so that they compare between columns; the band is that of the Q-Q lane."""

    name = "detrended Q-Q"
    stretch = 30

    def __init__(self, upright: bool = False) -> None:
        super().__init__(upright)
        self.band = Band()
        self.line = LevelItem(pos=0.0, angle=0, pen=pen(SHADES.reference, 1.4, dashed=True))
        for item in (self.band, self.line):
            self.add(item)
        self.selected = self.marks(symbol="o")
        self.points = self.marks(symbol="o", size=4.5, brush=brush(SHADES.data), pen=None)
        self.flagged = self.marks()
        outline = pen(SHADES.flagged, 1.6)
        self.above = self.marks(symbol=self.pointing(up=True), size=9, brush=None, pen=outline)
        self.below = self.marks(symbol=self.pointing(up=False), size=9, brush=None, pen=outline)
        self.axis_label("SDs off the line")

    def show_picture(self, picture: ShapePicture) -> None:
        super().show_picture(picture)
        points = picture.qq
        items: tuple[QGraphicsItem, ...] = (self.band, self.line, *self.scene_marks)
        for item in items:
            item.setVisible(points is not None)
        self.tell_if_empty(
            "" if points else "no Q-Q line: it needs a measurement with three values that are not all equal"
        )
        if points is None:
            return
        off = points.detrended()
        rows, away = picture.qq_rows, off.value / points.slope
        expected = points.centre + points.slope * points.z
        self.band.set_edges(
            np.concatenate((expected, expected[::-1])),
            np.concatenate((off.low, off.high[::-1])) / points.slope,
        )
        marked, chosen = np.isin(rows, picture.flagged.rows), np.isin(rows, picture.selected.rows)
        weights = picture.weights_of(rows)
        # The rows nobody doubts set the range; a doubtful one farther off stands at the edge, pointing outwards.
        plain = away[~marked] if bool((~marked).any()) else away
        reach = max(1.25 * float(np.abs(plain).max()), 0.2)
        shown = np.clip(away, -reach, reach)
        self.points.put(Marks(rows[~marked], points.value[~marked], weights[~marked]), shown[~marked])
        inside = marked & (np.abs(away) <= reach)
        rings(self.flagged, Marks(rows[inside], points.value[inside], weights[inside]), shown[inside])
        for item, beyond in ((self.above, away > reach), (self.below, away < -reach)):
            item.put(Marks(rows[beyond], points.value[beyond], weights[beyond]), shown[beyond])
        style = halo(picture.selected.rows.size)
        self.selected.put(Marks(rows[chosen], points.value[chosen], weights[chosen]), shown[chosen], **style)
        self.view_box.setYRange(-1.2 * reach, 1.2 * reach, padding=0)

    def reading(self, value: float) -> str:
        points = self.picture.qq if self.picture else None
        if points is None:
            return ""
        off = points.detrended().value / points.slope
        return f"{signed(float(np.interp(value, points.value, off)))} SDs off the line"
