"""The top strip: the study, the rows in use, the stages in working order, and what is being worked out."""

from PyQt6.QtCore import QSize, QTimer, pyqtSignal
from PyQt6.QtWidgets import QButtonGroup, QHBoxLayout, QProgressBar, QPushButton, QSizePolicy, QWidget

from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.scheduler import task_queue
from culvix.app.widgets.flow import FlowLayout
from culvix.app.widgets.parts import ElidedLabel, by_font, plain_tip, shortened
from culvix.files import display_path
from culvix.stats.display import count

__all__ = ["TopStrip"]

_WORDS = 300
"""The least width of what is told at the left, in pixels."""


class _Words(QWidget):
    """Asks for the same room whatever it says."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)

    def sizeHint(self) -> QSize:
        return QSize(by_font(_WORDS), super().sizeHint().height())

    def minimumSizeHint(self) -> QSize:
        return QSize(by_font(_WORDS), super().minimumSizeHint().height())


class TopStrip(QWidget):
    """Stage buttons carry their progress; the bar on the right appears only for work that takes its time."""

    stage_chosen = pyqtSignal(int)
    cancel_requested = pyqtSignal()
    report_requested = pyqtSignal()
    questions_requested = pyqtSignal()
    """The list of open questions is to be shown, or put away."""

    def __init__(self, stages: list[str]) -> None:
        super().__init__()
        self.hub: Hub | None = None
        self.name = ElidedLabel("title")
        self.rows, self.status = ElidedLabel("quiet"), ElidedLabel("quiet")
        self.doing = ElidedLabel("quiet")
        self.note = ElidedLabel("quiet")
        self.bar = configured(QProgressBar(), maximum=1000, textVisible=False)
        self.bar.setFixedWidth(90)
        self.cancel = QPushButton("Cancel")
        self.cancel.clicked.connect(self.cancel_requested)
        self.report = QPushButton("Save report")
        self.report.setToolTip(
            "Write the report as HTML, PDF, DOCX or Markdown, or its tables as a spreadsheet (Ctrl+R)"
        )
        self.report.clicked.connect(self.report_requested)
        self.questions = QPushButton("0 open")
        self.questions.setToolTip("All open questions, to be answered one after the other (J)")
        self.questions.clicked.connect(self.questions_requested)
        self.group = QButtonGroup(self)
        self.stages = stages
        self._delay = configured(QTimer(self), singleShot=True, interval=150)
        self._delay.timeout.connect(self.refresh)
        layout = FlowLayout(8)
        layout.setContentsMargins(12, 0, 8, 0)
        self.setLayout(layout)
        layout.addWidget(self._words())
        for position, stage in enumerate(stages):
            button = configured(QPushButton(stage), checkable=True)
            button.setObjectName("stage")
            button.setToolTip(f"{stage} (Ctrl+{position + 1})")
            self.group.addButton(button, position)
            layout.addWidget(button)
        self.group.idClicked.connect(self.stage_chosen)
        layout.addWidget(self.questions)
        layout.addWidget(self.report)
        self.rest()
        self.show_study(None)

    def _words(self) -> QWidget:
        """What is told of the study and of the work under way; it takes the room that there is, and never moves."""
        words = _Words()
        row = QHBoxLayout(words)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(8)
        for part in (self.name, self.rows, self.status):
            part.setSizePolicy(QSizePolicy.Policy.Maximum, QSizePolicy.Policy.Preferred)
            row.addWidget(part)
        row.addWidget(self.note, 1)
        for widget in (self.doing, self.bar, self.cancel):
            row.addWidget(widget)
        return words

    def show_study(self, hub: Hub | None) -> None:
        """Speak of another study from now on."""
        self.hub = hub
        for button in self.group.buttons():
            button.setVisible(hub is not None)
        self.report.setVisible(hub is not None)
        self.questions.setVisible(hub is not None)
        if hub is not None:
            for change in (hub.data_changed, hub.review_changed):
                change.connect(lambda: task_queue().soon(self.refresh))
            hub.analysed.connect(lambda _: self._delay.start())
        self.refresh()

    def show_open(self, questions: int) -> None:
        """Say how many questions are open."""
        self.questions.setText(f"{count(questions)} open")

    def show_status(self, text: str) -> None:
        """Say where the study lives."""
        self.status.say(text)
        self.status.setVisible(bool(text) and self.cancel.isHidden())

    def refresh(self) -> None:
        """Write name, rows and progress anew."""
        if self.hub is None:
            self.name.say("Culvix")
            self.rows.say("")
            return
        study = self.hub.study
        self.name.say(shortened(study.name, 40))
        self.name.setToolTip(plain_tip(display_path(study.table.source.path)))
        self.rows.say(f"{count(study.working.rows_used)} of {count(study.table.rows)} rows in use")
        numeric = {column.name for column in study.table.numeric}
        seen = len(numeric & {*study.document.viewed, *study.document.reviewed})
        self._write("Shape", seen, len(numeric))
        known = [analysis for name in sorted(numeric) if (analysis := study.workspace.known_analysis(name)) is not None]
        reviews = [study.workspace.flags_decided(analysis) for analysis in known if analysis.flags.rows.size]
        self._write("Outliers", sum(done == every for done, every in reviews), len(reviews))

    @property
    def waiting(self) -> bool:
        """Whether something new is still to be told."""
        return self._delay.isActive()

    def _write(self, stage: str, done: int, every: int) -> None:
        """How far a stage is: columns done of all there are to do."""
        button = self.group.button(self.stages.index(stage))
        if button is not None:
            button.setText(f"{stage} {done}/{every}" if every else stage)

    def choose(self, stage: int) -> None:
        """Mark ``stage`` as the one shown."""
        button = self.group.button(stage)
        if button is not None:
            button.setChecked(True)

    def work(self, doing: str, share: float) -> None:
        """Show what is being worked out."""
        self.doing.say(shortened(doing, 36))
        self.bar.setValue(round(1000 * share))
        for widget in (self.doing, self.bar, self.cancel):
            widget.show()
        # What is being done has their room for so long.
        for widget in (self.rows, self.status):
            widget.hide()

    def rest(self) -> None:
        """Nothing is being worked out."""
        for widget in (self.doing, self.bar, self.cancel):
            widget.hide()
        self.rows.show()
        self.status.setVisible(bool(self.status.whole))
