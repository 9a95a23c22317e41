"""The points lane: every row as a dot, spread upward so that equal values do not hide each other."""

import pyqtgraph as pg

from culvix.charts.lane import Lane, halo, rings, stagger
from culvix.charts.palette import LIGHT, brush
from culvix.stats.display import count
from culvix.study.pictures import ShapePicture

__all__ = ["PointsLane"]


class PointsLane(Lane):
    """Of very many rows an even selection is drawn, and the lane says so."""

    name = "points"
    stretch = 26

    def __init__(self) -> None:
        super().__init__()
        self.selected = self.marks(symbol="o")
        self.points = self.marks(symbol="o", size=4, brush=brush(LIGHT.data, 0.45), pen=None)
        self.flagged = self.marks()
        self.excluded = self.marks(symbol="x", size=7, brush=brush(LIGHT.muted), pen=pg.mkPen(LIGHT.muted))
        self.setYRange(-1.15, 1.15, padding=0)
        self.getAxis("left").setTicks([[(0.0, "rows")]])

    def show_picture(self, picture: ShapePicture) -> None:
        super().show_picture(picture)
        drawn = picture.points
        self.note("" if drawn.rows.size else "no values in use")
        self.points.put(drawn, stagger(drawn.rows))
        rings(self.flagged, picture.flagged, stagger(picture.flagged.rows))
        self.excluded.put(picture.excluded, stagger(picture.excluded.rows))
        self.selected.put(picture.selected, stagger(picture.selected.rows), **halo(picture.selected.rows.size))

    def reading(self, value: float) -> str:
        picture = self.picture
        if picture is None or picture.points.rows.size >= picture.n - picture.flagged.rows.size:
            return ""
        return f"{count(picture.points.rows.size)} of {count(picture.n)} rows drawn"
