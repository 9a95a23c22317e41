"""Everything that was done, act by act: who did it, and the way back to any place in it."""

from PyQt6.QtCore import QSettings, Qt, pyqtSignal
from PyQt6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout

from culvix.app.hub import Hub
from culvix.app.parts import label, plain_tip, row_of
from culvix.app.renewal import RenewedPane
from culvix.errors import CulvixError
from culvix.study import Decision

__all__ = ["HistoryPane"]

_MOST = 500


class HistoryPane(RenewedPane):
    """The latest act comes first; what was undone stands above it, crossed out, until something else is done."""

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.initials = QLineEdit(placeholderText="your initials")
        self.initials.setMaxLength(12)
        self.initials.setFixedWidth(92)
        self.initials.setToolTip("Written beside every decision, so that those of two colleagues can be told apart")
        self.initials.textChanged.connect(self._signed)
        self.list = QListWidget()
        self.list.setMinimumHeight(96)
        self.list.setToolTip("A double click, or Enter, goes back (or forth) to just after this act")
        self.list.itemActivated.connect(self._go)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(row_of(label("History", "head"), 1, self.initials))
        layout.addWidget(self.list)
        for change in (hub.decisions_changed, hub.settings_changed, hub.columns_changed):
            change.connect(self.want_renewal)
        self.want_renewal()

    def recall(self, settings: QSettings) -> None:
        """Take up the initials used last."""
        self.initials.setText(str(settings.value("decisions/initials", "")))

    def remember(self, settings: QSettings) -> None:
        """Write the initials down."""
        settings.setValue("decisions/initials", self.initials.text())

    def _signed(self, text: str) -> None:
        self.hub.study.initials = text.strip()

    def renew(self) -> None:
        """List the acts as they stand."""
        acts, done = self.hub.study.acts
        self.list.clear()
        for place in range(len(acts) - 1, max(len(acts) - _MOST, 0) - 1, -1):
            act = acts[place]
            by = f"  {act.by}" if isinstance(act, Decision) and act.by else ""
            item = QListWidgetItem(f"{place + 1}  {act.sentence}{by}")
            item.setData(Qt.ItemDataRole.UserRole, place + 1)
            if isinstance(act, Decision):
                about = f"{act.sentence}\ncause: {act.cause}\n{act.reason or 'no reason given'}\npass {act.turn}"
                item.setToolTip(plain_tip(about))
            if place >= done:
                font = item.font()
                font.setStrikeOut(True)
                item.setFont(font)
            self.list.addItem(item)
        beginning = QListWidgetItem("0  the table as it was read")
        beginning.setData(Qt.ItemDataRole.UserRole, 0)
        self.list.addItem(beginning)
        self.list.setCurrentRow(len(acts) - done if len(acts) <= _MOST else 0)

    def _go(self, item: QListWidgetItem) -> None:
        try:
            self.hub.study.go_to(int(item.data(Qt.ItemDataRole.UserRole)))
        except CulvixError as error:
            self.problem.emit(error.sentence)
