"""The summary of the column in focus: the statistics the analyst chose, each with its convention."""

from PyQt6.QtCore import QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QFont, QFontMetrics, QMouseEvent
from PyQt6.QtWidgets import QGridLayout, QLabel, QVBoxLayout, QWidget

from culvix.app.docks.conventions_bar import ConventionsBar, DecimalsField
from culvix.app.session.hub import Hub
from culvix.app.shape.statistic_detail import DETAILED, WITH_INTERVAL, StatisticDetail
from culvix.app.widgets.lists.ordered_choice import OrderedChoice
from culvix.app.widgets.parts import asking, by_font, clear_layout, label, plain_tip, row_of, shortened
from culvix.stats.describe.conventions import OTHER_CONVENTIONS
from culvix.stats.display import count, number
from culvix.stats.registry import STATISTICS, shown_in
from culvix.study.analysis.column_analysis import ColumnAnalysis
from culvix.study.analysis.survey.survey import SurveyRow, survey_fields
from culvix.tables.model.table import Role

__all__ = ["SummaryPane"]

_LONGEST_BESIDE = 8
"""Letters of a number up to which two of them have room beside each other."""

_BETWEEN, _LEAST = 20, 256
"""Pixels between four words in a line, and the width that the pane has at least."""

_COUNTS = (("excluded", 1), ("missing", 2), ("unread", 3))
"""What is counted of the cells, with its position among the statistics."""


def _choices() -> dict[str, str]:
    """The names of what can be shown, by key."""
    return {"excluded": "excluded", **{key: field.brief for key, field in survey_fields().items() if field.brief}}


def _default_summary() -> tuple[str, ...]:
    """The keys of what is shown unasked, in order."""
    figures = [(key, STATISTICS[key].summary or 0) for key in shown_in("summary")]
    return tuple(key for key, _ in sorted((*_COUNTS, *figures), key=lambda placed: placed[1]))


def _is_detailed(key: str, name: str) -> bool:
    """Whether there is more to tell of a statistic; not of one that stands under another name, as a share."""
    return key in DETAILED and name == _choices()[key]


def _more(key: str) -> str:
    """What a click on a number shows, for its tip."""
    interval, elsewhere = key in WITH_INTERVAL, key in OTHER_CONVENTIONS
    if interval and elsewhere:
        return "\nClick: its interval, and why another program says something else"
    if elsewhere:
        return "\nClick: why does another program say something else?"
    return "\nClick: its interval" if interval else ""


