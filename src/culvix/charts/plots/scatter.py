"""The scatter of two columns with its lines, their band, a smooth curve, groups, and the flagged rows marked."""

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QPen

from culvix.charts.items.band import Band
from culvix.charts.items.export_items import CurveItem
from culvix.charts.items.row_markers import halo, rings
from culvix.charts.lanes.lane import FOOT, Lane, axis_text, cut_line
from culvix.charts.palette import SHADES, brush, pen
from culvix.charts.paper import axis_words, points
from culvix.charts.plots.outline import ScatterView
from culvix.charts.plots.pair_items import DensityItem, GroupItems, LevelItems
from culvix.stats.core.arrays import Floats
from culvix.stats.regression.straight_line import StraightLine
from culvix.study.pictures.pair_pictures import PairPicture

__all__ = ["PairPlot", "part_pen"]

_CURVE_POINTS = 400
_OUT_OF_SIGHT = 50.0
"""So many widths of the picture away nothing is seen."""


class PairPlot(Lane):
    """A plot of a `PairPicture`. Here both axes are values, so both can be zoomed; on paper groups are named in it."""

    name = "scatter"
    view_type = ScatterView

    outlined = pyqtSignal(object, object)
    """The corners of a shape drawn around rows, and the keyboard modifiers."""

    def __init__(self, *, on_paper: bool = False) -> None:
        super().__init__()
        self.view_box.outlined.connect(self._outline)
        self.outline = CurveItem(pen=pen(SHADES.probe, 1.2))
        self.outline.setZValue(40)
        self.add(self.outline)
        self.view_box.setMouseEnabled(x=True, y=True)
        bottom = self.axis("bottom")
        bottom.setStyle(showValues=True)
        bottom.setHeight(FOOT)
        self.density, self.band = DensityItem(), Band()
        self.line, self.line_without, self.smooth = (
            CurveItem(pen=part_pen(key)) for key in ("line", "without", "smooth")
        )
        self.add(self.density)
        for item, height in ((self.band, -2), (self.line, 8), (self.line_without, 9), (self.smooth, 12)):
            item.setZValue(height)
            self.add(item)
        self.selected = self.marks(symbol="o")
        self.points = self.marks(symbol="o", size=4.5, brush=brush(SHADES.data, 0.55), pen=None)
        self.groups, self.levels = GroupItems(self, names=on_paper), LevelItems(self)
        self.excluded = self.marks(symbol="x", size=7, brush=brush(SHADES.muted), pen=pen(SHADES.muted, 1.0))
        self.moves = CurveItem(pen=pen(SHADES.resolved, 1.0), connect="pairs")
        self.add(self.moves)
        self.corrected = self.marks(symbol="o", size=7, brush=brush(SHADES.resolved), pen=pen(SHADES.resolved))
        self.corrected.setZValue(12)
        self.flagged = self.marks()
        self.flagged.setZValue(13)
        self.pair: PairPicture | None = None
        self._scales = ("measured", "measured")

    def show_pair(self, pair: PairPicture, *, refit: bool) -> None:
        """Draw ``pair``; ``refit`` moves both axes to its points."""
        self.pair = pair
        rest = brush(SHADES.reference, 0.4) if pair.groups else brush(SHADES.data, 0.55)
        self.points.put(pair.points, pair.y_values, brush=rest)
        self.density.show_cells(pair.cells)
        rings(self.flagged, pair.flagged, pair.flagged_y)
        self.excluded.put(pair.excluded, pair.excluded_y)
        self.corrected.put(pair.corrected, pair.corrected_y)
        self.moves.setData(*_moves(pair))
        self.show_selected(pair)
        self.axis("bottom").setLabel(
            axis_text(axis_words(pair.x_title)), color=SHADES.muted, **{"font-size": f"{points(9):g}pt"}
        )
        self.axis_label(axis_text(pair.y_title))
        for side, scale in (("bottom", pair.x_scale), ("left", pair.y_scale)):
            self.axis(side).value_scale = None if scale.is_measured else scale
        scales = pair.x_scale.key, pair.y_scale.key
        if refit or scales != self._scales:
            self.fit()
        self._scales = scales
        for item, line in ((self.line, pair.line), (self.line_without, pair.line_without)):
            if line is None or pair.extent is None:
                item.clear()
            else:
                item.setData(*_fitted(pair, line, *pair.extent[0]))
        x, low, high = pair.band if pair.band is not None else (np.zeros(0),) * 3
        self.band.set_edges(np.concatenate((x, x[::-1])), np.concatenate((low, high[::-1])))
        self.smooth.setData(*(pair.smooth if pair.smooth is not None else (np.zeros(0), np.zeros(0))))
        self.groups.show(pair.groups)
        self.levels.show(pair.levels)
        self.note("" if pair.extent else "no row has a value in both columns")

    def _outline(self, corners: list[tuple[float, float]], finished: bool, modifiers: Qt.KeyboardModifier) -> None:
        if finished:
            self.outline.clear()
            self.outlined.emit(corners, modifiers)
        else:
            x, y = np.array([*corners, corners[0]]).T
            self.outline.setData(x, y)

    def show_selected(self, pair: PairPicture) -> None:
        """Mark the rows selected in ``pair``, which shows the same otherwise."""
        self.pair = pair
        self.selected.put(pair.selected, pair.selected_y, **halo(pair.selected.rows.size))

    def clip(self) -> None:
        if self.pair is None:
            return
        across, up = self.view_box.viewRange()
        for item, line in ((self.line, self.pair.line), (self.line_without, self.pair.line_without)):
            if line is None:
                continue
            if self.pair.x_scale.is_measured and self.pair.y_scale.is_measured:
                item.setData(*cut_line(line.slope, line.intercept, tuple(across), tuple(up)))
            else:
                x, y = _fitted(self.pair, line, *across)
                inside = (y >= up[0]) & (y <= up[1])
                item.setData(x[inside], y[inside])
        self.groups.clip()

    def fit(self) -> None:
        """Move both axes to the points, and up and down to the levels beside them."""
        if self.pair is None or self.pair.extent is None:
            return
        levels = [level.height for level in self.pair.levels]
        for ends, move, beside in zip(
            self.pair.extent, (self.view_box.setXRange, self.view_box.setYRange), ([], levels), strict=True
        ):
            low, high = min(ends[0], *beside, ends[0]), max(ends[1], *beside, ends[1])
            if np.isfinite(high - low):
                reach = (high - low) or abs(high) * 0.1 or 1.0
                move(low - 0.03 * reach, high + 0.03 * reach, padding=0)


