"""All pairs of columns in one square, with what is to be seen on either side and in which order."""

from collections.abc import Mapping, Sequence

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QComboBox, QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import label
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.matrix_chart import MatrixChart
from culvix.progress import Progress
from culvix.stats.display import coefficient, count, p_value
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.analysis.column_analysis import analyse
from culvix.study.pictures.matrix_pictures import (
    DIFFERENCE,
    MATRIX_ORDERS,
    MOST_PICTURED,
    PICTURES,
    MatrixPicture,
    Small,
    matrix_picture,
    side_name,
    small,
)
from culvix.study.relations.finding import RelationFinding
from culvix.study.relations.ranking import Relations
from culvix.study.relations.relation_findings import MOST_COLUMNS, NOT_LOOKED

__all__ = ["MatrixPane"]

_READING = (
    "A bar that rises is a positive coefficient, a hollow one that hangs a negative one. "
    "Wheel: zoom, drag: move, 0: all; Space or double click: the pair"
)


class _NamedMatrix(MatrixChart):
    """Says of each pair what is known of it."""

    def __init__(self) -> None:
        super().__init__()
        self.relations: Relations | None = None
        self.findings: Mapping[frozenset[str], Sequence[RelationFinding]] = {}

    def text_at(self, row: int, column: int) -> str:
        picture, relations = self.picture, self.relations
        if picture is None or relations is None or row == column:
            return picture.names[row] if picture else ""
        i, j = sorted((int(picture.places[row]), int(picture.places[column])))
        lines = [f"{picture.names[row]} and {picture.names[column]}"]
        for key, matrix in relations.matrices.items():
            note = matrix.notes.get((i, j))
            shown = note or f"{coefficient(float(matrix.r[i, j]))}, {p_value(float(matrix.p[i, j]))}"
            lines.append(f"{CORRELATION_KINDS[key].name}: {shown}")
        noted = self.findings.get(frozenset((picture.names[row], picture.names[column])), ())
        return "\n".join([*lines, f"n {count(int(picture.n[row, column]))}", *(each.sentence for each in noted)])


