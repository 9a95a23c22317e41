"""Pictures into files: the same lanes as in the window, at a stated size, as vector graphics."""

import re
from collections import Counter
from collections.abc import Hashable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from zlib import crc32

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QBuffer, QIODevice, QPoint, QRectF, QSize
from PyQt6.QtGui import QPainter, QRegion
from PyQt6.QtSvg import QSvgGenerator
from PyQt6.QtWidgets import QApplication, QWidget

from culvix.charts.axes.value_axis import ValueAxis
from culvix.charts.lanes.lane import axis_text
from culvix.charts.lanes.stack import DEFAULT_LANES, LaneStack
from culvix.charts.palette import SHADES, pen
from culvix.charts.paper import letters, on_paper, points, title_words
from culvix.charts.plots.bar_chart import BarChart
from culvix.charts.plots.groups.group_chart import GroupChart
from culvix.charts.plots.matrix.chart import MatrixChart
from culvix.charts.plots.missing_chart import MissingChart
from culvix.charts.plots.scatter import PairPlot
from culvix.stats.shape.axis_scale import AxisScale
from culvix.study.document.choices.picture_style import PictureStyle
from culvix.study.pictures.bars import BarsPicture
from culvix.study.pictures.column_pictures import ShapePicture
from culvix.study.pictures.groups.group_rows import GroupsPicture
from culvix.study.pictures.matrix_pictures import MatrixPicture
from culvix.study.pictures.missing_picture import MissingPicture
from culvix.study.pictures.pair_pictures import PairPicture

__all__ = [
    "LaneDrawing",
    "add_grid",
    "bars_svg",
    "export_mode",
    "lanes_view",
    "matrix_svg",
    "missing_svg",
    "pair_svg",
    "render_svg",
    "shape_svg",
    "side_by_side",
]

_SHAPE = re.compile(r'<g ([^>]*?)\s*transform="([^"]*)"\s*>\s*(<path [^>]*/>)\s*</g>\s*')
"""A shape at its place, as the marks of a picture are written."""
_OFTEN = 3


class LaneDrawing:
    """Draws pictures of lanes, each in the view of the one before where size, lanes and style are the same.

    To make lanes takes longer than to draw in them. To be used on the thread of the QApplication.
    """

    def __init__(self) -> None:
        self._last: tuple[Hashable, pg.GraphicsLayoutWidget, LaneStack] | None = None

    def svg(self, picture: ShapePicture, width: int, height: int, lanes: Sequence[str] = DEFAULT_LANES) -> str:
        """The ``lanes`` of ``picture`` as an SVG element of ``width`` × ``height`` pixels, in the style it brings."""
        style = picture.style_on_paper
        with on_paper(style):
            key = (width, height, tuple(lanes), style, picture.upright)
            if self._last is None or self._last[0] != key:
                self.close()
                view = _view(width, height)
                stack = LaneStack(view.ci, lanes, upright=picture.upright)
                _lay_out(view, width, height)
                self._last = key, view, stack
            _, view, stack = self._last
            stack.show_picture(picture, refit=True)
            _finish(view, stack, width, height)
            if style.grid:
                add_grid(view)
            drawn = _svg(view, width, height)
        if style.grid:
            # The next picture has numbers elsewhere, and the lines stand in the lanes.
            self.close()
        return drawn

    def close(self) -> None:
        """Let go of the view."""
        if self._last is not None:
            self._last[1].close()
            self._last = None


def shape_svg(picture: ShapePicture, width: int = 720, height: int = 430, lanes: Sequence[str] = DEFAULT_LANES) -> str:
    """One picture, drawn as `LaneDrawing` does."""
    drawing = LaneDrawing()
    drawn = drawing.svg(picture, width, height, lanes)
    drawing.close()
    return drawn


def lanes_view(
    picture: ShapePicture,
    width: int,
    height: int,
    *,
    lanes: Sequence[str] = DEFAULT_LANES,
    heights: Mapping[str, float] | None = None,
    across: tuple[float, float] | None = None,
    title: str = "",
    probe: float | None = None,
) -> pg.GraphicsLayoutWidget:
    """A view of the ``lanes`` of ``picture``, ``width`` × ``height`` pixels large, that is not shown.

    ``heights`` share its room as in `LaneStack.size_lanes`; ``across`` is the part of the axis in view, by default that
    of all values; ``title`` stands above; ``probe`` is the place of the probe, where it is to be seen.
    """
    view = _view(width, height)
    stack = LaneStack(view.ci, lanes, title_words(title), upright=picture.upright)
    stack.size_lanes(heights or {})
    _lay_out(view, width, height)
    stack.show_picture(picture, refit=True)
    if across is not None:
        stack.see(*across)
    if probe is not None:
        stack.set_probe(probe)
    _finish(view, stack, width, height)
    return view


