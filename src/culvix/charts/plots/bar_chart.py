"""Bars of categories below each other, or of periods along time, in a widget as high as they need."""

from collections.abc import Sequence

import numpy as np
from PyQt6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, pyqtSignal
from PyQt6.QtGui import QBrush, QFontMetricsF, QHelpEvent, QMouseEvent, QPainter, QPaintEvent
from PyQt6.QtWidgets import QToolTip, QWidget

from culvix.charts.palette import SHADES, colour
from culvix.stats.core.arrays import Ints
from culvix.stats.display import count, per_cent
from culvix.study.pictures.bars import Bar, BarsPicture

__all__ = ["BarChart"]

_LINE, _HIGHEST_LINE = 24, 40
"""How high a line with one bar is at least, and where there is room for more."""
_BAR = 0.625
"""How much of its line a bar fills."""
_AROUND = 10.0
_MOST_NAME = 0.34
"""The names have at most this share of the width."""
_FEET, _SIDE = 40.0, 56.0
_HEAD = 20.0
_TALL = 220

_PARTS: tuple[tuple[str, float, Qt.BrushStyle], ...] = (
    ("data", 0.85, Qt.BrushStyle.SolidPattern),
    ("data", 0.35, Qt.BrushStyle.SolidPattern),
    ("reference", 0.9, Qt.BrushStyle.SolidPattern),
    ("data", 0.9, Qt.BrushStyle.BDiagPattern),
    ("ink", 0.85, Qt.BrushStyle.SolidPattern),
    ("ink", 0.9, Qt.BrushStyle.Dense5Pattern),
    ("reference", 0.9, Qt.BrushStyle.CrossPattern),
)
"""How parts of bars are told apart: by shade and by pattern."""


def _brush(part: int) -> QBrush:
    shade, alpha, pattern = _PARTS[part % len(_PARTS)]
    return QBrush(colour(SHADES.of(shade), alpha), pattern)


