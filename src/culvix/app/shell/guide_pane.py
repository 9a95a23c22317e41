"""The guide beside the work: a small window with every entry, opened at the one that is asked about."""

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.widgets.parts import clear_layout, label, scrolled
from culvix.guide import entries, entry_for

__all__ = ["GuidePane"]


class GuidePane(QDialog):
    """Does not stand in the way: it is not modal, and stays open while the work goes on."""

    def __init__(self, parent: QWidget) -> None:
        super().__init__(parent)
        self.setWindowTitle("Guide")
        self.resize(640, 420)
        self.search = configured(QLineEdit(), placeholderText="Find in the guide")
        self.search.textChanged.connect(self._narrow)
        self.list = QListWidget()
        for key, entry in entries().items():
            item = QListWidgetItem(entry.title)
            item.setData(Qt.ItemDataRole.UserRole, key)
            self.list.addItem(item)
        self.list.currentItemChanged.connect(lambda item: self._show(item))
        self._inner = QWidget()
        self._text = QVBoxLayout(self._inner)
        left = QVBoxLayout()
        left.addWidget(self.search)
        left.addWidget(self.list)
        layout = QHBoxLayout(self)
        layout.addLayout(left, 2)
        layout.addWidget(scrolled(self._inner), 3)

    def open_at(self, key: str) -> None:
        """Come up with the entry ``key``; an unknown key leaves the entry as it is."""
        self.search.clear()
        entry = entry_for(key)
        for position in range(self.list.count()):
            item = self.list.item(position)
            if item is not None and entry and item.data(Qt.ItemDataRole.UserRole) == entry.key:
                self.list.setCurrentItem(item)
        self.show()
        self.raise_()

    def _narrow(self, text: str) -> None:
        for position in range(self.list.count()):
            item = self.list.item(position)
            if item is not None:
                entry = entries()[item.data(Qt.ItemDataRole.UserRole)]
                whole = f"{entry.title} {entry.tells} {entry.computed} {entry.misleads}".lower()
                item.setHidden(text.lower() not in whole)

    def _show(self, item: QListWidgetItem | None) -> None:
        if item is None:
            return
        entry = entries()[item.data(Qt.ItemDataRole.UserRole)]
        clear_layout(self._text)
        self._text.addWidget(label(entry.title, "title", wrap=True))
        for head, message in (
            ("What it tells", entry.tells),
            ("How it is computed here", entry.computed),
            ("When it misleads", entry.misleads),
            ("Source", entry.source),
        ):
            self._text.addSpacing(4)
            self._text.addWidget(label(head, "head"))
            self._text.addWidget(label(message, wrap=True))
        self._text.addStretch(1)

    @property
    def text(self) -> str:
        """The title of the entry shown."""
        item = self.list.currentItem()
        return item.text() if item is not None else ""
