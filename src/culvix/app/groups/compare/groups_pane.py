"""The column in focus by groups: their picture, the differences between them, and their numbers."""

from collections.abc import Mapping
from functools import partial

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QScrollArea, QSplitter, QWidget

from culvix.app.groups.compare.compare_margin import CompareMargin
from culvix.app.groups.compare.group_list import GroupList
from culvix.app.groups.compare.groups_by_fields import GroupsByFields
from culvix.app.groups.view_pane import ViewPane
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import hidden
from culvix.app.session.scheduler import task_queue
from culvix.app.widgets.lists.ordered_choice import OrderedChoice
from culvix.app.widgets.lists.sorted_list import SortedView
from culvix.app.widgets.parts import label, panel
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.groups.difference_chart import DifferenceChart
from culvix.charts.plots.groups.group_chart import GroupChart
from culvix.progress import Progress
from culvix.stats.registry import STATISTICS, shown_in
from culvix.stats.shape.axis_scale import MEASURED_AXIS, AxisScale
from culvix.study.analysis.column_analysis import analyse
from culvix.study.document.kept_comparison import KeptComparison
from culvix.study.groups.comparison.compared_column import (
    POOLED,
    ComparedColumn,
    Comparing,
    compare_column,
    compare_columns,
)
from culvix.study.groups.group_statistics import chosen_statistics
from culvix.study.groups.value_groups import ValueGroup, ordered_groups
from culvix.study.pictures.groups.group_rows import differences_picture, groups_picture

__all__ = ["GroupsPane"]

_LEGEND = "stroke: a value · bar: middle half, cut at the median · triangle: mean on its interval"
_NOTHING = "No column here makes groups: a category, a date or another column of numbers would."


