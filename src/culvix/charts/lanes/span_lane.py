"""The span lane: for each outlier method the interval it accepts, and the values it flags beside it."""

from collections.abc import Sequence
from functools import cache
from math import ceil

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QFont, QFontMetricsF

from culvix.charts.axes.value_axis import AXIS_WIDTH
from culvix.charts.items.export_items import BarItem, CurveItem
from culvix.charts.items.row_markers import MarkItem, dwindled
from culvix.charts.lanes.lane import Lane
from culvix.charts.palette import SHADES, brush, pen
from culvix.charts.paper import letters
from culvix.stats.display import count, plural
from culvix.stats.registry import OUTLIER_METHODS
from culvix.study.pictures.column_pictures import Marks, ShapePicture
from culvix.study.pictures.spans import Span

__all__ = ["SpanLane"]

_HALF = 0.31
_GRIP_PIXELS = 6.0
_FAR_BEYOND = 1e4
_LONGEST_GROUP = 16
_LINE_PIXELS = 7.2
_BETWEEN_NAMES, _MOST_NAME_ROWS = 10.0, 3
_USUAL_SPANS = 3
_STRETCH, _STRETCH_OF_ONE, _MOST_STRETCH = 28, 12, 150


def _count_font() -> QFont:
    return letters(7.5)


