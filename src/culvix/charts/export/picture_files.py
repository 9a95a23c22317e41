"""A picture at a stated size: PNG at a stated resolution, or SVG or PDF as shapes.

The picture is laid out anew at its own size, so that its words have their size in points on paper whatever the window
was like.
"""

from collections.abc import Callable
from dataclasses import dataclass, replace
from math import isfinite

import pyqtgraph as pg
from PyQt6.QtCore import QBuffer, QIODevice, QMarginsF, QPoint, QRectF, QSizeF, Qt
from PyQt6.QtGui import QImage, QPageSize, QPainter, QPdfWriter, QRegion
from PyQt6.QtWidgets import QWidget

from culvix.charts.export.picture_export import add_grid, export_mode, render_svg
from culvix.charts.paper import PictureWords, on_paper
from culvix.errors import CulvixError
from culvix.study.document.choices.picture_style import USUAL_STYLE, PictureStyle

__all__ = ["FORMATS", "UNITS", "PictureSize", "picture_bytes", "picture_image"]

UNITS: dict[str, float] = {"mm": 25.4, "cm": 2.54, "inch": 1.0, "pixels": 0.0}
"""How many of each make an inch; of pixels the resolution says it."""

FORMATS = ("PNG", "SVG", "PDF")

USUAL_WORDS = PictureWords()
_LOGICAL = 96.0
_SMALLEST, _LARGEST = 0.5, 60.0
_MOST_PIXELS = 120_000_000


@dataclass(frozen=True)
class PictureSize:
    """Width and height in ``unit``, and pixels to the inch. Raises CulvixError where no such picture can be made."""

    width: float = 160.0
    height: float = 110.0
    unit: str = "mm"
    dpi: int = 300

    def __post_init__(self) -> None:
        if self.unit not in UNITS:
            raise CulvixError(f"A size is given in {', '.join(UNITS)}, not in {self.unit!r}.")
        if not 36 <= self.dpi <= 2400:
            raise CulvixError(f"A resolution lies between 36 and 2400 pixels to the inch, not at {self.dpi}.")
        for name, length in zip(("width", "height"), self.inches, strict=True):
            if not (isfinite(length) and _SMALLEST <= length <= _LARGEST):
                low, high = (edge * self._per_inch for edge in (_SMALLEST, _LARGEST))
                raise CulvixError(f"The {name} of a picture lies between {low:g} and {high:g} {self.unit}.")
        across, down = self.pixels
        if across * down > _MOST_PIXELS:
            raise CulvixError(f"{across} × {down} pixels are more than fit; choose a smaller size or resolution.")

    @property
    def _per_inch(self) -> float:
        return UNITS[self.unit] or float(self.dpi)

    def in_unit(self, unit: str) -> "PictureSize":
        """The same size said in another unit. Raises CulvixError for one there is none of."""
        if unit not in UNITS:
            raise CulvixError(f"A size is given in {', '.join(UNITS)}, not in {unit!r}.")
        per_inch = UNITS[unit] or float(self.dpi)
        return replace(self, width=self.inches[0] * per_inch, height=self.inches[1] * per_inch, unit=unit)

    @property
    def inches(self) -> tuple[float, float]:
        return self.width / self._per_inch, self.height / self._per_inch

    @property
    def pixels(self) -> tuple[int, int]:
        return round(self.inches[0] * self.dpi), round(self.inches[1] * self.dpi)

    @property
    def layout(self) -> tuple[int, int]:
        """Width and height at which the picture is laid out: 96 to the inch."""
        return round(self.inches[0] * _LOGICAL), round(self.inches[1] * _LOGICAL)


Maker = Callable[[int, int], QWidget]
"""Makes the picture anew, so many pixels wide and high."""


def picture_bytes(
    make: Maker, size: PictureSize, form: str, style: PictureStyle = USUAL_STYLE, words: PictureWords = USUAL_WORDS
) -> bytes:
    """The picture as a file of one of `FORMATS`, in a style and with words of its own.

    Raises CulvixError for another form.
    """
    if form == "PNG":
        buffer = QBuffer()
        buffer.open(QIODevice.OpenModeFlag.WriteOnly)
        picture_image(make, size, style, words).save(buffer, "PNG")
        return buffer.data().data()
    if form not in FORMATS:
        raise CulvixError(f"Pictures are saved as {', '.join(FORMATS)}, not as {form}.")
    with on_paper(style, words):
        view = _made(make, size, style)
        made = _pdf(view, size) if form == "PDF" else _svg(view, size, transparent=style.transparent)
    view.close()
    view.deleteLater()
    return made


def _made(make: Maker, size: PictureSize, style: PictureStyle) -> QWidget:
    view = make(*size.layout)
    if style.grid and isinstance(view, pg.GraphicsView):
        add_grid(view)
    return view


def picture_image(
    make: Maker, size: PictureSize, style: PictureStyle = USUAL_STYLE, words: PictureWords = USUAL_WORDS
) -> QImage:
    """The picture in pixels, at its resolution, in a style and with words of its own."""
    deep = QImage.Format.Format_ARGB32_Premultiplied if style.transparent else QImage.Format.Format_RGB32
    image = QImage(*size.pixels, deep)
    image.fill(Qt.GlobalColor.transparent if style.transparent else Qt.GlobalColor.white)
    scale = size.dpi / _LOGICAL
    # Words grow with the pixels by this; lines, whose widths are in pixels, do not.
    image.setDevicePixelRatio(scale)
    painter = QPainter(image)
    with on_paper(style, words, scale=scale):
        view = _made(make, size, style)
        with export_mode(view, painter):
            _paint(view, painter, size)
    painter.end()
    image.setDevicePixelRatio(1.0)
    image.setDotsPerMeterX(round(size.dpi / 0.0254))
    image.setDotsPerMeterY(round(size.dpi / 0.0254))
    view.close()
    view.deleteLater()
    return image


def _paint(view: QWidget, painter: QPainter, size: PictureSize) -> None:
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    if isinstance(view, pg.GraphicsView):
        area = QRectF(0, 0, *size.layout)
        view.scene().prepareForPaint()
        view.scene().render(painter, area, area)
    else:
        view.render(painter, QPoint(), QRegion(), QWidget.RenderFlag.DrawChildren)


def _pdf(view: QWidget, size: PictureSize) -> bytes:
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    writer = QPdfWriter(buffer)
    writer.setResolution(round(_LOGICAL))
    writer.setPageSize(QPageSize(QSizeF(*size.inches), QPageSize.Unit.Inch, "", QPageSize.SizeMatchPolicy.ExactMatch))
    writer.setPageMargins(QMarginsF(0, 0, 0, 0))
    writer.setCreator("Culvix")
    painter = QPainter(writer)
    with export_mode(view, painter):
        _paint(view, painter, size)
    painter.end()
    return buffer.data().data()


def _svg(view: QWidget, size: PictureSize, *, transparent: bool) -> bytes:
    across, down = size.inches
    body = render_svg(view, *size.layout)
    given = f'<svg width="{across * 25.4:.4g}mm" height="{down * 25.4:.4g}mm"'
    body = body.replace("<svg", given, 1)
    if not transparent:
        head, rest = body.split(">", 1)
        body = f'{head}>\n<rect width="100%" height="100%" fill="#ffffff"/>{rest}'
    return ('<?xml version="1.0" encoding="UTF-8"?>\n' + body).encode()