class GroupsPane(ViewPane):
    """Everything is worked out in the background, anew whenever data, choices or the column in focus change."""

    margin: CompareMargin

    def __init__(self, hub: Hub) -> None:
        super().__init__(hub)
        self.compared: ComparedColumn | None = None
        self.shown: tuple[ValueGroup, ...] = ()
        """The groups in the order drawn."""
        self._asked: object = None
        self.fields = GroupsByFields(hub)
        self.fields.changed.connect(self.request_update)
        self.margin = CompareMargin()
        self.margin.answered.connect(self._answer)
        self.margin.asked.connect(self._ask_for)
        self.margin.kept.connect(self._keep)
        self.margin.flags_asked.connect(self._select_flagged)
        self.margin.all_asked.connect(self.request_update)
        self.chart, self.differences = GroupChart(), DifferenceChart()
        self.chart.chosen.connect(self._select)
        self.differences.chosen.connect(self._select_pair)
        self.model = GroupList(self, shown_in("groups"))
        self.table = SortedView(self.model, "Numbers of each group")
        self.table.clicked.connect(lambda index: self._select_named(self.model.items[index.row()].name))
        self.statistics = OrderedChoice(
            *("Numbers", "Choose the numbers of each group, and drag them into order"),
            {key: row.name for key, row in STATISTICS.items() if key != "n"},
            shown_in("groups"),
        )
        self.statistics.chosen.connect(self._choose_statistics)
        self.held = label("", "quiet", wrap=True)
        self.beside, inside = panel(margins=(2, 2, 2, 4))
        inside.addWidget(_scrolling(self.differences), 1)  # type: ignore[call-arg]
        inside.addWidget(self.held)
        across = QSplitter()
        across.addWidget(_scrolling(self.chart))
        across.addWidget(self.beside)
        across.setSizes([520, 300])
        self.body = QSplitter(Qt.Orientation.Vertical)
        self.body.addWidget(across)
        self.body.addWidget(self.table)
        self.body.setSizes([430, 170])
        self.lay_out((*self.fields.widgets, self.statistics), self.body)
        hub.focus_changed.connect(lambda _: self.request_update())
        hub.data_changed.connect(self.request_update)
        hub.settings_changed.connect(self.request_update)
        # The scale of its axis is known with the column's preview.
        hub.previewed.connect(lambda *_: self._draw() if not hidden(self) else None)

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.table

    # What is worked out

    def request_update(self) -> None:
        """See to it that the groups are those of the column in focus as things stand, where they can be seen."""
        if hidden(self):
            return
        self.fields.offer()
        study, focus = self.hub.study, self.hub.focus
        view, settings = study.document.view, study.settings
        how = Comparing(
            settings.alpha, settings.confidence, settings.quantile_type, view.groups_answers, view.groups_test or None
        )
        if self.fields.compares_columns:
            names = tuple(name for name in view.compared_columns if name in study.table)
            by = None
        else:
            names, by = (focus,) if focus is not None and study.table[focus].is_numeric else (), self.fields.chosen
            if not names or by is None:
                self._say(_NOTHING if names else f"{focus} has no numbers; Two categories shows it by another one.")
                return
        asked = (study.working, names, by, how, view.groups_paired, self.margin.shows_all)
        if asked == self._asked:
            self._draw()
            return
        self._asked = asked
        workspace, table = study.workspace, study.table
        requests = [(workspace.request(name), workspace.part_cache(name)) for name in names]
        date_order = study.dictionary.of(by.column).date_order if by is not None else None
        paired, with_others = view.groups_paired and len(names) == 2, self.margin.shows_all

        def work(progress: Progress) -> ComparedColumn:
            analyses = [analyse(request, cache, progress) for request, cache in requests]
            if by is None:
                compared = compare_columns(analyses, how, paired=paired, progress=progress)
            else:
                compared = compare_column(analyses[0], table[by.column], by, how, date_order, progress)
            _work_out(compared, with_others=with_others)
            return compared

        def arrived(compared: ComparedColumn) -> None:
            if self._asked == asked:
                self.compared = compared
                self._draw()

        def failed(error: Exception) -> None:
            if self._asked == asked:
                self._say(str(error))

        self.hub.start("comparing groups", work, arrived, failed=failed, priority=8)

    def _say(self, message: str) -> None:
        self.compared, self._asked, self.shown = None, None, ()
        self.about.setText(message)
        self.body.hide()
        self.margin.say("")

    def _draw(self) -> None:
        compared = self.compared
        if compared is None:
            return
        self.shown = ordered_groups(compared.groups, self.hub.study.document.view.groups_order)
        self.body.setVisible(bool(self.shown))
        self.about.setText(f"{compared.about} · {_LEGEND}")
        scale, title = self._scale, compared.title
        if not scale.is_measured:
            title = f"{title}, {scale.name} axis"
        self.chart.show_picture(groups_picture(self.shown, title, compared.style, scale, self._words))
        found = None if compared.comparison is None else differences_picture(compared.comparison, compared.style)
        self.differences.show_picture(found)
        self.beside.setVisible(found is not None)
        self.held.setText("" if found is None else found.held)
        # One after the other: in one go they would hold up the window.
        task_queue().soon(self._tell)

    def _tell(self) -> None:
        """Show the numbers of what is drawn."""
        compared = self.compared
        if compared is None:
            return
        self.model.style = compared.style
        self._show_statistics()
        self.model.put(self.shown, self._total)
        self.table.fit_numbers()
        comparison = self._comparison
        kept = comparison is not None and comparison in self.hub.study.document.comparisons
        self.margin.show_compared(compared, kept=kept)

    @property
    def _words(self) -> Mapping[float, str]:
        """What codes of the column in focus stand for."""
        preview = self.hub.preview
        return {} if preview is None or self.fields.compares_columns else preview.column.words_of_numbers

    @property
    def _scale(self) -> AxisScale:
        """The scale of the column's own axis; several columns have the measured one."""
        preview = self.hub.preview
        return MEASURED_AXIS if preview is None or self.fields.compares_columns else preview.axis.scale

    # What is chosen

    def _answer(self, step: str, answer: bool | None) -> None:
        """Take a step on the way to the test as answered so, or as it was found."""
        view = self.hub.study.document.view
        answers = {key: given for key, given in view.groups_answers.items() if key != step}
        if answer is not None:
            answers[step] = answer
        self.hub.study.change_view(groups_answers=answers)
        self.request_update()

    @property
    def _comparison(self) -> KeptComparison | None:
        """What is compared, as it can be kept."""
        view, focus, by = self.hub.study.document.view, self.hub.focus, self.fields.chosen
        choices = {"answers": view.groups_answers, "test": view.groups_test}
        if self.fields.compares_columns:
            columns = view.compared_columns
            paired = view.groups_paired and len(columns) == 2
            return KeptComparison("", "", columns=columns, paired=paired, **choices)  # type: ignore[arg-type]
        if by is None or focus is None:
            return None
        return KeptComparison(focus, by.column, by.ranges, by.period, **choices)  # type: ignore[arg-type]

    def _keep(self, kept: bool) -> None:
        """Keep what is compared for the report, or no more."""
        comparison = self._comparison
        if comparison is not None:
            self.hub.study.keep_comparison(comparison, kept)
            self._draw()

    def _choose_statistics(self, keys: list[str]) -> None:
        self.hub.study.change_view(groups_statistics=tuple(keys))
        self._tell()

    def _show_statistics(self) -> None:
        """Let the list have the numbers that were chosen."""
        keys = chosen_statistics(self.hub.study.document.view)
        heads = self.model.heads_of(keys)
        if [head.name for head in heads] != self.model.heads:
            self.table.show_heads(heads)
            self.statistics.show_names(keys)

    def _ask_for(self, test: str | None) -> None:
        self.hub.study.change_view(groups_test=test or "")
        self.request_update()

    def _select(self, index: int) -> None:
        self._select_named(self.shown[index].name)

    def _select_pair(self, index: int) -> None:
        picture = self.differences.picture
        if picture is not None:
            row = picture.rows[index]
            self._select_named(row.first, row.second)

    @property
    def _total(self) -> tuple[ValueGroup, ...]:
        compared = self.compared
        return () if compared is None or compared.total is None else (compared.total,)

    def _select_named(self, *names: str) -> None:
        """Select the rows of groups, or of a column that is one."""
        compared = self.compared
        if compared is None:
            return
        study = self.hub.study
        groups = [group for group in (*self.shown, *self._total) if group.name in names]
        if self.fields.compares_columns:
            study.select(groups[0].rows, f"rows with a value in {names[0]}", column=names[0])
            return
        rows = np.sort(np.concatenate([group.rows for group in groups]))
        study.select(rows, f"{compared.by}: {' and '.join(names)}", column=compared.measure)

    def _select_flagged(self, column: str) -> None:
        flags = None if self.compared is None else self.compared.pooled_flags
        if flags is not None:
            self.hub.study.select(flags.rows[column], f"flagged among {POOLED}", column=column)

    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture anew at any size, and a name for it."""
        compared = self.compared
        if compared is None or self.chart.picture is None:
            return None
        name = f"{compared.measure} by {compared.by}"
        return partial(self.chart.again, f"{self.hub.study.name} — {name}"), f"{self.hub.study.name} {name}"


def _work_out(compared: ComparedColumn, *, with_others: bool) -> None:
    """Find what takes long while nobody waits for it."""
    found = compared.comparison
    if found is not None:
        _ = found.effects, found.follow_ups, found.detectable
        if with_others:
            _ = found.others


def _scrolling(inner: QWidget) -> QScrollArea:
    area = QScrollArea()
    area.setAccessibleName(inner.accessibleName())
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setWidget(inner)
    return area