def _finish(view: pg.GraphicsLayoutWidget, stack: LaneStack, width: int, height: int) -> None:
    """Lay out what was drawn in ``stack``, as a picture that cannot cut it at the edges needs it."""
    _lay_out(view, width, height)
    for lane in stack.lanes:
        lane.clip()


def side_by_side(
    sides: Sequence[tuple[ShapePicture, AxisScale | None, str]], lanes: Sequence[str], width: int, height: int
) -> pg.GraphicsLayoutWidget:
    """A view of several stacks of the same ``lanes`` beside each other.

    Of each it takes its picture, the scale that its column is on, and its title.
    """
    view = _view(width, height)
    for position, (picture, scale, title) in enumerate(sides):
        # Upright lanes are narrow: of them one stack stands under the other.
        layout = view.ci.addLayout(row=position, col=0) if picture.upright else view.ci.addLayout(row=0)
        stack = LaneStack(layout, lanes, title or picture.title, upright=picture.upright)
        stack.column_scale, stack.title = scale, title
        _lay_out(view, width, height)
        stack.show_picture(picture, refit=True)
        # The stack is only held by its lanes' signals from here on.
        view.stacks = [*getattr(view, "stacks", []), stack]
    _lay_out(view, width, height)
    for stack in view.stacks:
        for lane in stack.lanes:
            lane.clip()
    return view


def pair_view(
    pair: PairPicture,
    width: int,
    height: int,
    *,
    title: str = "",
    seen: tuple[tuple[float, float], tuple[float, float]] | None = None,
) -> pg.GraphicsLayoutWidget:
    """A view of the scatter ``pair``, ``width`` × ``height`` pixels large, that is not shown.

    ``seen`` are the parts of the two axes in view, by default those of all rows; ``title`` stands above.
    """
    view = _view(width, height)
    view.ci.setContentsMargins(4, 8, 12, 2)
    heading = title_words(title)
    if heading:
        view.ci.addLabel(axis_text(heading), row=0, col=0, size=f"{points(10):g}pt", color=SHADES.ink)
    plot = PairPlot(on_paper=True)
    view.ci.addItem(plot, 1, 0)
    _lay_out(view, width, height)
    plot.show_pair(pair, refit=True)
    if seen is not None:
        plot.view_box.setRange(xRange=seen[0], yRange=seen[1], padding=0)
    _lay_out(view, width, height)
    plot.clip()
    return view


def pair_svg(pair: PairPicture, width: int = 460, height: int = 340) -> str:
    """The scatter ``pair`` as an SVG element of ``width`` × ``height`` pixels."""
    with on_paper(pair.style_on_paper):
        view = pair_view(pair, width, height)
        if pair.style_on_paper.grid:
            add_grid(view)
        drawn = _svg(view, width, height)
        view.close()
        return drawn


def add_grid(view: pg.GraphicsView) -> None:
    """Draw a line across each picture of ``view`` at every number of its axes, under everything else."""
    for axis in [item for item in view.scene().items() if isinstance(item, ValueAxis) and item.linkedView()]:
        low, high = sorted(axis.range)
        upwards = axis.orientation in ("left", "right")
        length = axis.geometry().height() if upwards else axis.geometry().width()
        if length > 0 and low < high and not axis.has_names:
            for at in axis.tickValues(low, high, length)[0][1]:
                # On an upright view the axis at the side is the one of x.
                line = pg.InfiniteLine(at, angle=0 if upwards != axis.upright else 90, pen=pen(SHADES.rule))
                line.setZValue(-100)
                axis.linkedView().addItem(line, ignoreBounds=True)


def _lay_out(view: pg.GraphicsLayoutWidget, width: int, height: int) -> None:
    """Put everything in its place, twice: how much room an axis takes shows only when it stands somewhere."""
    axes = [item for item in view.scene().items() if isinstance(item, ValueAxis)]
    for _ in range(2):
        view.ci.setGeometry(QRectF(0, 0, width, height))
        view.ci.layout.activate()
        view.scene().prepareForPaint()
        for axis in axes:
            axis.measure()
    for axis in axes:
        # An axis puts its name in the middle only when its own size changes.
        axis.resizeEvent()


def _view(width: int, height: int) -> pg.GraphicsLayoutWidget:
    if QApplication.instance() is None:
        raise RuntimeError("Pictures need a QApplication, on screen or off.")
    view = pg.GraphicsLayoutWidget(show=False, size=(width, height))
    view.setBackground(SHADES.panel)
    view.resize(width, height)
    return view