class BarChart(QWidget):
    """Draws a `BarsPicture`; rows that are selected fill their bars from the foot.

    chosen (place of a bar, modifiers): a bar was clicked.
    """

    chosen = pyqtSignal(int, object)

    def __init__(self, title: str = "") -> None:
        super().__init__()
        self.title = title
        """What stands above, in a picture that is saved."""
        self.picture: BarsPicture | None = None
        self.selected: Ints = np.zeros(0, dtype=np.int64)
        """How many rows of each bar are selected."""
        self._places: list[QRectF] = []
        self.setMouseTracking(True)
        self.setAccessibleName("Bars of the column")

    def show_picture(self, picture: BarsPicture, selected: Ints) -> None:
        """Draw ``picture``, with the ``selected`` rows marked."""
        self.picture = picture
        chosen = picture.codes[selected]
        self.selected = np.bincount(chosen[chosen >= 0], minlength=len(picture.bars))
        self.setMinimumHeight(self.needed_height)
        self.setAccessibleDescription(self.sentence)
        self.updateGeometry()
        self.update()

    @property
    def sentence(self) -> str:
        """The picture in words."""
        if self.picture is None:
            return ""
        first = ", ".join(f"{bar.name} {count(bar.rows)}" for bar in self.picture.bars[:5])
        return f"{self.picture.title}: {self.picture.about}. {first}"

    @property
    def needed_height(self) -> int:
        """How high all bars are, in pixels."""
        if self.picture is None:
            return _TALL
        head = (_HEAD if self.picture.parts else 0) + (_HEAD if self.title else 0)
        if self.picture.standing:
            missing = sum(bar.kind != "value" for bar in self.picture.bars)
            return int(_TALL + head + _LINE * missing)
        return int(_LINE * len(self.picture.bars) + head + 2 * _AROUND)

    def sizeHint(self) -> QSize:
        return QSize(600, self.needed_height)

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        self.draw(painter)
        painter.end()

    def draw(self, painter: QPainter) -> None:
        """Draw everything with ``painter``."""
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        picture = self.picture
        if picture is None or not picture.bars:
            return
        top = _AROUND
        if self.title:
            painter.setPen(colour(SHADES.ink))
            painter.drawText(QPointF(_AROUND, top + 10), self.title)
            top += _HEAD
        if picture.parts:
            self._legend(painter, picture.parts, top)
            top += _HEAD
        self._places = [QRectF() for _ in picture.bars]
        lying = [at for at, bar in enumerate(picture.bars) if not picture.standing or bar.kind != "value"]
        if picture.standing:
            below = _LINE * len(lying)
            across, high = self.width() - _SIDE - _AROUND, self.height() - top - below - _FEET
            self._standing(painter, QRectF(_SIDE, top, across, high))
            top = self.height() - below - 4
        self._lying(painter, lying, top)

    def _legend(self, painter: QPainter, parts: Sequence[str], top: float) -> None:
        metrics, left = QFontMetricsF(self.font()), _AROUND
        for position, name in enumerate(parts):
            shown = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, 130)
            painter.fillRect(QRectF(left, top + 2, 12, 10), _brush(position))
            painter.setPen(colour(SHADES.ink))
            painter.drawText(QPointF(left + 17, top + 12), shown)
            left += 29 + metrics.horizontalAdvance(shown)

    def _lying(self, painter: QPainter, which: Sequence[int], top: float) -> None:
        """Bars below each other: name, bar, and its rows with their share and the share up to it."""
        picture, metrics = self.picture, QFontMetricsF(self.font())
        assert picture is not None
        bars = [picture.bars[at] for at in which]
        texts, up_to = [], 0
        for bar in bars:
            up_to += bar.rows if bar.kind != "missing" else 0
            texts.append(self._numbers(bar, up_to))
        if picture.median is not None and picture.median in which:
            texts[list(which).index(picture.median)] += " · median"
        names = max((metrics.horizontalAdvance(bar.name) for bar in bars), default=0.0) + 6
        names = min(names, _MOST_NAME * self.width())
        numbers = max((metrics.horizontalAdvance(text) for text in texts), default=0.0) + 8
        left, room = _AROUND + names, max(self.width() - 2 * _AROUND - names - numbers, 40.0)
        longest = max((bar.rows for bar in picture.bars), default=1) or 1
        high = _LINE if picture.standing else self._line(len(bars), top)
        for line, (at, bar, text) in enumerate(zip(which, bars, texts, strict=True)):
            middle = top + (line + 0.5) * high
            self._places[at] = QRectF(0, middle - high / 2, self.width(), high)
            painter.setPen(colour(SHADES.ink if bar.kind == "value" else SHADES.muted))
            name = metrics.elidedText(bar.name, Qt.TextElideMode.ElideMiddle, names - 6)
            painter.drawText(QRectF(_AROUND, middle - 10, names - 6, 20), int(Qt.AlignmentFlag.AlignVCenter), name)
            long = max(room * bar.rows / longest, 1.0 if bar.rows else 0.0)
            whole = QRectF(left, middle - _BAR * high / 2, long, _BAR * high)
            self._bar(painter, at, bar, whole, across=True)
            painter.setPen(colour(SHADES.muted))
            end = QPointF(whole.right() + 6, middle + metrics.ascent() / 2 - 1)
            painter.drawText(end, text)

    def _line(self, bars: int, top: float) -> float:
        """How high the line of each of so many bars is, from ``top`` down, in pixels."""
        return min(max((self.height() - top - _AROUND) / max(bars, 1), _LINE), _HIGHEST_LINE)

    def _numbers(self, bar: Bar, up_to: int) -> str:
        assert self.picture is not None
        if bar.kind == "missing":
            return f"{count(bar.rows)} · {per_cent(bar.rows / max(self.picture.rows, 1))} of all rows"
        share = bar.rows / max(self.picture.n, 1)
        text = f"{count(bar.rows)} · {per_cent(share)}"
        return text if self.picture.standing else f"{text} · so far {per_cent(up_to / max(self.picture.n, 1))}"

    def _bar(self, painter: QPainter, at: int, bar: Bar, whole: QRectF, *, across: bool) -> None:
        """A bar, in its parts where it has any, with what is selected over it."""
        painter.setPen(Qt.PenStyle.NoPen)
        if bar.kind == "missing":
            painter.fillRect(whole, QBrush(colour(SHADES.muted, 0.8), Qt.BrushStyle.BDiagPattern))
        elif not bar.parts:
            painter.fillRect(whole, colour(SHADES.data, 0.62 if bar.kind == "value" else 0.3))
        else:
            before = 0
            for part, rows in enumerate(bar.parts):
                start, share = (number / max(bar.rows, 1) for number in (before, rows))
                painter.fillRect(_share(whole, start, share, across), _brush(part))
                before += rows
        chosen = int(self.selected[at]) if at < self.selected.size else 0
        if chosen:
            slim = whole.adjusted(0, 4, 0, -4) if across else whole.adjusted(2, 0, -2, 0)
            painter.fillRect(_share(slim, 0.0, chosen / max(bar.rows, 1), across), colour(SHADES.probe, 0.9))

    def _standing(self, painter: QPainter, area: QRectF) -> None:
        """Bars side by side along time, with as many names below as have room."""
        picture, metrics = self.picture, QFontMetricsF(self.font())
        assert picture is not None
        shown = [(at, bar) for at, bar in enumerate(picture.bars) if bar.kind == "value"]
        tallest = max((bar.rows for _, bar in shown), default=1) or 1
        wide = area.width() / max(len(shown), 1)
        painter.setPen(colour(SHADES.muted))
        for rows in sorted({0, tallest // 2, tallest}):
            y = area.bottom() - rows / tallest * area.height()
            text = count(rows)
            painter.drawText(QPointF(area.left() - metrics.horizontalAdvance(text) - 6, y + 4), text)
        free = area.left() - 1
        for position, (at, bar) in enumerate(shown):
            high = area.height() * bar.rows / tallest
            left = area.left() + position * wide
            whole = QRectF(left + 0.5, area.bottom() - high, max(wide - 1.0, 0.8), high)
            self._places[at] = QRectF(left, area.top(), wide, area.height())
            self._bar(painter, at, bar, whole, across=False)
            width = metrics.horizontalAdvance(bar.name)
            middle = left + wide / 2
            start = min(max(middle - width / 2, 2.0), self.width() - width - 2)
            if start > free:
                painter.setPen(colour(SHADES.rule))
                painter.drawLine(QPointF(middle, area.bottom()), QPointF(middle, area.bottom() + 4))
                painter.setPen(colour(SHADES.muted))
                painter.drawText(QPointF(start, area.bottom() + 6 + metrics.ascent()), bar.name)
                free = start + width + 12
        painter.setPen(colour(SHADES.rule))
        painter.drawLine(area.bottomLeft(), area.bottomRight())

    def bar_at(self, point: QPointF) -> int | None:
        """The bar under a place, None where there is none."""
        return next((at for at, area in enumerate(self._places) if area.contains(point)), None)

    def mousePressEvent(self, event: QMouseEvent | None) -> None:
        found = None if event is None else self.bar_at(event.position())
        if event is not None and found is not None and event.button() == Qt.MouseButton.LeftButton:
            self.chosen.emit(found, event.modifiers())

    def event(self, event: QEvent | None) -> bool:
        if isinstance(event, QHelpEvent) and self.picture is not None:
            found = self.bar_at(QPointF(event.pos()))
            if found is not None:
                bar = self.picture.bars[found]
                lines = [f"{bar.name}: {count(bar.rows)}"]
                lines += [f"{name} {count(rows)}" for name, rows in zip(self.picture.parts, bar.parts, strict=False)]
                QToolTip.showText(event.globalPos(), "\n".join(lines), self)
            return True
        return super().event(event)


def _share(whole: QRectF, start: float, share: float, across: bool) -> QRectF:
    """A part of a bar from its foot on."""
    if across:
        return QRectF(whole.left() + start * whole.width(), whole.top(), share * whole.width(), whole.height())
    high = share * whole.height()
    return QRectF(whole.left(), whole.bottom() - start * whole.height() - high, whole.width(), high)