class SpanLane(Lane):
    """One line per method: a bar for its span, small bars across for what it flags, a sentence where it has none."""

    name = "spans"
    stretch = _STRETCH

    def __init__(self, upright: bool = False) -> None:
        super().__init__(upright)
        self.spans = BarItem(x0=[], x1=[], height=[])
        self.flagged = MarkItem(symbol=self.pointing(up=True), size=8, brush=brush(SHADES.flagged))
        self.ghost = BarItem(x0=[], x1=[], height=[])
        self.add(self.spans)
        self.add(self.ghost)
        self.add(self.flagged)
        self.notes: list[tuple[pg.TextItem, str]] = []
        self.count_items: list[pg.TextItem] = []
        self.counts: list[tuple[pg.TextItem, Span, int]] = []
        self.hand = pg.TextItem("", color=SHADES.ink, fill=brush(SHADES.panel), border=pen(SHADES.rule, 1.0))
        self.hand.setZValue(60)
        self.hand.hide()
        self.add(self.hand)
        self.grip = CurveItem(pen=pen(SHADES.ink, 3.0))
        self.add(self.grip)
        # Names stand beside each other in several rows, those at the ends beyond the lane.
        self.height_axis.setStyle(hideOverlappingLabels=False)
        self.view_box.handle_at = self._end_at
        self.view_box.over_handle.connect(self._show_grip)
        self.view_box.sigXRangeChanged.connect(self._position_notes)
        self.view_box.sigXRangeChanged.connect(self._position_counts)
        self.view_box.sigResized.connect(lambda _: self._resized())
        for position in range(_USUAL_SPANS):
            self._make_counts(position)

    def show_picture(self, picture: ShapePicture) -> None:
        super().show_picture(picture)
        self.view_box.setYRange(-0.6, len(picture.spans) - 0.4, padding=0)
        self.stretch = min(max(_STRETCH, _STRETCH_OF_ONE * len(picture.spans)), _MOST_STRETCH)
        lines = self._lines(picture.spans)
        self._write_names()
        given = [(y, *self._drawn(s)) for y, s in lines if s.lower is not None and s.upper is not None]
        self.spans.setOpts(
            x0=[low for _, low, _ in given],
            x1=[high for _, _, high in given],
            y0=[y - _HALF for y, _, _ in given],
            height=[2 * _HALF for _ in given],
            brush=brush(SHADES.resolved, 0.28),
            pen=pen(SHADES.resolved, 1.0),
        )
        x = np.concatenate([s.flagged for _, s in lines]) if lines else np.zeros(0)
        y = np.repeat([float(y) for y, _ in lines], [s.flagged.size for _, s in lines])
        size, strength = dwindled(x.size)
        self.flagged.put(Marks.plain(x), y, size=8 * size, brush=brush(SHADES.flagged, strength))
        self._write_notes(lines)
        self._write_counts(lines)

    def _drawn(self, span: Span) -> tuple[float, float]:
        """The ends of a span as they can be drawn: an open one lies far beyond all values."""
        low, high = (self.picture.extent if self.picture else None) or (0.0, 1.0)
        far = _FAR_BEYOND * max(high - low, abs(low), abs(high))
        return max(span.lower or 0.0, low - far), min(span.upper or 0.0, high + far)

    def _lines(self, spans: Sequence[Span]) -> list[tuple[int, Span]]:
        """Each span with its height: the first one is the uppermost, or the one at the left."""
        return list(enumerate(spans if self.upright else reversed(spans)))

    def _write_names(self) -> None:
        """Name the lines at the lane's own axis; below upright ones in as many rows as they need beside each other."""
        spans = self.picture.spans if self.picture else ()
        names = [(y, self._name(span, spans)) for y, span in self._lines(spans)]
        rows = 1
        if not self.upright:
            names = [(y, self.height_axis.elided(name, AXIS_WIDTH - 12)) for y, name in names]
        if self.upright and spans:
            widest = max(self.height_axis.text_width(name) for _, name in names) + _BETWEEN_NAMES
            rows = min(max(ceil(widest * len(spans) / max(self.pixels[1], 1.0)), 1), _MOST_NAME_ROWS)
        self.height_axis.setTicks([[(float(y), "\n" * (y % rows) + name) for y, name in names]])

    @staticmethod
    def _name(span: Span, spans: Sequence[Span]) -> str:
        """The name of a line: that of its method; of several groups only the first line bears it."""
        if span.group and any(other.key == span.key for other in spans[: spans.index(span)]):
            return ""
        name = OUTLIER_METHODS[span.key].short if span.group else span.label
        return f"{name} !" if span.note and not span.work else name

    def _resized(self) -> None:
        if self.upright:
            self._write_names()
        self.place_words()

    def place_words(self) -> None:
        self._position_counts()
        self._position_notes()

    def _text(self, text: str, **style: object) -> pg.TextItem:
        """Words that run along the axis of values."""
        item = pg.TextItem(text, angle=90 if self.upright else 0, **style)
        self.add(item)
        return item

    def _write_counts(self, lines: list[tuple[int, Span]]) -> None:
        """How many values lie below and above each span, at its ends within."""
        given = [(y, span, side) for y, span in lines if span.beyond is not None for side in (0, 1)]
        while len(self.count_items) < len(given):
            self._make_counts(given[0][0])
        self.counts = []
        for item, (y, span, side) in zip(self.count_items, given, strict=False):
            item.setPos(0.0, y)
            self.counts.append((item, span, side))
        for item in self.count_items[len(given) :]:
            # Not even the ground of the words that stood there is left.
            item.setText("")
            item.hide()
        if not self.axis_moves:
            self._position_counts()

    def _make_counts(self, y: float) -> None:
        """Words for both ends of one more span; they take longer to make than to write."""
        for _ in range(2):
            item = self._text("", color=SHADES.ink, anchor=(0.0, 0.5))
            item.setZValue(30)
            item.setFont(_count_font())
            item.setPos(0.0, y)
            self.count_items.append(item)

    def _position_counts(self) -> None:
        """At the ends of the spans as far as these are in view: within, or where there is no room, beyond them."""
        left, right = self.view_box.viewRange()[0]
        pixel, up = (float(size) for size in self.view_box.viewPixelSize())
        high = _LINE_PIXELS * up <= 2 * _HALF
        for item, span, side in self.counts:
            assert span.beyond is not None
            low = left if span.lower is None else min(max(span.lower, left), right)
            up_to = right if span.upper is None else max(min(span.upper, right), left)
            whose = f"{span.group[:_LONGEST_GROUP]}: " if span.group else ""
            below, above = f"{whose}{count(span.beyond[0])} below", f"{count(span.beyond[1])} above"
            item.setVisible(high)
            inside = up_to - low > (_count_width(below) + _count_width(above) + _BETWEEN_NAMES) * pixel
            # Beside a short span words and marks want the same place; there words have a ground of their own.
            item.fill = brush(SHADES.panel, 0.0 if inside else 0.82)
            if inside:
                _rewrite(item, above if side else below, float(side))
                item.setPos(up_to if side else low, item.pos().y())
            else:
                # Beyond a short span both stand together, at the side where there is more room.
                after = right - up_to > low - left
                # Of the words of the other end nothing is left, not even their ground.
                item.setVisible(high and not side)
                _rewrite(item, "" if side else f"{below}, {above}", 0.0 if after else 1.0)
                item.setPos(up_to if after else low, item.pos().y())

    def show_handle(self, key: str, value: float, message: str) -> None:
        """Say ``message`` beside the end of the span ``key`` that is being dragged, at ``value``."""
        keys = [span.key for span in self.picture.spans] if self.picture else []
        if key not in keys:
            return
        left, right = self.view_box.viewRange()[0]
        self.hand.setText(message)
        self.hand.setAnchor((0.5, 1.2 if keys.index(key) else -0.2))
        self.hand.setPos(min(max(value, left), right), self._position_at(keys.index(key)))
        self.hand.show()

    def hide_handle(self) -> None:
        """Nothing is dragged any more."""
        self.hand.hide()

    def show_ghost(self, spans: tuple[Span, ...]) -> None:
        """Leave the outline of ``spans`` where they were; none takes it away."""
        lines = self._lines(spans)
        given = [(y, s.lower, s.upper) for y, s in lines if s.lower is not None and s.upper is not None]
        self.ghost.setOpts(
            x0=[low for _, low, _ in given],
            x1=[high for _, _, high in given],
            y0=[y - 1.25 * _HALF for y, _, _ in given],
            height=[2.5 * _HALF for _ in given],
            brush=None,
            pen=pen(SHADES.reference, 1.2, dashed=True),
        )

    def clip(self) -> None:
        low, high = self.view_box.viewRange()[0]
        options = self.spans.opts
        self.spans.setOpts(x0=np.clip(options["x0"], low, high), x1=np.clip(options["x1"], low, high))

    def _write_notes(self, lines: list[tuple[int, Span]]) -> None:
        for item, _ in self.notes:
            self.remove(item)
        self.notes = []
        for y, span in lines:
            message = span.work or span.note
            if message and span.lower is None:
                item = self._text(message, color=SHADES.muted if span.work else SHADES.caution, anchor=(0.5, 0.5))
                item.setPos(0, y)
                self.notes.append((item, message))
        self._position_notes()

    def _position_notes(self) -> None:
        left, right = self.view_box.viewRange()[0]
        room = self.pixels[0] - _BETWEEN_NAMES
        for item, message in self.notes:
            metrics = QFontMetricsF(item.textItem.font())
            item.setText(metrics.elidedText(message, Qt.TextElideMode.ElideRight, max(room, 0.0)))
            item.setPos((left + right) / 2, item.pos().y())

    def end(self, handle: int) -> tuple[Span, bool] | None:
        """The span and side (True: the upper end) that a handle means."""
        spans = self.picture.spans if self.picture else ()
        return (spans[handle // 2], bool(handle % 2)) if 0 <= handle < 2 * len(spans) else None

    def _end_at(self, x: float, y: float) -> int | None:
        """The end of a span under the pointer that can be dragged."""
        span = self._span_at(y)
        if span is None or self.picture is None or not span.movable or abs(y - round(y)) > 1.3 * _HALF:
            return None
        reach = _GRIP_PIXELS * float(self.view_box.viewPixelSize()[0])
        ends = [np.inf if end is None else abs(x - end) for end in (span.lower, span.upper)]
        if min(ends) > reach:
            return None
        return 2 * self.picture.spans.index(span) + int(ends[1] <= ends[0])

    def _show_grip(self, handle: int) -> None:
        """A heavier end under the pointer."""
        found = self.end(handle)
        if found is None or self.picture is None:
            self.grip.clear()
            return
        (span, upper), y = found, self._position_at(handle // 2)
        end = span.upper if upper else span.lower
        self.grip.setData([end, end], [y - 1.4 * _HALF, y + 1.4 * _HALF])

    def interval_at(self, x: float, y: float) -> tuple[float, float] | None:
        """Clicking the space beyond a span means all that the method flags on that side."""
        span = self._span_at(y)
        if span is None or span.lower is None or span.upper is None or span.lower <= x <= span.upper:
            return None
        if x < span.lower:
            return -np.inf, float(np.nextafter(span.lower, -np.inf))
        return float(np.nextafter(span.upper, np.inf)), np.inf

    def _position_at(self, line: int) -> int:
        """The span that stands at a height, and the height at which a span stands."""
        return line if self.upright or self.picture is None else len(self.picture.spans) - 1 - line

    def _span_at(self, y: float) -> Span | None:
        spans = self.picture.spans if self.picture else ()
        position = self._position_at(round(y))
        return spans[position] if 0 <= position < len(spans) else None

    def reading(self, value: float) -> str:
        spans = self.picture.spans if self.picture else ()
        given = [s for s in spans if s.lower is not None and s.upper is not None]
        if not given:
            return ""
        outside = [s.label for s in given if not s.accepts(value)]
        return f"outside {', '.join(outside)}" if outside else f"inside all {plural(len(given), 'span')}"


@cache
def _count_width(words: str) -> float:
    return QFontMetricsF(_count_font()).horizontalAdvance(words)


def _rewrite(item: pg.TextItem, text: str, anchor: float) -> None:
    """Let ``item`` show ``text``, hung up at ``anchor`` of its length; both take long, also where nothing changes."""
    if item.toPlainText() != text:
        item.setText(text)
    if item.anchor[0] != anchor:
        item.setAnchor((anchor, 0.5))
