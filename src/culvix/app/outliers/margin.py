"""The margin of the Outliers stage: how far the review is, rules, impact and history."""

from PyQt6.QtCore import QSettings, pyqtSignal
from PyQt6.QtWidgets import QProgressBar, QVBoxLayout

from culvix.app.docks.history_pane import HistoryPane
from culvix.app.docks.impact_pane import ImpactPane
from culvix.app.docks.rule_pane import RulePane
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.session.lazy_pane import LazyPane
from culvix.app.widgets.parts import label, row_of
from culvix.stats.display import count

__all__ = ["OutliersMargin"]


class OutliersMargin(LazyPane):
    """Says of how many flagged values of the column in focus something was decided."""

    problem = pyqtSignal(str)
    asked = pyqtSignal(str)

    def __init__(self, hub: Hub) -> None:
        super().__init__()
        self.hub = hub
        self.done, self.bar = label("", "quiet"), configured(QProgressBar(), textVisible=False)
        self.bar.setFixedHeight(6)
        self.rule, self.impact, self.history = RulePane(hub), ImpactPane(hub), HistoryPane(hub)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(10, 8, 10, 8)
        layout.setSpacing(8)
        layout.addLayout(row_of(label("Review", "head"), 1, self.done))
        layout.addWidget(self.bar)
        layout.addWidget(self.impact)
        layout.addWidget(self.rule)
        layout.addWidget(self.history)
        layout.addStretch(1)
        for pane in (self.rule, self.history):
            pane.problem.connect(self.problem)
        self.impact.asked.connect(self.asked)
        for change in (hub.previewed, hub.data_changed, hub.focus_changed):
            change.connect(self.request_refresh)
        hub.analysed.connect(lambda name: self.request_refresh() if name == hub.focus else None)
        self.request_refresh()

    def refresh(self) -> None:
        """Count the flagged values of the column in focus that are decided."""
        preview = self.hub.preview
        done, every = (0, 0) if preview is None else self.hub.study.workspace.flags_decided(preview)
        self.done.setText(f"{count(done)} of {count(every)} decided" if every else "nothing is flagged")
        self.bar.setRange(0, max(every, 1))
        self.bar.setValue(done if every else 1)

    def remember(self, settings: QSettings) -> None:
        """Write down what is to be recalled."""
        self.history.remember(settings)

    def recall(self, settings: QSettings) -> None:
        """Take up what was written down."""
        self.history.recall(settings)
