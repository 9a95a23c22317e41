"""The bar that decides on the selection: what an act would do, with which cause and reason, and the acts."""

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import (
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from culvix.app.docks.decision_question import ConfirmQuestion, ExchangeQuestion
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.flow import flow_of
from culvix.app.widgets.lists.suggesting_field import SuggestingField
from culvix.app.widgets.pages import Pages
from culvix.app.widgets.parts import ElidedLabel, by_font, label, row_of
from culvix.errors import CulvixError
from culvix.stats.display import typed_number
from culvix.study.analysis.outliers.decision_preview import DecisionPreview, preview_decision
from culvix.study.document.decisions import Cause, Decision, DecisionKind, factor_text

__all__ = ["ACT_KEYS", "DecisionBar"]

ACT_KEYS = {
    DecisionKind.KEEP: "K",
    DecisionKind.EXCLUDE_VALUE: "E",
    DecisionKind.EXCLUDE_ROW: "Shift+E",
    DecisionKind.MISSING: "M",
}
"""Keys that decide at once."""
_FACTORS = ("×10", "÷10", "×100", "÷100", "×1000", "÷1000", "×25.4", "×2.54")
_VERBS = {
    DecisionKind.KEEP: "Keep",
    DecisionKind.EXCLUDE_VALUE: "Exclude",
    DecisionKind.EXCLUDE_ROW: "Exclude the rows of",
    DecisionKind.MISSING: "Treat as missing",
    DecisionKind.CORRECT: "Correct",
}
_MOST_REASONS = 12
_CAUSES = tuple(Cause)


class DecisionBar(QWidget):
    """Says what a decision would be about, and makes it; large ones once they are confirmed."""

    problem = pyqtSignal(str)
    released = pyqtSignal()
    """A question was answered or left, and the keyboard belongs to the data again."""
    asked = pyqtSignal()
    """A question stands in the place of the acts, or was left."""
    went_on = pyqtSignal()
    """A value was decided with Enter; the next one is wanted."""

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.preview = DecisionPreview("")
        self.repeated = DecisionKind.EXCLUDE_VALUE
        """What Enter decides, unless a correction is typed."""
        self.title, self.about = label("Rows", "head"), ElidedLabel("probe")
        self.enter = ElidedLabel("quiet")
        self.enter.setAlignment(Qt.AlignmentFlag.AlignRight)
        self._build_fields()
        acts = QWidget()
        acts.setLayout(flow_of(self.cause, self.reason, *self.buttons.values(), self.correction, self.exchange))
        self.pages = Pages()
        self.confirm, self.exchanging = ConfirmQuestion(), ExchangeQuestion(hub)
        for page in (acts, self.confirm, self.exchanging):
            self.pages.add(page)
        for question in (self.confirm, self.exchanging):
            question.left.connect(self.leave_question)
        self.exchanging.agreed.connect(self._exchange)
        self._exchanged: Callable[[], object] = lambda: None
        layout = QVBoxLayout(self)
        layout.setContentsMargins(0, 0, 0, 0)
        layout.setSpacing(3)
        self.stay = configured(QPushButton("Stay open"), checkable=True)
        self.stay.setObjectName("slim")
        self.stay.setToolTip("List rows while nothing is selected, too: those that are flagged")
        message = row_of(self.title, self.about, self.enter, self.stay)
        message.setStretch(1, 1)
        layout.addLayout(message)
        layout.addWidget(self.pages)
        hub.selection_changed.connect(self.refresh)
        hub.focus_changed.connect(self._focused)
        hub.data_changed.connect(self._decided)
        hub.settings_changed.connect(self.refresh)
        self.refresh()

    def _build_fields(self) -> None:
        self.cause = Choice()
        names = ["cause not known", *(str(cause) for cause in _CAUSES[1:])]
        self.cause.addItems([f"{name} ({position})" for position, name in enumerate(names)])
        self.cause.setToolTip("The cause, as far as it is known; over the data its digit chooses it")
        self.cause.activated.connect(lambda position: self.choose_cause(position))
        self.reason = SuggestingField("reason")
        self.reason.setMinimumWidth(by_font(120))
        self.reason.setToolTip("The reason (Ctrl+L); Down offers the latest ones, Enter decides and goes on")
        self.reason.completed.connect(self.decide_and_go_on)
        self.reason.textChanged.connect(self._say_enter)
        self.buttons = {
            DecisionKind.KEEP: QPushButton("Keep"),
            DecisionKind.EXCLUDE_VALUE: QPushButton("Exclude value"),
            DecisionKind.EXCLUDE_ROW: QPushButton("Exclude row"),
            DecisionKind.MISSING: QPushButton("Missing"),
            DecisionKind.CORRECT: QPushButton("Correct to"),
        }
        for kind, button in self.buttons.items():
            button.setToolTip(f"{str(kind).capitalize()}: what is selected ({ACT_KEYS.get(kind, 'C')})")
            button.clicked.connect(partial(self.decide, kind))
        self.correction = SuggestingField("×10, value …")
        self.correction.offer(_FACTORS)
        self.correction.setFixedWidth(by_font(96))
        self.correction.setToolTip("A value, or a factor (×10, ÷1000, ×25.4); Enter decides and goes on")
        self.correction.textChanged.connect(self._say_enter)
        self.correction.completed.connect(self.decide_and_go_on)
        self.exchange = QPushButton("Exchange …")
        self.exchange.setToolTip("Exchange the values of two columns in these rows (X)")
        self.exchange.clicked.connect(self.ask_exchange)

    # Words

    def _focused(self) -> None:
        self.leave_question()
        self.refresh()

    def refresh(self) -> None:
        """Say what a decision on the selection would be about, and offer what can be decided."""
        self.preview = preview_decision(self.hub.study.workspace, self.hub.study.selection, self.hub.focus)
        self.about.say(self.preview.text)
        for kind, button in self.buttons.items():
            button.setEnabled(kind in self.preview.kinds)
        able = DecisionKind.CORRECT in self.preview.kinds
        self.correction.setEnabled(able)
        self.exchange.setEnabled(able and len(self.preview.cells) == 1)
        for field in (self.cause, self.reason):
            field.setEnabled(bool(self.preview.kinds))
        if self.is_asking:
            self.leave_question()
        self._say_enter()

    def say(self, title: str, message: str) -> None:
        """What the list below shows, and, where nothing is selected, ``message`` about it."""
        self.title.setText(title)
        if not self.preview.text:
            self.about.say(message)

    @property
    def next_kind(self) -> DecisionKind:
        """What Enter decides."""
        return DecisionKind.CORRECT if self.correction.text().strip() else self.repeated

    def _say_enter(self) -> None:
        if self.next_kind not in self.preview.kinds:
            self.enter.say("")
            return
        cause, reason = _CAUSES[self.cause.currentIndex()], self.reason.text().strip()
        message = [str(self.next_kind)]
        if self.next_kind is DecisionKind.CORRECT:
            message = [f"correct to {self.correction.text().strip()}"]
        message += [] if cause is Cause.UNKNOWN else [f"cause {cause}"]
        message += [f"“{reason}”"] if reason else []
        self.enter.say(f"Enter: {', '.join(message)}, and on")

    # Acts

    def choose_cause(self, position: int) -> None:
        """Choose a cause by its place, with the reason given for it last."""
        if not 0 <= position < len(_CAUSES) or not self.preview.kinds:
            return
        self.cause.setCurrentIndex(position)
        latest = next((each.reason for each in self._latest() if each.cause is _CAUSES[position] and each.reason), "")
        if not self.reason.isModified():
            self.reason.setText(latest)
        self._say_enter()

    def _latest(self) -> tuple[Decision, ...]:
        return self.hub.study.decisions[::-1]

    def _decided(self) -> None:
        """Offer the reasons given last."""
        found = dict.fromkeys(decision.reason for decision in self._latest() if decision.reason)
        self.reason.offer(list(found)[:_MOST_REASONS])
        self.refresh()

    def decide(self, kind: DecisionKind, *_: object) -> None:
        """Decide on what is selected, with the cause and reason given; a large decision is confirmed first."""
        self._ask_or_do(kind, lambda: None)

    def decide_and_go_on(self) -> None:
        """Decide as Enter says, and turn to the next value."""
        self._ask_or_do(self.next_kind, self.went_on.emit)

    def _ask_or_do(self, kind: DecisionKind, then: Callable[[], object]) -> None:
        preview = self.preview
        why_not = preview.refusal(kind)
        try:
            how = self._corrected() if kind is DecisionKind.CORRECT and not why_not else {}
        except CulvixError as error:
            why_not = error.sentence
        if why_not:
            self.problem.emit(why_not)
            return
        if preview.large:
            message = f"{preview.text}. Is that meant?"
            self.confirm.ask(message, f"{_VERBS[kind]} {preview.about}", partial(self._do, kind, how, then))
            self.pages.show_pane(self.confirm)
            self.asked.emit()
            self.confirm.yes.setFocus()
        else:
            self._do(kind, how, then)

    def _do(self, kind: DecisionKind, how: dict[str, object], then: Callable[[], object]) -> None:
        cause, reason = _CAUSES[self.cause.currentIndex()], self.reason.text()
        cells = self.preview.cells
        self.leave_question()
        try:
            self.hub.study.decide_on(kind, cells, cause=cause, reason=reason, **how)
        except CulvixError as error:
            self.problem.emit(error.sentence)
            return
        if kind is not DecisionKind.CORRECT:
            self.repeated = kind
        self.reason.empty()
        self.correction.empty()
        self.cause.setCurrentIndex(0)
        self._say_enter()
        then()

    def ask_exchange(self, other: str = "", then: Callable[[], object] = lambda: None) -> None:
        """Ask with which column the values are to be exchanged, and do ``then`` once they are.

        Both are shown before and after, those of ``other`` first.
        """
        why_not = self.preview.refusal(DecisionKind.CORRECT)
        if not why_not and len(self.preview.cells) > 1:
            why_not = "Values of one column at a time can be exchanged with those of another."
        if why_not:
            self.problem.emit(why_not)
            return
        ((column, rows),) = self.preview.cells.items()
        self.exchanging.ask(column, rows, other)
        self._exchanged = then
        self.pages.show_pane(self.exchanging)
        self.asked.emit()
        self.exchanging.other.setFocus()

    def _exchange(self, other: str) -> None:
        self._do(DecisionKind.CORRECT, {"swapped": other}, self._exchanged)

    @property
    def is_asking(self) -> bool:
        """Whether a question stands in the place of the acts."""
        return self.pages.current > 0

    def leave_question(self) -> bool:
        """Put the acts back in the place of a question; whether there was one."""
        asked = self.is_asking
        if asked:
            self.pages.show_first()
            self.asked.emit()
            self.released.emit()
        return asked

    def type_correction(self) -> None:
        """Turn the keyboard to the field of the correction, where one can be made."""
        self._type_in(self.correction, DecisionKind.CORRECT)

    def type_reason(self) -> None:
        """Turn the keyboard to the field of the reason, where something can be decided."""
        self._type_in(self.reason, next(iter(self.preview.kinds), DecisionKind.EXCLUDE_ROW))

    def _type_in(self, line: QLineEdit, kind: DecisionKind) -> None:
        why_not = self.preview.refusal(kind)
        if why_not:
            self.problem.emit(why_not)
        else:
            line.setFocus()
            line.selectAll()

    def _corrected(self) -> dict[str, object]:
        """The typed correction as a value or a factor. Raises CulvixError where it is neither."""
        typed = self.correction.text().strip()
        sign, rest = typed[:1], typed[1:]
        try:
            if sign in ("×", "*", "x"):
                return {"factor": typed_number(rest)}
            if sign in ("÷", "/"):
                return {"factor": 1 / typed_number(rest)}
            return {"value": typed_number(typed)}
        except (ValueError, ZeroDivisionError):
            example = factor_text(10.0)
            raise CulvixError(f"Type the correct value, or a factor such as {example}, beside “Correct to”.") from None
