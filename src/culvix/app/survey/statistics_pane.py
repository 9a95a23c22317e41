"""What stands in a line of the survey: statistics searched, ticked, put into order and kept as sets."""

import json
from collections.abc import Sequence

from PyQt6.QtCore import QSettings, pyqtSignal
from PyQt6.QtWidgets import QLineEdit, QPushButton, QVBoxLayout, QWidget

from culvix.app.docks.conventions_bar import ConventionsBar, DecimalsField
from culvix.app.session.configured import configured
from culvix.app.session.hub import Hub
from culvix.app.widgets.choice import Choice
from culvix.app.widgets.lists.ordered_list import OrderedList
from culvix.app.widgets.parts import by_font, label, row_of
from culvix.study.analysis.survey.sets import statistic_sets
from culvix.study.analysis.survey.survey import survey_fields

__all__ = ["StatisticsPane"]

_OWN = "survey/sets"
_UNNAMED = "chosen by hand"


class StatisticsPane(QWidget):
    """Stays beside the lines while they follow each choice; nothing has to be confirmed."""

    chosen = pyqtSignal(list)
    """The keys of the statistics to show, in order."""
    closed = pyqtSignal()

    def __init__(self, hub: Hub, fields: Sequence[str]) -> None:
        super().__init__()
        self.hub = hub
        self.own_sets: dict[str, tuple[str, ...]] = {}
        names = {key: field.whole_name for key, field in survey_fields().items()}
        self.list = OrderedList(names, fields)
        self.list.chosen.connect(self._choose)
        self.sets = Choice()
        self.sets.setToolTip("A set of statistics that are looked at together")
        self.sets.activated.connect(self._choose_set)
        self.name = configured(QLineEdit(), placeholderText="Name for a set of your own")
        self.name.returnPressed.connect(self._keep)
        self.keep = QPushButton("Keep")
        self.keep.setToolTip("Keep the statistics ticked, in their order, as a set under this name")
        self.keep.clicked.connect(self._keep)
        self.drop = QPushButton("Drop")
        self.drop.setToolTip("Forget the set chosen, which is one of your own")
        self.drop.clicked.connect(self._drop)
        self.decimals, self.conventions = DecimalsField(hub), ConventionsBar(hub)
        hub.settings_changed.connect(self._show_settings)
        self._lay_out()
        self._offer()
        self._show_settings()

    def _lay_out(self) -> None:
        close = QPushButton("Close")
        close.setToolTip("Close the list of statistics")
        close.clicked.connect(self.closed)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 4, 4, 4)
        layout.setSpacing(4)
        layout.addLayout(row_of(label("Statistics of a line", "head"), 1, close))
        sets = row_of(self.sets, self.drop)
        sets.setStretch(0, 1)
        layout.addLayout(sets)
        layout.addWidget(self.list, 1)
        layout.addLayout(row_of(self.name, self.keep))
        layout.addWidget(self.decimals)
        layout.addWidget(self.conventions)
        self.setMinimumWidth(by_font(210))

    def _show_settings(self) -> None:
        settings = self.hub.study.settings
        self.decimals.show_settings(settings)
        self.conventions.show_settings(settings)

    @property
    def _all_sets(self) -> dict[str, tuple[str, ...]]:
        return statistic_sets() | self.own_sets

    def show_fields(self, fields: Sequence[str]) -> None:
        """Tick the statistics ``fields``, in this order."""
        self.list.show_names(fields)
        self._name_set()

    def _offer(self) -> None:
        self.sets.clear()
        self.sets.addItems([*self._all_sets, _UNNAMED])
        self._name_set()

    def _name_set(self) -> None:
        """Show which set it is that is ticked."""
        ticked = tuple(self.list.ticked)
        name = next((name for name, fields in self._all_sets.items() if fields == ticked), _UNNAMED)
        self.sets.setCurrentText(name)
        self.drop.setEnabled(name in self.own_sets)

    def _choose(self, fields: list[str]) -> None:
        self._name_set()
        self.chosen.emit(fields)

    def _choose_set(self) -> None:
        fields = self._all_sets.get(self.sets.currentText())
        if fields is not None:
            self.list.show_names(fields)
            self._choose(list(fields))

    def _keep(self) -> None:
        name = self.name.text().strip()
        if not name or name in statistic_sets() or name == _UNNAMED:
            self.hub.message.emit("A set of your own needs a name that no other set has.")
            return
        self.own_sets[name] = tuple(self.list.ticked)
        self.name.clear()
        self._offer()

    def _drop(self) -> None:
        self.own_sets.pop(self.sets.currentText(), None)
        self._offer()

    def remember(self, settings: QSettings) -> None:
        """Write the analyst's own sets down."""
        settings.setValue(_OWN, json.dumps(self.own_sets))

    def recall(self, settings: QSettings) -> None:
        """Take up the sets written down last; what this version does not know is left out."""
        try:
            found = json.loads(str(settings.value(_OWN, "{}")))
            sets = {str(name): tuple(key for key in keys if key in survey_fields()) for name, keys in found.items()}
        except (ValueError, TypeError, AttributeError):
            # Preferences that another hand has spoilt are no reason not to start.
            sets = {}
        self.own_sets = {name: fields for name, fields in sets.items() if fields}
        self._offer()
