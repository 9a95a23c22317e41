"""The hub between the study and the window: one object that tells views what changed, and works things out for them."""

from collections import deque
from collections.abc import Callable, Mapping, Sequence
from typing import Any
from weakref import WeakKeyDictionary

import numpy as np
from PyQt6.QtCore import QObject, pyqtSignal

from culvix.app.session.jobs import JobRunner, Work
from culvix.app.session.whole_of_sample import WholeOfSample
from culvix.charts.items.sparkline import Sparkline, sparkline_of
from culvix.errors import Cancelled, CulvixError
from culvix.progress import Progress
from culvix.stats.core.arrays import Floats
from culvix.study import Change, Study
from culvix.study.analysis.column_analysis import ColumnAnalysis, ColumnPreview, analyse, preview_column
from culvix.study.analysis.working_set import WorkingSet
from culvix.study.changes import ReparsedColumns
from culvix.study.pictures.bars import heights_of
from culvix.study.pictures.category_pictures import bars_picture
from culvix.study.relations.ranking import Relations, needs_approximation, rank_pairs
from culvix.tables.model.dictionary import ColumnEntry
from culvix.tables.model.table import Column, Role

__all__ = ["BARRED", "Hub"]

_PAINTING_MS = 70
_LEISURE_MS = 300
_MOST_BARS = 200
"""Columns whose bars are counted anew when the table is read otherwise."""

BARRED = frozenset({Role.CATEGORY, Role.DATE, Role.TEXT})
"""Roles of columns that have no numbers and yet a tiny picture."""
NO_MARKS = np.zeros(0)


def _with_sparkline(analysis: ColumnAnalysis) -> tuple[ColumnAnalysis, Sparkline | None]:
    """An analysis with its strip, both made off the interface thread."""
    return analysis, sparkline_of(analysis)