@contextmanager
def export_mode(view: QWidget, painter: QPainter) -> Iterator[None]:
    """Have the items of ``view`` drawn as shapes, for a file."""
    scene = view.scene() if isinstance(view, pg.GraphicsView) else None
    items = [] if scene is None else [item for item in scene.items() if hasattr(item, "setExportMode")]
    for item in items:
        item.setExportMode(True, {"antialias": True, "resolutionScale": 1.0, "painter": painter})
    yield
    for item in items:
        item.setExportMode(False)


def bars_svg(picture: BarsPicture, width: int, height: int) -> str:
    """The bars of ``picture``, of which no rows are selected, as an SVG element of ``width`` × ``height`` pixels."""
    chart = BarChart()
    chart.show_picture(picture, np.zeros(0, dtype=np.int64))
    return _drawn_svg(chart, width, height)


def missing_svg(picture: MissingPicture, width: int, height: int) -> str:
    """The patterns of ``picture`` as an SVG element of ``width`` × ``height`` pixels."""
    chart = MissingChart()
    chart.show_picture(picture)
    return _drawn_svg(chart, width, height)


def matrix_svg(picture: MatrixPicture, width: int, height: int) -> str:
    """All pairs of ``picture`` as an SVG element of ``width`` × ``height`` pixels."""
    chart = MatrixChart(on_page=True)
    chart.show_picture(picture)
    return _drawn_svg(chart, width, height)


def groups_svg(picture: GroupsPicture, width: int, height: int) -> str:
    """The groups of ``picture`` as an SVG element of ``width`` × ``height`` pixels."""
    chart = GroupChart()
    chart.show_picture(picture)
    return _drawn_svg(chart, width, height)


def _drawn_svg(chart: BarChart | GroupChart | MissingChart | MatrixChart, width: int, height: int) -> str:
    with on_paper(PictureStyle()):
        chart.setMinimumHeight(0)
        chart.setFont(letters(9))
        chart.resize(width, height)
        return render_svg(chart, width, height)


def _is_plot(view: QWidget) -> bool:
    return isinstance(view, pg.GraphicsView)


def render_svg(view: QWidget, width: int, height: int) -> str:
    """``view`` laid out at ``width`` × ``height`` pixels, as a bare SVG element."""
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    target = QSvgGenerator()
    target.setOutputDevice(buffer)
    target.setSize(QSize(width, height))
    target.setViewBox(QRectF(0, 0, width, height))
    target.setResolution(96)
    painter = QPainter(target)
    if isinstance(view, pg.GraphicsView):
        # Without a shown window nothing else asks the plots to lay themselves out.
        view.scene().prepareForPaint()
        with export_mode(view, painter):
            view.scene().render(painter, QRectF(0, 0, width, height), QRectF(0, 0, width, height))
    else:
        view.render(painter, QPoint(), QRegion(), QWidget.RenderFlag.DrawChildren)
    painter.end()
    return _inline(buffer.data().data().decode("utf-8"))


def _svg(view: pg.GraphicsLayoutWidget, width: int, height: int) -> str:
    view.ci.setGeometry(QRectF(0, 0, width, height))
    return render_svg(view, width, height)


def _inline(svg: str) -> str:
    """The bare element, without the declaration and the fixed size in millimetres."""
    body = svg[svg.index("<svg") :]
    body = re.sub(r'(<svg[^>]*?) width="[^"]*" height="[^"]*"', r"\1", body, count=1)
    body = re.sub(r"<title>.*?</title>\s*|<desc>.*?</desc>\s*", "", body, count=2, flags=re.S)
    body = re.sub(
        r'(<g [^>]*?)\s*font-family="[^"]*" font-size="[^"]*" font-weight="[^"]*" font-style="[^"]*"\s*>', r"\1>", body
    )
    # What has no shape is drawn nowhere, and readers complain of it.
    body = re.sub(r'<path [^>]*\bd=""[^>]*/>\s*', "", body)
    body = re.sub(r"<g [^>]*>\s*</g>\s*", "", body)
    body = body.replace('font-family="Sans Serif"', 'font-family="DejaVu Sans, Noto Sans, sans-serif"')
    return _warn_once(body)


def _warn_once(body: str) -> str:
    """The same picture with each shape that occurs often, as marks do by the hundred, written once and then used.

    It is named by what it is, so that pictures in one document can have the same ones.
    """
    found = Counter((shape[1], shape[3]) for shape in _SHAPE.finditer(body))
    names = {key: f"m{crc32(''.join(key).encode()):08x}" for key, often in found.items() if often >= _OFTEN}
    shapes = "".join(f'<g id="{name}" {style}>{path}</g>' for (style, path), name in names.items())

    def used(shape: re.Match[str]) -> str:
        name = names.get((shape[1], shape[3]))
        return f'<use xlink:href="#{name}" transform="{shape[2]}"/>' if name else shape[0]

    return _SHAPE.sub(used, body).replace("<defs>", f"<defs>{shapes}", 1)
