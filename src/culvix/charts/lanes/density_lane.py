"""The density lane: the density estimate with its peaks, the normal reference, and the kernel it was made with."""

import numpy as np
import pyqtgraph as pg

from culvix.charts.items.export_items import CurveItem
from culvix.charts.lanes.lane import Lane
from culvix.charts.palette import SHADES, brush, pen
from culvix.stats.display import number, significant
from culvix.stats.shape.density import normal_density
from culvix.study.pictures.column_pictures import ShapePicture

__all__ = ["DensityLane"]

_GRIP_PIXELS = 7.0
_KERNEL_HEIGHT = 0.22
_MOST_ABOVE = 1.6
"""The normal reference is seen whole unless it is more than so many times as high as the curve."""
_MOST_PEAKS = 6
_LINE, _NUMBER = 20.0, 46.0
"""Room for the value of a peak beyond it: a line above, or the number's own width beside."""


class DensityLane(Lane):
    """The small bell at the foot is the kernel; dragging its sides one bandwidth out sets the bandwidth."""

    name = "density"
    stretch = 34

    def __init__(self, upright: bool = False) -> None:
        super().__init__(upright)
        self.area = CurveItem(pen=pen(SHADES.data, 1.6), brush=brush(SHADES.data, 0.20), fillLevel=0.0)
        self.reference = CurveItem(pen=pen(SHADES.reference, 1.4, dashed=True))
        self.kernel = CurveItem(pen=pen(SHADES.ink, 1.2), brush=brush(SHADES.ink, 0.12), fillLevel=0.0)
        self.sides = pg.ScatterPlotItem(symbol="d", size=9, brush=brush(SHADES.ink), pen=None)
        self.peaks = CurveItem(pen=pen(SHADES.muted, 0.9, dashed=True), connect="pairs")
        for item in (self.area, self.peaks, self.reference, self.kernel, self.sides):
            self.add(item)
        beyond = (0.0, 0.5) if upright else (0.5, 1.0)
        self.names = [pg.TextItem(color=SHADES.ink, anchor=beyond) for _ in range(_MOST_PEAKS)]
        for name in self.names:
            self.add(name)
        self.axis_label("density")
        self.height_axis.setStyle(showValues=False)
        self.view_box.handle_at = self._side_at
        self.centre = 0.0

    def show_picture(self, picture: ShapePicture) -> None:
        super().show_picture(picture)
        curve = picture.curve
        self.tell_if_empty("" if curve else "no density: it needs a measurement with three distinct values")
        for item in (self.area, self.reference, self.kernel, self.sides, self.peaks):
            item.setVisible(curve is not None)
        for name in self.names:
            name.hide()
        if curve is None:
            return
        top = float(curve.y.max())
        self.area.setData(curve.x, curve.y)
        high = max(top, min(self._reference(picture), _MOST_ABOVE * top))
        self._kernel(picture, top)
        room, needed = self.pixels[1], _NUMBER if self.upright else _LINE
        # The peaks' values stand beyond the curve, where there is room for them.
        named = room > 3 * needed
        if named:
            self._peaks(picture, top)
        else:
            self.peaks.clear()
        self.view_box.setYRange(-0.05 * high, (room / (room - needed) if named else 1.08) * high, padding=0)

    def _reference(self, picture: ShapePicture) -> float:
        """Draw the normal with the same mean and SD; its height."""
        if picture.reference is None or picture.extent is None:
            self.reference.clear()
            return 0.0
        x = np.linspace(*picture.extent, 241)
        y = normal_density(x, *picture.reference)
        self.reference.setData(x, y)
        return float(y.max())

    def _kernel(self, picture: ShapePicture, top: float) -> None:
        """The kernel under the median, as wide as it is."""
        assert picture.curve is not None
        width = picture.curve.bandwidth
        if picture.box is not None:
            self.centre = picture.box.median
        z = np.linspace(-3, 3, 61)
        self.kernel.setData(self.centre + width * z, _KERNEL_HEIGHT * top * np.exp(-0.5 * z * z))
        at = _KERNEL_HEIGHT * top * np.exp(-0.5)
        self.sides.setData([self.centre - width, self.centre + width], [at, at])

    def _peaks(self, picture: ShapePicture, top: float) -> None:
        assert picture.curve is not None
        curve = picture.curve
        heights = np.interp(curve.peaks, curve.x, curve.y)
        highest = curve.peaks[np.argsort(-heights)[:_MOST_PEAKS]]
        ends = np.column_stack((np.zeros(highest.size), np.interp(highest, curve.x, curve.y)))
        self.peaks.setData(np.repeat(highest, 2), ends.ravel())
        for name, at, (_, height) in zip(self.names, highest.tolist(), ends.tolist(), strict=False):
            name.setText(picture.style.value(at))
            name.setPos(at, height)
            name.show()

    def reading(self, value: float) -> str:
        picture = self.picture
        if picture is None or picture.curve is None:
            return ""
        curve = picture.curve
        here = float(np.interp(value, curve.x, curve.y, left=0.0, right=0.0))
        text = f"density {significant(here)}; bandwidth {significant(curve.bandwidth)}, {curve.rule}"
        if picture.reference is None:
            return text
        normal = float(normal_density(value, *picture.reference))
        return f"{number(here / normal, 2)} × the normal's; {text}" if normal > 1e-12 * here and normal > 0 else text

    def _side_at(self, x: float, y: float) -> int | None:
        """The side of the kernel under the pointer: 0 the lower one, 1 the upper one."""
        curve = self.picture.curve if self.picture else None
        if curve is None:
            return None
        x_pixel, y_pixel = self.view_box.viewPixelSize()
        at = _KERNEL_HEIGHT * np.exp(-0.5) * float(curve.y.max())
        ends = [abs(x - self.centre - side * curve.bandwidth) for side in (-1, 1)]
        if min(ends) > _GRIP_PIXELS * x_pixel or abs(y - at) > 1.5 * _GRIP_PIXELS * y_pixel:
            return None
        return int(ends[1] <= ends[0])
