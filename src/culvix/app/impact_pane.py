"""Impact: the figures of the column in focus with everything kept, as decided, and with all flagged values left out."""

import numpy as np
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QGridLayout, QLabel, QVBoxLayout

from culvix.app.hub import Hub
from culvix.app.parts import asking, clear_layout, label, row_of, shortened
from culvix.app.renewal import RenewedPane
from culvix.progress import Progress
from culvix.stats.display import DASH, NumberStyle, count, p_value, plural, signed, significant
from culvix.study.analysis import ColumnLook
from culvix.study.impact import STATES, Figures, Impact, Influence, impact_of, influence_of
from culvix.study.what_if import WhatIf

__all__ = ["ImpactPane", "figure_lines"]

_MOST_CORRELATIONS = 6


def figure_lines(states: tuple[Figures, ...], style: NumberStyle) -> list[tuple[str, list[str]]]:
    """The lines of the comparison: a name, and the words for each of ``states``."""

    def line(name: str, words: object) -> tuple[str, list[str]]:
        return name, [words(state) for state in states]  # type: ignore[operator]

    test = states[0].test
    return [
        line("n", lambda s: count(s.n)),
        line("mean", lambda s: style.statistic(s.mean)),
        line("median", lambda s: style.statistic(s.median)),
        line("SD", lambda s: style.statistic(s.sd)),
        line("skew G1", lambda s: signed(s.skewness, 2)),
        line("kurt G2", lambda s: signed(s.excess_kurtosis, 2)),
        line(test.symbol, lambda s: significant(s.test.statistic)),
        line("p", lambda s: DASH if s.test.p is None else p_value(s.test.p).removeprefix("p = ").removeprefix("p ")),
        line("trimmed mean", lambda s: style.statistic(s.trimmed_mean)),
        line("winsorised", lambda s: style.statistic(s.winsorized_mean)),
    ]