class SummaryPane(QWidget):
    """A click on an underlined number shows its interval, and the same statistic under other conventions."""

    asked = pyqtSignal(str)
    """The guide is asked about a key."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.fields: tuple[str, ...] = _default_summary()
        self._names = _choices()
        self.compared: str | None = None
        outer = QVBoxLayout(self)
        outer.setContentsMargins(0, 0, 0, 0)
        outer.setSpacing(3)
        self._grid = QGridLayout()
        self._grid.setHorizontalSpacing(4)
        self._grid.setVerticalSpacing(2)
        self._laid_out: tuple[tuple[tuple[str, str], ...], int] = ((), 1)
        self._numbers: list[QLabel] = []
        self._labels: dict[tuple[str, str], tuple[QLabel, QLabel]] = {}
        """Name and number of each figure shown, by its key and name."""

        self.detail = StatisticDetail(hub)
        self.conventions = ConventionsBar(hub)
        self.ranks = label("Of ranks, means and moments are left out.", "quiet", wrap=True)
        self.ranks.hide()
        self._body = QVBoxLayout()
        self._body.setSpacing(3)
        self.unit = label("", "quiet")
        self.choice = OrderedChoice(
            "Choose", "Choose the statistics, and drag them into order", self._names, self.fields
        )
        self.choice.chosen.connect(self.choose)
        self.decimals = DecimalsField(hub)
        self.choice.add_below(self.decimals)
        self.choice.setObjectName("slim")
        head = asking("Summary", "mean", self.asked.emit, "head")
        outer.addLayout(row_of(head, self.unit, 1, self.choice))
        outer.addLayout(self._grid)
        outer.addLayout(self._body)
        outer.addWidget(self.ranks)
        outer.addWidget(self.conventions)
        outer.addWidget(self.detail)

    def choose(self, fields: list[str]) -> None:
        """Show the statistics ``fields``, by key, in this order."""
        known = tuple(key for key in fields if key in self._names)
        if known:
            self.fields = known
            self.show_analysis(self.hub.analysis)

    def remember(self, settings: QSettings) -> None:
        """Write the statistics and their order down."""
        settings.setValue("summary/fields", list(self.fields))

    def recall(self, settings: QSettings) -> None:
        """Take up the statistics written down last."""
        known = [key for key in settings.value("summary/fields", [], list) or [] if key in self._names]
        if known:
            self.choose(known)
            self.choice.show_names(known)

    def show_analysis(self, analysis: ColumnAnalysis | None) -> None:
        """Show the statistics of ``analysis``."""
        clear_layout(self._body)
        if analysis is None:
            self._lay_out(())
            self.detail.show_statistic(None, None, "")
            return
        column = analysis.column
        self.unit.setText(f"in {shortened(column.unit, 12)}" if column.unit else "no unit")
        figures = self._figures(analysis)
        beside = self._beside(figures)
        self._lay_out(tuple((key, name) for key, name, _ in figures), beside)
        for (key, name, shown), number_shown in zip(figures, self._numbers, strict=True):
            number_shown.setText(shown)
            why = analysis.description.notes.get(key) or f"{name}, from n = {count(analysis.description.n)}"
            exact = analysis.figures.get(key) if key in STATISTICS else None
            digits = f"\n{exact!r}" if isinstance(exact, float) else ""
            number_shown.setToolTip(plain_tip(f"{why}{_more(key) if _is_detailed(key, name) else ''}{digits}"))
        settings = analysis.request.settings
        self.conventions.setVisible(column.role is not Role.YES_NO)
        self.ranks.setVisible(column.role is Role.ORDERED and not column.asks)
        self.conventions.show_settings(settings)
        # Of a share there is no interval of a mean.
        compared = self.compared if column.role is not Role.YES_NO else None
        self.detail.show_statistic(analysis, compared, self._names.get(compared or "", ""))
        self.decimals.show_settings(settings)

    def _beside(self, figures: list[tuple[str, str, str]]) -> int:
        """How many figures (key, name and number) stand in a line: long numbers need the whole width."""
        if max((len(shown) for _, _, shown in figures), default=0) > _LONGEST_BESIDE:
            return 1
        plain, bold = self.fontMetrics(), QFontMetrics(self._bold)
        sides = (figures[0::2], figures[1::2])
        widths = [
            max((plain.horizontalAdvance(name) for _, name, _ in side), default=0)
            + max((bold.horizontalAdvance(shown) for _, _, shown in side), default=0)
            for side in sides
        ]
        return 2 if sum(widths) + _BETWEEN <= max(self.width(), by_font(_LEAST)) else 1

    @property
    def _bold(self) -> QFont:
        font = QFont(self.font())
        font.setWeight(QFont.Weight.DemiBold)
        return font

    def _figures(self, analysis: ColumnAnalysis) -> list[tuple[str, str, str]]:
        """Key, name and text of each statistic chosen; of a yes/no column its shares."""
        row, d = SurveyRow(analysis.column, analysis), analysis.description
        out = count(int(self.hub.study.working.excluded(analysis.column.name).size))
        found = []
        ranks = analysis.column.role is Role.ORDERED and not analysis.column.asks
        for key in self.fields:
            if ranks and key in STATISTICS and not STATISTICS[key].of_ranks:
                continue
            if key == "excluded":
                found.append((key, key, out))
            else:
                field = survey_fields()[key]
                shown, raw = field.shown(row, field.raw(row)), field.raw(row)
                if len(shown) > _LONGEST_BESIDE and key in STATISTICS and STATISTICS[key].scale == "value":
                    # A value as it was recorded may be long; all its digits stand in the tip.
                    shown = analysis.style.statistic(None if raw is None else float(raw))
                found.append((key, self._names[key], shown))
        if analysis.column.role is Role.YES_NO:
            counted = [figure for figure in found if figure[0] in ("n", "excluded", "missing", "unread")]
            share = [("mean", "share of 1", number(d.mean, 3)), ("sum", "count of 1", count(d.n - d.zeros))]
            return [*counted, *share]
        return found

    def _lay_out(self, figures: tuple[tuple[str, str], ...], beside: int = 1) -> None:
        """Make room for the ``figures`` (key and name), so many ``beside`` each other; the same ones stay."""
        if self._laid_out == (figures, beside):
            return
        self._laid_out = figures, beside
        known, self._labels = self._labels, {}
        while self._grid.count():
            self._grid.takeAt(0)
        for side in (0, 1):
            self._grid.setColumnStretch(2 * side + 1, int(side < beside))
        for position, (key, name) in enumerate(figures):
            # To style labels takes long: those there are move to their new places.
            made = known.pop((key, name), None)
            if made is None:
                made = asking(name, key, self.asked.emit), self._number(key, _is_detailed(key, name))
            self._labels[key, name] = made
            row, side = divmod(position, beside)
            self._grid.addWidget(made[0], row, 2 * side)
            self._grid.addWidget(made[1], row, 2 * side + 1, Qt.AlignmentFlag.AlignRight)
        self._numbers = [number_shown for _, number_shown in self._labels.values()]
        for left in known.values():
            for label_left in left:
                label_left.hide()
                label_left.deleteLater()

    def _number(self, key: str, detailed: bool) -> QLabel:
        made = label("", "several" if detailed else "head")
        if detailed:
            made.setCursor(Qt.CursorShape.PointingHandCursor)

            def compare(_: QMouseEvent) -> None:
                self.compared = None if self.compared == key else key
                self.show_analysis(self.hub.analysis)

            made.mousePressEvent = compare  # type: ignore[assignment,method-assign]
        return made
