"""Everything that was done, act by act: who did it, and the way back to any place in it."""

from PyQt6.QtCore import QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QColor
from PyQt6.QtWidgets import QCheckBox, QLineEdit, QListWidget, QListWidgetItem, QVBoxLayout

from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.widgets.parts import by_font, label, plain_tip, row_of
from culvix.charts.palette import SHADES
from culvix.errors import CulvixError
from culvix.study.document.history.history import Act
from culvix.study.document.history.messages import act_text, acts_between

__all__ = ["HistoryPane"]

_MOST = 500
_STEP_ROLE = Qt.ItemDataRole.UserRole


class HistoryPane(LazyPane):
    """The latest act comes first; what was undone stands above it, crossed out, until something else is done.

    A click says what going to an act would take back or do again; a second one, or Enter, goes there.
    """

    problem = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self._previewed: int | None = None
        self.initials = configured(QLineEdit(), placeholderText="your initials")
        self.initials.setMaxLength(12)
        self.initials.setFixedWidth(by_font(92))
        self.initials.setToolTip("Written beside every decision, so that those of two colleagues can be told apart")
        self.initials.textChanged.connect(self._signed)
        self.all_acts = QCheckBox("settings, too")
        self.all_acts.setToolTip("List descriptions of columns and settings among the decisions")
        self.all_acts.setChecked(True)
        self.all_acts.clicked.connect(self.request_refresh)
        self.list = QListWidget()
        self.list.setMinimumHeight(by_font(96))
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.setToolTip("A click says what going there would undo or do again; a second one, or Enter, goes there")
        self.list.itemClicked.connect(self._clicked)
        self.list.itemActivated.connect(self._go)
        self.about = label("", "quiet", wrap=True)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(4)
        layout.addLayout(row_of(label("History", "head"), self.all_acts, 1, self.initials))
        layout.addWidget(self.list)
        layout.addWidget(self.about)
        for change in (hub.data_changed, hub.settings_changed, hub.columns_changed):
            change.connect(self.request_refresh)
        self.request_refresh()

    def recall(self, settings: QSettings) -> None:
        """Take up the initials used last."""
        self.initials.setText(str(settings.value("decisions/initials", "")))

    def remember(self, settings: QSettings) -> None:
        """Write the initials down."""
        settings.setValue("decisions/initials", self.initials.text())

    def _signed(self, text: str) -> None:
        self.hub.study.sign(text.strip())

    def refresh(self) -> None:
        """List the acts as they stand."""
        history = self.hub.study.history
        done, known = history.cursor, len(history.labels)
        self.list.clear()
        self._preview(None)
        latest = ((at, history.act(at)) for at in range(max(known - _MOST, 0), known))
        shown = [(at, act) for at, act in latest if self.all_acts.isChecked() or act.decisions]
        for at, act in reversed(shown):
            self.list.addItem(self._item(at, act, undone=at >= done))
        beginning = QListWidgetItem("0  the table as it was read")
        beginning.setData(_STEP_ROLE, 0)
        self.list.addItem(beginning)
        self.list.setCurrentRow(sum(at >= done for at, _ in shown))

    def _item(self, at: int, act: Act, *, undone: bool) -> QListWidgetItem:
        message = act_text(self.hub.study.table, act)
        by = act.decisions[0].by if act.decisions else ""
        item = QListWidgetItem(f"{at + 1}  {message}{f'  {by}' if by else ''}")
        item.setData(_STEP_ROLE, at + 1)
        tip = message
        if act.decisions:
            first = act.decisions[0]
            tip = f"{message}\ncause: {first.cause}\n{first.reason or 'no reason given'}\npass {first.pass_number}"
        else:
            item.setForeground(QColor(SHADES.muted))
        item.setToolTip(plain_tip(tip))
        if undone:
            font = item.font()
            font.setStrikeOut(True)
            item.setFont(font)
        return item

    def _clicked(self, item: QListWidgetItem) -> None:
        position = int(item.data(_STEP_ROLE))
        if position == self._previewed:
            self._go(item)
        else:
            self._preview(position)

    def _preview(self, position: int | None) -> None:
        """Say what going to ``position`` would take back or do again."""
        acts, done = self.hub.study.history.acts, self.hub.study.history.cursor
        self._previewed = position
        message = ""
        if position is not None and position < done:
            message = f"Would undo {acts_between(acts[position:done])}. Click again to go there."
        elif position is not None and position > done:
            message = f"Would do {acts_between(acts[done:position])} again. Click again to go there."
        elif position is not None:
            message = "This is where things stand."
        self.about.setText(message)
        self.about.setVisible(bool(message))

    def _go(self, item: QListWidgetItem) -> None:
        try:
            self.hub.study.go_to(int(item.data(_STEP_ROLE)))
        except CulvixError as error:
            self.problem.emit(error.sentence)
