"""The histogram lane: bars with the density estimate and the normal reference over them."""

import numpy as np
import pyqtgraph as pg

from culvix.charts.items.export_items import BarItem, CurveItem
from culvix.charts.lanes.lane import Lane, round_top
from culvix.charts.palette import SHADES, brush, pen
from culvix.stats.display import as_typed, count, number, per_cent, plural, significant
from culvix.stats.shape.axis_scale import MEASURED_AXIS
from culvix.stats.shape.density import normal_density
from culvix.stats.shape.histogram import WHOLE_NUMBERS, Histogram
from culvix.study.pictures.column_pictures import ShapePicture

__all__ = ["HistogramLane"]

_GRIP_PIXELS = 8.0
_LEAST_BAR = 3.5


class HistogramLane(Lane):
    """Bars from zero, because zero means none; selected rows fill their bars from below."""

    name = "histogram"
    stretch = 46

    def __init__(self, upright: bool = False) -> None:
        super().__init__(upright)
        self.bars = BarItem(x0=[], x1=[], height=[])
        self.chosen = BarItem(x0=[], x1=[], height=[])
        self.open_bins = BarItem(x0=[], x1=[], height=[])
        # Over the bar; beside an upright one.
        anchors = ((0, 0), (0, 1)) if upright else ((1, 1), (0, 1))
        self.open_text = [pg.TextItem(color=SHADES.muted, anchor=anchor) for anchor in anchors]
        self.reference = CurveItem(pen=pen(SHADES.reference, 1.4, dashed=True))
        self.curve = CurveItem(pen=pen(SHADES.ink, 1.6))
        self.whole = CurveItem(pen=pen(SHADES.resolved, 1.5))
        self.whole_text = pg.TextItem(color=SHADES.resolved, anchor=(1, 0))
        self.grip = pg.ScatterPlotItem(symbol=self.pointing(up=True), size=11, brush=brush(SHADES.ink), pen=None)
        marks = (self.reference, self.curve, self.whole, self.whole_text, self.grip)
        for item in (self.open_bins, *self.open_text, self.bars, self.chosen, *marks):
            self.add(item)
        self.view_box.sigRangeChanged.connect(lambda *_: self._place_whole_text())
        self.view_box.handle_at = self._edge_at
        self.view_box.over_handle.connect(self._show_grip)

    def show_picture(self, picture: ShapePicture) -> None:
        super().show_picture(picture)
        bars = picture.histogram
        if bars is None:
            self.tell_if_empty("no values to count")
            self.axis_label("")
            for item in (self.bars, self.chosen, self.open_bins):
                item.setOpts(x0=[], x1=[], height=[])
            for text in self.open_text:
                text.hide()
            for curve in (self.curve, self.reference, self.whole):
                curve.clear()
            self.whole_text.hide()
            return
        self.tell_if_empty()
        self.axis_label(picture.axis_of_bars)
        unit = picture.unit_of_bars
        left, right = bars.edges[:-1], bars.edges[1:]
        # Bars too narrow for a gap between them stand side by side.
        room = max(self.pixels[0], 100.0)
        thin = pen(SHADES.panel, 0.8) if room > _LEAST_BAR * left.size else pg.mkPen(None)
        for item, counts, shade in (
            (self.bars, bars.counts, brush(SHADES.data, 0.62)),
            (self.chosen, picture.selected_counts, brush(SHADES.probe, 0.85)),
        ):
            some = counts > 0
            item.setOpts(x0=left[some], x1=right[some], height=counts[some] * unit, brush=shade, pen=thin)
        self._open_bins(bars, unit)
        self.grip.clear()
        top = float(max(bars.counts.max(initial=1), bars.below, bars.above)) * unit
        top = max(top, self._curves(picture, unit), self._outline(picture, unit))
        self.view_box.setYRange(-0.012 * top, round_top(top), padding=0)

    def _open_bins(self, bars: Histogram, unit: float) -> None:
        """What lies beyond chosen edges, as an outlined bar on either side that has no outer edge of its own."""
        first, last, width = float(bars.edges[0]), float(bars.edges[-1]), bars.width
        sides = [(first - width, first, bars.below, "<"), (last, last + width, bars.above, "≥")]
        if bars.closed == "right":
            sides = [(*sides[0][:3], "≤"), (*sides[1][:3], ">")]
        given = [side for side in sides if side[2]]
        self.open_bins.setOpts(
            x0=[low for low, *_ in given],
            x1=[high for _, high, *_ in given],
            height=[rows * unit for *_, rows, _ in given],
            brush=brush(SHADES.data, 0.14),
            pen=pen(SHADES.data, 1.0, dashed=True),
        )
        for text, (low, high, rows, sign), edge in zip(self.open_text, sides, (first, last), strict=True):
            text.setVisible(bool(rows))
            text.setText(f"{count(rows)} {sign} {self._edge_text(edge)}")
            text.setPos(high if edge == first else low, rows * unit)

    def _edge_text(self, edge: float) -> str:
        """An edge as the value that stands there."""
        axis = MEASURED_AXIS if self.picture is None else self.picture.axis
        return as_typed(edge, 6) if axis.is_measured else significant(axis.value(edge))

    def _curves(self, picture: ShapePicture, unit: float) -> float:
        """Draw the density and the normal reference in the bars' scale; the height of the higher one."""
        assert picture.histogram is not None
        rows = picture.n * picture.histogram.width * unit
        highest = 0.0
        if picture.curve is None:
            self.curve.clear()
        else:
            self.curve.setData(picture.curve.x, picture.curve.y * rows)
            highest = float(picture.curve.y.max()) * rows
        if picture.reference is None:
            self.reference.clear()
        else:
            mean, sd = picture.reference
            z = np.linspace(-4, 4, 241)
            low, high = picture.extent or (mean, mean)
            z = z[(mean + sd * z >= low) & (mean + sd * z <= high)]
            heights = normal_density(mean + sd * z, mean, sd) * rows
            self.reference.setData(mean + sd * z, heights)
            highest = max(highest, float(heights.max(initial=0.0)))
        return min(highest, 1.6 * float(picture.histogram.counts.max(initial=1)) * unit)

    def _outline(self, picture: ShapePicture, unit: float) -> float:
        """Draw the steps of the whole as if it had as many values as the sample; the height of the highest."""
        whole = picture.whole
        self.whole_text.setVisible(whole is not None)
        if whole is None or picture.histogram is None:
            self.whole.clear()
            return 0.0
        heights = whole.density * picture.n * picture.histogram.width * unit
        x, y = np.repeat(whole.edges, 2), np.concatenate(([0.0], np.repeat(heights, 2), [0.0]))
        self.whole.setData(x, y)
        # An upright lane has room for few words.
        many = "" if self.upright else f", {plural(whole.n, 'value')}"
        self.whole_text.setText(f"line: the whole{many}")
        return float(heights.max(initial=0.0))

    def _place_whole_text(self) -> None:
        """In the corner where no axis is."""
        across, up = self.view_box.viewRange()
        self.whole_text.setPos(across[1], up[1])

    def reading(self, value: float) -> str:
        picture = self.picture
        if picture is None or picture.histogram is None:
            return ""
        share = picture.whole.share_at(value) if picture.whole else None
        of_whole = "" if share is None else f"; {per_cent(share)} of the whole in its bin"
        return f"{self._bar_text(value)}{of_whole}"

    def _bar_text(self, value: float) -> str:
        picture = self.picture
        if picture is None or picture.histogram is None:
            return ""
        bars = picture.histogram
        position = bars.bin_of(value)
        if position is None:
            beyond = bars.below if value < float(bars.edges[0]) else bars.above
            return f"{plural(beyond, 'row')} beyond the bins" if beyond else "beyond the bars"
        rows, style = int(bars.counts[position]), picture.style
        if bars.rule == WHOLE_NUMBERS:
            return f"{plural(rows, 'row')} ({per_cent(rows / picture.n)}) at {number(round(value), 0)}"
        low, high = bars.edges[position : position + 2].tolist()
        return f"{plural(rows, 'row')} ({per_cent(rows / picture.n)}) in {style.interval(low, high)}"

    def _show_grip(self, position: int) -> None:
        """A handle at the edge under the pointer."""
        bars = self.picture.histogram if self.picture else None
        if bars is not None and 0 <= position < bars.edges.size:
            self.grip.setData([float(bars.edges[position])], [0.0])
        else:
            self.grip.clear()

    def _edge_at(self, x: float, y: float) -> int | None:
        """The edge of a bin whose grip lies under the pointer, at the foot of the bars."""
        bars = self.picture.histogram if self.picture else None
        if bars is None or bars.rule == WHOLE_NUMBERS:
            return None
        x_pixel, y_pixel = self.view_box.viewPixelSize()
        if abs(y) > _GRIP_PIXELS * y_pixel:
            return None
        position = int(np.abs(bars.edges - x).argmin())
        return position if abs(float(bars.edges[position]) - x) <= _GRIP_PIXELS * x_pixel else None

    def interval_at(self, x: float, y: float) -> tuple[float, float] | None:
        picture = self.picture
        if picture is None or picture.histogram is None:
            return None
        bars = picture.histogram
        position = bars.bin_of(x)
        if position is None or y > bars.counts[position] * picture.unit_of_bars:
            return None
        low, high = float(bars.edges[position]), float(bars.edges[position + 1])
        if bars.closed == "left":
            return low, float(np.nextafter(high, -np.inf))
        return float(np.nextafter(low, np.inf)), high
