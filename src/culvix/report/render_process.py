"""Pictures drawn in a process of their own, so that neither the interface thread nor its display is touched.

Drawing plots needs the interface thread of some process. For the command line that is its own; for the window it is a
helper without a display, started when the first report is written, and again where it has died.
"""

import os
import threading
import time
from multiprocessing import get_context
from multiprocessing.connection import Connection, wait
from multiprocessing.process import BaseProcess

from culvix.charts.export.picture_export import LaneDrawing, bars_svg, groups_svg, matrix_svg, missing_svg, pair_svg
from culvix.charts.lanes.stack import DEFAULT_LANES
from culvix.errors import Cancelled, WriteError
from culvix.report.parts import PictureBlock
from culvix.study.pictures.bars import BarsPicture
from culvix.study.pictures.column_pictures import ShapePicture
from culvix.study.pictures.groups.group_rows import GroupsPicture
from culvix.study.pictures.matrix_pictures import MatrixPicture
from culvix.study.pictures.missing_picture import MissingPicture

__all__ = ["Drawing", "RenderProcess"]

_DOTS = 4.25
"""Pixels a millimetre of paper: letters of 9 pt then have the size on paper that they have in the window."""
_WATCH = 1.0
"""Seconds between two looks at whether the window is still there."""


class Drawing:
    """Draws pictures on the thread of the QApplication, where it must be used."""

    def __init__(self) -> None:
        self._lanes = LaneDrawing()

    def draw(self, block: PictureBlock) -> str:
        """The picture of ``block`` as an SVG element."""
        width, height = (round(_DOTS * size) for size in (block.width, block.height))
        match block.picture:
            case ShapePicture():
                return self._lanes.svg(block.picture, width, height, block.lanes or DEFAULT_LANES)
            case BarsPicture():
                return bars_svg(block.picture, width, height)
            case MatrixPicture():
                return matrix_svg(block.picture, width, height)
            case GroupsPicture():
                return groups_svg(block.picture, width, height)
            case MissingPicture():
                return missing_svg(block.picture, width, height)
            case _:
                return pair_svg(block.picture, width, height)


def _serve(pictures: Connection, parent: int) -> None:
    """Draw what comes in until the window is gone."""
    import signal

    os.environ["QT_QPA_PLATFORM"] = "offscreen"
    # An interrupt typed at the terminal is for the window, which ends this process in order.
    signal.signal(signal.SIGINT, signal.SIG_IGN)
    threading.Thread(target=_end_with, args=(parent,), daemon=True).start()
    from PyQt6.QtWidgets import QApplication

    application, drawing = QApplication([]), Drawing()
    while application is not None:
        try:
            picture = pictures.recv()
        except EOFError:
            return
        try:
            drawn: str | Exception = drawing.draw(picture)
        except Exception as error:  # it is raised in the process that asked
            drawn = error
        pictures.send(drawn)


def _end_with(parent: int) -> None:
    """End this process once the one that started it is gone, whatever it is drawing."""
    while os.getppid() == parent:
        time.sleep(_WATCH)
    os._exit(0)


class RenderProcess:
    """Draws pictures in the helper process; safe to call from any thread."""

    def __init__(self) -> None:
        self._lock = threading.Lock()
        self._helper: tuple[BaseProcess, Connection] | None = None
        self._closed = False

    def draw(self, picture: PictureBlock) -> str:
        """``picture`` as an SVG element; a helper that died is started again once.

        Raises WriteError where it dies of the picture, and Cancelled once it is closed.
        """
        with self._lock:
            for _ in range(2):
                drawn = self._drawn(picture)
                if isinstance(drawn, Exception):
                    raise drawn
                if drawn is not None:
                    return drawn
        raise WriteError("The process that draws the pictures of the report ended twice over one of them.")

    def _drawn(self, picture: PictureBlock) -> str | Exception | None:
        """What the helper makes of ``picture``; None where it died meanwhile."""
        if self._closed:
            raise Cancelled("The window was closed.")
        process, pictures = self._helper or self._start()
        try:
            pictures.send(picture)
            if pictures in wait([pictures, process.sentinel]):
                return pictures.recv()  # type: ignore[no-any-return]
        except (EOFError, OSError):
            # The helper is gone, which the next lines see to.
            pass
        if self._closed:
            raise Cancelled("The window was closed.")
        self._end()
        return None

    def _start(self) -> tuple[BaseProcess, Connection]:
        context = get_context("spawn")
        here, there = context.Pipe()
        process = context.Process(target=_serve, args=(there, os.getpid()), daemon=True)
        process.start()
        there.close()
        self._helper = process, here
        return self._helper

    def _end(self) -> None:
        helper, self._helper = self._helper, None
        if helper is not None:
            helper[0].terminate()
            helper[1].close()

    def close(self) -> None:
        """End the helper process; what it is drawing is given up."""
        self._closed = True
        helper = self._helper
        if helper is not None:
            helper[0].terminate()