class Hub(QObject):
    """Signals of the study's changes, the column in focus, and results as they arrive."""

    selection_changed = pyqtSignal()
    settings_changed = pyqtSignal()
    data_changed = pyqtSignal()
    """Decisions, or what is said of columns, are others now."""
    edit_refused = pyqtSignal()
    """What was said of a column does not hold; fields show again what does."""
    review_changed = pyqtSignal()
    marks_changed = pyqtSignal()
    report_changed = pyqtSignal()
    """The layout of the report, or the words in it, are others now."""
    focus_changed = pyqtSignal(str)
    analysed = pyqtSignal(str)
    """A column's analysis has arrived."""
    barred = pyqtSignal(str)
    """The bars of a column without numbers have arrived."""
    previewed = pyqtSignal(str)
    """What the lanes of the column in focus show has arrived; its tests are under way."""
    veiled_changed = pyqtSignal()
    """Another column, or none, must not be seen for the moment."""
    columns_changed = pyqtSignal()
    """A column was added, or taken away."""
    related = pyqtSignal()
    """The ranking of pairs has arrived."""
    problem = pyqtSignal(str)
    message = pyqtSignal(str)
    """A sentence that is no complaint."""

    def __init__(self, study: Study, jobs: JobRunner, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.study = study
        self.jobs = jobs
        self.focus: str | None = None
        self.own_limits = False
        """Whether a limit that is dragged or typed is to hold for the column in focus only."""
        self.veiled: str | None = None
        """The column whose strip would give its line-up away."""
        self.sparklines: dict[str, Sparkline | None] = {}
        self._bars: dict[str, tuple[Column, Sparkline]] = {}
        """Columns without numbers, and their bars."""
        self._sparklines: WeakKeyDictionary[ColumnAnalysis, Sparkline | None] = WeakKeyDictionary()
        """The strips of all analyses that are still known, so that undo brings back theirs, too."""
        self._analysis_shown: dict[str, ColumnAnalysis] = {}
        """The analysis that the strip of a column shows."""
        self.relations: Relations | None = None
        self._relations_of: tuple[WorkingSet, str] | None = None
        """The values that they are of."""
        self._names = [column.name for column in study.table]
        self._under_way: dict[str, object] = {}
        self._preview: ColumnPreview | None = None
        self._pending_edits: deque[Mapping[str, Callable[[ColumnEntry], ColumnEntry]]] = deque()
        self.whole = WholeOfSample(self)
        study.listen(self._study_changed)

    def start(self, name: str, work: Work, done: Callable[[Any], None], **options: Any) -> None:
        """Run ``work`` in the background, as `JobRunner.start`, for as long as this study is open."""
        self.jobs.start(name, work, done, owner=self, **options)

    def let_go(self) -> None:
        """Stop whatever was begun for this study: nobody waits for it any more."""
        self.jobs.cancel_all_of(self)
        self.deleteLater()

    def _study_changed(self, change: Change) -> None:
        if change is Change.SELECTION:
            self.selection_changed.emit()
        elif change is Change.REVIEW:
            self.review_changed.emit()
        elif change is Change.MARKS:
            self.marks_changed.emit()
        elif change is Change.REPORT:
            self.report_changed.emit()
        elif change is not Change.VIEW:
            # What is looked at is shown by whoever changes it.
            signal = self.settings_changed if change is Change.SETTINGS else self.data_changed
            if change is Change.DATA:
                numeric = {column.name for column in self.study.table.numeric}
                self.sparklines = {name: sparkline for name, sparkline in self.sparklines.items() if name in numeric}
                self._follow_columns()
            if change is Change.DATA:
                for name in self._names[:_MOST_BARS]:
                    self.request_bars(name)
            signal.emit()
            if self.focus and self.study.table[self.focus].is_numeric:
                self.request_analysis(self.focus)
            for name in list(self.sparklines):
                if name == self.focus:
                    continue
                known = self.study.workspace.known_analysis(name)
                if known is None:
                    # What is looked at comes first, and in a drag each change would begin them all anew.
                    self.request_analysis(name, urgent=False, after=_LEISURE_MS)
                elif self._show_sparkline(known):
                    self.analysed.emit(name)

    def _show_sparkline(self, analysis: ColumnAnalysis) -> bool:
        """Let the strip of a column be that of ``analysis``; whether it was another one before."""
        name = analysis.column.name
        if self._analysis_shown.get(name) is analysis or analysis not in self._sparklines:
            return False
        self._analysis_shown[name], self.sparklines[name] = analysis, self._sparklines[analysis]
        return True

    def _follow_columns(self) -> None:
        """Tell of columns that were added or taken away; the focus never stays on one that is gone."""
        names = [column.name for column in self.study.table]
        if names == self._names:
            return
        before, self._names, focus = self._names, names, self.focus
        if focus is not None and focus not in names:
            self.focus = None
        self.columns_changed.emit()
        if focus is not None and self.focus is None:
            position = min(before.index(focus), len(names) - 1)
            self.set_focus(names[max(position - 1, 0)])

    def set_focus(self, column: str) -> None:
        """Turn all views to ``column``."""
        if column == self.focus:
            return
        self.focus = column
        self.study.mark_viewed(column)
        self.study.change_view(focus=column)
        self.focus_changed.emit(column)
        if self.study.table[column].is_numeric:
            self.request_analysis(column)

    def veil(self, column: str | None) -> None:
        """Let the picture of ``column`` be seen nowhere but among those of its line-up; None lifts the veil."""
        if column != self.veiled:
            self.veiled = column
            self.veiled_changed.emit()

    def edit_columns(self, columns: Sequence[str], change: Callable[[ColumnEntry], ColumnEntry]) -> None:
        """Say of ``columns`` what ``change`` makes of what is said of them, and read them anew in the background.

        One change follows the other, in the order in which they were made.
        """
        self.edit_each(dict.fromkeys(columns, change))

    def edit_each(self, changes: Mapping[str, Callable[[ColumnEntry], ColumnEntry]]) -> None:
        """The same for columns of which each has a change of its own."""
        self._pending_edits.append(changes)
        if len(self._pending_edits) == 1:
            self._start_next_edit()

    def _start_next_edit(self) -> None:
        try:
            declared = self.study.dictionary
            work = self.study.rereading(
                {name: change(declared.of(name)) for name, change in self._pending_edits[0].items()}
            )
        except CulvixError as error:
            self._edit_done(None, error)
            return
        self.start(
            "reading columns anew", work, self._edit_done, failed=lambda e: self._edit_done(None, e), priority=15
        )

    def _edit_done(self, reparsed: ReparsedColumns | None, error: Exception | None = None) -> None:
        try:
            if reparsed is not None:
                self.study.apply_reparsed(reparsed)
        except CulvixError as refused:
            error = refused
        if error is not None:
            self.edit_refused.emit()
        if isinstance(error, CulvixError) and not isinstance(error, Cancelled):
            self.problem.emit(error.sentence)
        self._pending_edits.popleft()
        if self._pending_edits:
            self._start_next_edit()

    @property
    def analysis(self) -> ColumnAnalysis | None:
        """The analysis of the column in focus as things stand, if it has arrived."""
        if self.focus is None or not self.study.table[self.focus].is_numeric:
            return None
        return self.study.workspace.known_analysis(self.focus)

    @property
    def preview(self) -> ColumnPreview | None:
        """What the lanes of the column in focus show as things stand, if it has arrived."""
        known, preview = self.analysis, self._preview
        if known is None and preview is not None and self._holds(preview):
            return preview
        return known

    def _holds(self, preview: ColumnPreview) -> bool:
        """Whether ``preview`` is of the column in focus, and of things as they stand."""
        return preview.column.name == self.focus and preview.request.key == self.study.workspace.request(self.focus).key

    def request_analysis(self, column: str, *, urgent: bool = True, after: int = 0) -> None:
        """See to it that ``analysed`` is told for ``column``; at once where the analysis is known.

        What is not urgent is begun ``after`` so many milliseconds.
        """
        request = self.study.workspace.request(column)
        known = self.study.workspace.known_analysis(column)
        if known is not None and known in self._sparklines:
            self._show_sparkline(known)
            self.analysed.emit(column)
            return
        name = f"profile of {column}"
        if self.jobs.running(name) and self._under_way.get(column) in ((request.key, urgent), (request.key, True)):
            return
        self._under_way[column] = (request.key, urgent)
        cache = self.study.workspace.part_cache(column)

        def work(progress: Progress) -> tuple[ColumnAnalysis, Sparkline | None]:
            return _with_sparkline(analyse(request, cache, progress))

        def rest(after: int = 0) -> None:
            priority = 10 if urgent else 0
            self.start(name, work, self._arrived, priority=priority, quiet=not urgent, after=after)

        def previewed(preview: ColumnPreview) -> None:
            if self._holds(preview):
                self._preview = preview
                self.previewed.emit(column)
            # The tests would hold up the painting of the lanes.
            rest(_PAINTING_MS)

        if urgent:
            self.start(name, lambda progress: preview_column(request, cache, progress), previewed, priority=10)
        else:
            rest(after)

    def _arrived(self, outcome: tuple[ColumnAnalysis, Sparkline | None]) -> None:
        analysis, sparkline = outcome
        name = analysis.column.name
        gone = name not in self.study.table or not self.study.table[name].is_numeric
        if gone or analysis.request.key != self.study.workspace.request(name).key:
            return
        self.study.workspace.cache.keep(analysis)
        self._sparklines[analysis] = sparkline
        self._show_sparkline(analysis)
        self.analysed.emit(name)

    def sparkline(self, column: str) -> Sparkline | None:
        """The tiny picture of ``column``: of its values, or of its categories, periods or lengths."""
        return self.sparklines.get(column) or self._bars.get(column, (None, None))[1]

    def request_bars(self, column: str) -> None:
        """See to it that the bars of a column without numbers are counted, and ``barred`` is told for it."""
        requested = self.study.table[column]
        if requested.role not in BARRED or self._bars.get(column, (None, None))[0] is requested:
            return
        date_order = self.study.dictionary.of(column).date_order

        def work(progress: Progress) -> Sparkline:
            order = "length" if requested.role is Role.TEXT else "frequency"
            return Sparkline(heights_of(bars_picture(requested, order, None, date_order, progress)), None, NO_MARKS)

        def arrived(sparkline: Sparkline) -> None:
            if column in self.study.table and self.study.table[column] is requested:
                self._bars[column] = requested, sparkline
                self.barred.emit(column)

        self.start(f"bars of {column}", work, arrived, quiet=True)

    def request_relations(self) -> None:
        """See to it that ``related`` is told with the ranking of pairs as things stand."""
        columns = [column for column in self.study.table.numeric if column.is_data]
        stamp = self.study.working, self.study.document.view.relations_rows
        if self._relations_of == stamp and self.relations is not None:
            self.related.emit()
            return
        names = [column.name for column in columns]
        values: list[Floats] = [self.study.working.sample(column).values for column in columns]

        def rank(*, is_approximate: bool) -> None:
            def work(progress: Progress) -> Relations:
                listwise = stamp[1] == "all"
                return rank_pairs(names, values, progress, is_approximate=is_approximate, listwise=listwise)

            self.start("correlations", work, arrived, priority=5)

        def arrived(relations: Relations) -> None:
            if stamp != (self.study.working, self.study.document.view.relations_rows):
                return
            self.relations, self._relations_of = relations, None if relations.is_approximate else stamp
            self.related.emit()
            if relations.is_approximate:
                rank(is_approximate=False)

        rank(is_approximate=needs_approximation(values))
