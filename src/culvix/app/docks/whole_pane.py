"""Of a sample: the figures of the whole table beside those of the rows in hand."""

import numpy as np
from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QGridLayout, QPushButton, QVBoxLayout

from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.widgets.parts import ElidedLabel, clear_layout, label, plain_tip
from culvix.stats.display import as_typed, count, number, plural
from culvix.study.whole.beside_sample import beside_sample
from culvix.study.whole.column_figures import NumbersOfWhole

__all__ = ["WholePane"]

_FAR = 3.0
"""A figure so many standard errors off is set off."""
_LIMITS = {"iqr": "values lie beyond the fences at 1.5 IQR", "z": "beyond 3 SD"}
_RIGHT = Qt.AlignmentFlag.AlignRight


class WholePane(LazyPane):
    """Is there only where the table is a sample whose file holds the survey of the whole."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(0, 0, 0, 0)
        self.body.setSpacing(3)
        hub.whole.arrived.connect(self.follow)
        hub.whole.counted.connect(self.request_refresh)
        hub.data_changed.connect(self.request_refresh)
        hub.focus_changed.connect(self.request_refresh)
        hub.veiled_changed.connect(self.request_refresh)
        hub.analysed.connect(lambda name: self.request_refresh() if name == hub.focus else None)
        self.hide()
        self.follow()

    def follow(self) -> None:
        """Be there where there is a whole."""
        self.setVisible(self.hub.whole.survey is not None)
        self.refresh_now()

    def refresh(self) -> None:
        """Show the column in focus."""
        clear_layout(self.body)
        whole, analysis = self.hub.whole.survey, self.hub.analysis
        if whole is None:
            return
        self.body.addWidget(label(f"The whole: {count(whole.rows)} rows of {whole.title}", "head", wrap=True))
        veiled = self.hub.veiled is not None and self.hub.veiled == self.hub.focus
        column = None if analysis is None or veiled else whole.of(analysis.column.name)
        if analysis is None or column is None or column.numbers is None:
            words = "Its figures are back once a picture is picked." if veiled else "Choose a column of numbers."
            self.body.addWidget(label(words, "quiet", wrap=True))
            return
        grid = QGridLayout()
        grid.setHorizontalSpacing(6)
        grid.setVerticalSpacing(1)
        name = ElidedLabel("quiet")
        name.say(analysis.column.title)
        self.body.addWidget(name)
        for index, head in enumerate(("whole", "sample", "error"), start=1):
            grid.addWidget(label(head, "quiet"), 0, index, _RIGHT)
        values = analysis.sample.values[np.isfinite(analysis.sample.values)]
        found = beside_sample(column, analysis.description, analysis.style, _beyond(column.numbers, values))
        for line, each in enumerate(found, start=1):
            grid.addWidget(label(each.name), line, 0)
            grid.addWidget(label(each.whole, "strong"), line, 1, _RIGHT)
            far = each.off is not None and abs(each.off) > _FAR
            drawn = label(each.sample, "grave" if far else "")
            off = "" if each.off is None else f"{number(each.off, 1)} standard errors from the whole"
            drawn.setToolTip(plain_tip("\n".join(words for words in (off, each.detail) if words)))
            grid.addWidget(drawn, line, 2, _RIGHT)
            grid.addWidget(label(each.error, "quiet"), line, 3, _RIGHT)
        grid.setColumnStretch(0, 1)
        self.body.addLayout(grid)
        beyond = " and ".join(f"{count(each.count)} {_LIMITS[each.method]}" for each in column.numbers.beyond)
        if beyond:
            self.body.addWidget(label(f"Of the whole {beyond}.", wrap=True))
        codes = self.hub.whole.codes(analysis.column.name)
        if codes:
            which = ", ".join(as_typed(code) for code in codes)
            words = f"Here {which} stands for a missing value; in the figures of the whole it is a number like others."
            self.body.addWidget(label(words, "caution", wrap=True))
        words = (
            f"The whole was counted where it lies; curves, tests, robust figures and decisions are of the "
            f"{count(analysis.description.n)} values of the sample, with the errors that follow from so many."
        )
        self.body.addWidget(label(words, "quiet", wrap=True))
        self._tell_decisions()

    def _tell_decisions(self) -> None:
        """How many rows of the whole the decisions mean, or a button to count them."""
        counted = self.hub.whole.decisions
        if counted:
            self.body.addWidget(label("Decisions in the whole", "head"))
            for each in counted:
                tip = f"made on {plural(each.sampled, 'row')} of the sample"
                line = label(each.sentence, "" if each.where else "caution", wrap=True)
                line.setToolTip(plain_tip(tip))
                self.body.addWidget(line)
        elif self.hub.study.decisions:
            ask = QPushButton("Count decisions in the whole")
            ask.clicked.connect(self.hub.whole.count_decisions)
            self.body.addWidget(ask, alignment=Qt.AlignmentFlag.AlignLeft)


def _beyond(numbers: NumbersOfWhole, values: "np.ndarray[tuple[int, ...], np.dtype[np.float64]]") -> dict[str, int]:
    """How many of ``values`` lie beyond the limits of the whole, by method."""
    return {each.method: int(((values < each.low) | (values > each.high)).sum()) for each in numbers.beyond}
