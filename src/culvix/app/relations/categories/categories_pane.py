"""Pairs that have a category: the list of them, and the chosen one by group."""

from functools import partial

import numpy as np
from PyQt6.QtCore import QModelIndex, Qt
from PyQt6.QtWidgets import QLineEdit, QScrollArea, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from culvix.app.relations.categories.category_list import category_table
from culvix.app.relations.categories.category_margin import CategoryMargin
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.lists.sorted_list import SortedView
from culvix.app.widgets.parts import label, panel
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.bar_chart import BarChart
from culvix.charts.plots.groups.comparison import Comparison
from culvix.charts.plots.groups.comparison_rows import split_rows
from culvix.progress import Progress
from culvix.stats.display import count, plural
from culvix.study.analysis.column_analysis import ColumnAnalysis, analyse
from culvix.study.analysis.grouping import Grouping, grouping
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.pictures.bars import BarsPicture
from culvix.study.pictures.category_pictures import bars_picture
from culvix.study.pictures.code_pictures import codes_picture
from culvix.study.pictures.groups.groups import Split, split
from culvix.study.relations.category_pairs import CategoryPair, categories_of, pairs_with_categories
from culvix.tables.model.table import Role

__all__ = ["CategoriesPane"]

_NONE = "No column here makes groups: a category, a yes/no or an ordered column would."


