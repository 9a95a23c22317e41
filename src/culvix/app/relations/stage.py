"""The Relations stage: all pairs of columns in a square or as a list, and the chosen pair in a picture."""

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QModelIndex, pyqtSignal
from PyQt6.QtWidgets import QLineEdit, QPushButton, QSplitter, QStackedWidget, QVBoxLayout, QWidget

from culvix.app.relations.categories.categories_pane import CategoriesPane
from culvix.app.relations.matrix_pane import MatrixPane
from culvix.app.relations.pairs.pair_list import PairTable
from culvix.app.relations.pairs.pair_margin import PairMargin
from culvix.app.relations.pairs.pair_pane import DrawnPair, PairPane
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.scheduler import task_queue
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.lists.sorted_list import SortedView
from culvix.app.widgets.parts import label, panel
from culvix.app.widgets.picture_button import PictureButton
from culvix.charts.export.picture_files import Maker
from culvix.progress import Progress
from culvix.stats.display import count, plural
from culvix.study.analysis.column_analysis import analyse
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.relations.finding import RelationFinding
from culvix.study.relations.pair_analysis import PairAnalysis, analyse_pair
from culvix.study.relations.pair_details import PairDetails
from culvix.study.relations.relation_findings import findings_of_table

__all__ = ["VIEWS", "RelationsStage"]

VIEWS = {
    "Matrix": "All pairs in one square: coefficients on one side, pictures or others on the other",
    "Pairs": "All pairs as a list, and the chosen one in a picture",
    "Categories": "How much a category tells of each other column, and the chosen pair by group",
}
"""The ways in which all pairs are shown, with what each is for."""


def _numbers(details: PairDetails, progress: Progress) -> PairDetails:
    """``details`` with everything worked out that takes long."""
    details.work_out(progress)
    return details


