"""The survey of the whole table that the table in hand is a sample of, read from the file of the sample."""

from pathlib import Path
from typing import TYPE_CHECKING

from PyQt6.QtCore import QObject, pyqtSignal

from culvix.progress import Progress
from culvix.study.whole.column_figures import ColumnOfWhole
from culvix.study.whole.conditions import codes_of, column_of_whole
from culvix.study.whole.samples import whole_of
from culvix.study.whole.survey import WholeSurvey

if TYPE_CHECKING:
    from culvix.app.session.hub import Hub

__all__ = ["WholeOfSample"]


class WholeOfSample(QObject):
    """Has no ``survey`` before it is read, and for a table that is no sample."""

    arrived = pyqtSignal()

    def __init__(self, hub: "Hub") -> None:
        super().__init__(hub)
        self.hub = hub
        self.survey: WholeSurvey | None = None
        self._path: Path | None = None
        hub.data_changed.connect(self.follow)
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

    def codes(self, name: str) -> tuple[float, ...]:
        """Numbers of a column that stand for a missing value here: in the whole they are numbers like others."""
        return codes_of(self.hub.study.workspace, name) if self.survey is not None else ()
