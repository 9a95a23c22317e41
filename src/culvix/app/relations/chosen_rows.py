"""What the rows selected do to a pair: its coefficients among them, and without them."""

import numpy as np
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.widgets.parts import clear_layout, label, row_of
from culvix.progress import Progress
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.display import coefficients, count
from culvix.stats.registry import CORRELATION_KINDS
from culvix.study.relations.pair_details import PairDetails
from culvix.study.relations.ranking import RANKING

__all__ = ["ChosenRows"]

_FEWEST = 3

_Sides = dict[str, tuple[PairCorrelation, PairCorrelation]]


class ChosenRows(QWidget):
    """Works in the background; nothing is shown where no row of the pair is selected."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.details: PairDetails | None = None
        self._body = QVBoxLayout(self)
        self._body.setContentsMargins(0, 0, 0, 0)
        self._body.setSpacing(3)
        self.hide()
        hub.selection_changed.connect(self._refresh)

    def show_details(self, details: PairDetails) -> None:
        """Tell of ``details`` from now on."""
        self.details = details
        self._refresh()

    def _refresh(self) -> None:
        details, rows = self.details, self.hub.study.selection.rows
        if details is None or not rows.size or not self._is_read:
            self.hide()
            return

        def work(progress: Progress) -> _Sides:
            view = details.pair.view
            chosen = np.isin(view.rows, rows)
            found = {}
            for share, key in enumerate(RANKING):
                progress(share / len(RANKING), "correlating the selected rows")
                run = CORRELATION_KINDS[key].run
                first, second = (run(view.x_values[side], view.y_values[side]) for side in (chosen, ~chosen))
                found[key] = first, second
            return found

        def arrived(found: _Sides) -> None:
            if self.details is details:
                self._say(details, found)

        self.hub.start("selected rows of a pair", work, arrived, priority=5, quiet=True)

    @property
    def _is_read(self) -> bool:
        """Whether the margin around is there to be read."""
        around = self.parentWidget()
        return around is not None and around.isVisible()

    def _say(self, details: PairDetails, found: _Sides) -> None:
        clear_layout(self._body)
        inside, outside = next(iter(found.values()))
        self.setVisible(inside.n > 0)
        self._body.addWidget(label("Selected rows", "head"))
        numbers = f"n {count(inside.n)}, without them {count(outside.n)}"
        self._body.addWidget(label(numbers, "quiet", wrap=True))
        for key, (first, second) in found.items():
            kind, whole = CORRELATION_KINDS[key], details.pair.view.with_flagged[key].r
            mine, _, without = coefficients(first.r, whole, second.r)
            shown = label(mine if inside.n >= _FEWEST else "—", "head")
            self._body.addLayout(row_of(label(f"{kind.name} {kind.symbol}"), 1, shown, label(f"without {without}")))
