"""All pairs of columns in one square, with what is to be seen on either side and in which order."""

from collections.abc import Mapping, Sequence
from dataclasses import replace

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QPushButton, QVBoxLayout, QWidget

from culvix.app.relations.named_matrix import NamedMatrix
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import label
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.matrix.chart import MatrixChart
from culvix.progress import Progress
from culvix.stats.correlation.result import CorrelationMatrix
from culvix.stats.display import count
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.analysis.column_analysis import analyse
from culvix.study.pictures.matrix_parts import MOST_PICTURED, MatrixParts, categories_beside, matrix_parts
from culvix.study.pictures.matrix_pictures import (
    DIFFERENCE,
    MATRIX_ORDERS,
    PICTURES,
    MatrixPicture,
    matrix_picture,
    side_name,
)
from culvix.study.relations.finding import RelationFinding
from culvix.study.relations.ranking import Relations, complete_rows, kind_matrix
from culvix.study.relations.relation_findings import MOST_COLUMNS, NOT_SEARCHED

__all__ = ["MatrixPane"]

_READING = (
    "A bar that rises is a positive coefficient, a hollow one that hangs a negative one; one to both sides has no "
    "sign: η or V of a category. Wheel: zoom, drag: move, 0: all; a name dragged (Shift and an arrow key): its column "
    "moves; Space or double click: the pair"
)
_ROWS = {"both": "with both values", "all": "with all columns"}


