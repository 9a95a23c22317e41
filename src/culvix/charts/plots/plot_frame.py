"""The frame of every chart on a scene: a view in the middle, axes beside it, and a row above for words."""

from collections.abc import Sequence

import pyqtgraph as pg
from PyQt6.QtWidgets import QGraphicsGridLayout, QGraphicsItem, QGraphicsObject, QSizePolicy

from culvix.charts.axes.value_axis import ValueAxis

__all__ = ["WORDS", "Plot"]

_PLACES = {"top": (1, 1), "left": (2, 0), "right": (2, 2), "bottom": (3, 1)}
WORDS = 0
"""The row of the grid above everything else."""
_TITLE_HEIGHT = 30


class Plot(pg.GraphicsWidget):
    """``view`` with an axis at each of ``sides``; ``upright`` as `ValueAxis` has it.

    It has just what a chart here needs: the plotting library's own frame brings menus and buttons with it that take
    several times as long to make as the chart itself.
    """

    def __init__(self, view: pg.ViewBox, sides: Sequence[str], *, upright: bool = False) -> None:
        super().__init__()
        self.view_box = view
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.grid = QGraphicsGridLayout(self)
        self.grid.setContentsMargins(1, 1, 1, 1)
        self.grid.setSpacing(0)
        self.grid.addItem(view, 2, 1)
        self.grid.setRowStretchFactor(2, 100)
        self.grid.setColumnStretchFactor(1, 100)
        self._axes: dict[str, ValueAxis] = {}
        for side in sides:
            axis = self._axes[side] = ValueAxis(side, upright=upright)
            axis.linkToView(view)
            self.grid.addItem(axis, *_PLACES[side])
            # Above what is drawn in the view at no height of its own.
            axis.setZValue(0.5)
            axis.setFlag(QGraphicsItem.GraphicsItemFlag.ItemNegativeZStacksBehindParent)

    def axis(self, side: str) -> ValueAxis:
        """The axis at a side. Raises KeyError where there is none."""
        return self._axes[side]

    def add(self, item: QGraphicsObject) -> None:
        """Draw ``item`` in the view, whose range it leaves as it is."""
        self.view_box.addItem(item, ignoreBounds=True)

    def remove(self, item: QGraphicsObject) -> None:
        """Take ``item`` out of the view."""
        self.view_box.removeItem(item)

    def set_title(self, markup: str, *, size: str, color: str) -> None:
        """Write a title above everything."""
        self.grid.setRowFixedHeight(WORDS, _TITLE_HEIGHT)
        self.grid.addItem(pg.LabelItem(markup, size=size, color=color), WORDS, 1)
