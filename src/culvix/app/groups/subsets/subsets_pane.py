"""The search for subsets in which the column in focus is distributed otherwise, and the chosen one against the rest."""

from functools import partial

import numpy as np
from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtWidgets import QMenu, QPushButton, QSplitter, QStackedWidget, QToolButton, QWidget

from culvix.app.groups.subsets.subset_list import subset_list
from culvix.app.groups.subsets.subset_margin import SubsetMargin
from culvix.app.groups.view_pane import ViewPane
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import hidden
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.lists.sorted_list import SortedView
from culvix.app.widgets.parts import label, shortened
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.groups.crossed_chart import CrossedChart
from culvix.charts.plots.groups.group_chart import GroupChart
from culvix.errors import CulvixError
from culvix.progress import Progress
from culvix.stats.core.arrays import Ints
from culvix.stats.display import plural
from culvix.study.analysis.column_analysis import analyse
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.document.kept_comparison import KeptComparison
from culvix.study.document.marks import new_mark
from culvix.study.groups.crossed import CrossedCategories, cross
from culvix.study.groups.subsets.confirmed_subsets import ConfirmedSubset
from culvix.study.groups.subsets.subset_request import SubsetRequest, SubsetsOfStudy, subset_columns
from culvix.study.groups.value_groups import ValueGroup, groups_of_values
from culvix.study.pictures.groups.crossed_picture import crossed_picture
from culvix.study.pictures.groups.group_rows import groups_picture
from culvix.tables.model.table import Role

__all__ = ["SubsetsPane"]

_CONDITIONS = {"1 condition": 1, "up to 2 conditions": 2, "up to 3 conditions": 3}
_MOST_OFFERED = 80


