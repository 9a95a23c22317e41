"""The survey of the whole table that the table in hand is a sample of, read from the file of the sample."""

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from culvix.errors import Cancelled, CulvixError
from culvix.files import write_whole
from culvix.progress import Progress
from culvix.report.formats.table_files import frame_file
from culvix.stats.display import plural
from culvix.study.whole.cleaned_whole import CleanedWhole, write_cleaned_whole
from culvix.study.whole.column_figures import ColumnOfWhole
from culvix.study.whole.conditions import DecisionOnWhole, codes_in_whole, column_of_whole, count_decisions
from culvix.study.whole.samples import MOST_BEYOND, open_whole, rows_beyond, whole_of
from culvix.study.whole.survey import WholeSurvey
from culvix.tables.engines.engine import Engine

if TYPE_CHECKING:
    from culvix.app.session.hub import Hub

__all__ = ["WholeOfSample"]


class WholeOfSample(QObject):
    """Has no ``survey`` before it is read, and for a table that is no sample."""

    arrived = pyqtSignal()
    counted = pyqtSignal()
    """The rows of the whole that meet the decisions are known, or no longer those of the decisions as they stand."""

    def __init__(self, hub: "Hub") -> None:
        super().__init__(hub)
        self.hub = hub
        self.survey: WholeSurvey | None = None
        self.decisions: tuple[DecisionOnWhole, ...] = ()
        self._path: Path | None = None
        hub.data_changed.connect(self.follow)
        hub.data_changed.connect(self._forget_counts)
        self.follow()

    def follow(self) -> None:
        """See to it that the survey is that of the whole which the table is a sample of."""
        source = self.hub.study.table.source
        if source.path == self._path or (source.sample is None and self.survey is None):
            return
        path = self._path = source.path

        def found(survey: WholeSurvey | None) -> None:
            self.survey = survey
            self.arrived.emit()

        def read(progress: Progress) -> WholeSurvey | None:
            return whole_of(path)

        self.hub.start("figures of the whole", read, found, priority=6, quiet=True)

    def of(self, name: str) -> ColumnOfWhole | None:
        """The column called ``name`` in the whole, where its cells mean there what they mean here."""
        return None if self.survey is None else column_of_whole(self.survey, self.hub.study.workspace, name)

    def _forget_counts(self) -> None:
        if self.decisions:
            self.decisions = ()
            self.counted.emit()

    def count_decisions(self) -> None:
        """Let the engine count how many rows of the whole meet each decision."""
        workspace = self.hub.study.workspace

        def found(decisions: tuple[DecisionOnWhole, ...]) -> None:
            if workspace.document.decisions is self.hub.study.decisions:
                self.decisions = decisions
                self.counted.emit()

        self._with_engine(
            "counting in the whole", lambda engine, progress: count_decisions(engine, workspace, progress), found
        )

    def write_cleaned(self, path: Path) -> None:
        """Let the engine write the whole with all decisions to ``path``."""
        workspace = self.hub.study.workspace

        def written(found: CleanedWhole) -> None:
            left = f"; left out: {', '.join(found.left_out)}" if found.left_out else ""
            self.hub.message.emit(f"{path.name} is the whole with {plural(len(found.decisions), 'decision')}{left}.")

        self._with_engine(
            f"writing {path.name}",
            lambda engine, progress: write_cleaned_whole(engine, workspace, path, progress),
            written,
        )

    def write_beyond(self, path: Path) -> None:
        """Let the engine fetch the rows of the whole with a value beyond the fences, and write them to ``path``."""
        survey, source = self.survey, self.hub.study.table.source.path

        def work(engine: Engine, progress: Progress) -> int:
            assert survey is not None
            found = rows_beyond(engine, survey, "iqr", progress=progress)
            write_whole(path, frame_file(found, path.suffix), sources=(source, *engine.files))
            return found.height

        def written(rows: int) -> None:
            first = "the first " if rows == MOST_BEYOND else ""
            self.hub.message.emit(f"{path.name} has {first}{plural(rows, 'row')} of the whole beyond the fences.")

        if survey is None:
            self.hub.problem.emit("This table is no sample whose whole was surveyed.")
        else:
            self._with_engine(f"writing {path.name}", work, written)

    def _with_engine(self, name: str, work: Callable[[Engine, Progress], object], done: Callable[..., None]) -> None:
        sample = self.hub.study.table.source.sample
        if sample is None:
            self.hub.problem.emit("This table is no sample of a larger one.")
            return

        def run(progress: Progress) -> object:
            engine = open_whole(sample, progress=progress)
            try:
                return work(engine, progress)
            finally:
                engine.close()

        self.hub.start(name, run, done, failed=self._refused, priority=12)

    def _refused(self, error: Exception) -> None:
        if not isinstance(error, Cancelled):
            self.hub.problem.emit(error.sentence if isinstance(error, CulvixError) else str(error))

    def codes(self, name: str) -> tuple[float, ...]:
        """Numbers of a column that stand for a missing value here: in the whole they are numbers like others."""
        return () if self.survey is None else codes_in_whole(self.survey, self.hub.study.workspace, name)
