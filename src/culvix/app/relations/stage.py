"""The Relations stage: pairs of columns by strength, and the chosen pair with and without its flagged rows."""

from typing import Any

import numpy as np
import pyqtgraph as pg
from PyQt6.QtCore import QModelIndex, Qt, pyqtSignal
from PyQt6.QtWidgets import QAbstractItemView, QFrame, QPushButton, QSplitter, QTableView, QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.session.scheduler import task_queue
from culvix.app.widgets.models import RIGHT, CellPainter, HeadedTable
from culvix.app.widgets.parts import by_font, clear_layout, label, panel, plain_tip, row_of
from culvix.charts.palette import SHADES
from culvix.charts.plots.scatter import PairPlot
from culvix.progress import Progress
from culvix.stats.core.arrays import Ints
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.display import count, number, p_value, plural, signed, significant
from culvix.stats.registry import CORRELATION_KINDS
from culvix.stats.resampling.bootstrap_interval import BootstrapInterval
from culvix.stats.resampling.pair_bootstrap import bootstrap_correlation
from culvix.study.analysis.column_analysis import analyse
from culvix.study.analysis.pair_analysis import PairAnalysis, analyse_pair
from culvix.study.analysis.relations import RANKING, PairView, RankedPair, coefficient_name
from culvix.study.pictures.pair_pictures import pair_picture

__all__ = ["PairMargin", "RelationsStage"]

_FEW_PAIRS = 33
"""Up to so many pairs how a p was found is written out: approximations may be far off."""


