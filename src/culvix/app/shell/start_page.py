"""The page before a table is open: what can be opened, and how."""

from collections.abc import Sequence

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from culvix.app.widgets.parts import clear_layout, label, plain_tip, shortened
from culvix.stats.display import plural
from culvix.study.storage.drafts import Draft

__all__ = ["StartPage"]


_MOST = 5


class StartPage(QWidget):
    """Three ways to a table, and the drafts to go on with."""

    file_requested = pyqtSignal()
    copied_requested = pyqtSignal()
    example_requested = pyqtSignal()
    draft_requested = pyqtSignal(object)
    """The file of a draft is to be opened."""

    def __init__(self) -> None:
        super().__init__()
        layout = QVBoxLayout(self)
        layout.addStretch(2)
        centre = Qt.AlignmentFlag.AlignHCenter
        layout.addWidget(label("Drop a table or a study here", "title"), 0, centre)
        layout.addWidget(label("delimited text, spreadsheet, Parquet, Arrow, JSON or SQLite", "quiet"), 0, centre)
        layout.addSpacing(10)
        ways = (
            ("Open a file …", self.file_requested),
            ("Open what was copied", self.copied_requested),
            ("Open the example study", self.example_requested),
        )
        for text, requested in ways:
            button = QPushButton(text)
            button.clicked.connect(lambda _, requested=requested: requested.emit())
            layout.addWidget(button, 0, centre)
        layout.addSpacing(14)
        self._drafts = QVBoxLayout()
        self._drafts.setSpacing(4)
        layout.addLayout(self._drafts)
        layout.addStretch(3)

    def show_drafts(self, drafts: Sequence[Draft]) -> None:
        """Offer the latest of ``drafts`` to go on with."""
        clear_layout(self._drafts)
        centre = Qt.AlignmentFlag.AlignHCenter
        if drafts:
            self._drafts.addWidget(label("Go on with", "quiet"), 0, centre)
        for draft in drafts[:_MOST]:
            when = f"{draft.saved.astimezone():%d %B, %H:%M}"
            button = QPushButton(f"{shortened(draft.name, 40)}: {plural(draft.acts, 'act')}, {when}")
            button.setToolTip(plain_tip(f"{draft.source}\n{draft.path}"))
            button.clicked.connect(lambda _, path=draft.path: self.draft_requested.emit(path))
            self._drafts.addWidget(button, 0, centre)
