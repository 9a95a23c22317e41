"""The cumulative lane: the share of rows at or below each value, with that of the normal reference."""

import numpy as np
from PyQt6.QtWidgets import QGraphicsObject
from scipy.special import ndtr

from culvix.charts.items.export_items import CurveItem, LevelItem
from culvix.charts.lanes.lane import Lane
from culvix.charts.palette import SHADES, pen
from culvix.stats.display import count, per_cent
from culvix.study.pictures.column_pictures import ShapePicture

__all__ = ["CumulativeLane"]


class CumulativeLane(Lane):
    """A step at every value; it meets a quarter, a half and three quarters at the quartiles."""

    name = "cumulative"
    stretch = 34

    def __init__(self, upright: bool = False) -> None:
        super().__init__(upright)
        rule = pen(SHADES.rule, 0.8, dashed=True)
        self.quarters = [LevelItem(pos=share, angle=0, pen=rule) for share in (25, 50, 75)]
        self.reference = CurveItem(pen=pen(SHADES.reference, 1.4, dashed=True))
        self.steps = CurveItem(pen=pen(SHADES.data, 1.8), stepMode="right")
        items: tuple[QGraphicsObject, ...] = (*self.quarters, self.reference, self.steps)
        for item in items:
            self.add(item)
        self.view_box.setYRange(-3, 103, padding=0)
        self.axis_label("% at or below")

    def show_picture(self, picture: ShapePicture) -> None:
        super().show_picture(picture)
        values, shares = picture.steps
        self.note("" if values.size else "no values to count")
        if values.size:
            # From nothing below the first value to everything from the last one on.
            self.steps.setData(np.concatenate([[values[0]], values]), np.concatenate([[0.0], 100 * shares]))
        else:
            self.steps.clear()
        if picture.reference is None or picture.extent is None:
            self.reference.clear()
        else:
            mean, sd = picture.reference
            x = np.linspace(*picture.extent, 241)
            self.reference.setData(x, 100 * ndtr((x - mean) / sd))

    def reading(self, value: float) -> str:
        picture = self.picture
        if picture is None or not picture.n:
            return ""
        share = 1 - picture.sample.above(value) / picture.n
        text = f"{per_cent(share)} of {count(picture.n)} rows at or below"
        if picture.reference is None:
            return text
        mean, sd = picture.reference
        return f"{text}; a normal would have {per_cent(float(ndtr((value - mean) / sd)))}"
