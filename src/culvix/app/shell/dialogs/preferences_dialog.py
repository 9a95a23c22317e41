"""Conventions for new studies beside those of the study in hand, to be taken over from it or reset."""

from collections.abc import Callable

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHeaderView, QPushButton, QTableWidget, QTableWidgetItem, QVBoxLayout, QWidget

from culvix.app.widgets.parts import label, row_of
from culvix.study.storage.preferences import Preferences

__all__ = ["PreferencesDialog"]


def _stated(preferences: Preferences) -> dict[str, str]:
    initials = {"Initials": preferences.initials or "none"}
    decimals = preferences.settings.decimals
    shown = {"Decimals of statistics": "by each column's resolution" if decimals is None else str(decimals)}
    return {**dict(preferences.settings.stated()), **shown, **initials}


class PreferencesDialog(QDialog):
    """Shows what new studies begin with; ``take`` sets those of the study in hand down, ``reset`` the usual ones."""

    def __init__(
        self,
        parent: QWidget,
        current: Preferences,
        of_study: Preferences | None,
        take: Callable[[], Preferences],
        reset: Callable[[], Preferences],
    ) -> None:
        super().__init__(parent)
        self.setWindowTitle("Conventions for new studies")
        self.resize(860, 520)
        self.of_study = of_study
        self.table = QTableWidget(0, 3)
        self.table.setHorizontalHeaderLabels(["convention", "new studies begin with", "this study"])
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        head, side = self.table.horizontalHeader(), self.table.verticalHeader()
        assert head is not None and side is not None
        head.setSectionResizeMode(QHeaderView.ResizeMode.Stretch)
        side.hide()
        self.take = QPushButton("Let new studies begin like this one")
        self.reset = QPushButton("Reset to the usual ones")
        self.take.setEnabled(of_study is not None)
        self.take.clicked.connect(lambda: self.show_preferences(take()))
        self.reset.clicked.connect(lambda: self.show_preferences(reset()))
        close = QPushButton("Close")
        close.clicked.connect(self.accept)
        layout = QVBoxLayout(self)
        about = "They are for studies that are begun in the window; one that exists is never changed."
        layout.addWidget(label(about, "quiet"))
        layout.addWidget(self.table, 1)
        layout.addLayout(row_of(self.take, self.reset, 1, close))
        self.show_preferences(current)

    def show_preferences(self, current: Preferences) -> None:
        """List ``current``; what is other in the study in hand is set off."""
        mine, its = _stated(current), _stated(self.of_study) if self.of_study is not None else {}
        names = list(dict.fromkeys([*mine, *its]))
        self.table.setRowCount(len(names))
        for row, name in enumerate(names):
            texts = (name, mine.get(name, ""), its.get(name, ""))
            for column, text in enumerate(texts):
                item = QTableWidgetItem(text)
                item.setToolTip(text)
                if self.of_study is not None and texts[1] != texts[2] and column:
                    font = item.font()
                    font.setBold(True)
                    item.setFont(font)
                item.setTextAlignment(Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter)
                self.table.setItem(row, column, item)
        self.table.resizeRowsToContents()
