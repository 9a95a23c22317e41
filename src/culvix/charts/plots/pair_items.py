"""What a scatter shows besides points and lines: groups with marks of their own, levels, and how dense the rows are."""

from collections.abc import Sequence

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QColor, QIcon, QPainter, QPen, QPixmap
from pyqtgraph.graphicsItems.ScatterPlotItem import drawSymbol

from culvix.charts.items.export_items import CurveItem
from culvix.charts.items.row_markers import MarkItem
from culvix.charts.lanes.lane import Lane, cut_line
from culvix.charts.palette import SHADES, brush, colour, pen
from culvix.charts.paper import letters
from culvix.study.pictures.pair_pictures import MOST_GROUPS, GroupMarks
from culvix.study.relations.pair_forms import Cells, Level

__all__ = ["STYLE_NAMES", "DensityItem", "GroupItems", "LevelItems", "group_icon"]

_SYMBOLS = ("o", "s", "t1", "d", "+", "x")
"""In the order of the groups: in greys, groups differ by these."""
STYLE_NAMES = ("Disc", "Square", "Triangle", "Diamond", "Plus", "Cross")
_SIZES = (5.5, 5.5, 6.5, 7.0, 7.0, 6.0)
_DARKEST = 0.62
_LINE_HEIGHT = 14


def group_pen(style: int, width: float = 1.6) -> QPen:
    """With what the line of a group is drawn."""
    drawn: QPen = pen(SHADES.palette.groups[style], width)
    return drawn


def _mark_style(style: int, strength: float = 0.75) -> dict[str, object]:
    """How the rows of a group are drawn."""
    shade = SHADES.palette.groups[style]
    outline = pen(shade, 1.3) if _SYMBOLS[style] in "+x" else None
    return {"symbol": _SYMBOLS[style], "size": _SIZES[style], "brush": brush(shade, strength), "pen": outline}


def group_icon(style: int | None) -> QIcon:
    """The mark of a group, or that of the others."""
    image = QPixmap(12, 12)
    image.fill(Qt.GlobalColor.transparent)
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(6, 6)
    shade = SHADES.reference if style is None else SHADES.palette.groups[style]
    symbol, size = ("o", 4.5) if style is None else (_SYMBOLS[style], 1.4 * _SIZES[style])
    drawSymbol(painter, symbol, size, pen(shade, 1.3), brush(shade))
    painter.end()
    return QIcon(image)


class GroupItems:
    """The marks and the line of each group in ``lane``, and, with ``names``, what each is called."""

    def __init__(self, lane: Lane, *, names: bool) -> None:
        self.marks: list[MarkItem] = []
        self.lines: list[CurveItem] = []
        self._names: list[pg.TextItem] = []
        self._lane, self._shown = lane, names
        self._groups: Sequence[GroupMarks] = ()

    def show(self, groups: Sequence[GroupMarks]) -> None:
        """Draw ``groups``, each in its style."""
        self._groups = groups
        while len(self.marks) < min(len(groups), MOST_GROUPS):
            self.marks.append(self._lane.marks(**_mark_style(0)))
            line = CurveItem()
            line.setZValue(11)
            self._lane.add(line)
            self.lines.append(line)
        for item, line in zip(self.marks[len(groups) :], self.lines[len(groups) :], strict=True):
            item.setVisible(False)
            line.clear()
        for group, item, line in zip(groups, self.marks, self.lines, strict=False):
            item.setVisible(True)
            item.put(group.marks, group.y, **_mark_style(group.style))
            line.setPen(group_pen(group.style))
        self.clip()

    def clip(self) -> None:
        """Draw each line along the rows of its group, and names where there is room for them."""
        for group, item in zip(self._groups, self.lines, strict=False):
            line, x = group.line, group.marks.values
            if line is None or not x.size:
                item.clear()
                continue
            across = float(x.min()), float(x.max())
            low, high = self._lane.view_box.viewRange()[1]
            item.setData(*cut_line(line.slope, line.intercept, across, (low, high)))
        if self._shown:
            self._write()

    def _write(self) -> None:
        for name in self._names:
            self._lane.remove(name)
        self._names = []
        (left, _), (_, top) = self._lane.view_box.viewRange()
        _, pixel = (float(size) for size in self._lane.view_box.viewPixelSize())
        for index, group in enumerate(self._groups):
            words = pg.TextItem(f"{group.name}: {group.numbers}", color=QColor(SHADES.palette.groups[group.style]))
            words.setFont(letters(8.0))
            words.setPos(left, top - index * _LINE_HEIGHT * pixel)
            words.setZValue(60)
            self._lane.add(words)
            self._names.append(words)


class LevelItems:
    """Level lines across ``lane``, each with its words at the right end."""

    def __init__(self, lane: Lane) -> None:
        self._lane = lane
        self._items: list[pg.InfiniteLine] = []

    def show(self, levels: Sequence[Level]) -> None:
        for item in self._items:
            self._lane.remove(item)
        self._items = []
        for level in levels:
            item = pg.InfiniteLine(
                level.height,
                angle=0,
                pen=pen(SHADES.resolved if level.is_limit else SHADES.ink, 1.4, dashed=level.is_limit),
                label=level.words,
                labelOpts={"position": 0.98, "anchors": [(1, 1), (1, 1)], "color": QColor(SHADES.muted)},
            )
            item.label.setFont(letters(8.0))
            item.setZValue(7)
            self._lane.add(item)
            self._items.append(item)


class DensityItem(pg.ImageItem):
    """How many rows lie in each part of the picture: the more, the darker, by the logarithm of their number."""

    def __init__(self) -> None:
        super().__init__(axisOrder="row-major")
        self.setZValue(-3)
        self.hide()

    def show_cells(self, cells: Cells | None) -> None:
        """Draw ``cells``, or nothing."""
        self.setVisible(cells is not None)
        if cells is None:
            return
        shade = colour(SHADES.data)
        share = np.log1p(cells.counts) / np.log1p(max(int(cells.counts.max()), 1))
        image = np.empty((*cells.counts.shape, 4), dtype=np.uint8)
        image[..., :3] = shade.red(), shade.green(), shade.blue()
        image[..., 3] = np.round(255 * _DARKEST * share)
        self.setImage(image, levels=None)
        self.setRect(cells.left, cells.bottom, cells.width, cells.height)
