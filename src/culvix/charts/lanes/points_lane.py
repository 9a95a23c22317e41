"""The points lane: every row as a dot, spread upward or stacked so that equal values do not hide each other."""

import numpy as np
import pyqtgraph as pg

from culvix.charts.items.row_markers import halo, rings, stagger
from culvix.charts.lanes.lane import Lane
from culvix.charts.palette import SHADES, brush, pen
from culvix.stats.core.arrays import Floats
from culvix.stats.display import count
from culvix.study.pictures.column_pictures import Marks, ShapePicture

__all__ = ["PointsLane"]

_COLUMNS = 150
_REACH = 10.0
_LOWEST_STACK = 12.0
"""A stack lower than this does not fill the lane."""


class PointsLane(Lane):
    """Of very many rows an even selection is drawn, and the lane says so."""

    name = "points"
    stretch = 26

    def __init__(self, upright: bool = False) -> None:
        super().__init__(upright)
        self.selected = self.marks(symbol="o")
        self.points = self.marks(symbol="o", size=4, brush=brush(SHADES.data, 0.45), pen=None)
        self.flagged = self.marks()
        self.excluded = self.marks(symbol="x", size=7, brush=brush(SHADES.muted), pen=pg.mkPen(SHADES.muted))
        self.height_axis.setTicks([[(0.0, "rows")]])
        self.mover = pg.ScatterPlotItem(symbol="d", size=14, brush=brush(SHADES.caution), pen=pen(SHADES.ink, 1.2))
        self.ghost = pg.ScatterPlotItem(symbol="d", size=14, brush=None, pen=pen(SHADES.caution, 1.4))
        for item in (self.ghost, self.mover):
            item.setZValue(60)
            self.add(item)
        self.view_box.handle_at = self._mover_at

    def show_mover(self, row: int, origin: float | None, value: float | None = None) -> None:
        """Show the point of ``row`` to be dragged, at ``value`` or else at its ``origin``, where it leaves a ghost."""
        stacked = self.picture is not None and self.picture.stacked
        y = 0.0 if stacked else float(stagger(np.array([row]))[0])
        self.ghost.setData([] if origin is None or value is None else [origin], [] if value is None else [y])
        at = origin if value is None else value
        self.mover.setData([] if at is None else [at], [] if at is None else [y])

    def _mover_at(self, x: float, y: float) -> int | None:
        """The point under the pointer that can be dragged."""
        positions, heights = self.mover.getData()
        if not len(positions):
            return None
        x_pixel, y_pixel = self.view_box.viewPixelSize()
        return 0 if np.hypot((positions[0] - x) / x_pixel, (heights[0] - y) / y_pixel) <= _REACH else None

    def show_picture(self, picture: ShapePicture) -> None:
        super().show_picture(picture)
        self.note("" if picture.points.rows.size else "no values in use")
        shown = (picture.points, picture.flagged, picture.excluded, picture.selected)
        heights = _stacked(shown, picture.extent) if picture.stacked else [stagger(marks.rows) for marks in shown]
        self.view_box.setYRange(*((-0.05, 1.1) if picture.stacked else (-1.15, 1.15)), padding=0)
        self.height_axis.setTicks([[(0.5 if picture.stacked else 0.0, "rows")]])
        self.points.put(picture.points, heights[0])
        rings(self.flagged, picture.flagged, heights[1])
        self.excluded.put(picture.excluded, heights[2])
        self.selected.put(picture.selected, heights[3], **halo(picture.selected.rows.size))

    def reading(self, value: float) -> str:
        picture = self.picture
        if picture is None or picture.points.rows.size >= picture.n - picture.flagged.rows.size:
            return ""
        return f"{count(picture.points.rows.size)} of {count(picture.n)} rows drawn"


def _stacked(shown: tuple[Marks, ...], extent: tuple[float, float] | None) -> list[Floats]:
    """Heights from 0 to 1: dots of about the same value stand on each other; a selected row stands at its own dot."""
    low, high = extent or (0.0, 1.0)
    rows = np.concatenate([marks.rows for marks in shown[:-1]])
    values = np.concatenate([marks.values for marks in shown[:-1]])
    column = np.floor((values - low) / ((high - low) or 1.0) * _COLUMNS)
    order = np.lexsort((rows, column))
    ranked = column[order]
    first = np.searchsorted(ranked, ranked, side="left")
    positions = np.empty(rows.size)
    positions[order] = np.arange(rows.size) - first
    positions /= max(float(positions.max(initial=0.0)), _LOWEST_STACK)
    chosen = shown[-1].rows
    known = np.argsort(rows)
    at = np.minimum(np.searchsorted(rows[known], chosen), max(rows.size - 1, 0))
    own = positions[known][at] if rows.size else np.zeros(chosen.size)
    ends = np.cumsum([marks.rows.size for marks in shown[:-1]])
    return [*np.split(positions, ends[:-1]), own]
