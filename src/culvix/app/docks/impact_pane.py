"""Impact: the figures of the column in focus with everything kept, as decided, and with all flagged values left out."""

import numpy as np
from PyQt6.QtCore import pyqtSignal
from PyQt6.QtWidgets import QVBoxLayout

from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.widgets.parts import asking, label, row_of, shortened
from culvix.app.widgets.word_grid import Line, WordGrid
from culvix.progress import Progress
from culvix.stats.display import DASH, NumberStyle, coefficient, count, p_value, plural, signed, significant
from culvix.study.analysis.column_analysis import AnalysisRequest, ColumnPreview
from culvix.study.analysis.outliers.impact import STATES, Figures, Impact, Influence, impact_of, influence_of
from culvix.study.analysis.outliers.what_if import WhatIf
from culvix.study.analysis.working_set import WorkingSet

__all__ = ["ImpactPane", "figure_lines"]

_MOST_CORRELATIONS = 6
_LONGEST = 8
"""Letters of a figure up to which three of them have room beside each other."""


_IN_FULL = {"trimmed": "trimmed mean", "winsor.": "winsorised mean"}
"""Names that are shortened, so that three long numbers have room beside them."""


def figure_lines(states: tuple[Figures, ...], style: NumberStyle) -> list[tuple[str, list[str]]]:
    """The lines of the comparison: a name, and the words for each of ``states``."""

    def line(name: str, message: object) -> tuple[str, list[str]]:
        return name, [message(state) for state in states]  # type: ignore[operator]

    def figure(value: float | None) -> str:
        """In the column's places, or where that is too long to stand beside others in fewer digits, never cut off."""
        text = style.statistic(value)
        few = 5 if value is None or abs(value) < 1e6 else 3
        return text if len(text) <= _LONGEST else significant(value, few)

    test = states[0].test
    return [
        line("n", lambda s: count(s.n)),
        line("mean", lambda s: figure(s.mean)),
        line("median", lambda s: figure(s.median)),
        line("SD", lambda s: figure(s.sd)),
        line("skew G1", lambda s: signed(s.skewness, 2)),
        line("kurt G2", lambda s: signed(s.excess_kurtosis, 2)),
        line(test.symbol, lambda s: significant(s.test.statistic)),
        line("p", lambda s: DASH if s.test.p is None else p_value(s.test.p).removeprefix("p = ").removeprefix("p ")),
        line("trimmed", lambda s: figure(s.trimmed_mean)),
        line("winsor.", lambda s: figure(s.winsorized_mean)),
    ]


def _line(name: str, cells: list[str], tip: str = "") -> Line:
    """What changed stands out."""
    return Line(name, tuple(cells), tuple(message != cells[0] for message in cells), tip)


