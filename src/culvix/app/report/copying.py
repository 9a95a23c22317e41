"""A part of the report on the clipboard: rich text, plain text, and a picture as a picture."""

from PyQt6.QtCore import QMimeData
from PyQt6.QtGui import QImage

from culvix.report.formats.fragments import fragment_html, fragment_text
from culvix.report.formats.raster import image_of, png_of
from culvix.report.parts import Part, PictureBlock, Section
from culvix.report.remembered_pictures import RememberedPictures
from culvix.visible_text import visible

__all__ = ["Copied", "copied_part", "mime_of"]

_DOTS = 150
"""Dots per inch of a copied picture."""

Copied = tuple[str, str, QImage | None]
"""Rich text, plain text, and the picture where the part is one."""


def copied_part(part: Part | Section, pictures: RememberedPictures) -> Copied:
    """What is put on the clipboard of ``part``; may be made on any thread. Raises what drawing raises."""

    def png(block: PictureBlock) -> bytes:
        return png_of(pictures.draw(block), block.width, block.height, _DOTS)

    image = image_of(pictures.draw(part), part.width, part.height, _DOTS) if isinstance(part, PictureBlock) else None
    return fragment_html(part, png), visible(fragment_text(part)), image


def mime_of(copied: Copied) -> QMimeData:
    """``copied`` as the clipboard takes it."""
    rich, plain, image = copied
    both = QMimeData()
    both.setHtml(rich)
    both.setText(plain)
    if image is not None:
        both.setImageData(image)
    return both
