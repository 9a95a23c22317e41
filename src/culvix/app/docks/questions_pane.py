"""Every open question of the study in one list, and the one at hand as a card that is answered in place."""

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QListWidget, QListWidgetItem, QPushButton, QVBoxLayout, QWidget

from culvix.app.docks.finding_card import FindingCard
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.parts import ElidedLabel, clear_layout, label, plain_tip, row_of
from culvix.stats.display import plural
from culvix.study.analysis.findings.open_questions import ORDERS, OpenQuestion, open_questions

__all__ = ["QuestionsPane"]

_MOST_LISTED = 2000


class QuestionsPane(LazyPane):
    """Turns the window to the column of the question at hand; a question that is answered makes way for the next."""

    patience = 20

    problem = pyqtSignal(str)
    left = pyqtSignal()
    """The pane is to be closed."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.questions: list[OpenQuestion] = []
        self.card: FindingCard | None = None
        self.title, self.column = label("Open questions", "head"), ElidedLabel("title")
        self.order = Choice()
        self.order.addItems(list(ORDERS.values()))
        self.order.setToolTip("The order of the list")
        self.order.activated.connect(lambda _: self.refresh_now())
        self.next, self.close_button = QPushButton("Next"), QPushButton("Close")
        self.next.setToolTip("The next question (J)")
        self.next.clicked.connect(lambda: self.step(1))
        self.close_button.setToolTip("Back to what stands beside the stage (Shift+J)")
        self.close_button.clicked.connect(self.left)
        self.list = QListWidget()
        self.list.setAccessibleName("Open questions")
        self.list.setTextElideMode(Qt.TextElideMode.ElideRight)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentRowChanged.connect(self._row_changed)
        self._place = QVBoxLayout()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 8, 10, 8)
        layout.setSpacing(6)
        layout.addLayout(row_of(self.title, 1, self.close_button))
        layout.addLayout(row_of(self.order, 1, self.next))
        layout.addWidget(self.column)
        layout.addLayout(self._place)
        layout.addWidget(self.list, 1)
        for change in (hub.analysed, hub.data_changed, hub.settings_changed):
            change.connect(self.request_refresh)

    @property
    def current(self) -> OpenQuestion | None:
        """The question at hand."""
        row = self.list.currentRow()
        return self.questions[row] if 0 <= row < len(self.questions) else None

    def refresh(self) -> None:
        """List what is open now; what was at hand stays at hand, or makes way for the one after it."""
        before, at = self.current, max(self.list.currentRow(), 0)
        order = list(ORDERS)[self.order.currentIndex()]
        found = open_questions(self.hub.study.workspace, order)
        self.title.setText(f"{plural(len(found), 'question')} open" if found else "No question is open")
        found = found[:_MOST_LISTED]
        if [each.key for each in found] == [each.key for each in self.questions]:
            self.questions = found
            return
        self.questions = found
        self.list.blockSignals(True)
        self.list.clear()
        for each in found:
            item = QListWidgetItem(f"{'!' if each.finding.grave else '·'} {each.finding.column}: {each.about}")
            item.setToolTip(plain_tip(f"{each.finding.column}: {each.finding.sentence}"))
            self.list.addItem(item)
        keys = [each.key for each in found]
        row = keys.index(before.key) if before is not None and before.key in keys else min(at, len(found) - 1)
        self.list.setCurrentRow(row)
        self.list.blockSignals(False)
        self._show_card(turn=before is not None and self.current is not None and self.current.key != before.key)

    def _row_changed(self, _: int) -> None:
        self._show_card(turn=True)

    def _show_card(self, *, turn: bool) -> None:
        """Show the question at hand, and with ``turn`` its column in the whole window."""
        clear_layout(self._place)
        current, self.card = self.current, None
        self.column.setVisible(current is not None)
        self.next.setEnabled(current is not None)
        if current is None:
            return
        self.column.say(current.finding.column)
        self.card = FindingCard(self.hub, current.finding)
        self.card.problem.connect(self.problem)
        self._place.addWidget(self.card)
        if turn and current.finding.column in self.hub.study.table:
            self.hub.set_focus(current.finding.column)

    def begin(self) -> None:
        """Turn to the question at hand, or the first."""
        self.refresh_now()
        self._show_card(turn=True)

    def step(self, by: int) -> None:
        """Turn to the next question, and from the last to the first."""
        self.refresh_now()
        if self.questions:
            self.list.setCurrentRow((self.list.currentRow() + by) % len(self.questions))

    @property
    def data(self) -> QWidget:
        """What the keyboard works on."""
        return self.list