class _Pairs(HeadedTable):
    """Ranked pairs; sorting by a coefficient sorts by its size."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.pairs: list[RankedPair] = []
        self.heads = [
            "column",
            "with",
            *(f"{CORRELATION_KINDS[key].name} {CORRELATION_KINDS[key].symbol}" for key in RANKING),
            "n",
        ]

    def put(self, pairs: tuple[RankedPair, ...]) -> None:
        self.beginResetModel()
        self.pairs = list(pairs)
        self.endResetModel()

    def row_count(self) -> int:
        return len(self.pairs)

    def data(self, index: QModelIndex, role: int = Qt.ItemDataRole.DisplayRole) -> object:
        if role == Qt.ItemDataRole.TextAlignmentRole and index.column() >= 2:
            return RIGHT
        if role not in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return None
        pair = self.pairs[index.row()]
        found = list(pair.coefficients.values())
        position = index.column()
        if 2 <= position < 2 + len(found):
            result = found[position - 2]
            if role == Qt.ItemDataRole.ToolTipRole:
                by = f" by {result.p_by}" if result.p_by else ""
                return plain_tip(result.note or f"{p_value(result.p)}{by}, n {count(result.n)}")
            return signed(result.r, 3)
        if position < 2:
            name = (pair.x, pair.y)[position]
            return plain_tip(name) if role == Qt.ItemDataRole.ToolTipRole else name
        return count(pair.n)

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        kinds = RANKING

        def key(pair: RankedPair) -> Any:
            if column < 2:
                return (pair.x, pair.y)[column]
            if column < 2 + len(kinds):
                r = pair.coefficients[kinds[column - 2]].r
                return -1.0 if r is None else abs(r)
            return pair.n

        self.beginResetModel()
        self.pairs.sort(key=key, reverse=order == Qt.SortOrder.DescendingOrder)
        self.endResetModel()


class PairMargin(QWidget):
    """The chosen pair in numbers; intervals by resampling come on demand."""

    changed = pyqtSignal()
    """More is to be shown of the same pair."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self._view: PairView | None = None
        self._resampled: dict[str, BootstrapInterval] = {}
        self._body = QVBoxLayout(self)
        self._body.setContentsMargins(10, 8, 10, 8)
        self._body.setSpacing(5)

    def show_pair(self, pair: PairAnalysis, confidence: float) -> None:
        """Show the coefficients of ``pair`` with and without its flagged rows, and its line."""
        view = pair.view
        clear_layout(self._body)
        self._names = {key: coefficient_name(key, pair.roles) for key in CORRELATION_KINDS}
        self._body.addWidget(label(f"{view.x} and {view.y}", "head", wrap=True))
        self._body.addWidget(label(pair.suggestion.reason, wrap=True))
        self._coefficients("All rows in use", view.with_flagged)
        for key, kind in CORRELATION_KINDS.items():
            result = view.with_flagged[key]
            ends = kind.interval(result.r, result.n, confidence) if kind.interval and result.r is not None else None
            if ends and kind.ranks:
                message = f"{self._names[key]} {100 * confidence:g} %: {signed(ends[0], 3)} to {signed(ends[1], 3)}"
                self._body.addWidget(label(message, "quiet"))
        self._intervals_by_resampling(view, confidence)
        if view.flagged.size:
            self._coefficients(f"Without the {plural(int(view.flagged.size), 'flagged row')}", view.without_flagged)
        else:
            self._body.addWidget(label("No flagged rows", "quiet"))
        self._body.addSpacing(6)
        self._body.addWidget(label("Least-squares line", "head"))
        self._body.addWidget(label(_line_text(view, pair.titles), wrap=True))
        self._body.addSpacing(6)
        self._body.addWidget(label("Rows flagged in either column by any method are open rings.", "quiet", wrap=True))
        self._body.addStretch(1)

    def _intervals_by_resampling(self, view: PairView, confidence: float) -> None:
        """What resampling gives, or the button that asks for it."""
        if self._view is not view:
            self._view, self._resampled = view, {}
        for key, found in self._resampled.items():
            ends = "none" if found.low is None else f"{signed(found.low, 3)} to {signed(found.high, 3)}"
            line = label(f"{self._names[key]} resampled: {ends}", "quiet")
            line.setToolTip(found.note or f"{found.method} bootstrap, {found.repeats} resamples, seed {found.seed}")
            self._body.addWidget(line)
        if self._resampled:
            return
        button = QPushButton("Resample")
        button.setObjectName("slim")
        button.setToolTip("Intervals that assume no shape, from resamples of the rows, in the background")
        button.clicked.connect(lambda: self._resample(view, confidence))
        self._body.addLayout(row_of(button, 1))

    def _resample(self, view: PairView, confidence: float) -> None:
        def work(progress: Progress) -> dict[str, BootstrapInterval]:
            x, y = view.x_values, view.y_values
            kinds = [key for key, kind in CORRELATION_KINDS.items() if kind.ranks]
            return {key: bootstrap_correlation(x, y, key, confidence=confidence, progress=progress) for key in kinds}

        def arrived(found: dict[str, BootstrapInterval]) -> None:
            if self._view is view:
                self._resampled = found
                self.changed.emit()

        self.hub.start("resampling a pair", work, arrived, priority=5)

    def _coefficients(self, head: str, results: dict[str, PairCorrelation]) -> None:
        n = next(iter(results.values())).n
        self._body.addSpacing(4)
        self._body.addWidget(label(f"{head}: n {count(n)}", "quiet", wrap=True))
        for key, result in results.items():
            kind = CORRELATION_KINDS[key]
            name = label(f"{self._names[key]} {kind.symbol}")
            name.setToolTip(kind.tells)
            if result.r is None:
                self._body.addWidget(name)
                self._body.addWidget(label(result.note or "", "quiet", wrap=True))
            else:
                self._body.addLayout(row_of(name, 1, label(signed(result.r, 3), "head"), label(p_value(result.p))))
                if result.p_by and result.n <= _FEW_PAIRS:
                    self._body.addWidget(label(f"p by {result.p_by}", "quiet", wrap=True))


def _line_text(view: PairView, titles: tuple[str, str]) -> str:
    line = view.line
    if line is None:
        return "No line: the values along the axis are all equal."
    sign = "+" if line.slope >= 0 else "−"
    text = f"{titles[1]} = {significant(line.intercept)} {sign} {significant(abs(line.slope))} × {titles[0]}"
    spread = f"; residual SD {significant(line.residual_sd)}" if line.residual_sd is not None else ""
    return f"{text}{spread}; n {count(line.n)}."