class MatrixPane(QWidget):
    """The matrix of `Hub.relations`; what else it shows is worked out in the background when it is asked for."""

    chosen = pyqtSignal(str, str)
    """A pair to look at in numbers."""
    opened = pyqtSignal(str, str)
    """A pair to look at more closely."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self._parts_of: tuple[Relations, tuple[str, ...]] | None = None
        self._parts = MatrixParts(None, None)
        self._framed: tuple[str, str] | None = None
        self._more: tuple[Relations, dict[str, CorrelationMatrix]] | None = None
        self.chart = NamedMatrix()
        self.order, self.above, self.below, self.rows = Choice(), Choice(), Choice(), Choice()
        self.order.addItems(list(MATRIX_ORDERS.values()))
        self.rows.addItems(list(_ROWS.values()))
        for box, tip in (
            (self.order, "In which order columns stand"),
            (self.above, "What stands above the diagonal"),
            (self.below, "What stands below the diagonal"),
            (self.rows, "Of which rows coefficients are: those with both values, or those without a missing one"),
        ):
            box.setToolTip(tip)
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
            box.activated.connect(lambda _: self._chosen_by_hand())
        self.with_categories = configured(QPushButton("with categories"), checkable=True)
        self.with_categories.setObjectName("slim")
        self.with_categories.setToolTip("Columns without numbers stand there, too: η of numbers, V of two categories")
        self.with_categories.clicked.connect(lambda _: self._chosen_by_hand())
        self.about = label("", "quiet", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 6, 6, 6)
        layout.setSpacing(3)
        words = (label("Columns", "quiet"), self.order, self.with_categories, label("above", "quiet"), self.above)
        more = (label("below", "quiet"), self.below, label("rows", "quiet"), self.rows)
        layout.addLayout(flow_of(*words, *more, spacing=5))
        layout.addWidget(self.about)
        layout.addWidget(self.chart, 1)
        self.chart.setToolTip(_READING)
        self.chart.chosen.connect(lambda row, column: self._tell(self.chosen, row, column))
        self.chart.moved.connect(self._move)
        self.chart.opened.connect(lambda row, column: self._tell(self.opened, row, column))

    def _tell(self, signal: object, row: int, column: int) -> None:
        """The pair of a cell by name, the one that stands higher up in the table first."""
        picture = self.chart.picture
        if picture is None:
            return
        first, second = sorted((row, column), key=lambda at: int(picture.column_indices[at]))
        signal.emit(picture.names[first], picture.names[second])  # type: ignore[attr-defined]

    @property
    def _relations(self) -> Relations:
        """All pairs, by the kinds by which they are ranked and those that were asked for besides."""
        relations = self.hub.relations
        assert relations is not None
        if self._more is None or self._more[0] is not relations:
            return relations
        return replace(relations, matrices={**relations.matrices, **self._more[1]})

    def is_category(self, name: str) -> bool:
        """Whether ``name`` stands in the matrix as a category."""
        beside = self.chart.categories
        return beside is not None and name in beside.categories

    # What is worked out

    def follow(self) -> None:
        """Show the relations as they are now, with all else as soon as it is there."""
        if self.hub.relations is None:
            return
        self._offer()
        self._draw()
        self._request_parts()
        self._request_kinds()

    def _categories(self) -> tuple[str, ...]:
        """The categories that are to stand in the matrix; none before the relations are there."""
        if self.hub.relations is None:
            return ()
        relations, study = self._relations, self.hub.study
        found, requested = categories_beside(study.table, relations.columns), study.document.view.matrix_categories
        if requested is None:
            requested = len(relations.columns) + len(found) <= MOST_PICTURED
        return tuple(found) if requested else ()

    def _request_parts(self) -> None:
        relations = self.hub.relations
        if relations is None:
            return
        categories = self._categories()
        parts_of = relations, categories
        if self._parts_of == parts_of or not (categories or len(relations.columns) <= MOST_PICTURED):
            return
        table, workspace = self.hub.study.table, self.hub.study.workspace
        requests = {name: (workspace.request(name), workspace.part_cache(name)) for name in relations.columns}

        def work(progress: Progress) -> MatrixParts:
            analyses = {name: analyse(request, cache, progress) for name, (request, cache) in requests.items()}
            return matrix_parts(table, analyses, categories, progress)

        def arrived(found: MatrixParts) -> None:
            if (self.hub.relations, self._categories()) == parts_of:
                self._parts_of, self._parts = parts_of, found
                self._draw()

        self.hub.start("parts of the matrix", work, arrived, priority=6, quiet=True)

    def _request_kinds(self) -> None:
        """Work out the kinds that are to be shown and not there yet."""
        relations, study = self.hub.relations, self.hub.study
        if relations is None:
            return
        requested = {side for side in self._sides() if side in CORRELATION_KINDS} - set(self._relations.matrices)
        if not requested:
            return
        columns = [study.working.sample(study.table[name]).values for name in relations.columns]

        def work(progress: Progress) -> dict[str, CorrelationMatrix]:
            every = complete_rows(columns)
            used = [np.where(every, each, np.nan) for each in columns] if relations.listwise else columns
            return {key: kind_matrix(key, used, progress) for key in sorted(requested)}

        def arrived(found: dict[str, CorrelationMatrix]) -> None:
            if self.hub.relations is relations:
                known = self._more[1] if self._more and self._more[0] is relations else {}
                self._more = relations, {**known, **found}
                self._draw()

        self.hub.start("another kind of correlation", work, arrived, priority=5)

    # What is chosen

    def _offer(self) -> None:
        """Offer on either side what there is, and show what was chosen."""
        relations, view = self._relations, self.hub.study.document.view
        categories = self._categories()
        pictured = len(relations.columns) + len(categories) <= MOST_PICTURED
        ranking = list(self.hub.relations.matrices) if self.hub.relations else []
        sides = [*CORRELATION_KINDS, *([DIFFERENCE] if len(ranking) > 1 else [])]
        self._keys = {self.above: sides, self.below: [*([PICTURES] if pictured else []), *sides]}
        usual = PICTURES if pictured else ranking[-1]
        for box, side, otherwise in ((self.above, 0, ranking[0]), (self.below, 1, usual)):
            keys, requested = self._keys[box], view.matrix_sides[side]
            box.clear()
            box.addItems([side_name(key) for key in keys])
            box.setCurrentIndex(keys.index(requested if requested in keys else otherwise))
        orders = list(MATRIX_ORDERS)
        self.order.setCurrentIndex(orders.index(view.matrix_order) if view.matrix_order in orders else 0)
        self.rows.setCurrentIndex(list(_ROWS).index(view.relations_rows) if view.relations_rows in _ROWS else 0)
        self.with_categories.setEnabled(bool(categories_beside(self.hub.study.table, relations.columns)))
        self.with_categories.setChecked(bool(categories))

    def _sides(self) -> tuple[str, str]:
        """What is to stand above and below the diagonal."""
        above, below = (self._keys[box][box.currentIndex()] for box in (self.above, self.below))
        return above, below

    def _chosen_by_hand(self) -> None:
        if self.hub.relations is None:
            # What can stand on the sides is not known yet; the boxes show what is chosen once it is.
            return
        order = list(MATRIX_ORDERS)[self.order.currentIndex()]
        if order == "hand" and not self.hub.study.document.view.matrix_columns and self.chart.picture is not None:
            # It begins with what is seen.
            self.hub.study.change_view(matrix_columns=self.chart.picture.names)
        rows, before = list(_ROWS)[self.rows.currentIndex()], self._categories()
        with_categories: bool | None = self.with_categories.isChecked()
        if with_categories == bool(before):
            with_categories = self.hub.study.document.view.matrix_categories
        self.hub.study.change_view(
            matrix_order=order, matrix_sides=self._sides(), matrix_categories=with_categories, relations_rows=rows
        )
        self.hub.request_relations()

    def _move(self, index: int, target: int) -> None:
        """Let the column at ``index`` stand at ``target``, and the order be the analyst's own from now on."""
        picture = self.chart.picture
        if picture is None:
            return
        names = list(picture.names)
        names.insert(target, names.pop(index))
        self.hub.study.change_view(matrix_order="hand", matrix_columns=tuple(names))
        self._offer()
        self._draw()

    # What is drawn

    def note(self, findings: Mapping[frozenset[str], Sequence[RelationFinding]]) -> None:
        """Mark the pairs of which something was found, by the names of both columns."""
        self.chart.findings = findings
        self._mark()

    def _mark(self) -> None:
        picture = self.chart.picture
        if picture is None:
            return
        indices = {name: index for index, name in enumerate(picture.names)}
        known = [[indices[name] for name in pair] for pair in self.chart.findings if pair <= set(indices)]
        self.chart.mark({(max(pair), min(pair)) for pair in known} | {(min(pair), max(pair)) for pair in known})

    def _draw(self) -> None:
        if self.hub.relations is None:
            return
        relations, there = self._relations, self._parts_of == (self.hub.relations, self._categories())
        parts = self._parts if there else MatrixParts(None, None)
        above, below = self._sides()
        known = {*relations.matrices, PICTURES, DIFFERENCE}
        usual = list(relations.matrices)
        # What is still worked out has the usual kind in its place.
        missing = [side_name(side) for side in dict.fromkeys((above, below)) if side not in known]
        above, below = (side if side in known else usual[at] for at, side in enumerate((above, below)))
        order = list(MATRIX_ORDERS)[self.order.currentIndex()]
        picture = matrix_picture(
            relations,
            parts.smalls,
            order=order,
            upper=above,
            lower=below,
            categories=parts.categories,
            by_hand=self.hub.study.document.view.matrix_columns,
        )
        self.chart.relations, self.chart.categories = relations, parts.categories
        stands_in = f"{' and '.join(missing)}: not worked out yet, another kind stands there. " if missing else ""
        self.about.setText(stands_in + _about(picture, relations))
        self.chart.show_picture(picture)
        self._mark()
        self.frame(self._framed or self.hub.study.document.view.pair)

    def maker(self) -> tuple[Maker, str] | None:
        """What makes the picture of all columns anew at any size, and a name for it."""
        picture = self.chart.picture
        if picture is None:
            return None

        def make(width: int, height: int) -> QWidget:
            made = MatrixChart()
            made.resize(width, height)
            made.show_picture(picture)
            return made

        return make, f"{self.hub.study.name} relations"

    def frame(self, pair: tuple[str, str] | None) -> None:
        """Mark the cell of ``pair`` in the matrix, where it is there."""
        self._framed = pair
        picture = self.chart.picture
        if picture is None or pair is None or not set(pair) <= set(picture.names):
            self.chart.choose(None)
            return
        cell = picture.names.index(pair[0]), picture.names.index(pair[1])
        # The cell in which the pair was chosen stays the marked one.
        self.chart.choose(self.chart.pair if self.chart.pair == cell[::-1] else cell)


def _about(picture: MatrixPicture, relations: Relations) -> str:
    """How many columns, which rows each number is of, and what goes together."""
    pairs = picture.n[np.triu_indices(len(picture.names), 1)]
    fewest, most = (int(pairs.min()), int(pairs.max())) if pairs.size else (0, 0)
    rows = f"n {count(most)}"
    if relations.listwise:
        rows = f"{count(relations.complete)} rows have all numbers, and only these count"
    elif fewest != most or relations.complete != most:
        rows = f"n {count(fewest)} to {count(most)}, the rows with both; {count(relations.complete)} have all numbers"
    open_still = "; Spearman is being refined" if relations.is_approximate else ""
    blocks = [f"{picture.names[first]} to {picture.names[last - 1]}" for first, last in picture.blocks]
    together = f" · together (mean at least 0.5): {'; '.join(blocks[:4])}" if blocks else ""
    more = f" and {len(blocks) - 4} more" if len(blocks) > 4 else ""
    not_searched = f" · {NOT_SEARCHED}" if len(relations.columns) > MOST_COLUMNS else ""
    return f"{len(picture.names)} columns, {rows}{open_still}{together}{more}{not_searched}"
