"""Line-ups of the column in focus: pick the real picture from twenty."""

from secrets import randbelow

from PyQt6.QtCore import pyqtSignal
from PyQt6.QtGui import QHideEvent, QShowEvent
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from culvix.app.session.data_keys import keeps_its_keys
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.parts import label
from culvix.charts.export.picture_files import Maker
from culvix.charts.plots.line_up import LineUpChart
from culvix.stats.display import count, plural
from culvix.stats.shape.line_up import FORMS, PANELS, LineUp, line_up
from culvix.study.document.picks import Pick, chance_of

__all__ = ["LineUpView"]

_ASK = (
    "One of these {n} pictures is {column}, the others are of normal samples with its n, mean and SD. "
    "Which looks least like the others? If it is the real one, p is 1/{n}."
)


class LineUpView(QWidget):
    """The picks are kept in the study."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.pick: Pick | None = None
        self.form = Choice()
        self.form.addItems(list(FORMS.values()))
        self.form.activated.connect(lambda _: self.another())
        self.again = QPushButton("Another line-up")
        self.again.clicked.connect(lambda _: self.another())
        self.about = label("", wrap=True)
        self.about.setToolTip("It counts for most with somebody who has not seen the column")
        self.record = label("", "quiet", wrap=True)
        self.chart = LineUpChart()
        self.chart.picked.connect(self._picked)
        keeps_its_keys(self.chart)
        self._made_of: object = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 4, 8, 4)
        layout.setSpacing(3)
        layout.addLayout(flow_of(label("Line-up of", "quiet"), self.form, 0, self.again))
        layout.addWidget(self.about)
        layout.addWidget(self.chart, 1)
        layout.addWidget(self.record)

    def request_update(self) -> None:
        """Show a line-up of the column in focus, a new one where the column or its values changed."""
        analysis = self.hub.analysis
        if analysis is None:
            self._clear("It is being worked out …")
        elif self._made_of is not analysis.sample:
            self.another()

    def another(self, seed: int | None = None) -> None:
        """Make a new line-up in the background; a ``seed`` makes one again."""
        analysis = self.hub.analysis
        if analysis is None:
            return
        sample, form = analysis.sample, list(FORMS)[self.form.currentIndex()]
        # Not to be foreseen, but kept with the pick, so that the same line-up can be made again.
        seed = randbelow(1_000_000) if seed is None else seed
        self._made_of = sample
        self._clear("Simulating …")

        def arrived(lineup: LineUp) -> None:
            if self.hub.analysis is not None and self.hub.analysis.sample is sample:
                self.chart.show_lineup(lineup)
                self.about.setText(_ASK.format(n=PANELS, column=analysis.column.name))
                self._tell()

        self.hub.start(
            "line-up",
            lambda progress: line_up(sample, form, seed, progress),
            arrived,
            failed=lambda error: self._clear(str(error)),
            priority=12,
        )

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.chart

    def maker(self) -> Maker | None:
        """What makes the line-up anew at any size."""
        lineup, pick = self.chart.lineup, self.chart.pick
        if lineup is None:
            return None

        def make(width: int, height: int) -> QWidget:
            made = LineUpChart()
            made.resize(width, height)
            made.show_lineup(lineup, pick)
            made.pointed = -1
            return made

        return make

    def _clear(self, message: str) -> None:
        self.pick = None
        self.chart.show_lineup(None)
        self.about.setText(message)
        self._tell()

    def _picked(self, position: int) -> None:
        lineup, focus = self.chart.lineup, self.hub.focus
        if lineup is None or focus is None:
            return
        self.pick = Pick(focus, lineup.form, lineup.seed, lineup.n, position, lineup.position)
        self.chart.show_lineup(lineup, position)
        self.about.setText(self.pick.sentence)
        self.hub.study.add_pick(self.pick)
        self._tell()

    def showEvent(self, event: QShowEvent | None) -> None:
        super().showEvent(event)
        self._veil()

    def hideEvent(self, event: QHideEvent | None) -> None:
        super().hideEvent(event)
        self._veil()

    def _veil(self) -> None:
        """Nothing beside a line-up tells which picture is the real one before it is picked."""
        open_ = self.isVisible() and self.chart.lineup is not None and self.pick is None
        self.hub.veil(self.hub.focus if open_ else None)

    def _tell(self) -> None:
        """Say what was picked in line-ups of this column so far."""
        self._veil()
        picks = self.hub.study.workspace.picks_of(self.hub.focus or "")
        self.record.setVisible(len(picks) > 1)
        right = sum(pick.right for pick in picks)
        message = f"{plural(len(picks), 'line-up')} of this column so far, the real one picked in {count(right)}"
        self.record.setText(f"{message}: p = {chance_of(picks):.2g} if each look were independent.")