class ImpactPane(LazyPane):
    """Works the comparison out in the background whenever the column, its flags or the decisions change."""

    patience = 0
    asked = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.impact: Impact | None = None
        self.influence: Influence | None = None
        self._preview: ColumnPreview | None = None
        self._requested: tuple[AnalysisRequest, WorkingSet] | None = None
        """What the impact is being worked out of."""
        self._first_r = 0
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        layout.addLayout(row_of(asking("Impact", "impact", self.asked.emit, "head"), 1))
        self.grid = WordGrid(len(STATES))
        layout.addWidget(self.grid)
        self.more = label("", "quiet", wrap=True)
        layout.addWidget(self.more)
        self.alone = label("", "quiet", wrap=True)
        layout.addWidget(self.alone)
        hub.previewed.connect(self.refresh_now)
        for change in (hub.data_changed, hub.focus_changed):
            change.connect(self.request_refresh)
        hub.analysed.connect(lambda name: self.request_refresh() if name == hub.focus else None)
        hub.selection_changed.connect(self._show_alone)
        self.request_refresh()

    def refresh(self) -> None:
        """Work out the impact on the column in focus as things stand."""
        study, preview = self.hub.study, self.hub.preview
        if preview is None:
            self._clear()
            return
        working, cache, pass_begins = (
            study.working,
            study.workspace.part_cache(preview.column.name),
            study.workspace.pass_begins,
        )
        under_way = (
            self._requested is not None and self._requested[0] is preview.request and self._requested[1] is working
        )
        # The rest of an analysis that arrives meanwhile changes nothing here.
        if self.shows(preview) or (under_way and self.hub.jobs.running("impact")):
            return
        self._requested = preview.request, working

        def work(progress: Progress) -> tuple[Impact, Influence]:
            rows = preview.flags.rows[np.isfinite(preview.sample.values[preview.flags.rows])]
            impact = impact_of(preview, working, cache, progress, pass_begins=pass_begins)
            return impact, influence_of(preview, working, rows, cache)

        def arrived(found: tuple[Impact, Influence]) -> None:
            if (
                self.hub.preview is not None
                and self.hub.preview.request is preview.request
                and study.working is working
            ):
                self._preview, (self.impact, self.influence) = preview, found
                self._show(preview)

        self.hub.start("impact", work, arrived, priority=9, quiet=True)

    def shows(self, preview: ColumnPreview) -> bool:
        """Whether what is shown is the impact on ``preview``."""
        return self._preview is not None and self._preview.request is preview.request

    def _clear(self) -> None:
        self.impact = self.influence = self._preview = None
        self.grid.put([])
        self.more.setText("")
        self.alone.setText("")

    def _show(self, preview: ColumnPreview) -> None:
        assert self.impact is not None
        impact = self.impact
        lines = [Line("", tuple(STATES))]
        for name, cells in figure_lines(impact.figures, preview.style):
            lines.append(_line(name, cells, _IN_FULL.get(name, "")))
        moved = impact.moved
        if moved:
            lines.append(Line("Pearson r with"))
        self._first_r = len(lines)
        for name in moved[:_MOST_CORRELATIONS]:
            lines.append(_line(shortened(name, 11), [coefficient(pair.r) for pair in impact.correlations[name]], name))
        left_out = max(len(moved) - _MOST_CORRELATIONS, 0) + impact.unnamed
        more = f"and {plural(left_out, 'column')} that moved less, or not tried; " if left_out else ""
        self.more.setText(f"{more}{self._bases()}")
        self.grid.put(lines)
        self._show_alone()

    def _bases(self) -> str:
        """What the last of the states starts from, and how many values it leaves out."""
        assert self.impact is not None
        pass_number = self.hub.study.document.pass_number
        base = f"the values of pass {pass_number}" if pass_number > 1 else "the values as read"
        return f"all out: {base} without the {plural(self.impact.flagged, 'flagged value')}"

    def show_what_if(self, found: WhatIf | None) -> None:
        """Put the figures of a value that is being moved in the last column, and take them away again."""
        preview, impact = self._preview, self.impact
        if preview is None or impact is None:
            return
        last = len(STATES) - 1
        self.grid.write(0, last, list(STATES)[last] if found is None else "what if")
        shown = impact.figures[last] if found is None else found.figures
        for line, (_, cells) in enumerate(figure_lines((shown,), preview.style), start=1):
            self.grid.write(line, last, cells[0])
        moved = {name: impact.correlations[name][last].r for name in impact.moved}
        if found is not None and self.influence is not None:
            moved |= self.influence.moved(preview, self.hub.study.working, found.row, found.value)
        for line, name in enumerate(impact.moved[:_MOST_CORRELATIONS], start=self._first_r):
            self.grid.write(line, last, coefficient(moved[name]))

    def _show_alone(self) -> None:
        """What the one selected row does by itself."""
        preview, found = self._preview, self.influence
        rows = self.hub.study.selection.in_column(preview.column.name if preview is not None else "")
        self.alone.setText("")
        if preview is None or found is None or found.left_out is None or self.impact is None or rows.size != 1:
            return
        at = np.flatnonzero(found.left_out.rows == rows[0])
        if not at.size:
            return
        position, now, style = int(at[0]), self.impact.figures[1], preview.style
        one = found.left_out
        parts = [
            f"mean {style.statistic(now.mean)} → {style.statistic(float(one.mean[position]))}",
            f"SD {style.statistic(now.sd)} → {style.statistic(float(one.sd[position]))}",
            f"skew {signed(now.skewness)} → {signed(float(one.skewness[position]))}",
        ]
        moves = {
            name: float(r[position]) - pair[1].r
            for name, r in found.correlations.items()
            if (pair := self.impact.correlations.get(name)) and pair[1].r is not None and np.isfinite(r[position])
        }
        if moves:
            most = max(moves, key=lambda name: abs(moves[name]))
            before = self.impact.correlations[most][1].r
            parts.append(f"r with {shortened(most, 16)} {signed(before, 3)} → {signed((before or 0) + moves[most], 3)}")
        number_of = count(self.hub.study.table.number_of(int(rows[0])))
        self.alone.setText(f"Row {number_of} left out alone: {'; '.join(parts)}.")