class CategoriesPane(QWidget):
    """Everything is worked out in the background, once for each state of the data."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.pair: CategoryPair | None = None
        self.margin = CategoryMargin()
        self.model = category_table(self)
        self.table = SortedView(self.model, "Pairs with a category, by strength")
        self.table.selectionModel().currentRowChanged.connect(self._row)  # type: ignore[union-attr]
        self.search = configured(QLineEdit(), placeholderText="Find in the names", clearButtonEnabled=True)
        self.search.setAccessibleName("Find in the names of pairs with a category")
        self.search.textChanged.connect(self.model.seek)
        self.about = label("", "quiet", wrap=True)
        self.groups, self.bars, self.pictures = Comparison(), BarChart(), QStackedWidget()
        area = QScrollArea()
        area.setWidgetResizable(True)
        area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        area.setWidget(self.bars)
        for page in (self.groups, area):
            self.pictures.addWidget(page)
        self.groups.clicked.connect(self._select_group)
        self.bars.chosen.connect(lambda bar, _: self._select_bar(bar))
        left, inside = panel(margins=(6, 6, 6, 6))
        for part in (self.search, self.about, self.table):
            inside.addWidget(part)
        right, inside = panel(margins=(6, 4, 4, 4))
        inside.addWidget(self.pictures)
        across = QSplitter()
        across.addWidget(left)
        across.addWidget(right)
        across.setSizes([440, 382])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(across)
        self._requested: frozenset[str] = frozenset()
        self._listed: WorkingSet | None = None
        self._drawn: tuple[WorkingSet, str, str] | None = None
        self._split: tuple[Split, Grouping] | None = None
        self._counted: BarsPicture | None = None
        hub.data_changed.connect(self.refresh)
        hub.settings_changed.connect(self.refresh)

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.table

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        self.refresh()

    def refresh(self) -> None:
        """List the pairs as the data are now, where they can be seen."""
        if self.isVisible():
            self._list()

    def show_pair(self, x: str, y: str) -> None:
        """Look at the pair of ``x`` and ``y`` in any order, listed now where it was not."""
        self._requested = frozenset((x, y))
        if self._listed is not self.hub.study.working:
            self._list()
            return
        self._show_requested()
        self._draw()

    def _show_requested(self) -> None:
        found = [pair for pair in self.model.pairs if {pair.x, pair.y} == self._requested]
        if found:
            self.pair, self._requested = found[0], frozenset()
            self.table.selectRow(self.model.pairs.index(found[0]))

    def _list(self) -> None:
        study = self.hub.study
        if self._listed is study.working:
            self._draw()
            return
        table, working = study.table, study.working

        def work(progress: Progress) -> tuple[CategoryPair, ...]:
            return pairs_with_categories(table, working, progress) if categories_of(table) else ()

        def arrived(found: tuple[CategoryPair, ...]) -> None:
            if working is self.hub.study.working:
                self._listed = working
                self._put(found)

        self.hub.start("pairs with a category", work, arrived, priority=6)

    def _put(self, pairs: tuple[CategoryPair, ...]) -> None:
        self.model.put(pairs)
        shown = f"{plural(len(pairs), 'pair')}; n counts the rows with both" if pairs else _NONE
        self.about.setText(shown)
        known = [(pair.x, pair.y) for pair in self.model.pairs]
        if self.pair is None or (self.pair.x, self.pair.y) not in known:
            self.pair = self.model.pairs[0] if self.model.pairs else None
        else:
            self.pair = self.model.pairs[known.index((self.pair.x, self.pair.y))]
        self._show_requested()
        self.pictures.setVisible(self.pair is not None)
        if self.pair is not None:
            self.table.selectRow(self.model.pairs.index(self.pair))
            self._draw()

    def _row(self, index: QModelIndex) -> None:
        if index.isValid():
            self.choose(self.model.pairs[index.row()])

    def choose(self, pair: CategoryPair) -> None:
        """Look at ``pair``."""
        if pair is not self.pair:
            self.pair = pair
            self._draw()

    # The picture

    def _draw(self) -> None:
        pair, study = self.pair, self.hub.study
        if pair is None or self._drawn == (study.working, pair.x, pair.y):
            return
        self._drawn = study.working, pair.x, pair.y
        self.margin.say(f"{pair.y} by {pair.x}", pair.sentence, pair.lost)
        by = study.table[pair.x]
        if not pair.both:
            request, cache = study.workspace.request(pair.y), study.workspace.part_cache(pair.y)
            kind = study.settings.quantile_type

            def divide(progress: Progress) -> tuple[ColumnAnalysis, Split | None, Grouping]:
                analysis, groups = analyse(request, cache, progress), grouping(by)
                return analysis, split(analysis, groups, quantile_type=kind, progress=progress), groups

            self.hub.start("a pair by group", divide, partial(self._show_groups, pair), priority=8)
            return
        column = study.table[pair.y]
        sample = study.working.sample(column) if column.role is Role.ORDERED and column.is_numeric else None

        def tally(progress: Progress) -> BarsPicture:
            if sample is not None:
                return codes_picture(column, sample, "order", by)
            return bars_picture(column, "frequency", by, None, progress)

        self.hub.start("a pair by group", tally, partial(self._show_bars, pair), priority=8)

    def _show_groups(self, pair: CategoryPair, found: tuple[ColumnAnalysis, Split | None, Grouping]) -> None:
        analysis, divided, groups = found
        if pair is not self.pair or divided is None:
            return
        self._split = divided, groups
        numbers = {
            group.name: f"n {count(group.sample.n)}  mean {analysis.style.statistic(group.description.mean)}"
            for group in divided.groups
        }
        scale, title = divided.form.scale, analysis.column.title
        if not scale.is_measured:
            title = f"{title}, {scale.name} axis"
        self.margin.add_groups(divided, analysis.style)
        self.groups.put(split_rows(divided, {}, numbers), title, scale=scale)
        self.pictures.setCurrentIndex(0)

    def _show_bars(self, pair: CategoryPair, picture: BarsPicture) -> None:
        if pair is self.pair:
            self._counted = picture
            self.bars.show_picture(picture, np.zeros(0, dtype=np.int64))
            self.pictures.setCurrentIndex(1)

    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture anew at any size, and a name for it."""
        pair = self.pair
        if pair is None or pair.both or self._split is None:
            return None
        heading = f"{self.hub.study.name} — {pair.y} by {pair.x}"
        return partial(self.groups.again, heading), f"{self.hub.study.name} {pair.y} by {pair.x}"

    # What is selected

    def _select_group(self, position: int, _: float) -> None:
        if self._split is None or self.pair is None:
            return
        divided, groups = self._split
        name = divided.groups[position].name
        rows = np.flatnonzero(groups.codes == groups.names.index(name))
        self.hub.study.select(rows, f"{groups.by} {name}")

    def _select_bar(self, bar: int) -> None:
        if self._counted is not None and self.pair is not None:
            origin = f"{self.pair.y} {self._counted.bars[bar].name}"
            self.hub.study.select(self._counted.rows_of(bar), origin)
