"""The column in focus by group: a strip a category on one axis, against the rest, against one of them, or two alone."""

from collections.abc import Callable
from dataclasses import replace
from functools import partial

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QComboBox, QScrollBar, QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.session.scheduler import paint_afterwards, task_queue
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import beside, label, row_of
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.groups.comparison import Comparison
from culvix.charts.plots.groups.comparison_rows import split_rows
from culvix.progress import Progress
from culvix.stats.core.arrays import Floats
from culvix.stats.display import NumberStyle, as_typed, count, plural, signed
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.grouping import Grouping, can_group, grouping
from culvix.study.pictures.groups.group_forms import FORMS, MOST_DOTS
from culvix.study.pictures.groups.groups import FEW, Group, Split, split
from culvix.tables.model.table import Column

__all__ = ["GroupsView"]

_GROUP_HEIGHT, _GROUP_WIDTH = 52, 92
"""Room for a strip that lies, and for one that stands."""
_EACH = {
    "bars": "each as share of its own rows",
    "density": "each with the same area",
    "dots": "each value a dot",
    "cumulative": "each as share of its own rows at or below a value",
    "qq": "each against the quantiles of a normal",
}
_NOTHING, _REST, _ALL = "nothing", "the rest", "all groups"
_ORDERS: dict[str, Callable[[Group], float]] = {
    "name": lambda _: 0.0,
    "median": lambda group: -_or_least(group.description.median),
    "mean": lambda group: -_or_least(group.description.mean),
    "SD": lambda group: -_or_least(group.description.sd),
    "n": lambda group: -float(group.sample.n),
}


def _or_least(value: float | None) -> float:
    return -float("inf") if value is None else value


