"""Many columns by the same groups: a small row for each, on its own axis, with how much the groups differ."""

from collections.abc import Sequence

from PyQt6.QtCore import QPointF, QRectF, QSize, Qt
from PyQt6.QtGui import QFontMetricsF, QPainter, QPen
from PyQt6.QtWidgets import QWidget

from culvix.charts.palette import SHADES, colour
from culvix.charts.plots.row_chart import RowChart
from culvix.stats.display import p_value
from culvix.study.groups.comparison.columns_by_groups import ColumnByGroups
from culvix.study.pictures.groups.small_rows import SmallGroup

__all__ = ["SmallRowsChart"]

_AROUND, _HEAD, _BETWEEN = 8.0, 22.0, 10.0
_SLOT, _THIN = 13.0, 2.0
"""How high a group is at the most and at the least, in pixels."""
_MOST_HIGH = 156.0
"""How high all groups of a row are at the most."""
_NAMED = 11.0
"""Groups that are at least so high have their names beside them."""
_WORDS, _NAMES = 0.3, 0.13
"""Shares of the width: of what is said of a column, and of the names of its groups."""


class SmallRowsChart(RowChart):
    """Draws `ColumnByGroups` below each other."""

    def __init__(self, title: str = "") -> None:
        """``title`` stands above, in a picture that is saved."""
        super().__init__("Columns by groups")
        self.title = title
        self.columns: tuple[ColumnByGroups, ...] = ()
        self.alpha = 0.05

    def show_columns(self, columns: Sequence[ColumnByGroups], alpha: float) -> None:
        """Draw ``columns``; p below ``alpha`` stands out."""
        self.columns, self.alpha = tuple(columns), alpha
        self.setMinimumHeight(round(self.first_row + self.row_height * len(self.columns) + _AROUND))
        self.setAccessibleDescription("; ".join(_sentence(column) for column in self.columns[:20]))
        self.updateGeometry()
        self.update()

    def sizeHint(self) -> QSize:
        return QSize(520, self.minimumHeight())

    @property
    def row_count(self) -> int:
        return len(self.columns)

    @property
    def first_row(self) -> float:
        return _AROUND + (_HEAD if self.title else 0.0)

    @property
    def slot(self) -> float:
        """How high a group is, in pixels."""
        most = max((len(column.row.groups) for column in self.columns), default=1)
        return min(max(_MOST_HIGH / max(most, 1), _THIN), _SLOT)

    @property
    def row_height(self) -> float:
        line = QFontMetricsF(self.font()).height()
        most = max((len(column.row.groups) for column in self.columns), default=1)
        return max(self.slot * most + line, 3 * line) + _BETWEEN

    def draw(self, painter: QPainter) -> None:
        """Draw everything with ``painter``."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        metrics = QFontMetricsF(self.font())
        if self.title:
            painter.setPen(colour(SHADES.ink))
            painter.drawText(QPointF(_AROUND, _AROUND + metrics.ascent()), self.title)
        for index, column in enumerate(self.columns):
            top = self.first_row + index * self.row_height
            painter.setPen(QPen(colour(SHADES.rule), 1))
            if index:
                between = top - _BETWEEN / 2
                painter.drawLine(QPointF(_AROUND, between), QPointF(self.width() - _AROUND, between))
            self._words(painter, metrics, column, top)
            self._groups(painter, metrics, column, top)

    def _words(self, painter: QPainter, metrics: QFontMetricsF, column: ColumnByGroups, top: float) -> None:
        """The column, how much the groups differ, and how sure that is."""
        room, differs = _WORDS * self.width() - 2 * _AROUND, column.differs(self.alpha)
        adjusted = "" if column.adjusted is None else f"{p_value(column.adjusted)} adjusted"
        lines = [(column.row.title, SHADES.ink), (column.row.effect, SHADES.muted)]
        lines += [(adjusted, SHADES.probe if differs else SHADES.muted)] if adjusted else [(column.note, SHADES.muted)]
        for line, (words, shade) in enumerate(lines):
            painter.setPen(colour(shade))
            shown = metrics.elidedText(words, Qt.TextElideMode.ElideMiddle, room)
            painter.drawText(QPointF(_AROUND, top + metrics.ascent() + line * metrics.height()), shown)

    def _groups(self, painter: QPainter, metrics: QFontMetricsF, column: ColumnByGroups, top: float) -> None:
        groups = column.row.groups
        if not groups:
            return
        left, right = _WORDS * self.width(), self.width() - 2 * _AROUND
        if self.slot >= _NAMED:
            room = _NAMES * self.width()
            left += room + _AROUND
        for index, group in enumerate(groups):
            slot = QRectF(left, top + index * self.slot, right - left, self.slot)
            if self.slot >= _NAMED:
                painter.setPen(colour(SHADES.muted))
                shown = metrics.elidedText(group.name, Qt.TextElideMode.ElideMiddle, room)
                middle = slot.center().y() + metrics.ascent() / 2 - 1
                painter.drawText(QPointF(left - _AROUND - metrics.horizontalAdvance(shown), middle), shown)
            _draw_group(painter, group, slot)
        painter.setPen(colour(SHADES.muted))
        foot = top + self.slot * len(groups) + metrics.ascent() + 1
        low, high = column.row.ends
        painter.drawText(QPointF(left, foot), low)
        painter.drawText(QPointF(right - metrics.horizontalAdvance(high), foot), high)

    def tip(self, index: int) -> str:
        column = self.columns[index]
        groups = "\n".join(f"{group.name}: {group.words}" for group in column.row.groups[:20])
        return f"{_sentence(column)}\n{groups}\nA click compares it alone"

    def again(self, heading: str, width: int, height: int) -> QWidget:
        """The same picture anew at another size, with a ``heading``."""
        made = SmallRowsChart(heading)
        made.show_columns(self.columns, self.alpha)
        made.resize(width, max(height, made.minimumHeight()))
        return made


def _sentence(column: ColumnByGroups) -> str:
    adjusted = "" if column.adjusted is None else f", {p_value(column.adjusted)} adjusted"
    return f"{column.name}: {column.row.effect or column.note}{adjusted}"


def _draw_group(painter: QPainter, group: SmallGroup, slot: QRectF) -> None:
    """The middle half as a bar, cut at the median; the mean as a dot on its interval."""

    def x(position: float) -> float:
        return slot.left() + position * slot.width()

    if group.quartiles is not None:
        low, middle, high = (x(value) for value in group.quartiles)
        tall = max(0.5 * slot.height(), 1.0)
        top = slot.center().y() - tall / 2
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(colour(SHADES.data, 0.42))
        painter.drawRect(QRectF(low, top, max(high - low, 1.0), tall))
        painter.setPen(QPen(colour(SHADES.ink), 1.6))
        painter.drawLine(QPointF(middle, top), QPointF(middle, top + tall))
    painter.setPen(QPen(colour(SHADES.probe), 1.4))
    at = slot.center().y()
    if group.interval is not None:
        painter.drawLine(QPointF(x(group.interval[0]), at), QPointF(x(group.interval[1]), at))
    painter.setBrush(colour(SHADES.probe))
    size = min(0.22 * slot.height(), 2.6)
    painter.drawEllipse(QPointF(x(group.mean), at), size, size)
