"""This table against another one: each column with how it changed, and the column in focus in both tables."""

import os
from functools import partial
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtWidgets import QComboBox, QFileDialog, QPushButton, QSplitter, QStackedWidget, QWidget

from culvix.app.groups.changes.change_list import change_list
from culvix.app.groups.changes.change_margin import ChangeMargin
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
from culvix.progress import Progress
from culvix.stats.core.arrays import Ints
from culvix.stats.display import style_for
from culvix.study.another_table.column_changes import ColumnChange
from culvix.study.another_table.comparison import TableComparison, compare_tables
from culvix.study.another_table.pictured_change import levels_of_both, values_of_both
from culvix.study.groups.crossed import CrossedCategories
from culvix.study.groups.value_groups import ValueGroup
from culvix.study.pictures.groups.crossed_picture import crossed_picture
from culvix.study.pictures.groups.group_rows import groups_picture
from culvix.tables import read_table
from culvix.tables.model.table import Table

__all__ = ["AnotherTablePane"]

_BY_ITSELF = "a key that is found"
_NONE_YET = "Choose a table to compare with: last year's, the same file a month ago, the other half of an experiment."


class AnotherTablePane(ViewPane):
    """The other table is read in the background, as this study describes its columns, and never changed."""

    margin: ChangeMargin

    def __init__(self, hub: Hub) -> None:
        super().__init__(hub)
        self.found: TableComparison | None = None
        self.change: ColumnChange | None = None
        self._there: Table | None = None
        self._asked: object = None
        self.margin = ChangeMargin()
        self.margin.selected.connect(self._select)
        self.choose = configured(QPushButton("Choose a table …"))
        self.choose.setObjectName("slim")
        self.choose.clicked.connect(self.ask_for_table)
        self.key = Choice()
        self.key.setToolTip("By which column rows of both tables are matched")
        self.key.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.key.setMinimumContentsLength(15)
        self.key.activated.connect(lambda _: self._choose_key())
        self.model = change_list(self)
        self.table = SortedView(self.model, "Columns of both tables")
        self.table.selectionModel().currentRowChanged.connect(self._row)  # type: ignore[union-attr]
        self.groups, self.cells = GroupChart(), CrossedChart()
        self.pictures = QStackedWidget()
        for page in (self.groups, self.cells, QWidget()):
            self.pictures.addWidget(page)
        words = label("Compared with", "quiet"), self.choose, label("rows by", "quiet"), self.key
        self.body = QSplitter(Qt.Orientation.Vertical)
        self.body.addWidget(self.table)
        self.body.addWidget(self.pictures)
        self.body.setSizes([300, 260])
        self.lay_out(words, self.body)
        hub.focus_changed.connect(self._follow_focus)
        hub.data_changed.connect(self.request_update)

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.table if self.found is not None else self.choose

    @property
    def _folder(self) -> Path:
        return self.hub.study.table.source.path.parent

    def ask_for_table(self) -> None:
        """Let the analyst choose the other table."""
        name, _ = QFileDialog.getOpenFileName(self, "The table to compare with", str(self._folder))
        if name:
            self.compare_with(Path(name))

    def compare_with(self, path: Path) -> None:
        """Compare with the table at ``path``."""
        # From where this table is, so that both can be moved together.
        self.hub.study.change_view(other_table=os.path.relpath(path, self._folder), other_key=())
        self.request_update()

    def _choose_key(self) -> None:
        name = self.key.currentText()
        self.hub.study.change_view(other_key=() if self.key.currentIndex() <= 0 else (name,))
        self.request_update()

    # What is compared

    def request_update(self) -> None:
        """See to it that this table is compared as things stand, where that can be seen."""
        if hidden(self):
            return
        study, view = self.hub.study, self.hub.study.document.view
        if not view.other_table:
            self._say(_NONE_YET)
            return
        asked = (study.working, view.other_table, view.other_key)
        if asked == self._asked:
            return
        self._asked = asked
        path, dictionary, table = (self._folder / view.other_table).resolve(), study.dictionary, study.table
        known = self._there if self._there is not None and self._there.source.path.resolve() == path else None
        working = study.working
        level, key = study.settings.alpha, view.other_key
        if self.found is None:
            self._say(f"Reading {path.name} …")
            self._asked = asked

        def work(progress: Progress) -> tuple[Table, TableComparison]:
            there = known or read_table(path, dictionary=dictionary, progress=progress)
            values = {column.name: working.sample(column).values for column in table.numeric}
            found = compare_tables(table, there, values=values, key=key, level=level, progress=progress)
            return there, found

        def arrived(result: tuple[Table, TableComparison]) -> None:
            if self._asked == asked:
                self._there, self.found = result
                self._put()

        def failed(error: Exception) -> None:
            if self._asked == asked:
                self._say(str(error))
                # A file that could not be read may be there the next time.
                self._asked = None

        self.hub.start("comparing with another table", work, arrived, failed=failed, priority=8)

    def _say(self, message: str) -> None:
        self.found = self.change = self._asked = None
        self.about.setText(message)
        self.body.hide()
        self.key.setEnabled(False)
        self.margin.say("")

    def _put(self) -> None:
        found = self.found
        assert found is not None
        self.choose.setText(f"{shortened(found.there, 30)} …")
        self.about.setText(found.about)
        self.body.show()
        names = [pair.here for pair in found.matching.pairs]
        self.key.setEnabled(True)
        self.key.clear()
        self.key.addItems([_BY_ITSELF, *names])
        chosen = self.hub.study.document.view.other_key
        self.key.setCurrentIndex(names.index(chosen[0]) + 1 if chosen and chosen[0] in names else 0)
        self.model.put(found.columns)
        if not self._show(self.hub.focus or "") and self.model.items:
            self.table.selectRow(0)

    # The chosen column

    def _follow_focus(self, name: str) -> None:
        if self.found is not None and not hidden(self):
            self._show(name)

    def _show(self, name: str) -> bool:
        """Turn to the column called ``name``; whether it is listed."""
        at = next((at for at, change in enumerate(self.model.items) if change.pair.here == name), None)
        if at is None:
            return False
        self.table.selectRow(at)
        self._show_change(self.model.items[at])
        return True

    def _row(self, index: QModelIndex) -> None:
        if index.isValid():
            change = self.model.items[index.row()]
            if change.pair.here != self.hub.focus:
                self.hub.set_focus(change.pair.here)
            self._show_change(change)

    def _show_change(self, change: ColumnChange) -> None:
        found, there = self.found, self._there
        if found is None or there is None or change is self.change:
            return
        self.change = change
        here = self.hub.study.table[change.pair.here]
        self.margin.show_change(change, found, here.values)
        if change.here is not None:
            work = partial(values_of_both, change, found.here, found.there)
            self.hub.start("a column of both tables", lambda _: work(), partial(self._show_values, change), priority=7)
        elif change.distance is not None or change.new_levels or change.lost_levels:
            other, names = there[change.pair.there], (found.here, found.there)
            self.hub.start(
                "a column of both tables",
                lambda _: levels_of_both(here, other, names),
                partial(self._show_levels, change),
                priority=7,
            )
        else:
            self.pictures.setCurrentIndex(2)

    def _show_values(self, change: ColumnChange, groups: tuple[ValueGroup, ...]) -> None:
        if change is self.change and change.here is not None and groups:
            column, sample = self.hub.study.table[change.pair.here], change.here
            style = style_for(sample, sample.moments.sd if sample.moments else None)
            self.groups.show_picture(groups_picture(groups, column.title, style))
            self.pictures.setCurrentIndex(0)

    def _show_levels(self, change: ColumnChange, found: CrossedCategories) -> None:
        if change is self.change:
            self.cells.show_picture(crossed_picture(found, "rows"))
            self.pictures.setCurrentIndex(1)

    def _select(self, rows: Ints, why: str) -> None:
        self.hub.study.select(np.asarray(rows), why)

    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture anew at any size, and a name for it."""
        if self.change is None or self.found is None or self.pictures.currentIndex() == 2:
            return None
        name = f"{self.change.pair.here} of {self.found.here} and {self.found.there}"
        chart = self.groups if self.pictures.currentIndex() == 0 else self.cells
        return partial(chart.again, name), name