class RelationsStage(QWidget):
    """All pairs in a square, or as a list beside the chosen one's scatter; one selection with all other views."""

    problem = pyqtSignal(str)

    categories: CategoriesPane
    picture_button: PictureButton

    def __init__(self, hub: Hub, matrix: MatrixPane, pane: PairPane) -> None:
        """``matrix`` and ``pane`` are made before: all in one go would hold up the window.

        `add_categories` and `add_picture_button` complete it.
        """
        super().__init__()
        self.hub = hub
        self._findings: dict[frozenset[str], list[RelationFinding]] = {}
        self._findings_of: WorkingSet | None = None
        self.margin = PairMargin(hub)
        self.margin.changed.connect(self._show_numbers)
        self.margin.problem.connect(self.problem)
        self.model = PairTable(self)
        self.about = label("", "quiet", wrap=True)
        self.table = SortedView(self.model, "Pairs by strength")
        self.search = configured(QLineEdit(), placeholderText="Find in the names", clearButtonEnabled=True)
        self.search.setAccessibleName("Find in the names")
        self.only_focus = configured(QPushButton("Only with this column"), checkable=True)
        self.only_focus.setObjectName("slim")
        self.only_focus.setToolTip("List only the pairs of the column in focus")
        self.search.textChanged.connect(lambda _: self._seek())
        self.only_focus.toggled.connect(lambda _: self._seek())
        hub.focus_changed.connect(lambda _: self._seek() if self.only_focus.isChecked() else None)
        self.table.selectionModel().currentRowChanged.connect(self._row)  # type: ignore[union-attr]
        self.matrix = matrix
        self.matrix.chosen.connect(self.choose)
        self.matrix.opened.connect(self._open)
        self.pane = pane
        self.pane.details_changed.connect(self._work_out)
        left, inside = panel(margins=(6, 6, 6, 6))
        inside.addWidget(self.search)
        inside.addLayout(flow_of(self.only_focus, spacing=4))  # type: ignore[attr-defined]
        inside.addWidget(self.about)
        inside.addWidget(self.table)
        right, inside = panel(margins=(2, 2, 2, 2))
        inside.addWidget(self.pane)
        split = QSplitter()
        split.addWidget(left)
        split.addWidget(right)
        split.setSizes([372, 450])
        whole, inside = panel(margins=(0, 0, 0, 0))
        inside.addWidget(self.matrix)
        self.views = QStackedWidget()
        for page in (whole, split):
            self.views.addWidget(page)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(self._head())
        layout.addWidget(self.views, 1)
        hub.related.connect(self._related)
        hub.data_changed.connect(self._stale)
        hub.settings_changed.connect(self._stale)

    def _head(self) -> QWidget:
        """The buttons for the ways in which all pairs are shown."""
        head, inside = panel(margins=(10, 4, 8, 4))
        self.view_buttons = []
        for position, (name, tip) in enumerate(VIEWS.items()):
            button = configured(QPushButton(name), checkable=True, autoExclusive=True)
            button.setObjectName("stage")
            button.setToolTip(tip)
            button.clicked.connect(lambda _, position=position: self.show_view(position))
            self.view_buttons.append(button)
        self._tools = flow_of(*self.view_buttons, 0)
        inside.addLayout(self._tools)  # type: ignore[attr-defined]
        return head

    def add_categories(self) -> None:
        """Make the view of pairs that have a category."""
        self.categories = CategoriesPane(self.hub)
        self.margin.add_other(self.categories.margin)
        self.views.addWidget(self.categories)

    def add_picture_button(self) -> None:
        """Make the button that saves the picture in view."""
        self.picture_button = PictureButton(self.hub, self._maker, lambda: (self.hub.study.table.source.path,))
        self.picture_button.problem.connect(self.problem)
        self.picture_button.message_ready.connect(self.hub.message)
        self._tools.addWidget(self.picture_button)

    def _maker(self) -> tuple[Maker, str] | None:
        return (self.matrix, self.pane, self.categories)[self.views.currentIndex()].maker()

    @property
    def pair(self) -> PairAnalysis | None:
        """The pair looked at."""
        return None if self.pane.details is None else self.pane.details.pair

    def show_view(self, position: int) -> None:
        """Show one of `VIEWS` by its place."""
        self.hub.study.change_view(relations_view=list(VIEWS)[position])
        self._show_page(position)

    def _show_page(self, position: int) -> None:
        self.view_buttons[position].setChecked(True)
        self.views.setCurrentIndex(position)
        self.margin.turn(int(self.views.currentWidget() is self.categories))
        if self.isVisible():
            # The keyboard would go to whatever comes next after what is hidden now.
            self.data.setFocus()

    def follow(self) -> None:
        """Show all pairs in the way that was chosen."""
        names = list(VIEWS)
        chosen = self.hub.study.document.view.relations_view
        self._show_page(names.index(chosen) if chosen in names else 0)

    @property
    def data(self) -> QWidget:
        """What the keyboard works on in the view shown."""
        parts: tuple[QWidget, ...] = self.matrix.chart, self.pane.canvas, self.categories.data
        return parts[self.views.currentIndex()]

    def _open(self, x: str, y: str) -> None:
        has_category = self.matrix.is_category(x) or self.matrix.is_category(y)
        self.show_view(list(VIEWS).index("Categories" if has_category else "Pairs"))
        self.choose(x, y)

    def showEvent(self, event: object) -> None:
        super().showEvent(event)  # type: ignore[arg-type]
        if len(self.hub.study.table.numeric) < 2:
            self.about.setText("A relation needs two numeric columns; this table has fewer.")
            return
        self.hub.request_relations()

    def _stale(self) -> None:
        if self.isVisible():
            self.hub.request_relations()

    def _related(self) -> None:
        relations = self.hub.relations
        if relations is None:
            return
        self.model.put(relations.pairs)
        self._say_how_many()
        widest = max((self.fontMetrics().horizontalAdvance(count(pair.n)) for pair in relations.pairs[:200]), default=0)
        self.table.setColumnWidth(self.model.heads.index("n"), widest + 14)
        self.matrix.follow()
        chosen = self.hub.study.document.view.pair
        if chosen is None or not set(chosen) <= set(relations.columns):
            chosen = next(((pair.x, pair.y) for pair in relations.pairs), None)
        if chosen is not None:
            # Looked at anew, whether it is listed or not: the data may have changed.
            self.choose(*chosen)
        if not relations.is_approximate:
            self._search_findings()

    def _row(self, index: QModelIndex) -> None:
        if index.isValid():
            pair = self.model.pairs[index.row()]
            self.choose(pair.x, pair.y)

    def choose(self, x: str, y: str) -> None:
        """Look at the pair ``x``, ``y``; with a category in it, beside the matrix."""
        if self.matrix.is_category(x) or self.matrix.is_category(y):
            self.matrix.frame((x, y))
            self.categories.show_pair(x, y)
            self.margin.turn(1)
            return
        if self.views.currentWidget() is not self.categories:
            self.margin.turn(0)
        if self.hub.focus not in (x, y):
            # Decisions are made on the column in focus, so it must be one of the two in view.
            self.hub.set_focus(x)
        study = self.hub.study
        study.change_view(pair=(x, y))
        self.matrix.frame((x, y))
        self._mark_in_list(x, y)
        requests = [(study.workspace.request(name), study.workspace.part_cache(name)) for name in (x, y)]

        draw = self.pane.asked()

        def work(progress: Progress) -> DrawnPair:
            return draw(analyse_pair(*(analyse(request, cache, progress) for request, cache in requests)))

        def done(found: DrawnPair) -> None:
            self.pane.put(found)
            self._work_out(found.details)

        self.hub.start("pair", work, done, priority=8)

    def _work_out(self, details: PairDetails) -> None:
        """The picture is there at once; what takes long at many rows comes after it."""
        self.hub.start("pair in numbers", partial(_numbers, details), self._numbers_arrived, priority=7)

    def _search_findings(self) -> None:
        """Look through all pairs for what to be careful of, once for each state of the data."""
        study = self.hub.study
        table, working = study.table, study.working
        if self._findings_of is working:
            return
        # What was found of another state of the data is said no more.
        self._findings_of = None
        self._take_findings(())

        def work(progress: Progress) -> tuple[RelationFinding, ...]:
            return findings_of_table(table, working, progress)

        def arrived(found: tuple[RelationFinding, ...]) -> None:
            if working is not self.hub.study.working:
                return
            self._findings_of = working
            self._take_findings(found)
            self._show_numbers()

        self.hub.start("relation findings", work, arrived, priority=3)

    def _take_findings(self, found: Sequence[RelationFinding]) -> None:
        """Say ``found`` in the list and in the matrix, and of the pair whenever its numbers are shown."""
        self._findings = {}
        for each in found:
            self._findings.setdefault(frozenset((each.x, each.y)), []).append(each)
        self.model.note(self._findings)
        self.matrix.note(self._findings)
        if self.pair is not None:
            self._mark_in_list(self.pair.view.x, self.pair.view.y)

    def _seek(self) -> None:
        only = self.hub.focus if self.only_focus.isChecked() else None
        self.model.seek(self.search.text(), only or "")
        if self.hub.relations is not None:
            self._say_how_many()
            if self.pair is not None:
                self._mark_in_list(self.pair.view.x, self.pair.view.y)

    def _say_how_many(self) -> None:
        relations = self.hub.relations
        if relations is None:
            return
        shown, pairs = len(self.model.pairs), plural(len(relations.pairs), "pair")
        some = f"{count(shown)} of {pairs}" if shown < len(relations.pairs) else pairs
        open_still = "; Spearman by the ranks of each column alone, being refined" if relations.is_approximate else ""
        rows = "a value in every column" if relations.listwise else "both"
        self.about.setText(f"{some} of {len(relations.columns)} columns; n counts the rows with {rows}{open_still}")

    def _mark_in_list(self, x: str, y: str) -> None:
        """Let the list stand at the pair, wherever it was chosen."""
        found = [at for at, pair in enumerate(self.model.pairs) if {pair.x, pair.y} == {x, y}]
        if found and self.table.currentIndex().row() != found[0]:
            selection = self.table.selectionModel()
            assert selection is not None
            selection.blockSignals(True)
            self.table.selectRow(found[0])
            self.table.setCurrentIndex(self.model.index(found[0], 0))
            selection.blockSignals(False)
            self.table.viewport().update()  # type: ignore[union-attr]

    def _numbers_arrived(self, found: PairDetails) -> None:
        self.pane.complete_with(found)
        task_queue().soon(self._show_numbers)

    def _show_numbers(self) -> None:
        """Show the pair in numbers."""
        details = self.pane.details
        if details is not None and self.pane.complete:
            names = frozenset((details.pair.view.x, details.pair.view.y))
            self.margin.show_pair(details, self.hub.study.settings.confidence, self._findings.get(names, ()))
