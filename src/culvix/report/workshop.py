"""Pictures drawn in a process of their own, so that neither the interface thread nor its display is touched.

Drawing plots needs the interface thread of some process. For the command line that is its own; for the window it is a
helper without a display, started when the first report is written.
"""

import multiprocessing
import os
from concurrent.futures import ProcessPoolExecutor

from culvix.charts.render import pair_svg, shape_svg
from culvix.study.pair_pictures import PairPicture
from culvix.study.pictures import ShapePicture

__all__ = ["PictureWorkshop", "draw_here"]

Picture = ShapePicture | PairPicture


def draw_here(picture: Picture) -> str:
    """``picture`` as an SVG element; must be called on the thread of the QApplication."""
    return shape_svg(picture) if isinstance(picture, ShapePicture) else pair_svg(picture)


_application: object = None


def _prepare() -> None:
    """Set up the helper process: an application without a display."""
    global _application
    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    from PyQt6.QtWidgets import QApplication

    _application = QApplication([])


class PictureWorkshop:
    """Draws pictures in the helper process; safe to call from any thread."""

    def __init__(self) -> None:
        self._pool: ProcessPoolExecutor | None = None

    def draw(self, picture: Picture) -> str:
        """``picture`` as an SVG element."""
        if self._pool is None:
            context = multiprocessing.get_context("spawn")
            self._pool = ProcessPoolExecutor(1, mp_context=context, initializer=_prepare)
        return self._pool.submit(draw_here, picture).result()

    def close(self) -> None:
        """End the helper process."""
        if self._pool is not None:
            self._pool.shutdown(wait=False, cancel_futures=True)
            self._pool = None
