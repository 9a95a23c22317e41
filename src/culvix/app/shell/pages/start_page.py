"""The page before a table is open: ways to a table, studies to go on with, files opened lately, and the example."""

from collections.abc import Callable, Sequence
from datetime import datetime
from urllib.parse import unquote, urlsplit

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QResizeEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from culvix.app.shell.pages.start_card import StartCard
from culvix.app.widgets.parts import beside, by_font, clear_layout, label, row_of, scrolled
from culvix.stats.display import plural
from culvix.study.storage.listing import StudySummary
from culvix.study.storage.recents import Recent

__all__ = ["StartPage"]

_MOST = 5
_WIDTH, _REMOVE = 480, 18
_AROUND_LISTS = 120
"""Around the lists and between them, in pixels."""


class StartPage(QWidget):
    """Ways to a table; below them what was worked on before, and the example.

    Signals: file_requested, copied_requested, whole_requested, example_requested: one of the ways.
    open_requested (Path): a study or table of the lists. remove_requested (Path): a draft is to be taken away.
    """

    file_requested = pyqtSignal()
    copied_requested = pyqtSignal()
    whole_requested = pyqtSignal()
    example_requested = pyqtSignal()
    open_requested = pyqtSignal(object)
    remove_requested = pyqtSignal(object)

    def __init__(self) -> None:
        super().__init__()
        inside = QWidget()
        around = QVBoxLayout(self)
        around.setContentsMargins(0, 0, 0, 0)
        # In a window too low for all cards in large letters they scroll.
        around.addWidget(scrolled(inside))
        layout = QVBoxLayout(inside)
        layout.addStretch(2)
        centre = Qt.AlignmentFlag.AlignHCenter
        layout.addWidget(label("Drop a table or a study here", "title"), 0, centre)
        kinds = "delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite; packed with gzip or zstd, too"
        layout.addWidget(label(kinds, "quiet"), 0, centre)
        layout.addSpacing(8)
        ways = (
            ("Open a file …", self.file_requested),
            ("Open what was copied", self.copied_requested),
            ("Server or large table …", self.whole_requested),
        )
        buttons = []
        for text, requested in ways:
            button = QPushButton(text)
            button.clicked.connect(lambda _, requested=requested: requested.emit())
            buttons.append(button)
        layout.addLayout(row_of(1, *buttons, 1, spacing=8))
        layout.addSpacing(18)
        self._studies, self._tables = QVBoxLayout(), QVBoxLayout()
        lists = self._lists = QHBoxLayout()
        lists.setSpacing(24)
        lists.addStretch(1)
        for column in (self._studies, self._tables):
            column.setSpacing(5)
            lists.addLayout(column)
        lists.addStretch(1)
        layout.addLayout(lists)
        layout.addStretch(3)
        self.example = StartCard(
            "The example: a hatchery's spring cohort",
            "2 180 fish, 18 columns, some decisions made",
            width=_WIDTH,
        )
        self.example.clicked.connect(self.example_requested)
        self.show_lists([], [], [])

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        super().resizeEvent(event)
        # Where both lists have no room beside each other, they lie below each other.
        self._lists.setDirection(beside(self.width() > 2 * by_font(_WIDTH) + _AROUND_LISTS))

    def show_lists(
        self, drafts: Sequence[StudySummary], studies: Sequence[StudySummary], tables: Sequence[Recent]
    ) -> None:
        """Offer ``drafts`` and ``studies`` to go on with, and ``tables`` that were opened lately."""
        self.example.setParent(None)
        clear_layout(self._studies)
        clear_layout(self._tables)
        known = [*((each, True) for each in drafts), *((each, False) for each in studies)]
        known.sort(key=lambda each: each[0].saved, reverse=True)
        if known:
            self._studies.addWidget(label("Go on with a study", "head"))
        for study, is_draft in known[:_MOST]:
            self._studies.addLayout(self._study_row(study, is_draft=is_draft))
        self._studies.addStretch(1)
        if tables:
            self._tables.addWidget(label("Tables opened lately", "head"))
        for table in tables[: _MOST - 1]:
            detail = f"in {table.path.parent.name or table.path.parent}"
            card = StartCard(table.path.name, detail, _when(table.opened), table.sparklines, width=_WIDTH)
            card.setToolTip(str(table.path))
            card.clicked.connect(lambda _, path=table.path: self.open_requested.emit(path))
            self._tables.addWidget(card)
        if tables:
            self._tables.addSpacing(8)
        self._tables.addWidget(label("New here?", "head"))
        self._tables.addWidget(self.example)
        self._tables.addStretch(1)

    def _study_row(self, study: StudySummary, *, is_draft: bool) -> QHBoxLayout:
        source = _path_of(study.source)
        state = "draft" if is_draft else study.path.name
        parts = [plural(study.decisions, "decision"), state]
        card = StartCard(study.name, " · ".join(parts), _when(study.saved), study.sparklines, width=_WIDTH)
        card.setToolTip(f"{source}\n{study.path}")
        card.clicked.connect(lambda _, path=study.path: self.open_requested.emit(path))
        row = row_of(card, spacing=2)
        if is_draft:
            row.addWidget(_remove_button(lambda: self.remove_requested.emit(study.path)))
        else:
            row.addSpacing(_REMOVE + 2)
        return row


def _remove_button(act: Callable[[], None]) -> QPushButton:
    button = QPushButton("✕")
    button.setObjectName("link")
    button.setToolTip("Take this draft away for good")
    button.setAccessibleName("Take this draft away")
    button.setFixedWidth(by_font(_REMOVE))
    button.clicked.connect(lambda _: act())
    return button


def _path_of(uri: str) -> str:
    """The path that a URI names, the URI itself where it is none."""
    try:
        return unquote(urlsplit(uri).path)
    except ValueError:
        return uri


def _when(moment: datetime) -> str:
    """A time as it is said today: the clock of today, the day before."""
    local, now = moment.astimezone(), datetime.now().astimezone()
    if local.date() == now.date():
        return f"today {local:%H:%M}"
    return f"{local.day} {local:%B}" if local.year == now.year else f"{local.day} {local:%B %Y}"
