"""The axes of charts, with numbers written as everywhere else."""

from collections.abc import Sequence
from math import ceil, floor, log10

import pyqtgraph as pg
from PyQt6.QtGui import QFont, QFontMetricsF

from culvix.charts.palette import LIGHT, pen
from culvix.stats.display import number

__all__ = ["AXIS_WIDTH", "ValueAxis"]

AXIS_WIDTH = 74
_BETWEEN = 6.0
"""Room between two numbers, in pixels."""


class ValueAxis(pg.AxisItem):
    """An axis whose numbers are written as everywhere else: true minus sign, thin-space thousands."""

    def __init__(self, orientation: str, *, turned: bool = False) -> None:
        """``turned`` where the view stands upright: the axis at the left then has its x, the one below its y."""
        super().__init__(orientation, pen=pen(LIGHT.rule), textPen=LIGHT.muted, tickPen=pen(LIGHT.rule))
        self.enableAutoSIPrefix(False)
        self.setStyle(tickLength=-4, tickTextOffset=5, maxTickLevel=0, hideOverlappingLabels=orientation == "bottom")
        font = QFont()
        font.setPointSizeF(8.5)
        self.setTickFont(font)
        self.log_base: float | None = None
        """Where values are logarithms: of which base. The axis then has the numbers themselves, as far apart."""

        self.turned = turned

    def linkToView(self, view: pg.ViewBox) -> None:
        super().linkToView(view)
        if self.turned:
            upwards = self.orientation in ("left", "right")
            (view.sigXRangeChanged if upwards else view.sigYRangeChanged).connect(self.linkedViewChanged)

    def linkedViewChanged(self, view: pg.ViewBox, newRange: Sequence[float] | None = None) -> None:
        if self.turned:
            newRange = view.viewRange()[0 if self.orientation in ("left", "right") else 1]
        super().linkedViewChanged(view, newRange)

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        if self.log_base is None:
            levels: list[tuple[float, list[float]]] = super().tickValues(low, high, size)
            narrow = self.turned and self.orientation == "bottom"
            return self._thinned(levels, size / (high - low)) if narrow else levels
        ends = [end * log10(self.log_base) for end in (low, high)]
        steps = (1, 2, 5) if ends[1] - ends[0] < 2.5 else (1, 3) if ends[1] - ends[0] < 4 else (1,)
        powers = range(floor(ends[0]) - 1, ceil(ends[1]) + 1)
        places = [(power + log10(step)) / log10(self.log_base) for power in powers for step in steps]
        return [(1.0, [place for place in places if low <= place <= high])]

    def text_width(self, text: str) -> float:
        """How wide a number is beside or under its tick, in pixels."""
        return float(QFontMetricsF(self.style["tickFont"]).horizontalAdvance(text))

    def _thinned(self, levels: list[tuple[float, list[float]]], scale: float) -> list[tuple[float, list[float]]]:
        """Ticks whose numbers have room beside each other in a narrow lane, at ``scale`` pixels to the unit.

        They stay at multiples of their step, so that zero keeps its number.
        """
        step, values = levels[0]
        if len(values) < 2:
            return levels
        widest = max(map(self.text_width, self.tickStrings(values, 1.0, step))) + _BETWEEN
        every = next((every for every in (1, 2, 5, 10, 20, 50) if every * step * scale >= widest), len(values))
        return [(step * every, [value for value in values if round(value / step) % every == 0]), *levels[1:]]

    def tickStrings(self, values: Sequence[float], scale: float, spacing: float) -> list[str]:
        if self.log_base is not None:
            numbers = [10.0 ** (value * log10(self.log_base)) for value in values]
            return [number(x, max(0, -floor(log10(x) + 1e-9))) if 1e-6 < x < 1e7 else f"{x:.0e}" for x in numbers]
        decimals = max(0, ceil(-log10(spacing * scale) - 1e-9)) if spacing * scale > 0 else 0
        if decimals <= 8 and spacing * scale % 10.0**-decimals > 1e-6 * spacing * scale:
            decimals += 1
        return [number(value * scale, min(decimals, 12)) if value else "0" for value in values]