class RelationsStage(QWidget):
    """The ranked list on the left, the chosen pair's scatter on the right; one selection with all other views."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.pair: PairAnalysis | None = None
        self.margin = PairMargin(hub)
        self.margin.changed.connect(self._show_numbers)
        self.model = _Pairs(self)
        self.about = label("", "quiet", wrap=True)
        self._build_list()
        self.canvas = pg.GraphicsLayoutWidget()
        self.canvas.setAccessibleName("The chosen pair")
        self.canvas.setBackground(SHADES.panel)
        self.canvas.setFrameShape(QFrame.Shape.NoFrame)
        self.canvas.ci.setContentsMargins(4, 8, 12, 2)
        self.plot = PairPlot()
        self.canvas.addItem(self.plot)
        self.plot.picked.connect(self._picked)
        self.plot.interval.connect(self._swept)
        self.plot.view_box.fit_requested.connect(self.plot.fit)
        left, inside = panel(margins=(6, 6, 6, 6))
        inside.addLayout(row_of(label("Pairs by strength", "head"), 1))  # type: ignore[attr-defined]
        inside.addWidget(self.about)
        inside.addWidget(self.table)
        right, inside = panel(margins=(2, 2, 2, 2))
        inside.addWidget(self.canvas)
        split = QSplitter()
        split.addWidget(left)
        split.addWidget(right)
        split.setSizes([452, 370])
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.addWidget(split)
        hub.related.connect(self._related)
        hub.selection_changed.connect(lambda: self._draw(refit=False))
        hub.data_changed.connect(self._stale)
        hub.settings_changed.connect(self._stale)

    def _build_list(self) -> None:
        self.table = QTableView()
        self.table.setModel(self.model)
        self.table.setAccessibleName("Pairs by strength")
        self.table.setTabKeyNavigation(False)
        self.table.setItemDelegate(CellPainter(self.model, self.table))
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setShowGrid(False)
        self.table.setSortingEnabled(True)
        self.table.verticalHeader().hide()  # type: ignore[union-attr]
        self.table.verticalHeader().setDefaultSectionSize(by_font(22))  # type: ignore[union-attr]
        head = self.table.horizontalHeader()
        assert head is not None
        head.setHighlightSections(False)
        head.setSortIndicator(-1, Qt.SortOrder.DescendingOrder)
        for position, width in enumerate((106, 106, 68, 84, 50)):
            head.resizeSection(position, by_font(width))
        self.table.selectionModel().currentRowChanged.connect(self._row)  # type: ignore[union-attr]

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
        assert relations is not None
        pairs = plural(len(relations.pairs), "pair")
        open_still = "; Spearman by the ranks of each column alone, being refined" if relations.at_first_look else ""
        self.about.setText(f"{pairs} of {len(relations.columns)} columns; n counts the rows with both{open_still}")
        self.model.put(relations.pairs)
        widest = max((self.fontMetrics().horizontalAdvance(count(pair.n)) for pair in relations.pairs[:200]), default=0)
        self.table.setColumnWidth(len(self.model.heads) - 1, widest + 14)
        position = 0
        for at, pair in enumerate(self.model.pairs):
            if (pair.x, pair.y) == self.hub.study.document.view.pair:
                position = at
        if self.model.pairs:
            self.table.setCurrentIndex(self.model.index(position, 0))

    def _row(self, index: QModelIndex) -> None:
        if index.isValid():
            pair = self.model.pairs[index.row()]
            self.choose(pair.x, pair.y)

    def choose(self, x: str, y: str) -> None:
        """Look at the pair ``x``, ``y``."""
        refit = self.pair is None or (self.pair.view.x, self.pair.view.y) != (x, y)
        if self.hub.focus not in (x, y):
            # Decisions are made on the column in focus, so it must be one of the two in view.
            self.hub.set_focus(x)
        study = self.hub.study
        study.change_view(pair=(x, y))
        requests = [(study.workspace.request(name), study.workspace.part_cache(name)) for name in (x, y)]

        def work(progress: Progress) -> PairAnalysis:
            return analyse_pair(*(analyse(request, cache, progress) for request, cache in requests))

        def done(found: PairAnalysis) -> None:
            self.pair = found
            self._draw(refit=refit)
            task_queue().soon(self._show_numbers)

        self.hub.start("pair", work, done, priority=8)

    def _show_numbers(self) -> None:
        """Show the pair in numbers, in a step after its picture."""
        if self.pair is not None:
            self.margin.show_pair(self.pair, self.hub.study.settings.confidence)

    def _draw(self, *, refit: bool) -> None:
        if self.pair is not None:
            self.plot.show_pair(pair_picture(self.pair, self.hub.study.selection.rows), refit=refit)

    def _picked(self, rows: Ints, modifiers: Qt.KeyboardModifier) -> None:
        study = self.hub.study
        if modifiers & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier):
            rows = np.setxor1d(study.selection.rows, rows, assume_unique=True)
        study.select(rows)

    def _swept(self, low: float, high: float, finished: bool, _: Qt.KeyboardModifier) -> None:
        self.plot.sweep.setVisible(not finished)
        self.plot.sweep.setRegion((low, high))
        if finished and self.pair is not None:
            view = self.pair.view
            inside = (view.x_values >= low) & (view.x_values <= high)
            message = f"{view.x} from {number(low)} to {number(high)}"
            self.hub.study.select(view.rows[inside], message, column=view.x)
