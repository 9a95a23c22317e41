"""Two categories against each other: counts, shares and residuals, or a column of numbers in each pair of groups."""

from functools import partial

from PyQt6.QtWidgets import QComboBox, QScrollArea, QWidget

from culvix.app.groups.compare.crossed_margin import CrossedMargin
from culvix.app.groups.view_pane import ViewPane
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import hidden
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import label
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.groups.crossed_chart import CrossedChart
from culvix.progress import Progress
from culvix.stats.display import NumberStyle, count, plural, style_for
from culvix.study.analysis.grouping import can_group, grouping
from culvix.study.groups.crossed import CrossedCategories, cross
from culvix.study.pictures.groups.crossed_picture import CELLS, crossed_picture

__all__ = ["TwoCategoriesPane"]

_FOCUS = "values of the column in focus"
_TOO_FEW = "Two columns that make groups are needed: categories, yes/no or ordered codes."
_MOST_CELLS = 2_500


class TwoCategoriesPane(ViewPane):
    """Everything is worked out in the background."""

    margin: CrossedMargin

    def __init__(self, hub: Hub) -> None:
        super().__init__(hub)
        self.crossed: CrossedCategories | None = None
        self.margin = CrossedMargin()
        self._style = NumberStyle(2, 3)
        self._asked: object = None
        self.down, self.across, self.cells = Choice(), Choice(), Choice()
        for box, tip in (
            (self.down, "Which column makes the rows"),
            (self.across, "Which column makes the columns"),
            (self.cells, "What stands in the cells"),
        ):
            box.setToolTip(tip)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            box.setMinimumContentsLength(11)
        self.cells.addItems([*CELLS.values(), _FOCUS])
        self._keys = [*CELLS, "values"]
        self.down.activated.connect(lambda _: self._choose())
        self.across.activated.connect(lambda _: self._choose())
        self.cells.activated.connect(lambda at: self._choose_cells(self._keys[at]))
        self.chart = CrossedChart()
        self.chart.chosen.connect(self._select)
        self.area = QScrollArea()
        self.area.setAccessibleName(self.chart.accessibleName())
        self.area.setWidgetResizable(True)
        self.area.setWidget(self.chart)
        words = (label("Rows", "quiet"), self.down, label("columns", "quiet"), self.across, label("show", "quiet"))
        self.lay_out((*words, self.cells), self.area)
        hub.focus_changed.connect(lambda _: self.request_update())
        hub.data_changed.connect(self.request_update)

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.area

    def _offer(self) -> tuple[str, str] | None:
        """List the columns that make groups, and show the chosen ones; None where there are too few."""
        names = can_group(self.hub.study.table)
        pair = self.hub.study.document.view.groups_crossed
        if pair is None or not set(pair) <= set(names) or pair[0] == pair[1]:
            pair = (names[0], names[1]) if len(names) > 1 else None
        for box, chosen in ((self.down, 0), (self.across, 1)):
            if [box.itemText(at) for at in range(box.count())] != names:
                box.clear()
                box.addItems(names)
            if pair is not None:
                box.setCurrentIndex(names.index(pair[chosen]))
        key = self.hub.study.document.view.groups_cells
        self.cells.setCurrentIndex(self._keys.index(key) if key in self._keys else 0)
        return pair

    def request_update(self) -> None:
        """See to it that the chosen categories are shown as things stand, where they can be seen."""
        if hidden(self):
            return
        chosen, study = self._offer(), self.hub.study
        if chosen is None:
            self._say(_TOO_FEW)
            return
        down, across = (study.table[name] for name in chosen)
        focus, measured = self.hub.focus, study.document.view.groups_cells == "values"
        if measured and (focus is None or not study.table[focus].is_numeric):
            self._say(f"{focus} has no numbers; choose another column, or what else is to stand in the cells.")
            return
        working, column = study.working, study.table[focus] if measured and focus is not None else None
        asked = (study.working, chosen, focus if measured else None)
        if asked == self._asked and self.crossed is not None:
            self._draw()
            return
        self._asked = asked

        def work(progress: Progress) -> tuple[CrossedCategories, NumberStyle]:
            one, other = grouping(down), grouping(across)
            if column is None:
                return cross(one, other, progress=progress), NumberStyle(2, 3)
            sample = working.sample(column)
            style = style_for(sample, sample.moments.sd if sample.moments else None)
            return cross(one, other, sample.values, column.name, progress), style

        def arrived(found: tuple[CrossedCategories, NumberStyle]) -> None:
            if self._asked == asked:
                self.crossed, self._style = found
                self._draw()

        def failed(error: Exception) -> None:
            if self._asked == asked:
                self._say(str(error))

        self.hub.start("two categories", work, arrived, failed=failed, priority=8)

    def _say(self, message: str) -> None:
        self.crossed = self._asked = None
        self.about.setText(message)
        self.area.hide()
        self.margin.say("")

    def _draw(self) -> None:
        found = self.crossed
        if found is None:
            return
        if found.counts.size > _MOST_CELLS:
            self._say(
                f"{count(found.counts.size)} pairs of groups are more than can be shown; {count(_MOST_CELLS)} can."
            )
            return
        self.area.show()
        lost = f" · {plural(found.lost, 'row')} with only one of both" if found.lost else ""
        reading = "bar: middle half, cut at the median" if found.measure else _READING
        of = f"{found.measure} · " if found.measure else ""
        self.about.setText(f"{of}{count(found.n)} rows{lost} · {reading}")
        self.chart.show_picture(crossed_picture(found, self.hub.study.document.view.groups_cells, self._style))
        self.margin.show_crossed(found)

    def _choose(self) -> None:
        chosen = self.down.currentText(), self.across.currentText()
        if chosen[0] == chosen[1]:
            before = self.hub.study.document.view.groups_crossed
            # The other column gives way, as if both were exchanged.
            chosen = (before[1], before[0]) if before is not None else chosen
        self.hub.study.change_view(groups_crossed=chosen)
        self.request_update()

    def _choose_cells(self, key: str) -> None:
        self.hub.study.change_view(groups_cells=key)
        self.request_update()

    def _select(self, row: int, column: int) -> None:
        found = self.crossed
        if found is not None:
            words = f"{found.down.by} {found.down.names[row]} and {found.across.by} {found.across.names[column]}"
            self.hub.study.select(found.rows_of(row, column), words)

    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture anew at any size, and a name for it."""
        found = self.crossed
        if found is None:
            return None
        name = f"{found.down.by} by {found.across.by}"
        return partial(self.chart.again, f"{self.hub.study.name} — {name}"), f"{self.hub.study.name} {name}"


_READING = "rising bar: more rows than chance would give, hanging hollow one: fewer, grey below 2 standard errors"
