"""Vector pictures as pixels, for files that take no others."""

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QRectF
from PyQt6.QtGui import QColor, QImage, QPainter
from PyQt6.QtSvg import QSvgRenderer

__all__ = ["image_of", "png_of"]

_MM_PER_INCH = 25.4


def image_of(svg: str, width: float, height: float, dpi: int = 300) -> QImage:
    """The picture ``svg`` at ``width`` × ``height`` mm with ``dpi`` dots per inch, on white."""
    across, down = (round(size / _MM_PER_INCH * dpi) for size in (width, height))
    image = QImage(across, down, QImage.Format.Format_RGB32)
    image.fill(QColor("white"))
    image.setDotsPerMeterX(round(dpi / _MM_PER_INCH * 1000))
    image.setDotsPerMeterY(round(dpi / _MM_PER_INCH * 1000))
    painter = QPainter(image)
    QSvgRenderer(QByteArray(svg.encode())).render(painter, QRectF(0, 0, across, down))
    painter.end()
    return image


def png_of(svg: str, width: float, height: float, dpi: int = 300) -> bytes:
    """The same as the bytes of a PNG file."""
    image = image_of(svg, width, height, dpi)
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return bytes(buffer.data().data())
