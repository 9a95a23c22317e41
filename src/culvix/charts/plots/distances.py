"""Rows by their distance from the middle of several columns: the classical one along, the robust one upward.

Where outliers pull the classical mean and scatter towards themselves, they look near along and stay far upward.
"""

import numpy as np
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from culvix.charts.items.export_items import LevelItem
from culvix.charts.items.row_markers import halo, rings
from culvix.charts.lanes.lane import Lane
from culvix.charts.palette import SHADES, brush, colour, pen
from culvix.charts.paper import points
from culvix.stats.core.arrays import Floats, Ints
from culvix.stats.display import per_cent
from culvix.stats.multivariate.row_distances import RowDistances
from culvix.stats.shape.axis_scale import LOG_AXIS
from culvix.study.pictures.column_pictures import Marks
from culvix.study.pictures.thinning import representative

__all__ = ["DistancePlot", "ShareBars"]

_MOST = 4000
_LEAST = 0.02
"""Of the cut-off: rows nearer to the middle than this are drawn as if they were this far from it."""


class DistancePlot(Lane):
    """The scatter with both cut-offs; rows beyond the robust one are rings, heavier where both say so."""

    name = "distances"

    def __init__(self) -> None:
        super().__init__()
        self.view_box.setMouseEnabled(x=True, y=True)
        bottom = self.axis("bottom")
        bottom.setStyle(showValues=True)
        bottom.setHeight(None)
        bottom.value_scale = self.axis("left").value_scale = LOG_AXIS
        bottom.setLabel("classical distance", color=SHADES.muted, **{"font-size": f"{points(9):g}pt"})
        self.axis_label("robust distance")
        self.cuts = [LevelItem(angle=angle, pen=pen(SHADES.caution, 1.2, dashed=True)) for angle in (90, 0)]
        for line in self.cuts:
            self.add(line)
        self.selected = self.marks(symbol="o")
        self.points = self.marks(symbol="o", size=4.5, brush=brush(SHADES.data, 0.5), pen=None)
        self.flagged = self.marks()
        self.distances: RowDistances | None = None

    def show_distances(self, found: RowDistances, selected: Ints, *, refit: bool) -> None:
        """Draw ``found`` with the ``selected`` rows marked; of very many rows some that show no gap where none is."""
        self.distances = found
        far = found.robust > found.cutoff
        plain = np.flatnonzero(~far)
        plain, outer = (_some(found, rows) for rows in (plain, np.flatnonzero(far)))
        both = (found.classical[outer] > found.classical_cutoff).astype(np.int64)
        self.points.put(_marks(found, plain), _placed(found.robust[plain], found))
        rings(self.flagged, _marks(found, outer, 1 + 2 * both), _placed(found.robust[outer], found))
        at = np.flatnonzero(np.isin(found.rows, selected))[:_MOST]
        self.selected.put(_marks(found, at), _placed(found.robust[at], found), **halo(at.size))
        for line, cutoff in zip(self.cuts, (found.classical_cutoff, found.cutoff), strict=True):
            line.setValue(float(np.log10(cutoff)))
        if refit:
            self.fit()

    def fit(self) -> None:
        """Move both axes to the rows."""
        found, view = self.distances, self.view_box
        if found is not None and found.rows.size:
            for values, cutoff, move in (
                (found.classical, found.classical_cutoff, view.setXRange),
                (found.robust, found.cutoff, view.setYRange),
            ):
                ends = _placed(np.array([values.min(), max(values.max(), cutoff)]), found)
                reach = float(ends[1] - ends[0]) or 1.0
                move(float(ends[0]) - 0.03 * reach, float(ends[1]) + 0.04 * reach, padding=0)


def _some(found: RowDistances, positions: Ints) -> Ints:
    """At most `_MOST` of ``positions``, as dense and as far apart by robust distance as all of them."""
    if positions.size <= _MOST:
        return positions
    ordered = positions[np.argsort(found.robust[positions], kind="stable")]
    return ordered[representative(np.log(np.maximum(found.robust[ordered], 1e-300)), _MOST)]


def _marks(found: RowDistances, positions: Ints, weights: Ints | None = None) -> Marks:
    strength = np.zeros(positions.size, dtype=np.int64) if weights is None else weights
    return Marks(found.rows[positions], _placed(found.classical[positions], found), strength)


def _placed(distances: Floats, found: RowDistances) -> Floats:
    """Where ``distances`` stand on the axes: their logarithms, those next to nothing at the end."""
    return np.asarray(np.log10(np.maximum(distances, _LEAST * found.cutoff)))


class ShareBars(QWidget):
    """Shares of a whole as bars under each other, with their names; a share below none stands on the other side."""

    def __init__(self) -> None:
        super().__init__()
        self.names: tuple[str, ...] = ()
        self.shares: Floats = np.zeros(0)

    def put(self, names: tuple[str, ...], shares: Floats) -> None:
        """Show ``shares`` (1 is the whole), the largest first."""
        order = np.argsort(-shares, kind="stable")
        self.names, self.shares = tuple(names[position] for position in order), shares[order]
        self.setFixedHeight(18 * len(self.names) + 2)
        self.update()

    def paintEvent(self, _: QPaintEvent | None) -> None:
        if not self.names:
            return
        painter = QPainter(self)
        metrics = painter.fontMetrics()
        left = min(max(metrics.horizontalAdvance(name) for name in self.names) + 10, self.width() // 2)
        reach = max(float(np.abs(self.shares).max()), 1e-9)
        below = float(min(self.shares.min(), 0.0))
        room = max(self.width() - left - 62, 20) / (reach - below)
        zero = left - below * room
        for position, (name, share) in enumerate(zip(self.names, self.shares.tolist(), strict=True)):
            top = 18 * position
            painter.setPen(colour(SHADES.muted))
            shown = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, left - 8)
            painter.drawText(QRectF(0, top, left - 8, 17), Qt.AlignmentFlag.AlignVCenter, shown)
            ends = sorted((zero, zero + share * room))
            painter.fillRect(QRectF(ends[0], top + 3, max(ends[1] - ends[0], 1), 11), colour(SHADES.flagged, 0.75))
            painter.setPen(colour(SHADES.ink))
            painter.drawText(
                QRectF(max(ends[1], zero) + 6, top, 60, 17), Qt.AlignmentFlag.AlignVCenter, per_cent(share)
            )
        painter.end()