class MatrixPane(QWidget):
    """The matrix of `Hub.relations`; small pictures of columns are worked out in the background."""

    chosen = pyqtSignal(str, str)
    """A pair to look at in numbers."""
    opened = pyqtSignal(str, str)
    """A pair to look at more closely."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self._smalls: tuple[Relations, tuple[Small, ...]] | None = None
        self.chart = _NamedMatrix()
        self.order, self.above, self.below = Choice(), Choice(), Choice()
        self.order.addItems(list(MATRIX_ORDERS.values()))
        self.order.setToolTip("In which order columns stand")
        self.above.setToolTip("What stands above the diagonal")
        self.below.setToolTip("What stands below the diagonal")
        for box in (self.order, self.above, self.below):
            box.setSizeAdjustPolicy(QComboBox.SizeAdjustPolicy.AdjustToContents)
            box.activated.connect(lambda _: self._chosen_by_hand())
        self.about = label("", "quiet", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 6, 6, 6)
        layout.setSpacing(3)
        words = (label("Columns", "quiet"), self.order, label("above", "quiet"), self.above)
        layout.addLayout(flow_of(*words, label("below", "quiet"), self.below, spacing=5))
        layout.addWidget(self.about)
        layout.addWidget(self.chart, 1)
        self.chart.setToolTip(_READING)
        self.chart.chosen.connect(lambda row, column: self._tell(self.chosen, row, column))
        self.chart.opened.connect(lambda row, column: self._tell(self.opened, row, column))

    def _tell(self, signal: object, row: int, column: int) -> None:
        """The pair of a cell by name, the one that stands higher up in the table first."""
        picture = self.chart.picture
        assert picture is not None
        first, second = sorted((int(picture.places[row]), int(picture.places[column])))
        names = self._relations.columns
        signal.emit(names[first], names[second])  # type: ignore[attr-defined]

    @property
    def _relations(self) -> Relations:
        relations = self.hub.relations
        assert relations is not None
        return relations

    def follow(self) -> None:
        """Show the relations as they are now, with small pictures as soon as these are there."""
        relations = self._relations
        self.chart.relations = relations
        self._offer(relations)
        self._draw()
        if len(relations.columns) > MOST_PICTURED or (self._smalls and self._smalls[0] is relations):
            return
        workspace = self.hub.study.workspace
        requests = [(workspace.request(name), workspace.part_cache(name)) for name in relations.columns]

        def work(progress: Progress) -> tuple[Small, ...]:
            analyses = [analyse(request, cache, progress) for request, cache in requests]
            return tuple(small(each.sample.values, each.axis.scale) for each in analyses)

        def arrived(found: tuple[Small, ...]) -> None:
            if self.hub.relations is relations:
                self._smalls = relations, found
                self._draw()

        self.hub.start("small pictures", work, arrived, priority=6, quiet=True)

    def note(self, findings: Mapping[frozenset[str], Sequence[RelationFinding]]) -> None:
        """Mark the pairs of which something was found, by the names of both columns."""
        self.chart.findings = findings
        self._mark()

    def _mark(self) -> None:
        picture = self.chart.picture
        if picture is None:
            return
        places = {name: place for place, name in enumerate(picture.names)}
        known = [[places[name] for name in pair] for pair in self.chart.findings if pair <= set(places)]
        self.chart.mark({(max(pair), min(pair)) for pair in known} | {(min(pair), max(pair)) for pair in known})

    def _offer(self, relations: Relations) -> None:
        """Offer on either side what there is of ``relations``, and show what was chosen."""
        kinds = list(relations.matrices)
        sides = [*kinds, *([DIFFERENCE] if len(kinds) > 1 else [])]
        pictured = len(relations.columns) <= MOST_PICTURED
        self._keys = {self.above: sides, self.below: [*([PICTURES] if pictured else []), *sides]}
        view = self.hub.study.document.view
        usual = PICTURES if pictured else kinds[-1]
        for box, side, otherwise in ((self.above, 0, kinds[0]), (self.below, 1, usual)):
            keys, wanted = self._keys[box], view.matrix_sides[side]
            box.clear()
            box.addItems([side_name(key) for key in keys])
            box.setCurrentIndex(keys.index(wanted if wanted in keys else otherwise))
        orders = list(MATRIX_ORDERS)
        self.order.setCurrentIndex(orders.index(view.matrix_order) if view.matrix_order in orders else 0)

    def _chosen_by_hand(self) -> None:
        above, below = (self._keys[box][box.currentIndex()] for box in (self.above, self.below))
        order = list(MATRIX_ORDERS)[self.order.currentIndex()]
        self.hub.study.change_view(matrix_order=order, matrix_sides=(above, below))
        self._draw()

    def _draw(self) -> None:
        relations = self._relations
        smalls = self._smalls[1] if self._smalls and self._smalls[0] is relations else ()
        above, below = (self._keys[box][box.currentIndex()] for box in (self.above, self.below))
        order = list(MATRIX_ORDERS)[self.order.currentIndex()]
        picture = matrix_picture(relations, smalls, order=order, upper=above, lower=below)
        self.about.setText(_about(picture, relations))
        self.chart.show_picture(picture)
        self._mark()
        self.frame(self.hub.study.document.view.pair)

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
    fewest, most = int(pairs.min()), int(pairs.max())
    rows = f"n {count(most)}"
    if fewest != most or relations.complete != most:
        all_there = f"{count(relations.complete)} rows have all"
        rows = f"n {count(fewest)} to {count(most)}, the rows with both; {all_there}"
    open_still = "; Spearman is being refined" if relations.at_first_look else ""
    blocks = [f"{picture.names[first]} to {picture.names[last - 1]}" for first, last in picture.blocks]
    together = f" · together (mean at least 0.5): {'; '.join(blocks[:4])}" if blocks else ""
    more = f" and {len(blocks) - 4} more" if len(blocks) > 4 else ""
    not_looked = f" · {NOT_LOOKED}" if len(picture.names) > MOST_COLUMNS else ""
    return f"{len(picture.names)} columns, {rows}{open_still}{together}{more}{not_looked}"
