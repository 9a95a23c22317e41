"""All columns of numbers by the same groups, a small row each: where the groups differ at all."""

from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QScrollArea, QWidget

from culvix.app.groups.compare.groups_by_fields import GroupsByFields
from culvix.app.groups.text_margin import TextMargin
from culvix.app.groups.view_pane import ViewPane
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import hidden
from culvix.app.widgets.parts import label
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.groups.small_rows_chart import SmallRowsChart
from culvix.progress import Progress
from culvix.stats.display import plural
from culvix.study.analysis.column_analysis import analyse
from culvix.study.groups.comparison.columns_by_groups import ColumnByGroups, compare_every_column
from culvix.study.groups.comparison.compared_column import Comparing

__all__ = ["EveryColumnPane"]

_MOST = 100
"""So many columns are compared at the most."""
_LEGEND = "bar: middle half, cut at the median · dot: mean on its interval"
_NOTHING = "No column here makes groups: a category, a date or another column of numbers would."


class EveryColumnPane(ViewPane):
    """The column that was chosen last for one column makes the groups here, too."""

    margin: TextMargin

    one_asked = pyqtSignal(str)
    """A column is to be compared alone."""

    def __init__(self, hub: Hub) -> None:
        super().__init__(hub)
        self.columns: tuple[ColumnByGroups, ...] = ()
        self._asked: object = None
        self._by = ""
        self.fields = GroupsByFields(hub, every_column=True)
        self.fields.changed.connect(self.request_update)
        self.margin = TextMargin()
        self.chart = SmallRowsChart()
        self.chart.chosen.connect(lambda index: self.one_asked.emit(self.columns[index].name))
        self.area = QScrollArea()
        self.area.setAccessibleName(self.chart.accessibleName())
        self.area.setWidgetResizable(True)
        self.area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.area.setWidget(self.chart)
        self.lay_out(self.fields.widgets, self.area)
        hub.data_changed.connect(self.request_update)
        hub.settings_changed.connect(self.request_update)

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.area

    def request_update(self) -> None:
        """See to it that the columns are compared as things stand, where they can be seen."""
        if hidden(self):
            return
        self.fields.offer()
        study, by = self.hub.study, self.fields.chosen
        if by is None:
            self._say(_NOTHING)
            return
        settings = study.settings
        every = [column.name for column in study.table.numeric if column.is_data and column.name != by.column]
        names = tuple(every[:_MOST])
        asked = (study.working, names, by, settings)
        if asked == self._asked:
            return
        self._asked, self._by = asked, by.words
        how = Comparing(settings.alpha, settings.confidence, settings.quantile_type)
        workspace, column = study.workspace, study.table[by.column]
        parts = [(name, workspace.request(name), workspace.part_cache(name)) for name in names]
        date_order = study.dictionary.of(by.column).date_order

        def work(progress: Progress) -> tuple[ColumnByGroups, ...]:
            previews = [(name, partial(analyse, request, cache)) for name, request, cache in parts]
            return compare_every_column(previews, column, by, how, date_order, progress)

        def arrived(found: tuple[ColumnByGroups, ...]) -> None:
            if self._asked == asked:
                self._show(found, len(every) - len(names))

        def failed(error: Exception) -> None:
            if self._asked == asked:
                self._say(str(error))

        self.about.setText(f"Comparing {plural(len(names), 'column')} …")
        self.hub.start("comparing all columns", work, arrived, failed=failed, priority=8)

    def _say(self, message: str) -> None:
        self.columns, self._asked = (), None
        self.about.setText(message)
        self.area.hide()
        self.margin.say("")

    def _show(self, found: tuple[ColumnByGroups, ...], beyond: int) -> None:
        self.columns, alpha = found, self.hub.study.settings.alpha
        more = f" · {plural(beyond, 'column more', 'columns more')} not compared" if beyond else ""
        self.about.setText(f"{plural(len(found), 'column')} by {self._by}{more} · {_LEGEND}")
        self.area.setVisible(bool(found))
        self.chart.show_columns(found, alpha)
        self.margin.clear()
        differ = [column.name for column in found if column.differs(alpha)]
        tested = sum(column.adjusted is not None for column in found)
        body = self.margin.body
        many = plural(len(differ), "column differs", "columns differ") if differ else "No column differs"
        body.addWidget(label(f"{many} by {self._by}", "head", wrap=True))
        if differ:
            body.addWidget(label(", ".join(differ), wrap=True))
        words = (
            f"p adjusted for the {plural(tested, 'column')} tested (Holm), level {alpha:g}; each by the test that fits "
            "it. Each column stands on an axis of its own."
        )
        body.addWidget(label(words, "quiet", wrap=True))

    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture anew at any size, and a name for it."""
        if not self.columns:
            return None
        name = f"columns by {self._by}"
        return partial(self.chart.again, f"{self.hub.study.name} — {name}"), f"{self.hub.study.name} {name}"