def _moves(pair: PairPicture) -> tuple[Floats, Floats]:
    """Lines from where corrected rows were to where they are, in pairs of points."""
    now, before = np.stack((pair.corrected.values, pair.corrected_y)), np.stack(pair.corrected_from)
    there = np.isfinite(before).all(axis=0)
    if pair.extent is None or not there.any():
        return np.zeros(0), np.zeros(0)
    now, before = now[:, there], before[:, there]
    # A line that comes from very far begins out of sight: what is drawn must be numbers that a picture can hold.
    reach = np.array([[(high - low) or 1.0] for low, high in pair.extent])
    far = np.abs(before / reach - now / reach).max(axis=0)
    begin = now + (before - now) * np.minimum(1.0, _OUT_OF_SIGHT / np.maximum(far, 1.0))
    x, y = np.stack((begin, now), axis=2).reshape(2, -1)
    return x, y


def part_pen(key: str) -> QPen:
    """With what a part of the picture is drawn, by its key in `PARTS`; in greys lines differ by dashes and width."""
    shade, width, dashed = {
        "line": (SHADES.ink, 1.4, False),
        "without": (SHADES.resolved, 1.8, True),
        "smooth": (SHADES.probe, 2.4, False),
    }[key]
    drawn: QPen = pen(shade, width, dashed=dashed)
    return drawn


def _fitted(pair: PairPicture, line: StraightLine, low: float, high: float) -> tuple[Floats, Floats]:
    """The line from ``low`` to ``high`` along the axis of x: on another scale than the measured it is a curve."""
    straight = pair.x_scale.is_measured and pair.y_scale.is_measured
    x = np.linspace(low, high, 2 if straight else _CURVE_POINTS)
    values = pair.x_scale.values_at(x)
    y = pair.y_scale.positions(line.at(values))
    seen = np.isfinite(y)
    return x[seen], y[seen]
