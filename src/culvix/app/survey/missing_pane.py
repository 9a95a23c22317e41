"""Which cells of the table are missing together, and whether gaps go with the values of other columns."""

from dataclasses import dataclass

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from culvix.app.session.hub import Hub
from culvix.app.widgets.parts import clear_layout, label
from culvix.charts.plots.missing_chart import MissingChart
from culvix.progress import Progress
from culvix.stats.display import plural
from culvix.study.analysis.findings.missing_links import MissingLinks, missing_links
from culvix.study.pictures.missing_picture import MissingPicture, missing_picture
from culvix.tables.checks.missing_patterns import missing_patterns, rows_of_pattern
from culvix.tables.model.table import Table

__all__ = ["MissingPane"]

_MOST_LINKS = 4


@dataclass(frozen=True, eq=False)
class _Gaps:
    """What is known of the gaps of one table."""

    table: Table
    picture: MissingPicture
    links: MissingLinks


class MissingPane(QWidget):
    """Hidden where nothing is missing; a stripe that is clicked selects its rows."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.found: _Gaps | None = None
        self.chart = MissingChart()
        self.chart.setToolTip("A square is a gap, a stripe the rows with just these gaps: a click selects them")
        self.chart.chosen.connect(self._select)
        self._sentences = QVBoxLayout()
        self._sentences.setSpacing(3)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        layout.addWidget(label("Missing together", "head"))
        layout.addWidget(self.chart)
        layout.addLayout(self._sentences)
        self.hide()

    def follow(self, table: Table) -> None:
        """Look for the gaps of ``table`` in the background."""

        def work(progress: Progress) -> _Gaps | None:
            found = missing_patterns(table)
            picture = missing_picture(found, {each.name: each.missing + each.unread for each in table})
            return None if picture is None else _Gaps(table, picture, missing_links(table, progress))

        self.hub.start("missing cells", work, self._show, priority=4, quiet=True)

    def _show(self, found: _Gaps | None) -> None:
        self.found = found
        self.setVisible(found is not None)
        if found is None:
            return
        self.chart.show_picture(found.picture)
        clear_layout(self._sentences)
        sentences = [found.links.sentence, *(each.sentence for each in found.links.links[:_MOST_LINKS])]
        more = len(found.links.links) - _MOST_LINKS
        if more > 0:
            sentences.append(f"And {plural(more, 'more pair')}; all are in the report.")
        for sentence in sentences:
            self._sentences.addWidget(label(sentence, "quiet", wrap=True))

    def _select(self, position: int) -> None:
        """Select the rows of a pattern, by its place in the picture."""
        assert self.found is not None
        pattern = self.found.picture.patterns[position]
        study = self.hub.study
        if study.table is not self.found.table:
            # It was read otherwise just now; its own gaps are being counted.
            return
        message = f"missing together: {', '.join(pattern.columns)}"
        study.select(rows_of_pattern(study.table, pattern), message)