class ImpactPane(RenewedPane):
    """Works the comparison out in the background whenever the column, its flags or the decisions change."""

    patience = 12
    asked = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.impact: Impact | None = None
        self.influence: Influence | None = None
        self._look: ColumnLook | None = None
        self._cells: list[QLabel] = []
        self._lines: list[QLabel] = []
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        layout.addLayout(row_of(asking("Impact", "mean", self.asked.emit, "head"), 1))
        self.grid = QGridLayout()
        self.grid.setHorizontalSpacing(4)
        self.grid.setColumnStretch(0, 1)
        self.grid.setVerticalSpacing(1)
        layout.addLayout(self.grid)
        self.alone = label("", "quiet", wrap=True)
        layout.addWidget(self.alone)
        for change in (hub.looked, hub.decisions_changed, hub.focus_changed):
            change.connect(self.want_renewal)
        hub.analysed.connect(lambda name: self.want_renewal() if name == hub.focus else None)
        hub.selection_changed.connect(self._show_alone)
        self.want_renewal()

    def renew(self) -> None:
        """Work out the impact on the column in focus as things stand."""
        study, look = self.hub.study, self.hub.look
        if look is None:
            self._clear()
            return
        if self.shows(look):
            return
        working, memo = study.working, study.memo(look.column.name)

        def work(progress: Progress) -> tuple[Impact, Influence]:
            rows = look.flags.rows[np.isfinite(look.sample.values[look.flags.rows])]
            return impact_of(look, working, memo, progress), influence_of(look, working, rows, memo)

        def arrived(found: tuple[Impact, Influence]) -> None:
            if self.hub.look is not None and self.hub.look.request is look.request and study.working is working:
                self._look, (self.impact, self.influence) = look, found
                self._show(look)

        self.hub.start("impact", work, arrived, priority=9, quiet=True)

    def shows(self, look: ColumnLook) -> bool:
        """Whether what is shown is the impact on ``look``."""
        return self._look is not None and self._look.request is look.request

    def _clear(self) -> None:
        self.impact = self.influence = self._look = None
        clear_layout(self.grid)
        self.alone.setText("")

    def _show(self, look: ColumnLook) -> None:
        assert self.impact is not None
        clear_layout(self.grid)
        self._cells, self._lines = [], []
        for place, (state, tip) in enumerate(STATES.items(), start=1):
            self._put(0, place, state, "quiet")
            self._cells[-1].setToolTip(tip)
        lines = figure_lines(self.impact.figures, look.style)
        for at, (name, cells) in enumerate(lines, start=1):
            self.grid.addWidget(label(name, "quiet"), at, 0)
            for place, words in enumerate(cells, start=1):
                # What stands out is what changed.
                self._put(at, place, words, "head" if words != cells[0] else None)
            self._lines.append(self._cells[-1])
        at = len(lines) + 1
        moved = self.impact.moved
        if moved:
            self.grid.addWidget(label("Pearson r with", "quiet"), at, 0, 1, 4)
        for line, name in enumerate(moved[:_MOST_CORRELATIONS], start=at + 1):
            told = label(shortened(name, 11), "quiet")
            told.setToolTip(name)
            self.grid.addWidget(told, line, 0)
            cells = [signed(pair.r, 3) for pair in self.impact.correlations[name]]
            for place, words in enumerate(cells, start=1):
                self._put(line, place, words, "head" if words != cells[0] else None)
            self._lines.append(self._cells[-1])
        self._say_more(moved, at + 2 + _MOST_CORRELATIONS)
        self._show_alone()

    def show_what_if(self, found: WhatIf | None) -> None:
        """Put the figures of a value that is being moved in the last column, and take them away again."""
        look, impact = self._look, self.impact
        if look is None or impact is None or not self._lines:
            return
        self._cells[2].setText(list(STATES)[2] if found is None else "what if")
        shown = impact.figures[2] if found is None else found.figures
        words = [cells[0] for _, cells in figure_lines((shown,), look.style)]
        moved = impact.moved[:_MOST_CORRELATIONS]
        if found is None or self.influence is None:
            words += [signed(impact.correlations[name][2].r, 3) for name in moved]
        else:
            r = self.influence.moved(look, self.hub.study.working, found.row, found.value)
            words += [signed(r.get(name), 3) for name in moved]
        for cell, text in zip(self._lines, words, strict=True):
            cell.setText(text)

    def _say_more(self, moved: list[str], line: int) -> None:
        assert self.impact is not None
        left_out = max(len(moved) - _MOST_CORRELATIONS, 0) + self.impact.unnamed
        if left_out:
            words = f"and {plural(left_out, 'column')} that moved less, or not tried"
            self.grid.addWidget(label(words, "quiet", wrap=True), line, 0, 1, 4)

    def _put(self, line: int, place: int, words: str, role: str | None) -> None:
        cell = label(words, role)
        self.grid.addWidget(cell, line, place, Qt.AlignmentFlag.AlignRight)
        self._cells.append(cell)

    def _show_alone(self) -> None:
        """What the one selected row does by itself."""
        rows, look, found = self.hub.study.selection.rows, self._look, self.influence
        self.alone.setText("")
        if look is None or found is None or found.left_out is None or self.impact is None or rows.size != 1:
            return
        at = np.flatnonzero(found.left_out.rows == rows[0])
        if not at.size:
            return
        place, now, style = int(at[0]), self.impact.figures[1], look.style
        one = found.left_out
        parts = [
            f"mean {style.statistic(now.mean)} → {style.statistic(float(one.mean[place]))}",
            f"SD {style.statistic(now.sd)} → {style.statistic(float(one.sd[place]))}",
            f"skew {signed(now.skewness)} → {signed(float(one.skewness[place]))}",
        ]
        moves = {
            name: float(r[place]) - pair[1].r
            for name, r in found.correlations.items()
            if (pair := self.impact.correlations.get(name)) and pair[1].r is not None and np.isfinite(r[place])
        }
        if moves:
            most = max(moves, key=lambda name: abs(moves[name]))
            before = self.impact.correlations[most][1].r
            parts.append(f"r with {shortened(most, 16)} {signed(before, 3)} → {signed((before or 0) + moves[most], 3)}")
        number_of = count(self.hub.study.table.number_of(int(rows[0])))
        self.alone.setText(f"Row {number_of} left out alone: {'; '.join(parts)}.")
