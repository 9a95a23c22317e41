"""How many values lie beyond either end of the view, said at the edges of the uppermost lane, so that none is lost."""

from PyQt6.QtCore import QObject
from PyQt6.QtGui import QFontMetricsF
from PyQt6.QtWidgets import QGraphicsSimpleTextItem

from culvix.charts.lanes.lane import Lane
from culvix.charts.palette import SHADES, brush
from culvix.charts.paper import letters
from culvix.stats.display import count
from culvix.study.pictures.column_pictures import ShapePicture

__all__ = ["EdgeCounts"]

_AWAY = 4.0
"""Between the words and the edge, in pixels."""


class EdgeCounts(QObject):
    """Two numbers in a lane, which follow its view; there is nothing to say where all values are in it."""

    def __init__(self, upright: bool) -> None:
        super().__init__()
        self.upright = upright
        self._lane: Lane | None = None
        self._picture: ShapePicture | None = None
        font = letters(8.0)
        self._metrics = QFontMetricsF(font)
        self.items = [QGraphicsSimpleTextItem() for _ in range(2)]
        for item in self.items:
            item.setFont(font)
            item.setBrush(brush(SHADES.caution))
            item.setZValue(45)
            item.hide()

    def show_in(self, lane: Lane, upright: bool) -> None:
        """Write into ``lane`` from now on."""
        self.upright = upright
        if lane is self._lane:
            return
        if self._lane is not None:
            self._lane.view_box.sigXRangeChanged.disconnect(self._write)
            self._lane.view_box.sigResized.disconnect(self._write)
        self._lane = lane
        for item in self.items:
            item.setParentItem(lane.view_box)
        lane.view_box.sigXRangeChanged.connect(self._write)
        lane.view_box.sigResized.connect(self._write)
        self._write()

    def count(self, picture: ShapePicture) -> None:
        """Count the values of ``picture``."""
        self._picture = picture
        self._write()

    def _write(self, *_: object) -> None:
        if self._lane is None or self._picture is None:
            return
        sample = self._picture.sample
        low, high = self._lane.view_box.viewRange()[0]
        beyond = (sample.below(low), sample.above(high)) if sample.n else (0, 0)
        signs = ("\N{BLACK DOWN-POINTING TRIANGLE}", "\N{BLACK UP-POINTING TRIANGLE}")
        if not self.upright:
            signs = ("\N{BLACK LEFT-POINTING TRIANGLE}", "\N{BLACK RIGHT-POINTING TRIANGLE}")
        across, down = float(self._lane.view_box.width()), float(self._lane.view_box.height())
        for side, (item, rows) in enumerate(zip(self.items, beyond, strict=True)):
            item.setVisible(rows > 0)
            text = f"{count(rows)} {signs[1]}" if side else f"{signs[0]} {count(rows)}"
            item.setText(text)
            right = side and not self.upright
            x = across - self._metrics.horizontalAdvance(text) - _AWAY if right else _AWAY
            low_down = self.upright and not side
            item.setPos(x, down - self._metrics.height() - _AWAY if low_down else _AWAY)
