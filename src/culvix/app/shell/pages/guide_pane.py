"""The guide beside the work: a small window with every entry, opened at the one that is asked about."""

from collections.abc import Iterable
from html import escape

from PyQt6.QtCore import Qt
from PyQt6.QtWidgets import QDialog, QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout, QWidget

from culvix.app.session.configured import configured
from culvix.app.widgets.parts import clear_layout, label, scrolled
from culvix.charts.palette import SHADES
from culvix.guide import entries, entry_for, links_in, related

__all__ = ["GuidePane"]

_MOST_RELATED = 8


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
        if not self.isVisible():
            self._go_beside()
        self.show()
        self.raise_()

    def _go_beside(self) -> None:
        """Stand beside the window where the screen has room for that, else over its left part, clear of the numbers."""
        window, screen = self.parentWidget(), self.screen()
        if window is None or screen is None:
            return
        frame, room = window.frameGeometry(), screen.availableGeometry()
        right, left = frame.right() + 1, frame.left() - self.width()
        x = right if right + self.width() <= room.right() else left if left >= room.left() else frame.left()
        self.move(x, max(frame.bottom() - self.height(), room.top()))

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
        ):
            self._say(head, _linked(links_in(message, entry)))
        self._say("Source", escape(entry.source))
        others = related(entry)[:_MOST_RELATED]
        if others:
            self._say("Spoken of under", ", ".join(_link(other.title, other.key) for other in others))
        self._text.addStretch(1)

    def _say(self, head: str, rich: str) -> None:
        """A paragraph under its heading, in which a click on a link opens the entry it leads to."""
        self._text.addSpacing(4)
        self._text.addWidget(label(head, "head"))
        paragraph = label("", wrap=True)
        paragraph.setTextFormat(Qt.TextFormat.RichText)
        paragraph.setTextInteractionFlags(Qt.TextInteractionFlag.LinksAccessibleByMouse)
        paragraph.setText(rich)
        paragraph.linkActivated.connect(self.open_at)
        self._text.addWidget(paragraph)

    @property
    def text(self) -> str:
        """The title of the entry shown."""
        item = self.list.currentItem()
        return item.text() if item is not None else ""


def _link(text: str, key: str) -> str:
    return f'<a href="{key}" style="color: {SHADES.probe}">{escape(text)}</a>'


def _linked(pieces: Iterable[tuple[str, str | None]]) -> str:
    return "".join(escape(text) if key is None else _link(text, key) for text, key in pieces)