class GroupsView(QWidget):
    """Works the split out in the background, and draws it as its words are changed."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.split: Split | None = None
        self._grouping: tuple[Column, Grouping] | None = None
        self._made_of: tuple[ColumnAnalysis, str, str] | None = None
        self.by, self.order, self.against, self.one, self.other, self.form = (Choice() for _ in range(6))
        for box in (self.by, self.against, self.one, self.other):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(8)
        self.order.addItems(list(_ORDERS))
        self.form.addItems(list(FORMS.values()))
        self.form.setToolTip("In which form each group is shown")
        self.by.activated.connect(lambda _: self.choose(self.by.currentText()))
        self.form.activated.connect(lambda _: self.request_update())
        for box in (self.order, self.against, self.one, self.other):
            box.activated.connect(lambda _: self._draw())
        self.about = label("", "quiet", wrap=True)
        self.chart = Comparison()
        self.chart.clicked.connect(self._clicked)
        self.scroll_bar = QScrollBar(Qt.Orientation.Vertical)
        self.scroll_bar.valueChanged.connect(lambda first: self.chart.scroll_to(first, self._room))

        def quiet(text: str) -> QWidget:
            return label(text, "quiet")

        message = (quiet("By"), self.by, quiet("sorted by"), self.order, quiet("against"), self.against)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 4, 4, 4)
        layout.setSpacing(3)
        layout.addLayout(flow_of(*message, 0, quiet("only"), self.one, quiet("and"), self.other, spacing=5))
        head = row_of(self.about, quiet("as"), self.form, spacing=5)
        head.setStretchFactor(self.about, 1)
        layout.addLayout(head)
        self.middle = row_of(self.chart, self.scroll_bar, spacing=2)
        self.middle.setStretchFactor(self.chart, 1)
        layout.addLayout(self.middle, 1)

    @property
    def _room(self) -> int:
        """How many strips can be seen at once."""
        upright = self.hub.study.settings.upright
        room: int = self.chart.width() // _GROUP_WIDTH if upright else self.chart.height() // _GROUP_HEIGHT
        return max(room, 1)

    def choose(self, by: str) -> None:
        """Split by the column called ``by``."""
        self.hub.study.change_view(group_by=by)
        self.request_update()

    def _offer(self) -> None:
        """List the columns that can make groups, and show the chosen one, or the first."""
        table, chosen = self.hub.study.table, self.hub.study.document.view.group_by
        names = can_group(table)
        if chosen is not None and chosen in table and chosen not in names:
            # The analyst may ask for groups that are not proposed.
            names = [*names, chosen]
        if [self.by.itemText(position) for position in range(self.by.count())] != names:
            self.by.clear()
            self.by.addItems(names)
        self.by.setCurrentText(chosen if chosen is not None and chosen in names else names[0] if names else "")

    def request_update(self) -> None:
        """See to it that the column in focus is split as things stand."""
        self._offer()
        analysis, by = self.hub.analysis, self.by.currentText()
        if analysis is None:
            self.split = None
            self._say("It is being worked out …")
            return
        if not by or by not in self.hub.study.table:
            self.split = None
            self._say("No column here makes groups: a category, a yes/no or an ordered column would.")
            return
        if by == analysis.column.name:
            self.split = None
            self._say(f"{by} makes the groups itself; choose another column for them, or look at another one.")
            return
        form = list(FORMS)[self.form.currentIndex()]
        column, kind = self.hub.study.table[by], self.hub.study.settings.quantile_type
        known = self._grouping[1] if self._grouping is not None and self._grouping[0] is column else None
        # A column described anew makes other groups.
        same = known is not None and self._made_of is not None and self._made_of[0] is analysis
        if same and self._made_of is not None and self._made_of[1:] == (by, form):
            self._draw()
            return

        def work(progress: Progress) -> tuple[Grouping, Split | None]:
            groups = known or grouping(column)
            return groups, split(analysis, groups, form, quantile_type=kind, progress=progress)

        def arrived(found: tuple[Grouping, Split | None]) -> None:
            requested = self.by.currentText(), self.form.currentText()
            if self.hub.analysis is not analysis or requested != (by, FORMS[form]):
                # Another column or other groups are looked at by now; they would stand under the wrong name.
                return
            self._grouping, self._made_of, self.split = (column, found[0]), (analysis, by, form), found[1]
            self._name_groups()
            task_queue().soon(self._draw)

        self.hub.start("splitting into groups", work, arrived, failed=self._refused, priority=12)

    def _refused(self, error: Exception) -> None:
        self.split = self._made_of = None
        self._say(str(error))

    def _name_groups(self) -> None:
        """Offer the groups as a reference and as a pair."""
        names = [group.name for group in self.split.groups] if self.split else []
        for box, first in ((self.against, (_REST, _NOTHING)), (self.one, (_ALL,)), (self.other, (_ALL,))):
            chosen = box.currentText()
            box.clear()
            box.addItems([*first, *names])
            box.setCurrentIndex(max(box.findText(chosen), 0))

    def _say(self, message: str) -> None:
        self.about.setText(message)
        self.chart.setVisible(self.split is not None)
        self.scroll_bar.setVisible(self.split is not None)

    @property
    def pair(self) -> tuple[Group, Group] | None:
        """The two groups chosen to be seen alone."""
        if self.split is None:
            return None
        one, other = (self.split.group(box.currentText()) for box in (self.one, self.other))
        return (one, other) if one is not None and other is not None and one is not other else None

    def _draw(self) -> None:
        analysis, found = self.hub.analysis, self.split
        if analysis is None or found is None or self._made_of is None or self._made_of[0] is not analysis:
            return
        groups = sorted(found.groups, key=_ORDERS[self.order.currentText()])
        pair, reference = self.pair, found.group(self.against.currentText())
        ghosts: dict[str, Floats] = {}
        if pair is not None:
            groups = list(pair)
            ghosts = {pair[0].name: pair[1].heights, pair[1].name: pair[0].heights}
        elif reference is not None:
            ghosts = {group.name: reference.heights for group in groups if group is not reference}
        elif self.against.currentText() == _REST:
            ghosts = {group.name: found.rest(group.name) for group in groups}
        message = {group.name: _numbers(group, analysis.style) for group in groups}
        self.drawn = [group.name for group in groups]
        ordered = replace(found, groups=tuple(groups))
        centre = reference.description.median if reference is not None and pair is None else None
        self._say(self._about(ordered, pair, analysis.style, analysis.column.unit))
        upright = self.hub.study.settings.upright
        paint_afterwards(self.chart)
        scale, title = found.form.scale, analysis.column.title
        if not scale.is_measured:
            title, centre = f"{title}, {scale.name} axis", None if centre is None else scale.position(centre)
        self.chart.put(split_rows(ordered, ghosts, message), title, zero=centre, upright=upright, scale=scale)
        self.middle.setDirection(beside(not upright))
        self.scroll_bar.setOrientation(Qt.Orientation.Horizontal if upright else Qt.Orientation.Vertical)
        self._fit_scroll()

    def _about(self, found: Split, pair: tuple[Group, Group] | None, style: NumberStyle, unit: str | None) -> str:
        if pair is not None:
            one, other = (group.description for group in pair)
            over = "" if found.form.key == "dots" else "outlined over it, "
            message = f"{pair[0].name} and, {over}{pair[1].name}: {pair[0].name} less {pair[1].name}"
            gaps = []
            for name in ("mean", "median", "sd"):
                a, b = getattr(one, name), getattr(other, name)
                if a is not None and b is not None:
                    gaps.append(f"{name.replace('sd', 'SD')} {signed(a - b, style.statistic_decimals)}")
            return f"{message}: {', '.join(gaps)}{f' {unit}' if unit else ''}" if gaps else message
        outside = f"; {plural(found.outside, 'row')} in no group" if found.outside else ""
        outlined = self.against.currentText()
        seen = "" if outlined == _NOTHING else f"; outlined: {outlined}"
        if found.form.key == "dots":
            seen = f"; at most {MOST_DOTS} of each, the outermost among them"
        high = found.form.key in ("bars", "density") and len(found.measured) < len(found.groups)
        cut = f"; of fewer than {FEW} values cut at the top" if high else ""
        return f"{plural(len(found.groups), 'group')}, {_EACH[found.form.key]}{seen}{cut}{outside}"

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.chart

    def maker(self) -> Maker | None:
        """What makes the chart anew at any size."""
        analysis = self.hub.analysis
        if self.split is None or analysis is None:
            return None
        heading = f"{self.hub.study.name} — {analysis.column.title} by {self.split.by}"
        return partial(self.chart.again, heading)

    def _fit_scroll(self) -> None:
        room, many = self._room, len(self.chart.names)
        self.scroll_bar.setRange(0, max(many - room, 0))
        self.scroll_bar.setPageStep(room)
        self.scroll_bar.setVisible(many > room)
        self.chart.scroll_to(self.scroll_bar.value(), room)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        if self.split is not None:
            self._fit_scroll()

    def _clicked(self, position: int, value: float) -> None:
        """Select the rows of the group in the bin that was clicked."""
        analysis = self.hub.analysis
        if analysis is None or self._grouping is None or analysis.axis.histogram is None:
            return
        name, axis, bars = self.drawn[position], analysis.axis, analysis.axis.histogram
        groups, at = self._grouping[1], bars.bin_of(value)
        inside = groups.codes == groups.names.index(name)
        message = f"{groups.by} {name}"
        if at is not None:
            low, high = float(bars.edges[at]), float(bars.edges[at + 1])
            x = axis.sample.values
            left = bars.closed == "left"
            inside &= ((x >= low) & (x < high)) if left else ((x > low) & (x <= high))
            ends = [as_typed(axis.scale.value(edge), 6) for edge in (low, high)]
            message = f"{analysis.column.name} from {ends[0]} to {ends[1]} in {message}"
        self.hub.study.select(np.flatnonzero(inside), message, column=analysis.column.name)


def _numbers(group: Group, style: NumberStyle) -> str:
    """n and the summary of a group, as they stand beside its strip."""
    d = group.description
    if not group.sample.n:
        return "n 0"
    spread = f"  SD {style.statistic(d.sd)}" if d.sd is not None else ""
    return f"n {count(group.sample.n)}  median {style.statistic(d.median)}{spread}"