class SubsetsPane(ViewPane):
    """Searches when it is shown, and anew when data, choices or the column in focus change."""

    margin: SubsetMargin

    def __init__(self, hub: Hub) -> None:
        super().__init__(hub)
        self.result: SubsetsOfStudy | None = None
        self.subset: ConfirmedSubset | None = None
        self._asked: object = None
        self._of_numbers = False
        self.margin = SubsetMargin()
        self.margin.selected.connect(self._select)
        self.margin.made_column.connect(self._make_column)
        self.margin.marked.connect(self._mark)
        self.margin.kept.connect(self._keep)
        self.conditions, self.half = Choice(), Choice()
        self.conditions.addItems(list(_CONDITIONS))
        self.conditions.setToolTip("By how many conditions a subset may be named")
        self.half.addItems([f"half {seed}" for seed in range(1, 6)])
        self.half.setToolTip("Which seeded half of the rows is searched; the other one confirms")
        self.columns = QToolButton()
        self.columns.setText("columns")
        self.columns.setToolTip("Which columns may name a subset")
        self.columns.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        menu = QMenu(self.columns)
        menu.aboutToShow.connect(lambda: self.offer_columns(menu))
        self.columns.setMenu(menu)
        self.conditions.activated.connect(lambda at: self._change(subset_conditions=list(_CONDITIONS.values())[at]))
        self.half.activated.connect(lambda at: self._change(subset_seed=at + 1))
        self.stop = configured(QPushButton("Stop"))
        self.stop.setObjectName("slim")
        self.stop.clicked.connect(self._stop)
        self.model = subset_list(self)
        self.table = SortedView(self.model, "Subsets found")
        self.table.selectionModel().currentRowChanged.connect(self._row)  # type: ignore[union-attr]
        self.groups, self.cells = GroupChart(), CrossedChart()
        self.pictures = QStackedWidget()
        self.pictures.addWidget(self.groups)
        self.pictures.addWidget(self.cells)
        parts = (label("Named by", "quiet"), self.columns, self.conditions, label("search", "quiet"), self.half)
        self.body = QSplitter(Qt.Orientation.Vertical)
        self.body.addWidget(self.table)
        self.body.addWidget(self.pictures)
        self.body.setSizes([210, 340])
        self.lay_out((*parts, self.stop), self.body)
        hub.focus_changed.connect(lambda _: self.request_update())
        hub.data_changed.connect(self.request_update)

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.table

    # What is searched

    def _change(self, **choices: object) -> None:
        self.hub.study.change_view(**choices)
        self.request_update()

    def offer_columns(self, menu: QMenu) -> None:
        """List the columns that can name a subset, with a tick at those that do."""
        menu.clear()
        chosen = self.result.columns if self.result is not None else subset_columns(self.hub.study.table)
        for name in subset_columns(self.hub.study.table)[:_MOST_OFFERED]:
            if name == self.hub.focus:
                continue
            action = menu.addAction(shortened(name, 40))
            if action is not None:
                action.setCheckable(True)
                action.setChecked(name in chosen)
                action.toggled.connect(lambda on, name=name: self._toggle(name, on))
        usual = menu.addAction("All that do not move with it")
        if usual is not None:
            usual.triggered.connect(lambda: self._change(subset_columns=None))

    def _toggle(self, name: str, on: bool) -> None:
        before = self.result.columns if self.result is not None else ()
        others = tuple(each for each in before if each != name)
        self._change(subset_columns=(*others, name) if on else others)

    def request_update(self) -> None:
        """See to it that the subsets are those of the column in focus as things stand, where they can be seen."""
        if hidden(self) or self.hub.focus is None:
            return
        study, view = self.hub.study, self.hub.study.document.view
        self.conditions.setCurrentIndex(view.subset_conditions - 1)
        self.half.setCurrentIndex(view.subset_seed - 1)
        column = study.table[self.hub.focus]
        asked = (study.working, column, view.subset_columns, view.subset_conditions, view.subset_seed)
        if asked == self._asked:
            return
        self._asked = asked
        request = SubsetRequest(
            study.table,
            study.working,
            column,
            view.subset_columns,
            view.subset_conditions,
            study.settings.alpha,
            view.subset_seed,
        )
        of_numbers = column.is_numeric and column.role is not Role.YES_NO
        parts = (study.workspace.request(column.name), study.workspace.part_cache(column.name)) if of_numbers else None
        self._say(f"Searching in {column.name} …")
        self.stop.show()

        def work(progress: Progress) -> SubsetsOfStudy:
            return request.run(analyse(*parts, progress) if parts is not None else None, progress)

        def arrived(found: SubsetsOfStudy) -> None:
            if self._asked == asked:
                self._put(found, of_numbers=of_numbers)

        def failed(error: Exception) -> None:
            if self._asked == asked:
                self._say(str(error))

        self.hub.start("searching for subsets", work, arrived, failed=failed, priority=8)

    def _stop(self) -> None:
        """Let the search go; it begins anew with the next choice."""
        self.hub.jobs.cancel("searching for subsets")
        self._say("The search was stopped; choose anything above to begin anew.")

    def _say(self, message: str) -> None:
        self.result = self.subset = None
        self.about.setText(message)
        self.body.hide()
        self.stop.hide()
        self.margin.say("")

    def _put(self, found: SubsetsOfStudy, *, of_numbers: bool) -> None:
        self.result, self._of_numbers = found, of_numbers
        self.stop.hide()
        left = f" Left out, as they move with it: {', '.join(found.left_out)}." if found.left_out else ""
        more = plural(found.beyond, "more column was", "more columns were")
        beyond = f" {more} not asked; choose them above." if found.beyond else ""
        self.about.setText(f"{found.search.about}.{left}{beyond}")
        self.body.setVisible(bool(found.search.subsets))
        self.model.put(found.search.subsets)
        if self.model.items:
            self.table.selectRow(0)
        else:
            self.margin.say("No subset departs from the rest by more than chance among so many tried.")

    # The chosen one

    def _row(self, index: QModelIndex) -> None:
        if index.isValid() and self.result is not None:
            self.choose(self.model.items[index.row()])

    def choose(self, subset: ConfirmedSubset) -> None:
        """Look at ``subset`` against the rest."""
        result = self.result
        assert result is not None
        self.subset = subset
        self.margin.show_subset(subset, result.search)
        study, name = self.hub.study, result.search.target
        column = study.table[name]
        if self._of_numbers:
            request, cache = study.workspace.request(name), study.workspace.part_cache(name)

            def divide(progress: Progress) -> tuple[ValueGroup, ...]:
                preview = analyse(request, cache, progress)
                return groups_of_values(preview.sample.values, _against_rest(subset, column.rows), preview.flags.rows)

            self.hub.start("a subset against the rest", divide, partial(self._show_groups, subset), priority=7)
            return
        self.hub.start(
            "a subset against the rest",
            lambda _: cross(_against_rest(subset, column.rows), grouping(column)),
            partial(self._show_cells, subset),
            priority=7,
        )

    def _show_groups(self, subset: ConfirmedSubset, groups: tuple[ValueGroup, ...]) -> None:
        preview = self.hub.preview
        if subset is self.subset and preview is not None:
            column = preview.column
            self.groups.show_picture(groups_picture(groups, column.title, preview.style))
            self.pictures.setCurrentIndex(0)

    def _show_cells(self, subset: ConfirmedSubset, found: CrossedCategories) -> None:
        if subset is self.subset:
            self.cells.show_picture(crossed_picture(found, "rows"))
            self.pictures.setCurrentIndex(1)

    def _select(self) -> None:
        if self.subset is not None and self.result is not None:
            column = self.result.search.target if self._of_numbers else None
            self.hub.study.select(self.subset.rows, self.subset.name, column=column)

    def _make_column(self) -> str | None:
        """Add a column that says yes in the rows of the chosen subset, or name the one there is."""
        if self.subset is None or self.result is None:
            return None
        try:
            name = self.hub.study.add_subset(*self.result.rule_of(self.subset))
        except CulvixError as problem:
            self.problem.emit(str(problem))
            return None
        self.hub.message.emit(f"{name} says yes in the rows of this subset.")
        return name

    def _mark(self) -> None:
        """Mark the rows of the chosen subset by its column."""
        # With the column another search begins.
        subset, name = self.subset, self._make_column()
        if name is None or subset is None:
            return
        study = self.hub.study
        try:
            study.add_mark(new_mark(study.table, study.document.marks, name, "equals", "1", name=subset.name))
        except CulvixError as problem:
            self.problem.emit(str(problem))
            return
        self.hub.message.emit(f"Rows where {subset.name} are marked; the Survey lists the marks.")

    def _keep(self) -> None:
        """Keep the chosen subset against all others for the report, with what the search found."""
        subset, result, name = self.subset, self.result, self._make_column()
        if name is None or subset is None or result is None:
            return
        search = result.search
        remark = f"Found by a search: {subset.sentence}; {search.effect}: {subset.figures}."
        self.hub.study.keep_comparison(KeptComparison(search.target, name, remark=remark), True)
        self.hub.message.emit("The report has this subset in its section on groups.")

    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture anew at any size, and a name for it."""
        if self.subset is None or self.result is None:
            return None
        name = f"{self.result.search.target} where {self.subset.name}"
        chart = self.groups if self.pictures.currentIndex() == 0 else self.cells
        return partial(chart.again, f"{self.hub.study.name} — {name}"), f"{self.hub.study.name} {name}"


def _against_rest(subset: ConfirmedSubset, rows: int) -> Grouping:
    """Two groups: the subset, and all other rows."""
    codes: Ints = np.ones(rows, dtype=np.int64)
    codes[subset.rows] = 0
    return Grouping("subset", ("this subset", "all others"), codes)
