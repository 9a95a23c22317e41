"""Pictures into files: the same lanes as in the window, at a stated size, as vector graphics."""

import re

import pyqtgraph as pg
from PyQt6.QtCore import QBuffer, QIODevice, QRectF, QSize
from PyQt6.QtGui import QPainter
from PyQt6.QtSvg import QSvgGenerator
from PyQt6.QtWidgets import QApplication

from culvix.charts.palette import LIGHT
from culvix.charts.scatter import PairPlot
from culvix.charts.stack import LaneStack
from culvix.study.pictures import PairPicture, ShapePicture

__all__ = ["pair_svg", "shape_svg"]

_DOT = "M.5,0C.5,.27.27,.5,0,.5C-.27,.5-.5,.27-.5,0C-.5-.27-.27-.5,0-.5C.27-.5.5-.27.5,0Z"
_DOT_GROUP = re.compile(
    r'<g fill="([^"]*)" fill-opacity="([^"]*)" stroke="none" transform="([^"]*)">\s*'
    r'<path [^>]*d="M0\.5,0 C0\.5,[^"]*"/>\s*</g>\s*'
)
"""Filled dots, of which a picture has hundreds: each becomes a use of one shape."""


def shape_svg(picture: ShapePicture, width: int = 720, height: int = 430) -> str:
    """The lanes of ``picture`` as an SVG element of ``width`` × ``height`` pixels."""
    view = _view(width, height)
    stack = LaneStack(view.ci)
    stack.show_picture(picture, refit=True)
    for lane in stack.lanes:
        lane.clip()
    return _svg(view, width, height)


def pair_svg(pair: PairPicture, width: int = 460, height: int = 340) -> str:
    """The scatter ``pair`` as an SVG element of ``width`` × ``height`` pixels."""
    view = _view(width, height)
    view.ci.setContentsMargins(4, 8, 12, 2)
    plot = PairPlot()
    view.addItem(plot)
    plot.show_pair(pair, refit=True)
    plot.clip()
    return _svg(view, width, height)


def _view(width: int, height: int) -> pg.GraphicsLayoutWidget:
    if QApplication.instance() is None:
        raise RuntimeError("Pictures need a QApplication, on screen or off.")
    view = pg.GraphicsLayoutWidget(show=False, size=(width, height))
    view.setBackground(LIGHT.panel)
    view.resize(width, height)
    return view


def _svg(view: pg.GraphicsLayoutWidget, width: int, height: int) -> str:
    view.ci.setGeometry(QRectF(0, 0, width, height))
    scene = view.scene()
    # Without a shown window nothing else asks the plots to lay themselves out.
    scene.prepareForPaint()
    items = [item for item in scene.items() if hasattr(item, "setExportMode")]
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    target = QSvgGenerator()
    target.setOutputDevice(buffer)
    target.setSize(QSize(width, height))
    target.setViewBox(QRectF(0, 0, width, height))
    target.setResolution(96)
    painter = QPainter(target)
    for item in items:
        item.setExportMode(True, {"antialias": True, "resolutionScale": 1.0, "painter": painter})
    scene.render(painter, QRectF(0, 0, width, height), QRectF(0, 0, width, height))
    for item in items:
        item.setExportMode(False)
    painter.end()
    text = bytes(buffer.data()).decode("utf-8")
    view.close()
    return _inline(text)


def _inline(svg: str) -> str:
    """The bare element, without the declaration and the fixed size in millimetres."""
    body = svg[svg.index("<svg") :]
    body = re.sub(r'(<svg[^>]*?) width="[^"]*" height="[^"]*"', r"\1", body, count=1)
    body = re.sub(r"<title>.*?</title>\s*|<desc>.*?</desc>\s*", "", body, count=2, flags=re.S)
    body = re.sub(
        r'(<g [^>]*?)\s*font-family="[^"]*" font-size="[^"]*" font-weight="[^"]*" font-style="[^"]*"\s*>', r"\1>", body
    )
    body = re.sub(r"<g [^>]*>\s*</g>\s*", "", body)
    body = body.replace("<defs>", f'<defs><path id="dot" stroke="none" d="{_DOT}"/>', 1)
    body = _DOT_GROUP.sub(r'<use xlink:href="#dot" fill="\1" fill-opacity="\2" transform="\3"/>', body)
    body = body.replace('font-family="Sans Serif"', 'font-family="DejaVu Sans, Noto Sans, sans-serif"')
    return re.sub(r"(\d+\.\d{2})\d+", r"\1", body)
