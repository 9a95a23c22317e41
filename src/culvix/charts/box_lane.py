"""The box lane: quartiles, median, mean and whiskers, with every doubtful row as a mark of its own."""

import numpy as np
import pyqtgraph as pg

from culvix.charts.lane import Lane, halo, rings, stagger
from culvix.charts.palette import LIGHT, brush, pen
from culvix.stats.quantiles import QUANTILE_TYPES
from culvix.study.pictures import ShapePicture

__all__ = ["BoxLane"]

_HALF = 0.3


class BoxLane(Lane):
    """Flagged rows are open rings, excluded ones crosses, corrected ones a dot with a line from the old place."""

    name = "box"
    stretch = 20

    def __init__(self) -> None:
        super().__init__()
        self.whiskers = pg.PlotCurveItem(pen=pen(LIGHT.ink, 1.4), connect="pairs")
        self.box = pg.BarGraphItem(x0=[], x1=[], height=[])
        self.median = pg.PlotCurveItem(pen=pen(LIGHT.ink, 2.6))
        self.moves = pg.PlotCurveItem(pen=pen(LIGHT.settled, 1.2), connect="pairs")
        for item in (self.whiskers, self.box, self.median, self.moves):
            self.addItem(item, ignoreBounds=True)
        self.mean = pg.ScatterPlotItem(symbol="d", size=9, brush=brush(LIGHT.panel), pen=pen(LIGHT.ink, 1.2))
        self.addItem(self.mean, ignoreBounds=True)
        self.selected = self.marks(symbol="o")
        self.flagged = self.marks()
        self.excluded = self.marks(symbol="x", size=7, brush=brush(LIGHT.muted), pen=pen(LIGHT.muted, 0.8))
        self.corrected = self.marks(symbol="o", size=7, brush=brush(LIGHT.settled), pen=pen(LIGHT.settled))
        self.setYRange(-1, 1, padding=0)
        self.getAxis("left").setTicks([[(0.0, "box")]])

    def show_picture(self, picture: ShapePicture) -> None:
        super().show_picture(picture)
        self._draw_box(picture)
        rings(self.flagged, picture.flagged, _height(picture.flagged.rows))
        self.excluded.put(picture.excluded, _height(picture.excluded.rows))
        self.corrected.put(picture.corrected, _height(picture.corrected.rows))
        self.selected.put(picture.selected, _height(picture.selected.rows), **halo(picture.selected.rows.size))
        heights = np.repeat(_height(picture.corrected.rows), 2)
        self.moves.setData(np.column_stack((picture.corrected_from, picture.corrected.values)).ravel(), heights)

    def _draw_box(self, picture: ShapePicture) -> None:
        box = picture.box
        for item in (self.whiskers, self.box, self.median, self.mean):
            item.setVisible(box is not None)
        self.note("" if box else "no values in use")
        if box is None:
            return
        self.whiskers.setData([box.low, box.q1, box.q3, box.high], [0, 0, 0, 0])
        self.box.setOpts(
            x0=[box.q1],
            x1=[box.q3],
            y0=[-_HALF * 1.6],
            height=[_HALF * 3.2],
            brush=brush(LIGHT.data, 0.20),
            pen=pen(LIGHT.data, 1.2),
        )
        self.median.setData([box.median, box.median], [-_HALF * 1.6, _HALF * 1.6])
        self.mean.setData([box.mean], [0.0])

    def reading(self, value: float) -> str:
        box = self.picture.box if self.picture else None
        if box is None:
            return ""
        if value < box.low or value > box.high:
            return "beyond the whiskers"
        if value < box.q1 or value > box.q3:
            return "between box and whisker end"
        return "in the box, the middle half"


def _height(rows: np.ndarray) -> np.ndarray:
    return 0.62 * stagger(rows)


def convention(quantile_type: int, fences: float) -> str:
    """How this box is drawn, in words."""
    return f"box: quartiles {QUANTILE_TYPES[quantile_type]}; whiskers to the farthest value within {fences:g} IQR"
