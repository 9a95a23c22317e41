"""A pair with other columns held fixed, and which columns may stand behind it."""

from dataclasses import dataclass

from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.widgets.lists.columns_button import ColumnsButton
from culvix.app.widgets.parts import clear_layout, label, row_of, shortened
from culvix.progress import Progress
from culvix.stats.correlation.partial import partial_correlation
from culvix.stats.correlation.result import PairCorrelation
from culvix.stats.display import coefficients, count, p_value
from culvix.study.relations.pair_details import PairDetails
from culvix.study.relations.third_columns import ThirdColumn, third_columns

__all__ = ["GivenPane"]

_MOST_NAMED = 3
_EFFECT = {True: "turns the sign of r", False: "leaves less than half of r"}


@dataclass(frozen=True)
class _Found:
    """Both partial coefficients with ``controls`` fixed, and the columns that change the pair when they are."""

    controls: tuple[str, ...]
    partial: tuple[PairCorrelation, ...]
    behind: tuple[ThirdColumn, ...]


class GivenPane(QWidget):
    """Works in the background; a click on a column that may stand behind the pair holds it fixed."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.details: PairDetails | None = None
        self.columns = ColumnsButton(hub, lambda: self._controls)
        self.columns.setText("Hold fixed")
        self.columns.setToolTip("Columns that are accounted for by straight lines before the pair is correlated")
        self.columns.column_toggled.connect(self._toggle)
        self._behind: tuple[PairDetails, tuple[ThirdColumn, ...]] | None = None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addWidget(label("Given other columns", "head"))
        layout.addLayout(row_of(self.columns, 1))
        self._body = QVBoxLayout()
        self._body.setSpacing(3)
        layout.addLayout(self._body)
        self.hide()

    @property
    def _controls(self) -> tuple[str, ...]:
        """The columns held fixed that are there and none of the pair."""
        names = () if self.details is None else (self.details.pair.view.x, self.details.pair.view.y)
        table = self.hub.study.table
        return tuple(name for name in self.hub.study.document.view.pair_controls if name in table and name not in names)

    def _toggle(self, name: str, on: bool) -> None:
        others = tuple(each for each in self.hub.study.document.view.pair_controls if each != name)
        self.hub.study.change_view(pair_controls=(*others, name) if on else others)
        if self.details is not None:
            self.show_details(self.details)

    def show_details(self, details: PairDetails) -> None:
        """Work out what is to be said of ``details``, and say it."""
        self.details = details
        self.show()
        study, controls = self.hub.study, self._controls
        working = study.working
        names = (details.pair.view.x, details.pair.view.y)
        x, y = details.pair.x.sample.values, details.pair.y.sample.values
        fixed = [study.table[name] for name in controls]
        others = [column for column in study.table.numeric if column.is_data and column.name not in names]
        known = self._behind[1] if self._behind is not None and self._behind[0] is details else None

        def work(progress: Progress) -> _Found:
            given = [working.sample(column).values for column in fixed]
            partial = [partial_correlation(x, y, given, ranks=ranks) for ranks in (False, True)] if given else []
            behind = known
            if behind is None:
                values = {column.name: working.sample(column).values for column in others}
                behind = third_columns(x, y, values, progress=progress)
            return _Found(controls, tuple(partial), behind)

        def arrived(found: _Found) -> None:
            if self.details is details:
                self._behind = details, found.behind
                self._say(found)

        self.hub.start("columns behind a pair", work, arrived, priority=4, quiet=True)

    def _say(self, found: _Found) -> None:
        clear_layout(self._body)
        if self.details is None:
            return
        if found.controls:
            names = ", ".join(shortened(name, 24) for name in found.controls)
            self._body.addWidget(label(f"{names} held fixed, n {count(found.partial[0].n)}", "quiet", wrap=True))
            for name, result in zip(("Pearson r", "Spearman ρ"), found.partial, strict=True):
                if result.r is None:
                    self._body.addWidget(label(f"{name}: {result.note}", "quiet", wrap=True))
                else:
                    shown = label(coefficients(result.r)[0], "head")
                    self._body.addLayout(row_of(label(f"{name} partial"), 1, shown, label(p_value(result.p))))
        for each in found.behind[:_MOST_NAMED]:
            before, after = coefficients(each.r, each.given.r)
            button = QPushButton(f"{shortened(each.name, 20)}: r {before} to {after}")
            button.setObjectName("link")
            button.setToolTip(f"Held fixed, {each.name} {_EFFECT[each.turns]} (n {count(each.given.n)})")
            button.clicked.connect(lambda _, name=each.name: self._toggle(name, True))
            self._body.addWidget(button)
        if found.behind:
            self._body.addWidget(label("A click holds one fixed: it may stand behind the pair.", "quiet", wrap=True))
        else:
            self._body.addWidget(label("No other column halves r or turns it.", "quiet", wrap=True))
